package main

import (
	"encoding/json"
	"fmt"
	"io"
	"os"

	"github.com/spf13/cobra"

	"inklatch/internal/core/engine"
	"inklatch/internal/core/page/procedure"
	"inklatch/internal/core/page/step"
	"inklatch/internal/core/proof/finding"
	"inklatch/internal/core/proof/pageproof"
	"inklatch/internal/core/proof/sheetproof"
	"inklatch/internal/core/virtual"
	"inklatch/internal/desk/view"
	"inklatch/internal/format/latchjson"
	"inklatch/internal/format/sarif"
)

func root() *cobra.Command {
	c := &cobra.Command{
		Use: "inklatch", Short: "Timing procedures, run on a virtual engine while they are written",
		SilenceUsage: true, SilenceErrors: true,
	}
	c.AddCommand(checkCommand(), drillCommand(), diffCommand(), copyCommand(), changeCommand(), rulesCommand(), engineCommand(), turnsCommand(), sheetCommand(), readCommand(), bringCommand(), drawCommand(), runCommand(), serveCommand(), demoCommand(), verifyCommand(), exportCommand(), importCommand(), personCommand(), backupCommand(), restoreCommand(), keyCommand(), schemaCommand(), versionCommand(), upgradeCommand())
	return c
}

// report is one file's answer to check.
type report struct {
	File     string              `json:"file"`
	Findings []pageproof.Finding `json:"findings"`
	// Standing says that the file holds no more, where it does.
	Standing string `json:"standing,omitempty"`
	Error    string `json:"error,omitempty"`
}

func checkCommand() *cobra.Command {
	var asJSON bool
	var format, houseFile string
	c := &cobra.Command{
		Use: "check FILE|FOLDER...", Short: "Prove latch files: exit 0 when nothing blocks release, 1 when something does, 2 when a file cannot be read",
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
			files, err := latchFiles(args)
			if err != nil {
				return err
			}
			code := 0
			docs, texts, errs := make([]*latchjson.Document, len(files)), make([][]byte, len(files)), make([]error, len(files))
			for i, f := range files {
				docs[i], texts[i], errs[i] = readBoth(f)
			}
			found := []sarif.File{}
			far := newProgress(cmd.ErrOrStderr(), len(files))
			for i, f := range files {
				far.at(i, f)
				r, doc := report{File: f, Findings: []pageproof.Finding{}}, docs[i]
				if errs[i] != nil {
					r.Error = errs[i].Error()
					code = 2
				} else {
					r.Standing = doc.Standing.Says()
					if fs := pageproof.Prove(engine.NewIndex(&doc.Engine), &doc.Procedure, rules.Proof); fs != nil {
						r.Findings = fs
					}
					r.Findings = append(r.Findings, pageproof.Beside(engine.NewIndex(&doc.Engine), &doc.Procedure.Header, func(title string) *procedure.Header {
						for _, o := range docs {
							if o != nil && o.Engine.Code == doc.Engine.Code && o.Procedure.Title == title {
								return &o.Procedure.Header
							}
						}
						return nil
					})...)
					r.Findings = append(r.Findings, sheetFindings(&doc.Engine, rules.Proof)...)
					if pageproof.Blocking(r.Findings) > 0 {
						code = max(code, 1)
					}
				}
				far.done()
				if as == asSARIF {
					one := sarif.File{Name: f, Text: texts[i], Error: r.Error}
					if doc != nil && errs[i] == nil {
						one.Results = checkResults(doc, texts[i], r.Findings)
					}
					found = append(found, one)
				} else if err := write(cmd.OutOrStdout(), cmd.ErrOrStderr(), r, doc, as == asLines); err != nil {
					return err
				}
			}
			if as == asSARIF {
				if err := sarif.Write(cmd.OutOrStdout(), version(), checkRules(), found); err != nil {
					return err
				}
			}
			if code != 0 {
				return exit(code)
			}
			return nil
		},
	}
	c.Flags().BoolVar(&asJSON, "json", false, "one JSON object for each file")
	c.Flags().StringVar(&format, "format", asText, formatHelp)
	c.Flags().StringVar(&houseFile, "house", "", houseHelp)
	return c
}

// sheetFindings are what keeps the file's engine sheet out of use: a page on a
// sheet that does not fit together does not pass.
func sheetFindings(s *engine.Sheet, house finding.House) []pageproof.Finding {
	var out []pageproof.Finding
	for _, f := range sheetproof.Prove(engine.NewIndex(s), house) {
		if f.Severity == finding.Blocks {
			of := pageproof.Finding{Finding: f.Finding, Steps: []step.ID{}, Mends: []pageproof.Mend{}}
			of.ID, of.Rule, of.What, of.Cause, of.Message = sheetproof.HousePrefix+f.ID, sheetproof.HousePrefix+f.Rule, "The engine sheet: "+f.What, "", nil
			out = append(out, of)
		}
	}
	return out
}

// onlyRead says how many steps of a page are text, which no virtual engine ran; nothing
// for a page without any.
func onlyRead(p *procedure.Procedure) string {
	n := 0
	for i := range p.Steps {
		if p.Steps[i].Action.Verb() == "do" {
			n++
		}
	}
	switch n {
	case 0:
		return ""
	case 1:
		return ", 1 of them text that was only read"
	}
	return fmt.Sprintf(", %d of them text that was only read", n)
}

func write(out, errs io.Writer, r report, doc *latchjson.Document, asJSON bool) error {
	if asJSON {
		return json.NewEncoder(out).Encode(r)
	}
	if r.Error != "" {
		fmt.Fprintf(errs, "%s: %s\n", r.File, r.Error)
		return nil
	}
	if r.Standing != "" {
		fmt.Fprintf(out, "%s: %s\n", r.File, r.Standing)
	}
	if len(r.Findings) == 0 {
		fmt.Fprintf(out, "%s: no findings in %d steps%s\n", r.File, len(doc.Procedure.Steps), onlyRead(&doc.Procedure))
		return nil
	}
	for _, f := range r.Findings {
		if f.Accepted != "" {
			fmt.Fprintf(out, "%s: accepted (%s): %s. %s\n", r.File, f.Accepted, f.What, f.Why)
			continue
		}
		fmt.Fprintf(out, "%s: %s: %s. %s\n", r.File, f.Severity, f.What, f.Why)
		if f.Cause != "" {
			fmt.Fprintf(out, "    follows from: %s\n", whatOf(r.Findings, f.Cause))
		}
		for _, m := range f.Mends {
			fmt.Fprintf(out, "    mend: %s\n", m.Label)
		}
	}
	return nil
}

// whatOf is what a finding says, by its id.
func whatOf(fs []pageproof.Finding, id string) string {
	for i := range fs {
		if fs[i].ID == id {
			return fs[i].What
		}
	}
	return id
}

// readFile reads a latch file from a path, "-" being standard input.
func readFile(path string) (*latchjson.Document, error) {
	if path == "-" {
		return latchjson.Read(os.Stdin)
	}
	f, err := os.Open(path)
	if err != nil {
		return nil, err
	}
	defer f.Close()
	return latchjson.Read(f)
}

// traceStep is one step of run's JSON.
type traceStep struct {
	ID       step.ID    `json:"id"`
	Sentence string     `json:"sentence"`
	After    view.State `json:"after"`
	Clashes  []string   `json:"clashes"`
}

func runCommand() *cobra.Command {
	var asJSON bool
	c := &cobra.Command{
		Use: "run FILE", Short: "Run a latch file on the virtual engine and print its trace",
		Args: cobra.ExactArgs(1),
		RunE: func(cmd *cobra.Command, args []string) error {
			doc, err := readFile(args[0])
			if err != nil {
				return fmt.Errorf("%s: %w", args[0], err)
			}
			return printTrace(cmd.OutOrStdout(), engine.NewIndex(&doc.Engine), &doc.Procedure, asJSON)
		},
	}
	c.Flags().BoolVar(&asJSON, "json", false, "the trace as JSON")
	return c
}

func printTrace(out io.Writer, x *engine.Index, p *procedure.Procedure, asJSON bool) error {
	v := view.Of(x, p, 0, finding.DefaultHouse())
	t := p.Trace(x, 0, p.First(x.Sheet))
	if !asJSON {
		for i, r := range v.Rows {
			fmt.Fprintf(out, "%3d  %-90s crank %7.1f°\n", i+1, r.Sentence, t.Steps[i].After.Crank)
		}
		return nil
	}
	steps := make([]traceStep, len(v.Rows))
	for i, r := range v.Rows {
		steps[i] = traceStep{r.Step.ID, r.Sentence, v.States[i+1], r.Clashes}
	}
	enc := json.NewEncoder(out)
	enc.SetIndent("", " ")
	return enc.Encode(struct {
		First     view.State         `json:"first"`
		Steps     []traceStep        `json:"steps"`
		Lifelines []virtual.Lifeline `json:"lifelines"`
	}{v.States[0], steps, v.Chart})
}
