package main

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"os"
	"path/filepath"
	"slices"
	"strings"

	"github.com/spf13/cobra"

	"inklatch/internal/core/drill"
	"inklatch/internal/core/engine"
	"inklatch/internal/core/house"
	"inklatch/internal/core/page/step"
	"inklatch/internal/format/latchjson"
	"inklatch/internal/format/sarif"
)

// drilled is one file's answer to drill.
type drilled struct {
	File     string        `json:"file"`
	Mistakes []drilledOne  `json:"mistakes"`
	Caught   int           `json:"caught"`
	Of       int           `json:"of"`
	Missed   int           `json:"missed"`
	Error    string        `json:"error,omitempty"`
	Pairs    *drilledPairs `json:"pairs,omitempty"`
	// What it was read from.
	report *drill.Report
	doc    *latchjson.Document
	text   []byte
}

// drilledOne is one mistake. Severity, occurrence and detection run from 1 to 10.
type drilledOne struct {
	ID          string        `json:"id"`
	Family      string        `json:"family"`
	What        string        `json:"what"`
	Size        string        `json:"size"`
	MadeAt      step.ID       `json:"madeAt"`
	Outcome     drill.Outcome `json:"outcome"`
	SeenAt      []seenAt      `json:"seenAt"`
	Consequence string        `json:"consequence"`
	Why         string        `json:"why,omitempty"`
	On          string        `json:"on,omitempty"`
	Accepted    string        `json:"accepted,omitempty"`
	Severity    int           `json:"severity"`
	Occurrence  int           `json:"occurrence"`
	Detection   int           `json:"detection"`
	Mends       []drill.Mend  `json:"mends"`
}

// drilledPairs are pairs of mistakes made at once.
type drilledPairs struct {
	Tried   int           `json:"tried"`
	Through []drilledPair `json:"through"`
}

// drilledPair is two mistakes that get through together, by their ids.
type drilledPair struct {
	First       string        `json:"first"`
	Second      string        `json:"second"`
	Outcome     drill.Outcome `json:"outcome"`
	Consequence string        `json:"consequence"`
	says        string
}

// two makes pairs of mistakes on the file.
func (d *drilled) two(ctx context.Context, most int, families drill.House) {
	if most <= 0 || d.doc == nil {
		return
	}
	through, tried := drill.Pairs(ctx, engine.NewIndex(&d.doc.Engine), &d.doc.Procedure, min(most, 10_000), families)
	d.Pairs = &drilledPairs{Tried: tried, Through: []drilledPair{}}
	for i := range through {
		p := &through[i]
		d.Pairs.Through = append(d.Pairs.Through, drilledPair{p.First.ID, p.Second.ID, p.Outcome, p.Comes.String(), fmt.Sprintf("step %d: %s, and step %d: %s: %s: %s", p.First.Place+1, p.First.What, p.Second.Place+1, p.Second.What, p.Outcome, p.Comes)})
	}
}

type seenAt struct {
	Step step.ID `json:"step"`
	Says string  `json:"says"`
	Sure bool    `json:"sure"`
}

func drillCommand() *cobra.Command {
	var asJSON, families bool
	var format string
	var least float64
	var pairs int
	var only []string
	var houseFile string
	c := &cobra.Command{
		Use: "drill FILE|FOLDER...", Short: "Make the trade's mistakes on latch files: exit 0 when nothing is missed that a page needs to catch, 1 when something is, 2 when a file cannot be read",
		Args: func(cmd *cobra.Command, args []string) error {
			if families {
				return cobra.NoArgs(cmd, args)
			}
			return cobra.MinimumNArgs(1)(cmd, args)
		},
		RunE: func(cmd *cobra.Command, args []string) error {
			out := cmd.OutOrStdout()
			if families {
				for i := range drill.Families {
					printFamily(out, &drill.Families[i])
				}
				return nil
			}
			for _, id := range only {
				if drill.FamilyOf(id) == nil {
					return fmt.Errorf("there is no family %q: inklatch drill --families lists them", id)
				}
			}
			if least < 0 || least > 100 {
				return errors.New("--min-caught is a share in percent, from 0 to 100")
			}
			rules, err := readHouse(houseFile)
			if err != nil {
				return err
			}
			as, err := form(format, asJSON)
			if err != nil {
				return err
			}
			files, err := latchFiles(args)
			if err != nil {
				return err
			}
			code := 0
			found := []sarif.File{}
			far := newProgress(cmd.ErrOrStderr(), len(files))
			for i, f := range files {
				far.at(i, f)
				d, at := drillFile(cmd.Context(), f, only, rules, as == asLines)
				d.two(cmd.Context(), pairs, rules.Drill)
				far.done()
				if d.Error == "" && d.Of > 0 && 100*float64(d.Caught) < least*float64(d.Of) {
					at = max(at, 1)
				}
				code = max(code, at)
				if as == asSARIF {
					one := sarif.File{Name: f, Text: d.text, Error: d.Error}
					if d.doc != nil {
						one.Results = drillResults(d.doc, d.report)
					}
					found = append(found, one)
				} else if as == asLines {
					err = json.NewEncoder(out).Encode(d)
				} else {
					err = printDrill(out, cmd.ErrOrStderr(), d)
				}
				if err != nil {
					return err
				}
			}
			if as == asSARIF {
				if err := sarif.Write(out, version(), drillRules(), found); err != nil {
					return err
				}
			}
			if code != 0 {
				return exit(code)
			}
			return nil
		},
	}
	c.Flags().StringVar(&format, "format", asText, formatHelp)
	c.Flags().BoolVar(&asJSON, "json", false, "one JSON object for each file, with the mends of what a page needs to catch and does not")
	c.Flags().BoolVar(&families, "families", false, "list the families of mistakes with their sizes")
	c.Flags().Float64Var(&least, "min-caught", 0, "exit 1 where less than this share of the mistakes comes to no harm, percent")
	c.Flags().IntVar(&pairs, "pairs", 0, "make so many pairs of mistakes at once that are each noticed alone, and list those that get through")
	c.Flags().StringSliceVar(&only, "only", nil, "drill these families alone")
	c.Flags().StringVar(&houseFile, "house", "", "house rules as a JSON file: which mistakes are made, how large, and what a page needs to catch")
	return c
}

// drillFile drills one file; the second value is 1 where it misses what it needs to catch, 2
// where it cannot be read.
func drillFile(ctx context.Context, file string, only []string, rules *house.Rules, mends bool) (*drilled, int) {
	d := &drilled{File: file, Mistakes: []drilledOne{}}
	doc, text, err := readBoth(file)
	if err != nil {
		d.Error = err.Error()
		return d, 2
	}
	d.doc, d.text = doc, text
	x := engine.NewIndex(&doc.Engine)
	r := drill.Run(ctx, x, &doc.Procedure, drill.Options{Only: only, House: rules.Drill})
	d.Caught, d.Of, d.Missed, d.report = r.Caught, r.Of, r.Missed, r
	for i := range r.Mistakes {
		m := &r.Mistakes[i]
		one := drilledOne{
			ID: m.ID, Family: m.Family.ID, What: m.What.String(), Size: m.Size, MadeAt: m.MadeAt, Outcome: m.Outcome, SeenAt: []seenAt{},
			Consequence: m.Comes.String(), Severity: m.Severity, Occurrence: m.Family.Occurrence, Detection: m.Detection(), Mends: []drill.Mend{},
		}
		one.On, one.Accepted = m.On.String(), m.Accepted
		if m.Outcome == drill.Absorbed {
			one.Why = m.Why.String()
		}
		for _, l := range m.Seen {
			one.SeenAt = append(one.SeenAt, seenAt{l.Step, l.Says.String(), l.Sure})
		}
		if mends && m.Missed() {
			one.Mends = append(one.Mends, drill.Mends(ctx, x, &doc.Procedure, m, rules.Proof)...)
		}
		d.Mistakes = append(d.Mistakes, one)
	}
	if r.Missed > 0 {
		return d, 1
	}
	return d, 0
}

func printFamily(out io.Writer, f *drill.Family) {
	needed := ""
	if f.Needed() {
		needed = " A page needs to catch all of them."
	}
	fmt.Fprintf(out, "%-11s %s: %s.%s\n", f.ID, f.Name, f.Doc, needed)
}

// printDrill says what is not caught, the gravest first, and how many are.
func printDrill(out, errs io.Writer, d *drilled) error {
	if d.Error != "" {
		_, err := fmt.Fprintf(errs, "%s: %s\n", d.File, d.Error)
		return err
	}
	var open []*drill.Mistake
	for i := range d.report.Mistakes {
		if m := &d.report.Mistakes[i]; !m.Outcome.Good() {
			open = append(open, m)
		}
	}
	slices.SortStableFunc(open, func(a, b *drill.Mistake) int {
		if a.Missed() != b.Missed() {
			return map[bool]int{true: -1, false: 1}[a.Missed()]
		}
		return b.Risk() - a.Risk()
	})
	for _, m := range open {
		what := m.What.String()
		if m.Size != "" {
			what += " (" + m.Size + ")"
		}
		needed := ""
		switch {
		case m.Accepted != "":
			needed = ", accepted (" + m.Accepted + ")"
		case m.Family.Needed():
			needed = ", needed"
		}
		if m.On.ID != "" {
			what += ", " + m.On.String()
		}
		fmt.Fprintf(out, "%s: step %d: %s: %s%s: %s\n", d.File, m.Place+1, what, m.Outcome, needed, m.Comes)
		for _, l := range m.Seen {
			sure := ""
			if !l.Sure {
				sure = "perhaps, "
			}
			fmt.Fprintf(out, "    %sat step %d: %s\n", sure, l.Place+1, l.Says)
		}
	}
	if d.Pairs != nil {
		for _, p := range d.Pairs.Through {
			fmt.Fprintf(out, "%s: two at once: %s\n", d.File, p.says)
		}
		fmt.Fprintf(out, "%s: %d of %d pairs that are each noticed alone get through\n", d.File, len(d.Pairs.Through), d.Pairs.Tried)
	}
	missed := "nothing is missed that the page needs to catch"
	if d.Missed > 0 {
		missed = fmt.Sprintf("%d missed that it needs to catch", d.Missed)
	}
	_, err := fmt.Fprintf(out, "%s: %d of %d mistakes come to no harm; %s\n", d.File, d.Caught, d.Of, missed)
	return err
}

// houseHelp says what a file of house rules is.
const houseHelp = "house rules as a JSON file, as the house's own screen gives it"

// readHouse reads house rules; the default ones for no file.
func readHouse(file string) (*house.Rules, error) {
	if file == "" {
		r := house.Default()
		return &r, nil
	}
	f, err := os.Open(file)
	if err != nil {
		return nil, err
	}
	defer f.Close()
	r, err := house.Read(f)
	if err != nil {
		return nil, fmt.Errorf("%s: %w", file, err)
	}
	return &r, nil
}

// latchFiles are files with folders opened: the latch files in them, by name.
func latchFiles(args []string) ([]string, error) { return filesIn(args, ".latch.json", "latch file") }

// filesIn are files with folders opened: those in them whose names end so, by name.
func filesIn(args []string, end, what string) ([]string, error) {
	var out []string
	for _, a := range args {
		if st, err := os.Stat(a); err != nil || !st.IsDir() {
			out = append(out, a) // what cannot be read is said with the rest of its file
			continue
		}
		var in []string
		err := filepath.WalkDir(a, func(path string, e os.DirEntry, err error) error {
			if err == nil && !e.IsDir() && strings.HasSuffix(path, end) {
				in = append(in, path)
			}
			return err
		})
		if err != nil {
			return nil, err
		}
		if len(in) == 0 {
			return nil, fmt.Errorf("%s: there is no %s in this folder", a, what)
		}
		out = append(out, in...)
	}
	return out, nil
}
