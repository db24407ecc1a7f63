package main

import (
	"encoding/json"
	"fmt"
	"io"
	"os"
	"strconv"
	"strings"

	"golang.org/x/term"

	"inklatch/internal/core/drill"
	"inklatch/internal/core/page/procedure"
	"inklatch/internal/core/page/step"
	"inklatch/internal/core/proof/finding"
	"inklatch/internal/core/proof/pageproof"
	"inklatch/internal/core/proof/sheetproof"
	"inklatch/internal/format/latchjson"
	"inklatch/internal/format/sarif"
)

// The forms in which a command answers.
const (
	asText  = "text"
	asLines = "json"
	asSARIF = "sarif"
)

// form is the form that flags ask for.
func form(format string, asJSON bool) (string, error) {
	switch {
	case asJSON && format != asText && format != asLines:
		return "", fmt.Errorf("--json and --format %s are two forms; give one", format)
	case asJSON:
		return asLines, nil
	case format == asText, format == asLines, format == asSARIF:
		return format, nil
	}
	return "", fmt.Errorf("--format is %s, %s or %s", asText, asLines, asSARIF)
}

// formatHelp is what --format says of itself.
const formatHelp = "text, json (one object for each file) or sarif (SARIF 2.1.0, for pipelines and editors)"

// readText reads the text of a file from a path, "-" being standard input.
func readText(path string) ([]byte, error) {
	if path == "-" {
		return io.ReadAll(io.LimitReader(os.Stdin, latchjson.MaxBytes+1))
	}
	f, err := os.Open(path)
	if err != nil {
		return nil, err
	}
	defer f.Close()
	return io.ReadAll(io.LimitReader(f, latchjson.MaxBytes+1))
}

// readBoth reads a latch file with its text.
func readBoth(path string) (*latchjson.Document, []byte, error) {
	b, err := readText(path)
	if err != nil {
		return nil, nil, err
	}
	d, err := latchjson.Decode(b)
	return d, b, err
}

// progress says on a terminal how far long work is, and nothing anywhere else.
type progress struct {
	out *os.File
	of  int
}

// newProgress is for work on so many files: none for one that is done at once.
func newProgress(errs io.Writer, of int) *progress {
	f, ok := errs.(*os.File)
	if !ok || of < 2 || !term.IsTerminal(int(f.Fd())) {
		return nil
	}
	return &progress{f, of}
}

func (p *progress) at(n int, file string) {
	if p != nil {
		fmt.Fprintf(p.out, "\r\x1b[K%d of %d: %s", n+1, p.of, file)
	}
}

func (p *progress) done() {
	if p != nil {
		fmt.Fprint(p.out, "\r\x1b[K")
	}
}

// grave is a severity as SARIF has it.
func grave(s finding.Severity) sarif.Level {
	switch s {
	case finding.Blocks:
		return sarif.Error
	case finding.ShouldFix:
		return sarif.Warning
	}
	return sarif.Note
}

// stepPointers are steps of a page as JSON pointers into its file, its header for none.
func stepPointers(p *procedure.Procedure, steps []step.ID) []string {
	var out []string
	for _, id := range steps {
		if k := p.At(id); k >= 0 {
			out = append(out, "/procedure/steps/"+strconv.Itoa(k))
		}
	}
	if len(out) == 0 {
		return []string{"/procedure"}
	}
	return out
}

// sheetPointer is a path of a sheet, "fasteners/idler-bolt/spec", as a JSON pointer into the
// text of a file of it.
func sheetPointer(text []byte, path string) string {
	var doc any
	if json.Unmarshal(text, &doc) != nil {
		return ""
	}
	at := ""
	if m, ok := doc.(map[string]any); ok {
		if e, ok := m["engine"].(map[string]any); ok {
			doc, at = e, "/engine"
		}
	}
	for key := range strings.SplitSeq(path, "/") {
		switch v := doc.(type) {
		case map[string]any:
			next, ok := v[key]
			if !ok {
				return at
			}
			doc, at = next, at+"/"+strings.NewReplacer("~", "~0", "/", "~1").Replace(key)
		case []any:
			found := false
			for i := range v {
				if m, ok := v[i].(map[string]any); ok && m["id"] == key {
					doc, at, found = v[i], at+"/"+strconv.Itoa(i), true
					break
				}
			}
			if !found {
				return at
			}
		default:
			return at
		}
	}
	return at
}

// checkRules are the rules that check may find something by.
func checkRules() []sarif.Rule {
	var out []sarif.Rule
	for _, r := range pageproof.Rules() {
		out = append(out, sarif.Rule{ID: r.ID, Says: r.Doc})
	}
	for _, r := range sheetproof.Rules() {
		out = append(out, sarif.Rule{ID: "sheet:" + r.ID, Says: r.Doc})
	}
	return out
}

// checkResults are the findings of a file.
func checkResults(doc *latchjson.Document, text []byte, fs []pageproof.Finding) []sarif.Result {
	out := []sarif.Result{}
	for i := range fs {
		f := &fs[i]
		at := stepPointers(&doc.Procedure, f.Steps)
		if strings.HasPrefix(f.Rule, "sheet:") {
			on := strings.TrimPrefix(f.ID, "sheet:")
			_, on, _ = strings.Cut(on, "@")
			at = []string{sheetPointer(text, on)}
		}
		out = append(out, sarif.Result{Rule: f.Rule, Level: grave(f.Severity), Says: f.What + ". " + f.Why, At: at, Accepted: f.Accepted, Key: f.ID})
	}
	return out
}

// drillRules are the families of mistakes.
func drillRules() []sarif.Rule {
	var out []sarif.Rule
	for i := range drill.Families {
		out = append(out, sarif.Rule{ID: "drill/" + drill.Families[i].ID, Says: drill.Families[i].Name + ": " + drill.Families[i].Doc})
	}
	return out
}

// drillResults are the mistakes of a file that get through.
func drillResults(doc *latchjson.Document, r *drill.Report) []sarif.Result {
	out := []sarif.Result{}
	for i := range r.Mistakes {
		m := &r.Mistakes[i]
		if m.Outcome.Good() {
			continue
		}
		level := sarif.Note
		if m.Family.Needed() {
			level = sarif.Error
		}
		at := []step.ID{m.MadeAt}
		for _, l := range m.Seen {
			at = append(at, l.Step)
		}
		out = append(out, sarif.Result{
			Rule: "drill/" + m.Family.ID, Level: level, Says: fmt.Sprintf("Step %d, %s: %s. If nobody notices: %s.", m.Place+1, m.What, m.Outcome, m.Comes),
			At: stepPointers(&doc.Procedure, at), Accepted: m.Accepted, Key: m.ID,
		})
	}
	return out
}

// engineRules are the rules of engine sheets.
func engineRules() []sarif.Rule {
	var out []sarif.Rule
	for _, r := range sheetproof.Rules() {
		out = append(out, sarif.Rule{ID: r.ID, Says: r.Doc})
	}
	return out
}

// engineResults are the findings of an engine sheet.
func engineResults(text []byte, fs []sheetproof.Finding) []sarif.Result {
	out := []sarif.Result{}
	for i := range fs {
		f := &fs[i]
		out = append(out, sarif.Result{Rule: f.Rule, Level: grave(f.Severity), Says: f.What + ". " + f.Why, At: []string{sheetPointer(text, f.On)}, Key: f.ID})
	}
	return out
}
