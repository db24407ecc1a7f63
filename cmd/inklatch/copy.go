package main

import (
	"fmt"
	"io"
	"os"
	"strings"

	"github.com/go-json-experiment/json"
	"github.com/go-json-experiment/json/jsontext"
	"github.com/spf13/cobra"

	"inklatch/internal/core/engine"
	"inklatch/internal/core/review/adapt"
	"inklatch/internal/format/latchjson"
)

// copyReport is what comes of copying a page, as it is written.
type copyReport struct {
	From  string       `json:"from"`
	To    string       `json:"to"`
	Pairs []adapt.Pair `json:"pairs"`
	// Open are the things that somebody has to say something of.
	Open []string `json:"open"`
	*adapt.Copy
}

func copyCommand() *cobra.Command {
	var is []string
	var proposed, asJSON bool
	var output string
	c := &cobra.Command{
		Use: "copy FILE ENGINE", Short: "Copy a page to another engine code; exit 1 while something it names is not matched", Args: cobra.ExactArgs(2),
		RunE: func(cmd *cobra.Command, args []string) error {
			d, err := readFile(args[0])
			if err != nil {
				return fmt.Errorf("%s: %w", args[0], err)
			}
			s, err := readSheet(args[1])
			if err != nil {
				return fmt.Errorf("%s: %w", args[1], err)
			}
			answers, err := answersOf(is)
			if err != nil {
				return err
			}
			r, err := copyTo(d, s, answers, proposed)
			if err != nil {
				return err
			}
			if asJSON {
				if err := json.MarshalWrite(cmd.OutOrStdout(), r, jsontext.WithIndent("  ")); err != nil {
					return err
				}
				fmt.Fprintln(cmd.OutOrStdout())
			} else {
				writeCopy(cmd.OutOrStdout(), r)
			}
			if len(r.Open) > 0 {
				return exit(1)
			}
			if output == "" {
				return nil
			}
			b, err := latchjson.Encode(&latchjson.Document{Engine: *s, Procedure: *r.Procedure})
			if err != nil {
				return err
			}
			return os.WriteFile(output, b, 0o644)
		},
	}
	c.Flags().StringArrayVar(&is, "is", nil, "what a thing is there: locks/crank-pin=crank-stop, or =- for no such thing")
	c.Flags().BoolVar(&proposed, "proposed", false, "take what is proposed")
	c.Flags().StringVarP(&output, "output", "o", "", "latch file to write the copy to, once all is matched")
	c.Flags().BoolVar(&asJSON, "json", false, "write JSON")
	return c
}

// answersOf reads what was said of things: "locks/crank-pin=crank-stop".
func answersOf(is []string) (map[string]string, error) {
	out := map[string]string{}
	for _, a := range is {
		ref, to, ok := strings.Cut(a, "=")
		if !ok || !strings.Contains(ref, "/") || to == "" {
			return nil, fmt.Errorf("%q does not say what a thing is; write locks/crank-pin=crank-stop, or locks/crank-pin=-", a)
		}
		out[ref] = to
	}
	return out, nil
}

// copyTo works a copy out; with proposed, what is proposed is taken, and what follows
// from that.
func copyTo(d *latchjson.Document, s *engine.Sheet, answers map[string]string, proposed bool) (*copyReport, error) {
	from, to := engine.NewIndex(&d.Engine), engine.NewIndex(s)
	things := adapt.Things(from, &d.Procedure)
	pairs := adapt.Match(from, to, things, answers)
	for ref := range answers {
		known := false
		for i := range pairs {
			known = known || pairs[i].Ref() == ref && pairs[i].How == adapt.Said
		}
		if !known {
			return nil, fmt.Errorf("%s is nothing that the page names, or %s has no such %q", ref, s.Code, answers[ref])
		}
	}
	for taken := proposed; taken; {
		taken = false
		for i := range pairs {
			if pairs[i].How == adapt.Proposed {
				answers[pairs[i].Ref()], taken = pairs[i].To, true
			}
		}
		pairs = adapt.Match(from, to, things, answers)
	}
	c, err := adapt.Over(from, to, &d.Procedure, pairs)
	if err != nil {
		return nil, err
	}
	return &copyReport{d.Engine.Code, s.Code, pairs, append([]string{}, adapt.Open(pairs)...), c}, nil
}

// writeCopy writes what comes of a copy as a person reads it.
func writeCopy(w io.Writer, r *copyReport) {
	for i := range r.Pairs {
		p := &r.Pairs[i]
		switch p.How {
		case adapt.Asked:
			fmt.Fprintf(w, "?  %s (%s) is not found on %s\n", p.Name, p.Ref(), r.To)
		case adapt.Proposed:
			fmt.Fprintf(w, "~  %s (%s) → %s (%s). %s\n", p.Name, p.Ref(), p.Becomes, p.To, p.Why)
		default:
			to := p.Becomes
			if p.To == adapt.None {
				to = "not there"
			}
			fmt.Fprintf(w, "✓  %s → %s\n", p.Name, to)
		}
		for _, a := range p.Apart {
			fmt.Fprintf(w, "     %s\n", a)
		}
	}
	group := func(name string, notes []adapt.Note) {
		if len(notes) > 0 {
			fmt.Fprintln(w, name)
		}
		for _, n := range notes {
			at := "page"
			if n.Number > 0 {
				at = fmt.Sprint(n.Number)
			}
			fmt.Fprintln(w, strings.TrimRight(fmt.Sprintf("  %s  %s %s", at, n.Says, n.Why), " "))
		}
	}
	group("Left out", r.Left)
	group("From the sheet of "+r.To, r.Taken)
	group("To be asked", r.Asks)
	fmt.Fprintf(w, "%d of %d steps", len(r.Procedure.Steps), len(r.Procedure.Steps)+len(r.Left))
	if len(r.Open) > 0 {
		fmt.Fprintf(w, "; %d things are still to be matched", len(r.Open))
	}
	fmt.Fprintln(w)
}
