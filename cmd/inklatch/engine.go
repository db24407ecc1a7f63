package main

import (
	"bytes"
	"encoding/json"
	"fmt"
	"io"
	"os"
	"strings"
	"text/tabwriter"

	"github.com/spf13/cobra"

	"inklatch/internal/core/engine"
	"inklatch/internal/core/proof/finding"
	"inklatch/internal/core/proof/sheetproof"
	"inklatch/internal/desk/view"
	"inklatch/internal/format/latchjson"
)

// readSheet reads an engine sheet from a path: a sheet on its own, or the one
// in a latch file. "-" is standard input.
func readSheet(path string) (*engine.Sheet, error) {
	var b []byte
	var err error
	if path == "-" {
		b, err = io.ReadAll(io.LimitReader(os.Stdin, latchjson.MaxBytes+1))
	} else {
		b, err = os.ReadFile(path)
	}
	if err != nil {
		return nil, err
	}
	return latchjson.DecodeAnySheet(b)
}

func engineCommand() *cobra.Command {
	var asJSON bool
	c := &cobra.Command{
		Use: "engine FILE", Short: "Work an engine sheet out and prove it: exit 1 when a finding keeps it out of use",
		Args: cobra.ExactArgs(1),
		RunE: func(cmd *cobra.Command, args []string) error {
			s, err := readSheet(args[0])
			if err != nil {
				return fmt.Errorf("%s: %w", args[0], err)
			}
			x := engine.NewIndex(s)
			d, fs := view.DerivedOf(x), sheetproof.Prove(x, finding.DefaultHouse())
			out := cmd.OutOrStdout()
			if asJSON {
				enc := json.NewEncoder(out)
				enc.SetIndent("", " ")
				err = enc.Encode(struct {
					Code     string               `json:"code"`
					Derived  *view.Derived        `json:"derived"`
					Findings []sheetproof.Finding `json:"findings"`
				}{s.Code, d, fs})
			} else {
				_, err = out.Write(engineText(s, d, fs))
			}
			if err == nil && sheetproof.Blocking(fs) > 0 {
				return exit(1)
			}
			return err
		},
	}
	c.Flags().BoolVar(&asJSON, "json", false, "derived figures and findings as JSON")
	return c
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
