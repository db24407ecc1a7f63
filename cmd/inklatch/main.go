// Command inklatch is Ink Latch: the server, the demo, and the checks on files.
package main

import (
	"fmt"
	"os"
)

func main() {
	err := root().Execute()
	if err == nil {
		return
	}
	if code, ok := err.(exit); ok {
		os.Exit(int(code))
	}
	fmt.Fprintln(os.Stderr, "inklatch:", err)
	os.Exit(2)
}

// exit ends the program with a code and says nothing more.
type exit int

// Error is never printed.
func (e exit) Error() string { return fmt.Sprintf("exit %d", int(e)) }
