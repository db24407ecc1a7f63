package main

import (
	"bytes"
	"encoding/json"
	"fmt"
	"io"
	"strings"
	"text/tabwriter"

	"github.com/spf13/cobra"

	"inklatch/internal/core/engine"
	"inklatch/internal/core/proof/sheetproof"
	"inklatch/internal/desk/view"
	"inklatch/internal/format/latchjson"
	"inklatch/internal/format/sarif"
)

// readSheet reads an engine sheet from a path: a sheet on its own, or the one
// in a latch file. "-" is standard input.
func readSheet(path string) (*engine.Sheet, error) {
	b, err := readText(path)
	if err != nil {
		return nil, err
	}
	return latchjson.DecodeAnySheet(b)
}

// workedOut is one file's answer to engine.
type workedOut struct {
	Code     string               `json:"code"`
	Derived  *view.Derived        `json:"derived"`
	Findings []sheetproof.Finding `json:"findings"`
}

func engineCommand() *cobra.Command {
	var asJSON bool
	var format, houseFile string
	c := &cobra.Command{
		Use: "engine FILE|FOLDER...", Short: "Work engine sheets out and prove them: exit 1 when a finding keeps one out of use, 2 when a file cannot be read",
		Args: cobra.MinimumNArgs(1),
		RunE: func(cmd *cobra.Command, args []string) error {
			as, err := form(format, asJSON)
			if err != nil {
				return err
			}
			rules, err := readHouse(houseFile)
			if err != nil {
				return err
			}
			files, err := filesIn(args, ".engine.json", "engine sheet")
			if err != nil {
				return err
			}
			code := 0
			found := []sarif.File{}
			for i, f := range files {
				text, err := readText(f)
				var s *engine.Sheet
				if err == nil {
					s, err = latchjson.DecodeAnySheet(text)
				}
				if err != nil {
					code = 2
					found = append(found, sarif.File{Name: f, Error: err.Error()})
					if as != asSARIF {
						fmt.Fprintf(cmd.ErrOrStderr(), "%s: %s\n", f, err)
					}
					continue
				}
				x := engine.NewIndex(s)
				d, fs := view.DerivedOf(x), sheetproof.Prove(x, rules.Proof)
				if sheetproof.Blocking(fs) > 0 {
					code = max(code, 1)
				}
				if err := printEngine(cmd.OutOrStdout(), as, i, s, d, fs); err != nil {
					return err
				}
				found = append(found, sarif.File{Name: f, Text: text, Results: engineResults(text, fs)})
			}
			if as == asSARIF {
				if err := sarif.Write(cmd.OutOrStdout(), version(), engineRules(), found); err != nil {
					return err
				}
			}
			if code != 0 {
				return exit(code)
			}
			return nil
		},
	}
	c.Flags().BoolVar(&asJSON, "json", false, "derived figures and findings as JSON")
	c.Flags().StringVar(&format, "format", asText, formatHelp)
	c.Flags().StringVar(&houseFile, "house", "", houseHelp)
	return c
}

// printEngine prints what one sheet comes to; n is how many were printed before.
func printEngine(out io.Writer, as string, n int, s *engine.Sheet, d *view.Derived, fs []sheetproof.Finding) error {
	var err error
	switch as {
	case asLines:
		enc := json.NewEncoder(out)
		enc.SetIndent("", " ")
		err = enc.Encode(workedOut{s.Code, d, fs})
	case asText:
		if n > 0 {
			fmt.Fprintln(out)
		}
		_, err = out.Write(engineText(s, d, fs))
	}
	return err
}

func engineText(s *engine.Sheet, d *view.Derived, fs []sheetproof.Finding) []byte {
	var b bytes.Buffer
	t := tabwriter.NewWriter(&b, 0, 0, 2, ' ', 0)
	line := func(cells ...any) { fmt.Fprintln(t, strings.TrimRight(strings.Join(texts(cells), "\t"), "\t")) }
	line(s.Code, s.Maker, s.Use)
	line("\nShaft", "turns for one of the crank", "way", "one tooth", "home")
	for _, v := range d.Shafts {
		line(v.Name, v.Ratio, v.Way, v.Tooth, v.Every)
	}
	line("\nHome", "every", "tells the stroke")
	for _, h := range d.Homes {
		says := ""
		if h.Stroke {
			says = "yes"
		}
		line(h.Name, h.Says, says)
	}
	for _, l := range d.Loops {
		line(fmt.Sprintf("\n%s: %d × %g mm = %.1f mm, way round %.1f mm; %s", l.Name, l.Teeth, l.Pitch, l.Length, l.Path, l.Says))
		for i, w := range l.Wheels {
			r := l.Runs[i]
			line("  "+w.Name, fmt.Sprintf("wraps %.0f°", w.Wrap), fmt.Sprintf("%.1f teeth", w.InMesh), w.Way, fmt.Sprintf("run to %s %.1f mm, %s", r.To, r.Length, r.Role))
		}
		for _, k := range l.Links {
			line("  "+k.Name, fmt.Sprintf("link %d, geometry %.1f", k.Says, k.Want))
		}
		if l.Note != "" {
			line("  " + l.Note)
		}
	}
	t.Flush()
	fmt.Fprintln(&b)
	if len(fs) == 0 {
		fmt.Fprintln(&b, "No findings.")
	}
	for _, f := range fs {
		fmt.Fprintf(&b, "%s: %s: %s. %s\n", f.Severity, f.On, f.What, f.Why)
		for _, m := range f.Mends {
			fmt.Fprintf(&b, "    mend: %s\n", m.Label)
		}
	}
	return b.Bytes()
}

func texts(cells []any) []string {
	out := make([]string, len(cells))
	for i, c := range cells {
		out[i] = fmt.Sprint(c)
	}
	return out
}
