package main

import (
	"fmt"

	"github.com/spf13/cobra"

	"inklatch/internal/core/engine"
	"inklatch/internal/core/page/document"
	"inklatch/internal/format/markdown"
)

func sheetCommand() *cobra.Command {
	var imperial bool
	c := &cobra.Command{
		Use: "sheet FILE", Short: "The job sheet of a latch file as Markdown, in words alone",
		Args: cobra.ExactArgs(1),
		RunE: func(cmd *cobra.Command, args []string) error {
			doc, err := readFile(args[0])
			if err != nil {
				return fmt.Errorf("%s: %w", args[0], err)
			}
			x, p := engine.NewIndex(&doc.Engine), &doc.Procedure
			years := p.Applies.Years
			if years == (engine.Years{}) {
				years = x.Sheet.Years
			}
			is := &document.Issue{State: document.FromFile, Applies: years.Said(), Anchor: doc.Anchor}
			t := p.Trace(x, 0, p.First(x.Sheet))
			return markdown.Write(cmd.OutOrStdout(), document.Lay(x, p, t, is, imperial))
		},
	}
	c.Flags().BoolVar(&imperial, "imperial", false, "the imperial value first in the torque table")
	return c
}
