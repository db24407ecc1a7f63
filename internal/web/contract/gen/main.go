// Command gen writes the schemas of Go types into the contract it is given.
package main

import (
	"fmt"
	"os"

	"inklatch/internal/web/contract"
)

func main() {
	if err := write(os.Args[1]); err != nil {
		fmt.Fprintln(os.Stderr, err)
		os.Exit(1)
	}
}

func write(path string) error {
	old, err := os.ReadFile(path)
	if err != nil {
		return fmt.Errorf("reading the contract: %w", err)
	}
	b, err := contract.Splice(old)
	if err != nil {
		return err
	}
	return os.WriteFile(path, b, 0o644)
}
