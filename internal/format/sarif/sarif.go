// Package sarif writes what was found in files as SARIF 2.1.0 (OASIS, Static Analysis Results
// Interchange Format), which pipelines and editors read. A place is a JSON pointer into the
// file, with its line and column.
package sarif

import (
	"bytes"
	"encoding/json"
	"io"
	"path/filepath"
	"slices"
	"strconv"
	"strings"
	"unicode/utf16"
	"unicode/utf8"

	"github.com/go-json-experiment/json/jsontext"
	"github.com/owenrumney/go-sarif/v3/pkg/report/v210/sarif"
)

// Level is how grave a result is.
type Level string

// The levels of SARIF.
const (
	Error   Level = "error"
	Warning Level = "warning"
	Note    Level = "note"
)

// Rule is what a result comes from.
type Rule struct{ ID, Says string }

// Result is one thing that was found in a file.
type Result struct {
	Rule  string
	Level Level
	Says  string
	// At are JSON pointers into the file, the first the place, the others beside it; none for
	// the file as a whole.
	At []string
	// Accepted is why somebody keeps it, empty for none.
	Accepted string
	// Key tells it from others of the file in the next run too.
	Key string
}

// File is a file with what was found in it; Text is its text, empty where it is not known.
type File struct {
	Name    string
	Text    []byte
	Results []Result
	// Error says why it cannot be read, empty where it can.
	Error string
}

// Write writes what a tool of a version found in files by its rules.
func Write(out io.Writer, version string, rules []Rule, files []File) error {
	run := sarif.NewRun()
	run.Tool = sarif.NewTool().WithDriver(sarif.NewToolComponent().WithName("Ink Latch").WithVersion(version))
	run.WithColumnKind("utf16CodeUnits")
	at := map[string]int{}
	for _, r := range rules {
		at[r.ID] = len(run.Tool.Driver.Rules)
		run.Tool.Driver.AddRule(sarif.NewReportingDescriptor().WithID(r.ID).WithShortDescription(sarif.NewMultiformatMessageString().WithText(capital(r.Says) + ".")))
	}
	call := sarif.NewInvocation().WithExecutionSuccessful(true)
	for i := range files {
		f := &files[i]
		where := sarif.NewArtifactLocation().WithURI(uri(f.Name))
		run.AddArtifact(sarif.NewArtifact().WithLocation(where))
		if f.Error != "" {
			call.WithExecutionSuccessful(false)
			call.AddToolExecutionNotification(sarif.NewNotification().WithLevel(string(Error)).WithMessage(sarif.NewTextMessage(f.Error)).
				AddLocation(sarif.NewLocation().WithPhysicalLocation(sarif.NewPhysicalLocation().WithArtifactLocation(where))))
			continue
		}
		places := Places(f.Text, pointers(f.Results))
		for k := range f.Results {
			v := &f.Results[k]
			res := sarif.NewRuleResult(v.Rule).WithLevel(string(v.Level)).WithMessage(sarif.NewTextMessage(v.Says))
			if n, ok := at[v.Rule]; ok {
				res.WithRuleIndex(n)
			}
			if v.Key != "" {
				res.WithPartialFingerprints(map[string]string{"inkLatch/v1": v.Key})
			}
			if v.Accepted != "" {
				res.AddSuppression(sarif.NewSuppression().WithKind("inSource").WithJustification(v.Accepted))
			}
			if len(v.At) == 0 {
				res.AddLocation(sarif.NewLocation().WithPhysicalLocation(sarif.NewPhysicalLocation().WithArtifactLocation(where)))
			}
			for n, p := range v.At {
				l := sarif.NewLocation().WithPhysicalLocation(sarif.NewPhysicalLocation().WithArtifactLocation(where).WithRegion(region(places, p))).
					AddLogicalLocation(sarif.NewLogicalLocation().WithFullyQualifiedName(p).WithKind("element"))
				if n == 0 {
					res.AddLocation(l)
				} else {
					res.AddRelatedLocation(l)
				}
			}
			run.AddResult(res)
		}
	}
	run.AddInvocation(call)
	b, err := json.Marshal(sarif.NewReport().AddRun(run))
	if err != nil {
		return err
	}
	var whole map[string]any
	if err := json.Unmarshal(b, &whole); err != nil {
		return err
	}
	enc := json.NewEncoder(out)
	enc.SetIndent("", " ")
	return enc.Encode(lean(whole))
}

// lean is a value without what is empty in it, but for a list of results: that it is empty says
// that nothing was found.
func lean(v any) any {
	switch v := v.(type) {
	case map[string]any:
		for k, e := range v {
			e = lean(e)
			l, isList := e.([]any)
			m, isMap := e.(map[string]any)
			if k != "results" && (isList && len(l) == 0 || isMap && len(m) == 0) {
				delete(v, k)
				continue
			}
			v[k] = e
		}
	case []any:
		for i := range v {
			v[i] = lean(v[i])
		}
	}
	return v
}

func region(places map[string]Place, pointer string) *sarif.Region {
	p, ok := places[pointer]
	for !ok && pointer != "" { // what is not written stands where its holder does
		pointer = pointer[:strings.LastIndexByte(pointer, '/')]
		p, ok = places[pointer]
	}
	if !ok {
		p = Place{1, 1}
	}
	return sarif.NewRegion().WithStartLine(p.Line).WithStartColumn(p.Column)
}

// pointers are all places of some results, with those that hold them.
func pointers(rs []Result) []string {
	var out []string
	for i := range rs {
		for _, p := range rs[i].At {
			for ; p != ""; p = p[:strings.LastIndexByte(p, '/')] {
				out = append(out, p)
			}
		}
	}
	slices.Sort(out)
	return slices.Compact(out)
}

// Place is where a value begins in a text, both from 1; a column counts UTF-16 code units.
type Place struct{ Line, Column int }

// Places are where the values of JSON pointers (RFC 6901) begin in a text; those that are not
// there are left out.
func Places(text []byte, wanted []string) map[string]Place {
	out := make(map[string]Place, len(wanted))
	if len(wanted) == 0 {
		return out
	}
	d := jsontext.NewDecoder(bytes.NewReader(text), jsontext.AllowDuplicateNames(true))
	line, start, at := 1, 0, 0
	for len(out) < len(wanted) {
		kind := d.PeekKind()
		if kind == 0 {
			return out
		}
		_, n := d.StackIndex(d.StackDepth())
		inObject, _ := d.StackIndex(d.StackDepth())
		from := int(d.InputOffset())
		if _, err := d.ReadToken(); err != nil {
			return out
		}
		if inObject == '{' && n%2 == 0 || kind == '}' || kind == ']' {
			continue // a name, or an end
		}
		p := string(d.StackPointer())
		if _, ok := slices.BinarySearch(wanted, p); !ok {
			continue
		}
		for from < len(text) && strings.IndexByte(" \t\r\n,:", text[from]) >= 0 {
			from++
		}
		for ; at < from; at++ {
			if text[at] == '\n' {
				line, start = line+1, at+1
			}
		}
		if _, ok := out[p]; !ok {
			out[p] = Place{line, units(text[start:from]) + 1}
		}
	}
	return out
}

// units counts UTF-16 code units.
func units(b []byte) int {
	n := 0
	for len(b) > 0 {
		r, size := utf8.DecodeRune(b)
		n += utf16.RuneLen(max(r, 0))
		b = b[size:]
	}
	return n
}

// uri is the name of a file as a relative reference.
func uri(name string) string {
	if name == "-" {
		return "stdin"
	}
	var b strings.Builder
	for _, c := range []byte(filepath.ToSlash(name)) {
		switch {
		case 'a' <= c && c <= 'z', 'A' <= c && c <= 'Z', '0' <= c && c <= '9', strings.IndexByte("-._~/", c) >= 0:
			b.WriteByte(c)
		default:
			b.WriteString("%" + strings.ToUpper(strconv.FormatInt(int64(c)+0x100, 16)[1:]))
		}
	}
	return b.String()
}

func capital(s string) string {
	r, size := utf8.DecodeRuneInString(s)
	return strings.ToUpper(string(r)) + s[size:]
}
