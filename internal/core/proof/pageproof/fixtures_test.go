package pageproof_test

import (
	"fmt"
	"os"
	"path/filepath"
	"regexp"
	"slices"
	"strings"
	"testing"

	"github.com/go-json-experiment/json"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"inklatch/internal/core/engine"
	"inklatch/internal/core/fixture"
	"inklatch/internal/core/page/lang/en"
	"inklatch/internal/core/page/procedure"
	"inklatch/internal/core/page/quickline"
	"inklatch/internal/core/page/step"
	"inklatch/internal/core/proof/finding"
	"inklatch/internal/core/proof/pageproof"
)

// A small page of a fixture: the lines of its steps, and which rules find something
// at each; wants[0] are those at no step.
type small struct {
	name, engine string
	at           string // file and line, for who mends it
	p            procedure.Procedure
	wants        [][]string
}

// read takes the pages of a file in testdata/rules. A page is
//
//	page NAME
//	TITLE or PURPOSE: as the header has it, both optional
//	a line as an author types it    // want rule-id rule-id
//
// Wants at no step stand on the line of its name. “engine FILE” says on which sheet of
// the demo the pages after it are. “! ” before a line leaves out its cautions, “? ”
// makes it for when the step above fails, `" ` leaves it free text.
func readFixture(t *testing.T, file string) []small {
	raw, err := os.ReadFile(file)
	require.NoError(t, err)
	return smallPages(t, filepath.Base(file), string(raw), 0, nil)
}

// smallPages reads pages of a file from so many lines down; x is the engine they are on,
// nil where they say it.
func smallPages(t testing.TB, file, text string, down int, x *engine.Index) []small {
	var out []small
	var lex *quickline.Lexicon
	if x != nil {
		lex = quickline.NewLexicon(x)
	}
	on := ""
	for n, line := range strings.Split(text, "\n") {
		n += down
		line, accepted, _ := strings.Cut(line, "// accept ")
		line, want, _ := strings.Cut(line, "// want ")
		line = strings.TrimSpace(line)
		wants := strings.Fields(want)
		word, rest, _ := strings.Cut(line, " ")
		switch {
		case line == "" || strings.HasPrefix(line, "#"):
		case word == "engine":
			on = rest
			x = engine.NewIndex(&fixture.Document(rest).Engine)
			lex = quickline.NewLexicon(x)
		case word == "page":
			out = append(out, small{name: rest, engine: on, at: fmt.Sprintf("%s:%d", file, n+1), wants: [][]string{wants}})
			out[len(out)-1].p.Header = procedure.Header{Title: rest, Engine: x.Sheet.Code}
		case word == "TITLE":
			out[len(out)-1].p.Title = rest
		case word == "RENEWS":
			for _, id := range strings.Fields(rest) {
				out[len(out)-1].p.Task.Renews = append(out[len(out)-1].p.Task.Renews, engine.PartID(id))
			}
		case word == "YEARS":
			years := &out[len(out)-1].p.Applies.Years
			_, err := fmt.Sscan(rest, &years.From, &years.To)
			require.NoError(t, err)
		case word == "BEGINS":
			require.NoError(t, json.Unmarshal([]byte(rest), &out[len(out)-1].p.Begins), "%s:%d", file, n+1)
		case word == "ENDS":
			require.NoError(t, json.Unmarshal([]byte(rest), &out[len(out)-1].p.Ends), "%s:%d", file, n+1)
		case word == "AFTER":
			out[len(out)-1].p.After = rest
		case word == "BEFORE":
			out[len(out)-1].p.Before = rest
		case word == "CHECKS":
			out[len(out)-1].p.Task.Checks = true
		case word == "TOOLS":
			for _, id := range strings.Fields(rest) {
				out[len(out)-1].p.Prelims.Tools = append(out[len(out)-1].p.Prelims.Tools, engine.ToolID(id))
			}
		default:
			v := &out[len(out)-1]
			bare := strings.HasPrefix(line, "! ")
			ifNot := strings.HasPrefix(line, "? ")
			r := quickline.Read(lex, strings.TrimLeft(line, `!?" `))
			if strings.HasPrefix(line, `"`) {
				r = quickline.Reading{Action: &step.Do{Text: strings.TrimLeft(line, `" `)}, Phase: "strip"}
			}
			if r.Problem != "" {
				t.Errorf("%s:%d %s: %s", file, n+1, line, r.Problem)
				continue
			}
			s := step.Step{ID: step.ID(fmt.Sprintf("s%d", len(v.p.Steps)+1)), Phase: r.Phase, Action: r.Action, IfNot: ifNot || r.IfNot, When: r.When, Note: r.Note}
			if r.Times > 0 {
				at := len(v.p.Steps) - 1
				for at > 0 && v.p.Steps[at].IfNot {
					at--
				}
				v.p.Steps[at].Again = &step.Again{Times: r.Times}
			}
			if accepted != "" {
				s.Accept = []step.Acceptance{{Rule: accepted, Reason: "held by hand"}}
			}
			if !bare {
				for _, h := range s.Hazards(x) {
					s.Cautions = append(s.Cautions, step.CautionFor(h))
				}
			}
			v.p.Steps = append(v.p.Steps, s)
			v.wants = append(v.wants, wants)
		}
	}
	return out
}

var ruleID = regexp.MustCompile(`^[a-z]+(-[a-z]+)*$`)

// checkSmall holds what the proof finds on a page, of the rules that count, against what
// is written at its steps.
func checkSmall(t *testing.T, x *engine.Index, v small, counts func(rule string) bool) {
	got := make([][]string, len(v.wants))
	for _, f := range pageproof.Found(x, &v.p, nil, finding.DefaultHouse()) {
		if !counts(f.Rule) || f.Accepted != "" {
			continue
		}
		k := 0
		if len(f.Steps) > 0 {
			k = v.p.At(f.Steps[0]) + 1
		}
		got[k] = append(got[k], f.Rule+"\t"+f.What)
	}
	for k := range got {
		said := make([]string, len(got[k]))
		for i, g := range got[k] {
			said[i], _, _ = strings.Cut(g, "\t")
		}
		slices.Sort(said)
		slices.Sort(v.wants[k])
		line := "no step"
		if k > 0 {
			line = en.Sentence(x, v.p.Steps[k-1].Action)
		}
		if w, g := strings.Join(v.wants[k], " "), strings.Join(said, " "); w != g {
			t.Errorf("%s %s: %s\n\twants %s\n\tfinds %s", v.at, v.name, line, w, strings.Join(got[k], "\n\t      "))
		}
	}
}

// Beside each family stand small pages with what it should find written at their
// steps: it finds that and, of its own rules, nothing else.
func TestFixtures(t *testing.T) {
	dir, others := os.LookupEnv("RULE_FIXTURES") // those of an example, for instance
	if !others {
		dir = "testdata/rules"
	}
	files, err := filepath.Glob(filepath.Join(dir, "*.txt"))
	require.NoError(t, err)
	tried := map[string]bool{}
	for _, file := range files {
		name := strings.TrimSuffix(filepath.Base(file), ".txt")
		rules := pageproof.Family(name)
		require.NotEmpty(t, rules, "no family is called %s", name)
		for _, v := range readFixture(t, file) {
			x := engine.NewIndex(&fixture.Document(v.engine).Engine)
			checkSmall(t, x, v, func(rule string) bool { return slices.Contains(rules, rule) })
			for _, ids := range v.wants {
				for _, id := range ids {
					require.Regexp(t, ruleID, id)
					tried[id] = true
				}
			}
		}
	}
	require.NotEmpty(t, files)
	if others {
		return
	}
	assert.GreaterOrEqual(t, len(tried), 40, "rules with a page of their own")
}
