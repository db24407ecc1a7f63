package replace_test

import (
	"encoding/json"
	"fmt"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"inklatch/internal/core/engine"
	"inklatch/internal/core/fixture"
	"inklatch/internal/core/page/lang/en"
	"inklatch/internal/core/page/procedure"
	"inklatch/internal/core/page/quickline"
	"inklatch/internal/core/page/step"
	"inklatch/internal/core/review/replace"
	"inklatch/internal/core/unit"
)

var files = []string{
	"renew-timing-belt-r3.latch.json", "renew-belt-both-banks-r1.latch.json", "renew-both-belts-r1.latch.json", "renew-chain-two-actuators-r1.latch.json",
	"renew-cam-chain-r1.latch.json", "renew-belt-in-oil-r1.latch.json", "renew-belts-at-rest-r1.latch.json", "renew-timing-chain-r1.latch.json",
}

func of(t require.TestingT, from, to string) *replace.Change {
	c, err := replace.Of(from, to)
	require.NoError(t, err)
	return c
}

func TestWhatCanBeChanged(t *testing.T) {
	for _, c := range []struct{ from, to, wrong string }{
		{"42 N·m", "45 N·m", ""}, {"42Nm", "45 Nm", ""}, {"90°", "120 deg", ""}, {"42 N·m", "45", ""}, {"idler bolt", "guide roller bolt", ""}, {"TL-101", "TL-131", ""},
		{"", "x", "write what stands there now"}, {"x", " ", "write what stands there now"},
		{"42 N·m", "bolt", "is a value; what it becomes has to be one too, such as “43 N·m”"},
		{"bolt", "42 N·m", "is a value, and “bolt” is none"},
		{"42 N·m", "90°", "do not measure the same"},
		{"42 N·m", "42 Nm", "both say the same"}, {"bolt", "bolt", "both say the same"},
	} {
		_, err := replace.Of(c.from, c.to)
		if c.wrong == "" {
			assert.NoError(t, err, c.from)
		} else {
			assert.ErrorContains(t, err, c.wrong, c.from)
		}
	}
	assert.True(t, of(t, "42 Nm", "45 N·m").Value())
	assert.Equal(t, "42 N·m", of(t, "42 Nm", "45 N·m").From())
	assert.Equal(t, "45 N·m", of(t, "42 Nm", "45").To())
	assert.True(t, of(t, "0.4°", "0.5°").Bare())
	assert.False(t, of(t, "42 Nm", "45 Nm").Bare())
	assert.False(t, of(t, "bolt", "screw").Value())
}

// page is a page of TQ4-18P with one step that says something in each of its places.
func page(says string) (*engine.Index, *procedure.Procedure) {
	d := fixture.Document(files[0])
	x := engine.NewIndex(&d.Engine)
	s := step.Step{ID: "s1", Phase: "prepare", Action: &step.Do{Text: says}, Note: says, Cautions: []step.Caution{{Text: says}}, Wording: says}
	h := procedure.Header{After: says, Before: says, Title: says, Engine: d.Engine.Code, Purpose: says, Applies: procedure.Applies{Note: says}, Prelims: procedure.Prelims{People: says, Conditions: []string{"nothing", says}, Supplies: []string{says}}}
	return x, &procedure.Procedure{Header: h, Steps: []step.Step{s}}
}

// said are all texts of that page after a change.
func said(t *testing.T, c *replace.Change, says string) []string {
	t.Helper()
	x, p := page(says)
	_, edits := c.OnPage(x, p, nil)
	n, _, err := procedure.Apply(p, edits)
	require.NoError(t, err)
	s, h := n.Steps[0], n.Header
	return []string{s.Action.(*step.Do).Text, s.Note, s.Cautions[0].Text, s.Wording, h.Title, h.Purpose, h.Applies.Note, h.Prelims.People, h.Prelims.Conditions[1], h.Prelims.Supplies[0], h.After, h.Before}
}

func TestWordsAreChangedWherePeopleWrite(t *testing.T) {
	for _, c := range []struct{ from, to, says, want string }{
		{"idler bolt", "guide bolt", "Mind the idler bolt.", "Mind the guide bolt."},
		{"idler bolt", "guide bolt", "Idler bolt first, idler bolt last.", "Guide bolt first, guide bolt last."},
		{"idler bolt", "guide bolt", "the idler bolts, the idler bolts' heads, the idler bolt’s head, IDLER BOLT, IDLER BOLTS, idler boltsmith", "the guide bolts, the guide bolts' heads, the guide bolt’s head, GUIDE BOLT, GUIDE BOLTS, idler boltsmith"},
		{"bolt", "screw", "bolt, boltless, un-bolt, bolt-on, the bolt's head, bolt", "screw, boltless, un-bolt, bolt-on, the screw's head, screw"},
		{"TL-101", "TL-131", "TL-101 (not TL-1011, XTL-101 or tl-101)", "TL-131 (not TL-1011, XTL-101 or TL-131)"},
		{"öl", "oil", "Öl und öl", "Oil und oil"},
		{"a", "a a", "a b a", "a a b a a"}, // what is put in is not looked at again
		{"42 N·m", "45 N·m", "Not above 42 N·m, that is 42Nm or 42 Nm.", "Not above 45 N·m, that is 45 N·m or 45 N·m."},
		{"42 N·m", "45 N·m", "42 ±3 N·m, 142 N·m, 42°, M42", "42 ±3 N·m, 142 N·m, 42°, M42"},
		{"42 N·m", "45 N·m", "between 40 and 42 N·m", "between 40 and 42 N·m"},
		{"42 N·m", "45 N·m", "42 N·m (31 lbf·ft)", "45 N·m"}, // the second figure was worked out from the first
		{"90°", "100°", "another 90° on", "another 100° on"},
	} {
		for i, got := range said(t, of(t, c.from, c.to), c.says) {
			assert.Equal(t, c.want, got, "%s to %s, text %d", c.from, c.to, i)
		}
	}
}

func TestValuesAreChangedInSteps(t *testing.T) {
	d := fixture.Document(files[0])
	x := engine.NewIndex(&d.Engine)
	lex := quickline.NewLexicon(x)
	p := &procedure.Procedure{Header: procedure.Header{Title: "T", Engine: d.Engine.Code}}
	for i, l := range []string{"tighten idler bolt 42 Nm", "tighten tensioner bolt 42 ±3 Nm", "tighten idler bolt 42 Nm up to 2021; 45 Nm from 2022", "tighten exhaust sprocket bolt 60 Nm + 90 deg", "wait 15 min", "tighten idler bolt to 42 N·m + 42°"} {
		r := quickline.Read(lex, l)
		require.Empty(t, r.Problem, l)
		p.Steps = append(p.Steps, r.Step(step.ID(fmt.Sprint("s", i+1)), "prepare"))
	}
	before := js(t, p)
	keys := func(places []replace.Place) (out []string) {
		for _, v := range places {
			out = append(out, v.Key)
		}
		return out
	}
	c := of(t, "42 Nm", "44 Nm")
	places, edits := c.OnPage(x, p, nil)
	assert.Equal(t, []string{"s1", "s3", "s6"}, keys(places))
	assert.Len(t, edits, 3)
	assert.Equal(t, []replace.Text{replace.Became("step", "Tighten the idler bolt to 42 N·m (31 lbf·ft).", "Tighten the idler bolt to 44 N·m (32.5 lbf·ft).")}, places[0].Texts)
	n, _, err := procedure.Apply(p, edits)
	require.NoError(t, err)
	assert.Equal(t, "44 N·m", engine.StagesText(n.Steps[0].Action.(*step.Tighten).Stages))
	assert.Equal(t, "44 N·m up to 2021; 45 N·m from 2022", step.ByText(n.Steps[2].Action.(*step.Tighten).By))
	assert.Equal(t, "44 N·m + 42°", engine.StagesText(n.Steps[5].Action.(*step.Tighten).Stages))
	assert.Equal(t, before, js(t, p), "the page that is looked at stays as it is")
	assert.Equal(t, []string{"42 ±3 N·m"}, c.Near(p))

	places, edits = c.OnPage(x, p, func(key string) bool { return key == "s3" })
	assert.Len(t, places, 3, "all places are told")
	require.Len(t, edits, 1)
	assert.Equal(t, step.ID("s3"), edits[0].Step.ID)

	places, _ = of(t, "15 min", "20 min").OnPage(x, p, nil)
	assert.Equal(t, []string{"s5"}, keys(places))
	r := quickline.Read(lex, "turn crank clockwise 2 turns")
	turned := &procedure.Procedure{Steps: []step.Step{r.Step("t1", "prove")}}
	_, edits = of(t, "two turns", "4 turns").OnPage(x, turned, nil)
	require.Len(t, edits, 1)
	assert.InDelta(t, 4, edits[0].Step.Action.(*step.Turn).Turns, 0)
	_, edits = of(t, "2 turns", "2–4 turns").OnPage(x, turned, nil)
	assert.Empty(t, edits, "a count of turns is one figure")
	places, _ = of(t, "42 ±3 Nm", "44 ±2 Nm").OnPage(x, p, nil)
	assert.Equal(t, []string{"s2"}, keys(places))
	assert.Contains(t, of(t, "31 lbf·ft", "33 lbf·ft").Near(p), "42 ±3 N·m", "in another unit it lies within what stands there")
	assert.Empty(t, of(t, "bolt", "screw").Near(p))
}

func js(t require.TestingT, v any) string {
	b, err := json.Marshal(v)
	require.NoError(t, err)
	return string(b)
}

func TestASheetIsChangedInItsNamesNumbersAndValues(t *testing.T) {
	d := fixture.Document(files[0])
	d.Engine.Varies = []engine.Variation{{ID: "v1", Of: "fasteners/idler-bolt", Cases: []engine.Case{
		{When: engine.When{Years: engine.Years{To: 2021}}, Set: map[string]json.RawMessage{"spec": json.RawMessage(`[{"torque":"39 N·m"},{"angle":"90°"}]`)}},
		{When: engine.When{Years: engine.Years{From: 2022}}, Set: map[string]json.RawMessage{"name": json.RawMessage(`"idler roller bolt"`)}},
	}}}
	before := js(t, d.Engine)
	of1 := func(from, to string, wanted func(string) bool) ([]replace.Place, *engine.Sheet) {
		places, s, err := of(t, from, to).OnSheet(&d.Engine, wanted)
		require.NoError(t, err)
		assert.Equal(t, before, js(t, d.Engine), "the sheet that is looked at stays as it is")
		return places, s
	}
	places, s := of1("TL-101", "TL-131", nil)
	require.Len(t, places, 1)
	assert.Equal(t, "tools/tl-101", places[0].Key)
	assert.Equal(t, []replace.Text{replace.Became("number", "TL-101", "TL-131")}, places[0].Texts)
	assert.Equal(t, "TL-131", engine.NewIndex(s).Tool("tl-101").Number)

	// A tool that comes in place of one it may stand in for brings its play, and may be stood in
	// for by that one.
	d.Engine.Tools = slices.Clone(d.Engine.Tools)
	bar := slices.IndexFunc(d.Engine.Tools, func(t engine.Tool) bool { return t.ID == "tl-102" })
	d.Engine.Tools[bar].Equivalents = []engine.Equivalent{{Number: "TL-112", Play: 1.1}}
	before = js(t, d.Engine)
	places, s = of1("TL-102", "TL-112", nil)
	require.Len(t, places, 1)
	assert.Equal(t, []replace.Text{replace.Became("number", "TL-102", "TL-112"), replace.Became("play of the cam bar", "0.4°", "1.1°")}, places[0].Texts)
	assert.InDelta(t, 1.1, float64(engine.NewIndex(s).Lock("cam-bar").Freedom()), 1e-9)
	assert.Equal(t, []engine.Equivalent{{Number: "TL-102", Play: 0.4}}, s.Tools[bar].Equivalents)
	_, s = of1("TL-102", "TL-112", func(string) bool { return false })
	assert.JSONEq(t, before, js(t, s), "left out, nothing of it changes")
	places, s = of1("TL-102", "TL-119", nil)
	assert.Len(t, places[0].Texts, 1, "nobody knows the play of another tool")
	assert.InDelta(t, 0.4, float64(engine.NewIndex(s).Lock("cam-bar").Freedom()), 1e-9)

	places, s = of1("39 N·m", "44 N·m", nil)
	require.Len(t, places, 2)
	assert.Equal(t, []replace.Text{replace.Became("torque and angle", "39 N·m", "44 N·m")}, places[0].Texts)
	assert.Equal(t, replace.Place{Key: "varies/v1", Name: "cases of the idler bolt", Texts: []replace.Text{replace.Became("torque and angle, up to 2021", "39 N·m + 90°", "44 N·m + 90°")}}, places[1])
	assert.Equal(t, "44 N·m", engine.StagesText(engine.NewIndex(s).Fastener("idler-bolt").Spec))
	assert.JSONEq(t, `[{"torque":"44 N·m"},{"angle":"90°"}]`, string(s.Varies[0].Cases[0].Set["spec"]))
	_, s = of1("39 N·m", "44 N·m", func(key string) bool { return key == "varies/v1" })
	assert.Equal(t, "39 N·m", engine.StagesText(engine.NewIndex(s).Fastener("idler-bolt").Spec))

	places, s = of1("idler roller", "guide roller", nil)
	names := []string{}
	for _, p := range places {
		names = append(names, p.Key)
	}
	assert.Contains(t, names, "parts/idler")
	assert.Contains(t, names, "varies/v1")
	assert.Equal(t, `"guide roller bolt"`, string(s.Varies[0].Cases[1].Set["name"]))
	assert.NotEmpty(t, engine.Diff(&d.Engine, s))
	d.Engine.Use, d.Engine.View = "snow groomer", "front"
	before = js(t, d.Engine)
	places, s = of1("snow groomer", "piste machine", nil)
	assert.Equal(t, []replace.Place{{Key: replace.Itself, Name: "the engine", Texts: []replace.Text{replace.Became("use", "snow groomer", "piste machine")}}}, places)
	assert.Equal(t, "piste machine", s.Use)
	_, s = of1("snow groomer", "piste machine", func(string) bool { return false })
	assert.Equal(t, "snow groomer", s.Use)
	places, _ = of1("nothing of the kind", "x", nil)
	assert.Empty(t, places)
}

// Changed there and back, a page is what it was; and once it is changed, nothing of the
// old value is left to be found.
func TestThereAndBack(t *testing.T) {
	type at struct {
		x *engine.Index
		p *procedure.Procedure
	}
	var pages []at
	for _, f := range files {
		d := fixture.Document(f)
		pages = append(pages, at{engine.NewIndex(&d.Engine), &d.Procedure})
	}
	rapid.Check(t, func(r *rapid.T) {
		a := pages[rapid.IntRange(0, len(pages)-1).Draw(r, "page")]
		s := &a.p.Steps[rapid.IntRange(0, len(a.p.Steps)-1).Draw(r, "step")]
		text := en.Full(a.x, s) + " " + s.Note
		var from, to string
		if found := unit.Find(text); len(found) > 0 && rapid.Bool().Draw(r, "value") {
			q := found[0].Quantity.First()
			from = q.String()
			q.Value, q.High = q.Value*7+1001, q.High*7+1001*float64(b2i(q.Range))
			to = q.String()
		} else {
			w := step.WordsOf(text)
			from, to = w[rapid.IntRange(0, len(w)-1).Draw(r, "word")], "zzzz"
		}
		c, err := replace.Of(from, to)
		if err != nil {
			r.Skip(err)
		}
		places, edits := c.OnPage(a.x, a.p, nil)
		require.Len(r, edits, len(places))
		n, _, err := procedure.Apply(a.p, edits)
		require.NoError(r, err)
		left, _ := c.OnPage(a.x, n, nil)
		require.Empty(r, left, "%s is still there", from)
		changed := map[string]bool{}
		for _, p := range places {
			changed[p.Key] = true
			for _, t := range p.Texts {
				require.NotEqual(r, t.Before, t.After)
			}
		}
		for i := range n.Steps {
			same := js(r, n.Steps[i]) == js(r, a.p.Steps[i])
			require.Equal(r, !changed[string(n.Steps[i].ID)], same, "step %s", n.Steps[i].ID)
		}
	})
}

func b2i(b bool) int {
	if b {
		return 1
	}
	return 0
}

// What is found on a sheet and changed is what differs on it, thing by thing.
func TestASheetDiffersWhereItWasChanged(t *testing.T) {
	for _, f := range files {
		d := fixture.Document(f)
		x := engine.NewIndex(&d.Engine)
		for i := range d.Engine.Fasteners {
			spec := d.Engine.Fasteners[i].Spec
			if len(spec) == 0 || spec[0].Torque.IsZero() {
				continue
			}
			c := of(t, spec[0].Torque.String(), "999 N·m")
			places, s, err := c.OnSheet(&d.Engine, nil)
			require.NoError(t, err)
			var keys, differ []string
			for _, p := range places {
				keys = append(keys, p.Key)
			}
			for _, e := range engine.Diff(&d.Engine, s) {
				parts := strings.SplitN(e.Path, "/", 3)
				if k := parts[0] + "/" + parts[1]; !slices.Contains(differ, k) {
					differ = append(differ, k)
				}
			}
			assert.ElementsMatch(t, keys, differ, "%s, %s", x.Sheet.Code, spec[0].Torque)
			assert.Contains(t, keys, "fasteners/"+string(d.Engine.Fasteners[i].ID))
		}
	}
}

func FuzzWords(f *testing.F) {
	for _, s := range []string{"Mind the idler bolt.", "42 N·m (31 lbf·ft)", "ÖL und öl", "ſ K K", "a\xffb"} {
		f.Add(s, "idler bolt", "guide bolt")
		f.Add(s, "42 N·m", "45 N·m")
		f.Add(s, "öl", "oil")
	}
	f.Fuzz(func(t *testing.T, says, from, to string) {
		c, err := replace.Of(from, to)
		if err != nil {
			return
		}
		x, p := page(says)
		places, edits := c.OnPage(x, p, nil)
		n, _, err := procedure.Apply(p, edits)
		if err != nil {
			t.Fatal(err)
		}
		if len(places) == 0 && n.Steps[0].Note != says {
			t.Fatalf("%q became %q and nothing says so", says, n.Steps[0].Note)
		}
	})
}

func TestByWhatItIsSought(t *testing.T) {
	for _, c := range []struct {
		from, to, prefix string
		words            []string
		literal          string
	}{
		{"42 N·m", "45 N·m", "42 N·m", []string{"42", "42n*"}, ""},
		{"42.5 N·m", "45 N·m", "42.5 N·m", []string{"42.5", "42 5", "42.5n*"}, ""},
		{"1200 h", "1500 h", "1200 h", []string{"1200", "1 200", "1200h*"}, ""},
		{"6 turns", "7 turns", "6 turns", []string{"6", "six"}, ""},
		{"half a turn", "1 turn", "0.5 turns", []string{"0.5", "half", "turn"}, ""},
		{"idler bolt", "guide bolt", "idler bolt", []string{"idler bolt*"}, ""},
		{"TL-101", "TL-131", "TL-101", []string{"TL-101*"}, "TL-101"},
	} {
		prefix, words, literal := of(t, c.from, c.to).Sought()
		assert.Equal(t, []string{c.prefix, c.literal}, []string{prefix, literal}, c.from)
		for _, w := range c.words {
			assert.Contains(t, words, w, c.from)
		}
	}
}
