package main

import (
	"fmt"
	"os"

	"github.com/spf13/cobra"

	"inklatch/internal/core/engine"
	"inklatch/internal/format/svg"
)

func drawCommand() *cobra.Command {
	var out string
	var at int
	var bare bool
	c := &cobra.Command{
		Use: "draw FILE", Short: "Draw the drive of an engine sheet or latch file as SVG, at a step with --step",
		Args: cobra.ExactArgs(1),
		RunE: func(cmd *cobra.Command, args []string) error {
			b, err := drawFile(args[0], at, !bare)
			if err != nil {
				return fmt.Errorf("%s: %w", args[0], err)
			}
			if out == "-" {
				_, err = cmd.OutOrStdout().Write(b)
				return err
			}
			return os.WriteFile(out, b, 0o644)
		},
	}
	c.Flags().StringVarP(&out, "output", "o", "-", "file to write")
	c.Flags().IntVar(&at, "step", -1, "the state after this step; 0 is before the first")
	c.Flags().BoolVar(&bare, "bare", false, "without labels")
	return c
}

func drawFile(path string, at int, labels bool) ([]byte, error) {
	if at < 0 {
		s, err := readSheet(path)
		if err != nil {
			return nil, err
		}
		return svg.Draw(engine.NewIndex(s), svg.Options{Labels: labels})
	}
	doc, err := readFile(path)
	if err != nil {
		return nil, err
	}
	x := engine.NewIndex(&doc.Engine)
	t := doc.Procedure.Trace(x, 0, doc.Procedure.First(x.Sheet))
	if at > len(t.Steps) {
		return nil, fmt.Errorf("there is no step %d; the procedure has %d", at, len(t.Steps))
	}
	return svg.Draw(x, svg.Options{Labels: labels, State: t.Before(at), Title: fmt.Sprintf("The drive of %s after step %d", doc.Engine.Code, at)})
}
