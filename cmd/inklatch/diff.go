package main

import (
	"fmt"
	"io"
	"strings"

	"github.com/go-json-experiment/json"
	"github.com/go-json-experiment/json/jsontext"
	"github.com/spf13/cobra"

	"inklatch/internal/core/engine"
	"inklatch/internal/core/review/redline"
)

func diffCommand() *cobra.Command {
	var asJSON bool
	c := &cobra.Command{
		Use: "diff EARLIER LATER", Short: "What lies between two latch files, by meaning; exit 1 when they differ", Args: cobra.ExactArgs(2),
		RunE: func(cmd *cobra.Command, args []string) error {
			var states [2]redline.State
			for i, a := range args {
				d, err := readFile(a)
				if err != nil {
					return fmt.Errorf("%s: %w", a, err)
				}
				states[i] = redline.State{Index: engine.NewIndex(&d.Engine), Procedure: &d.Procedure}
			}
			r := redline.Between(states[0], states[1])
			if asJSON {
				if err := json.MarshalWrite(cmd.OutOrStdout(), r, jsontext.WithIndent("  ")); err != nil {
					return err
				}
				fmt.Fprintln(cmd.OutOrStdout())
			} else {
				writeRedline(cmd.OutOrStdout(), r)
			}
			if !r.Empty() {
				return exit(1)
			}
			return nil
		},
	}
	c.Flags().BoolVar(&asJSON, "json", false, "write JSON")
	return c
}

// writeRedline writes what differs as a person reads it; steps that are the same are
// counted.
func writeRedline(w io.Writer, r *redline.Redline) {
	if r.Empty() {
		fmt.Fprintln(w, "nothing differs")
		return
	}
	parts := func(ps []redline.Part) {
		for _, p := range ps {
			fmt.Fprintf(w, "    %s (%s)%s\n", p.What, p.Weight, fromTo(p))
		}
	}
	group := func(name string, ps []redline.Part) {
		if len(ps) > 0 {
			fmt.Fprintln(w, name)
			parts(ps)
		}
	}
	group("Title and preparation", r.Header)
	same := 0
	flush := func() {
		if same > 0 {
			fmt.Fprintf(w, "  … %d the same\n", same)
		}
		same = 0
	}
	for _, row := range r.Rows {
		if row.Kind == redline.Same {
			same++
			continue
		}
		flush()
		switch {
		case row.Now == 0:
			fmt.Fprintf(w, "− %d  %s%s\n", row.Was, row.Before, together(row))
		case row.Was == 0:
			fmt.Fprintf(w, "+ %d  %s%s\n", row.Now, row.After, together(row))
		default:
			sign, place := "≠", fmt.Sprint(row.Now)
			if row.Kind == redline.Moved {
				sign, place = "↕", fmt.Sprintf("%d → %d", row.Was, row.Now)
			}
			fmt.Fprintf(w, "%s %s  %s\n", sign, place, row.After)
			parts(row.Parts)
		}
	}
	flush()
	group("Tools and parts", r.Lists)
	group("Engine sheet", r.Sheet)
}

// together says that a row is part of a split or of a joining.
func together(r redline.Row) string {
	switch r.Kind {
	case redline.Split:
		return " (split)"
	case redline.Joined:
		return " (joined)"
	}
	return ""
}

func fromTo(p redline.Part) string {
	short := func(s string) string {
		if s == "" {
			return "nothing"
		}
		if r := []rune(strings.Join(strings.Fields(s), " ")); len(r) > 90 {
			return string(r[:89]) + "…"
		}
		return s
	}
	if p.Before == p.After {
		return ""
	}
	return ": " + short(p.Before) + " → " + short(p.After)
}
