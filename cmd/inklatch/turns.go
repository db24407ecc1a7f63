package main

import (
	"bytes"
	"encoding/json"
	"fmt"
	"strings"
	"text/tabwriter"

	"github.com/spf13/cobra"

	"inklatch/internal/core/engine"
	"inklatch/internal/core/proof/finding"
	"inklatch/internal/core/proof/turns"
)

func turnsCommand() *cobra.Command {
	var asJSON bool
	c := &cobra.Command{
		Use: "turns FILE", Short: "The turn plan of a latch file: exit 1 when the procedure ends at a count where not all is home",
		Args: cobra.ExactArgs(1),
		RunE: func(cmd *cobra.Command, args []string) error {
			doc, err := readFile(args[0])
			if err != nil {
				return fmt.Errorf("%s: %w", args[0], err)
			}
			p := turns.Of(engine.NewIndex(&doc.Engine), &doc.Procedure, finding.DefaultHouse())
			out := cmd.OutOrStdout()
			if asJSON {
				enc := json.NewEncoder(out)
				enc.SetIndent("", " ")
				err = enc.Encode(p)
			} else {
				_, err = out.Write(turnsText(p))
			}
			if err == nil && len(p.Legs) > 0 && !p.Home {
				return exit(1)
			}
			return err
		},
	}
	c.Flags().BoolVar(&asJSON, "json", false, "the plan as JSON")
	return c
}

// turnsText draws the plan in letters: ● home, · not, with the good counts
// marked below.
func turnsText(p *turns.Plan) []byte {
	var b bytes.Buffer
	fmt.Fprintln(&b, p.Says)
	t := tabwriter.NewWriter(&b, 0, 0, 1, ' ', 0)
	head := []string{"turns", ""}
	foot := []string{"all home", ""}
	for _, c := range p.Counts {
		head = append(head, fmt.Sprint(c.N))
		mark := ""
		if c.All {
			mark = "▲"
		}
		foot = append(foot, mark)
	}
	fmt.Fprintln(t, strings.Join(head, "\t"))
	for _, r := range p.Rows {
		line := []string{r.Name, r.Under}
		for _, c := range p.Counts {
			dot := "·"
			if c.N%r.Every == 0 {
				dot = "●"
			}
			line = append(line, dot)
		}
		fmt.Fprintln(t, strings.Join(line, "\t"))
	}
	fmt.Fprintln(t, strings.Join(foot, "\t"))
	t.Flush()
	for _, g := range p.Legs {
		fmt.Fprintf(&b, "%s (from %.4g to %.4g turns)\n", g.Says, g.From, g.To)
	}
	for _, r := range p.Returns {
		fmt.Fprintf(&b, "%s: %s\n", r.Name, r.Says)
	}
	for _, s := range p.Settling {
		fmt.Fprintf(&b, "%s: asks for %d turns and %s; the procedure gives %.4g turns and %.4g min\n", s.Name, s.Turns, or(s.Wait, "no wait"), s.Turned, s.Waited)
	}
	fmt.Fprintln(&b, p.Advice)
	for _, m := range p.Mends {
		fmt.Fprintf(&b, "    mend: %s\n", m.Label)
	}
	return b.Bytes()
}

func or(s, otherwise string) string {
	if s == "" {
		return otherwise
	}
	return s
}
