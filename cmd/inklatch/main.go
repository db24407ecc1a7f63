// Command inklatch is Ink Latch: the server, the demo, and the checks on files.
package main

import (
	"fmt"
	"io"
	"os"
)

func main() {
	out := &told{w: os.Stdout}
	c := root()
	c.SetOut(out)
	err := c.Execute()
	if out.err != nil { // what was not told was not done, as far as anybody knows
		fmt.Fprintln(os.Stderr, "inklatch: writing what was asked for:", out.err)
		os.Exit(2)
	}
	if err == nil {
		return
	}
	if code, ok := err.(exit); ok {
		os.Exit(int(code))
	}
	fmt.Fprintln(os.Stderr, "inklatch:", err)
	os.Exit(2)
}

// told is an output that remembers whether something could not be written, as on a full
// disk.
type told struct {
	w   io.Writer
	err error
}

// Write writes and keeps the first error.
func (t *told) Write(b []byte) (int, error) {
	n, err := t.w.Write(b)
	if t.err == nil {
		t.err = err
	}
	return n, err
}

// exit ends the program with a code and says nothing more.
type exit int

// Error is never printed.
func (e exit) Error() string { return fmt.Sprintf("exit %d", int(e)) }
