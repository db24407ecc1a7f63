package pageproof_test

import (
	"fmt"
	"maps"
	"os"
	"path/filepath"
	"reflect"
	"slices"
	"strconv"
	"strings"
	"testing"

	"github.com/go-json-experiment/json"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"inklatch/internal/core/engine"
	"inklatch/internal/core/fixture"
	"inklatch/internal/core/page/procedure"
	"inklatch/internal/core/page/step"
	"inklatch/internal/core/proof/finding"
	"inklatch/internal/core/proof/pageproof"
	"inklatch/internal/core/virtual"
)

// other is an engine that the demo knows nothing of, with pages as a bench would do
// them.
type other struct {
	name  string
	x     *engine.Index
	pages []small
}

// others reads the engines of testdata/others: a sheet, the demo's file with one, or
// another's (“as NAME”), edits of it (“edit PATH JSON”), a line of dashes, and pages as the fixtures of the rules have them.
func others(t testing.TB) []other {
	files, err := filepath.Glob("testdata/others/*.txt")
	require.NoError(t, err)
	require.NotEmpty(t, files)
	var out []other
	for _, file := range files {
		raw, err := os.ReadFile(file)
		require.NoError(t, err)
		sheet, pages, _ := strings.Cut(string(raw), "\n----\n")
		head := strings.Split(sheet, "\n")
		lines := len(head) - 1
		var edits []engine.Edit
		for len(head) > 1 && strings.HasPrefix(head[len(head)-1], "edit ") {
			path, value, _ := strings.Cut(strings.TrimPrefix(head[len(head)-1], "edit "), " ")
			edits, head = append([]engine.Edit{{Path: path}}, edits...), head[:len(head)-1]
			if value != "" {
				edits[0].Value = []byte(value)
			}
		}
		sheet = strings.Join(head, "\n")
		var s engine.Sheet
		if base, ok := strings.CutPrefix(sheet, "as "); ok {
			other, err := os.ReadFile("testdata/others/" + base + ".txt")
			require.NoError(t, err, file)
			sheet, _, _ = strings.Cut(string(other), "\n----\n")
		}
		if demo, ok := strings.CutPrefix(sheet, "demo "); ok {
			s = fixture.Document(demo).Engine
		} else {
			require.NoError(t, json.Unmarshal([]byte(sheet), &s, json.RejectUnknownMembers(true)), file)
		}
		edited, err := engine.Apply(&s, edits)
		require.NoError(t, err, file)
		x := engine.NewIndex(edited)
		out = append(out, other{strings.TrimSuffix(filepath.Base(file), ".txt"), x, smallPages(t, filepath.Base(file), like(t, file, pages), lines+2, x)})
	}
	return out
}

// like writes out pages that are like another but for some lines:
//
//	like NAME
//	- line              it is left out
//	= line  // want …   something is found there
//	~ line => other     it reads otherwise
//	+ line => more      a line comes after it
//	^ line => before    a line comes before it
//
// “2- line” speaks of the second such line.
func like(t testing.TB, file, text string) string {
	pages := map[string][]string{}
	var out []string
	name, from := "", 0
	for _, raw := range strings.Split(text, "\n") {
		word, rest, _ := strings.Cut(raw, " ")
		switch word {
		case "page":
			name, _, _ = strings.Cut(rest, "//")
			name = strings.TrimSpace(name)
			out, from = append(out, raw), len(out)+1
			continue
		case "like":
			require.Contains(t, pages, rest, file)
			for _, l := range pages[rest] {
				if !strings.HasPrefix(l, "like ") {
					out = append(out, l)
				}
			}
		default:
			op := strings.TrimLeft(word, "23456789")
			if op == "" || !strings.Contains("-=~+^", op) {
				out = append(out, raw)
				break
			}
			nth := 1
			if op != word {
				nth, _ = strconv.Atoi(strings.TrimSuffix(word, op))
			}
			rest, want, _ := strings.Cut(rest, "//")
			old, more, _ := strings.Cut(rest, " => ")
			if want != "" {
				want = " //" + want
			}
			at := -1
			for i := from; i < len(out) && at < 0; i++ {
				if bare, _, _ := strings.Cut(out[i], "//"); strings.TrimSpace(bare) == strings.TrimSpace(old) {
					if nth--; nth == 0 {
						at = i
					}
				}
			}
			require.GreaterOrEqual(t, at, 0, "%s, page %s: no line “%s”", file, name, old)
			switch op {
			case "-":
				out = slices.Delete(out, at, at+1)
			case "=":
				out[at] += want
			case "~":
				out[at] = more + want
			case "+":
				out = slices.Insert(out, at+1, more+want)
			case "^":
				out = slices.Insert(out, at, more+want)
			}
		}
		pages[name] = out[from:len(out):len(out)]
	}
	return strings.Join(out, "\n")
}

// clean reports whether nothing is written at the steps of a page.
func (v *small) clean() bool {
	return !slices.ContainsFunc(v.wants, func(ids []string) bool { return len(ids) > 0 })
}

// A page as a bench would do it on an engine that the demo knows nothing of is clean,
// and one with a mistake in it is found.
func TestOtherEngines(t *testing.T) {
	for _, o := range others(t) {
		for _, v := range o.pages {
			checkSmall(t, o.x, v, func(string) bool { return true })
		}
	}
}

// What does no harm is no finding on them either.
func TestHarmlessRewritesOfOtherEngines(t *testing.T) {
	n := 0
	for _, o := range others(t) {
		for _, v := range o.pages {
			if !v.clean() || slices.ContainsFunc(pageproof.Found(o.x, &v.p, nil, finding.DefaultHouse()), func(g pageproof.Finding) bool { return g.Accepted == "" }) {
				continue
			}
			for _, d := range rewrites(o.x, &v.p) {
				n++
				for _, g := range pageproof.Found(o.x, &d.p, nil, finding.DefaultHouse()) {
					if g.Accepted == "" {
						t.Errorf("%s, %s: %s at %s: [%s] %s", o.name, v.name, d.kind, d.says, g.Rule, g.What)
					}
				}
			}
		}
	}
	t.Logf("%d rewrites", n)
}

// happensAlike reports whether the same happens on the virtual engine by two pages of the same
// steps: each step with what it met, whatever stands before it, and the engine as it is at the
// end. Two neighbours that may stand either way are such pages.
func happensAlike(x *engine.Index, p, q *procedure.Procedure) bool {
	a, b := p.Trace(x, 0, nil), q.Trace(x, 0, nil)
	if len(a.Steps) != len(b.Steps) || len(a.Steps) == 0 {
		return false
	}
	met := map[step.ID][]virtual.Event{}
	for i := range p.Steps {
		met[p.Steps[i].ID] = a.Steps[i].Events
	}
	for i := range q.Steps {
		if !reflect.DeepEqual(met[q.Steps[i].ID], b.Steps[i].Events) {
			return false
		}
	}
	return reflect.DeepEqual(a.Steps[len(a.Steps)-1].After, b.Steps[len(b.Steps)-1].After)
}

// What a slip of an author does to such a page is found as often as on the demo's own.
func TestDamagedPagesOfOtherEngines(t *testing.T) {
	var missed []string
	kinds, seen := map[string]int{}, map[string]int{}
	for _, o := range others(t) {
		first := true
		for _, v := range o.pages {
			if !v.clean() || !first {
				continue
			}
			first = false
			for _, d := range damages(o.x, &v.p) {
				kinds[d.kind]++
				kinds["all of "+o.name]++
				kinds["all"]++
				if slices.ContainsFunc(pageproof.Found(o.x, &d.p, nil, finding.DefaultHouse()), func(g pageproof.Finding) bool { return g.Accepted == "" }) {
					seen[d.kind]++
					seen["all of "+o.name]++
					seen["all"]++
					continue
				}
				if happensAlike(o.x, &v.p, &d.p) {
					kinds["all that change what happens"]--
				}
				missed = append(missed, fmt.Sprintf("%s\t%s: %s", d.kind, o.name, d.says))
			}
		}
	}
	kinds["all that change what happens"] += kinds["all"]
	seen["all that change what happens"] = seen["all"]
	for _, kind := range slices.Sorted(maps.Keys(kinds)) {
		t.Logf("%-22s %4d of %4d  %5.1f %%", kind, seen[kind], kinds[kind], 100*float64(seen[kind])/float64(kinds[kind]))
	}
	assert.GreaterOrEqual(t, 100*float64(seen["all"])/float64(kinds["all"]), 92.0)
	assert.GreaterOrEqual(t, 100*float64(seen["all that change what happens"])/float64(kinds["all that change what happens"]), 97.0)
	if file := os.Getenv("MISSED"); file != "" {
		slices.Sort(missed)
		_ = os.WriteFile(file, []byte(strings.Join(missed, "\n")), 0o644)
	}
}
