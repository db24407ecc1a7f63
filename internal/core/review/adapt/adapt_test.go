package adapt_test

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
	"inklatch/internal/core/proof/finding"
	"inklatch/internal/core/proof/pageproof"
	"inklatch/internal/core/review/adapt"
)

var files = []string{
	"renew-timing-belt-r3.latch.json", "renew-belt-both-banks-r1.latch.json", "renew-both-belts-r1.latch.json", "renew-chain-two-actuators-r1.latch.json",
	"renew-cam-chain-r1.latch.json", "renew-belt-in-oil-r1.latch.json", "renew-belts-at-rest-r1.latch.json", "renew-timing-chain-r1.latch.json",
	"check-valve-timing-r1.latch.json", "open-timing-drive-r1.latch.json", "close-timing-drive-r1.latch.json",
}

// away is a sheet with other ids and, with names, other names for everything: the same
// engine, told by somebody else.
func away(s *engine.Sheet, names bool) *engine.Sheet {
	f := fixture.Copy(&fixture.File{Engine: *s})
	out := &f.Engine
	id := func(list, id string) string {
		if list == "shafts" && id == string(engine.CrankID) {
			return id
		}
		return "n-" + id
	}
	engine.Rename(out, id)
	for i := range out.Varies {
		list, of, _ := strings.Cut(out.Varies[i].Of, "/")
		out.Varies[i].Of = list + "/" + id(list, of)
	}
	out.Names, out.Evidence = nil, nil
	if names {
		for i := range out.Wheels {
			out.Wheels[i].Name = fmt.Sprint("w", i)
		}
		for i := range out.Locks {
			out.Locks[i].Name = fmt.Sprint("l", i)
		}
		for i := range out.Parts {
			out.Parts[i].Name = fmt.Sprint("p", i)
		}
		for i := range out.Fasteners {
			out.Fasteners[i].Name = fmt.Sprint("f", i)
		}
		for i := range out.Marks {
			out.Marks[i].Name = fmt.Sprint("m", i)
		}
		for i := range out.Tools {
			out.Tools[i].Name, out.Tools[i].Number = fmt.Sprint("t", i), fmt.Sprint("X-", i)
		}
		for i := range out.Shafts {
			out.Shafts[i].Name = fmt.Sprint("s", i)
		}
		for i := range out.Loops {
			out.Loops[i].Name = fmt.Sprint("o", i)
		}
		for i := range out.Tensioners {
			out.Tensioners[i].Name = fmt.Sprint("e", i)
		}
	}
	out.Code = "NEW-1"
	return out
}

func truth(ref string) string {
	if ref == "shafts/crank" {
		return "crank"
	}
	_, id, _ := strings.Cut(ref, "/")
	return "n-" + id
}

func js(t require.TestingT, v any) string {
	b, err := json.Marshal(v)
	require.NoError(t, err)
	return string(b)
}

// copied is a page copied to another sheet with these answers.
func copied(t require.TestingT, from, to *engine.Index, p *procedure.Procedure, answers map[string]string) (*adapt.Copy, []adapt.Pair) {
	pairs := adapt.Match(from, to, adapt.Things(from, p), answers)
	c, err := adapt.Over(from, to, p, pairs)
	require.NoError(t, err)
	return c, pairs
}

// without leaves out what a copy never takes along: what was accepted, and torques that
// are not the sheet's.
func without(p *procedure.Procedure, asks []adapt.Note) []step.Step {
	out := slices.Clone(p.Steps)
	for i := range out {
		out[i].Accept = nil
		own := func(n adapt.Note) bool {
			return n.Step == out[i].ID && strings.Contains(n.Says, "which is not what the sheet")
		}
		if a, ok := out[i].Action.(*step.Tighten); ok && slices.ContainsFunc(asks, own) {
			n := *a
			n.Stages, n.By = nil, nil
			out[i].Action = &n
		}
	}
	return out
}

// A page copied within its own code is the page: nothing is left out, nothing becomes
// something else, and nothing is asked of the things.
func TestACopyWithinItsCodeIsThePage(t *testing.T) {
	for _, f := range files {
		d := fixture.Document(f)
		x := engine.NewIndex(&d.Engine)
		before := js(t, d.Procedure)
		c, pairs := copied(t, x, x, &d.Procedure, nil)
		for _, p := range pairs {
			assert.Equal(t, adapt.Same, p.How, "%s: %s", f, p.Ref())
			assert.Equal(t, p.ID, p.To)
			assert.Empty(t, p.Apart)
		}
		assert.Empty(t, adapt.Open(pairs))
		assert.Empty(t, c.Left, f)
		assert.Equal(t, js(t, without(&d.Procedure, c.Asks)), js(t, without(c.Procedure, nil)), f)
		assert.Equal(t, before, js(t, d.Procedure), "the page that is copied stays as it is")
		for _, n := range c.Taken {
			assert.Contains(t, n.Says, "was accepted")
		}
	}
}

// The same engine told by somebody else, with other ids: all is matched by its names,
// and the copy is the page with those ids.
func TestOtherIDsAreMatchedByName(t *testing.T) {
	for _, f := range files {
		d := fixture.Document(f)
		x, y := engine.NewIndex(&d.Engine), engine.NewIndex(away(&d.Engine, false))
		c, pairs := copied(t, x, y, &d.Procedure, nil)
		for _, p := range pairs {
			if p.List != "options" {
				assert.Equal(t, truth(p.Ref()), p.To, "%s: %s", f, p.Ref())
			}
			assert.Equal(t, adapt.Same, p.How)
		}
		for i := range c.Procedure.Steps {
			back := func(_, id string) string { return strings.TrimPrefix(id, "n-") }
			step.Rename(c.Procedure.Steps[i].Action, back)
			engine.Rename(&c.Procedure.Steps[i], back)
		}
		assert.Equal(t, js(t, without(&d.Procedure, c.Asks)), js(t, without(c.Procedure, nil)), f)
	}
}

// With other names too, what is proposed rests on where things sit: it is never sure,
// and never wrong.
func TestWhatIsProposedIsNeverWrong(t *testing.T) {
	proposed, all := 0, 0
	for _, f := range files {
		d := fixture.Document(f)
		x, y := engine.NewIndex(&d.Engine), engine.NewIndex(away(&d.Engine, true))
		for _, p := range adapt.Match(x, y, adapt.Things(x, &d.Procedure), nil) {
			if p.List == "options" || p.List == "fluids" || p.List == "shafts" && p.ID == "crank" {
				continue // their names are as they were
			}
			all++
			switch p.How {
			case adapt.Proposed:
				proposed++
				assert.Equal(t, truth(p.Ref()), p.To, "%s: %s, %s", f, p.Ref(), p.Why)
				assert.NotEmpty(t, p.Why)
			default:
				assert.Equal(t, adapt.Asked, p.How, "%s: %s", f, p.Ref())
				assert.Empty(t, p.To)
			}
		}
	}
	assert.Greater(t, float64(proposed)/float64(all), 0.7, "most follows from where things sit")
}

// An answer makes others follow.
func TestAnAnswerIsBuiltOn(t *testing.T) {
	d := fixture.Document(files[0])
	x, y := engine.NewIndex(&d.Engine), engine.NewIndex(away(&d.Engine, true))
	is := func(pairs []adapt.Pair, ref string) adapt.Pair {
		return pairs[slices.IndexFunc(pairs, func(p adapt.Pair) bool { return p.Ref() == ref })]
	}
	things := adapt.Things(x, &d.Procedure)
	require.Equal(t, adapt.Asked, is(adapt.Match(x, y, things, nil), "fasteners/mount-bolt").How)
	now := adapt.Match(x, y, things, map[string]string{"parts/engine-mount": "n-engine-mount"})
	assert.Equal(t, adapt.Said, is(now, "parts/engine-mount").How)
	bolt := is(now, "fasteners/mount-bolt")
	assert.Equal(t, "n-mount-bolt", bolt.To)
	assert.Contains(t, bolt.Why, "It holds the")
	none := adapt.Match(x, y, things, map[string]string{"parts/engine-mount": adapt.None})
	assert.Equal(t, adapt.None, is(none, "parts/engine-mount").To)
	assert.Equal(t, adapt.Asked, is(none, "fasteners/mount-bolt").How)
	odd := adapt.Match(x, y, things, map[string]string{"parts/engine-mount": "not-there"})
	assert.Equal(t, adapt.Asked, is(odd, "parts/engine-mount").How, "an answer the sheet does not have is none")
}

// on tells whether everything a page names is on a sheet.
func on(t require.TestingT, x *engine.Index, p *procedure.Procedure) {
	for _, th := range adapt.Things(x, p) {
		if th.List == "options" {
			require.Contains(t, x.Sheet.Options, th.ID)
			continue
		}
		require.True(t, x.Sheet.Has(th.List, th.ID), "%s is not on %s", th.Ref(), x.Sheet.Code)
	}
}

// Whatever is answered: what a copy names is on the other sheet, each step is there, in
// its order, or left out with a reason, and the copy can be proved.
func TestWhateverIsAnswered(t *testing.T) {
	sheets := make([]*fixture.File, len(files))
	for i, f := range files {
		sheets[i] = fixture.Document(f)
	}
	rapid.Check(t, func(r *rapid.T) {
		a, b := sheets[rapid.IntRange(0, len(files)-1).Draw(r, "from")], sheets[rapid.IntRange(0, len(files)-1).Draw(r, "to")]
		x, y := engine.NewIndex(&a.Engine), engine.NewIndex(&b.Engine)
		answers := map[string]string{}
		pairs := adapt.Match(x, y, adapt.Things(x, &a.Procedure), nil)
		for i := range pairs {
			p := &pairs[i]
			switch k := rapid.IntRange(0, 5).Draw(r, p.Ref()); {
			case k == 0:
				answers[p.Ref()] = adapt.None
			case k < 3 && len(p.Others) > 0:
				answers[p.Ref()] = p.Others[rapid.IntRange(0, len(p.Others)-1).Draw(r, "other")].ID
			case k == 3:
				answers[p.Ref()] = p.To
			}
		}
		c, _ := copied(r, x, y, &a.Procedure, answers)
		on(r, y, c.Procedure)
		k := 0
		for i := range a.Procedure.Steps {
			id := a.Procedure.Steps[i].ID
			if k < len(c.Procedure.Steps) && c.Procedure.Steps[k].ID == id {
				k++
				continue
			}
			left := slices.IndexFunc(c.Left, func(n adapt.Note) bool { return n.Step == id })
			require.GreaterOrEqual(r, left, 0, "step %s is neither there nor left out", id)
			require.NotEmpty(r, c.Left[left].Why)
		}
		require.Equal(r, len(c.Procedure.Steps), k)
		require.Equal(r, b.Engine.Code, c.Procedure.Engine)
		pageproof.Prove(y, c.Procedure, finding.DefaultHouse())
	})
}

// small is a page of TQ4-18P with these lines, and its index.
func small(t *testing.T, lines ...string) (*engine.Index, *procedure.Procedure) {
	t.Helper()
	d := fixture.Document(files[0])
	x := engine.NewIndex(&d.Engine)
	lex := quickline.NewLexicon(x)
	p := &procedure.Procedure{Header: procedure.Header{Title: "Small page", Engine: d.Engine.Code}}
	for i, l := range lines {
		r := quickline.Read(lex, l)
		require.Empty(t, r.Problem, l)
		p.Steps = append(p.Steps, r.Step(step.ID(fmt.Sprint("s", i+1)), "prepare"))
	}
	return x, p
}

// changed is the sheet of TQ4-18P told anew and changed.
func changed(x *engine.Index, f func(s *engine.Sheet)) *engine.Index {
	s := fixture.Copy(&fixture.File{Engine: *x.Sheet}).Engine
	s.Code = "NEW-1"
	f(&s)
	return engine.NewIndex(&s)
}

func says(notes []adapt.Note) string {
	var out []string
	for _, n := range notes {
		out = append(out, fmt.Sprintf("%s: %s %s", n.Step, n.Says, n.Why))
	}
	return strings.Join(out, "\n")
}

func stages(s string) []engine.Stage {
	v, err := engine.ParseStages(s)
	if err != nil {
		panic(err)
	}
	return v
}

func TestValuesComeFromTheOtherSheet(t *testing.T) {
	x, p := small(t, "tighten idler bolt 39 Nm", "tighten idler bolt 40 Nm", "nip up idler bolt", "set tensioner counterclockwise to pointer in notch at 20 °C", "turn crank clockwise 2 turns", "wait 15 min")
	y := changed(x, func(s *engine.Sheet) {
		s.Running = engine.Counterclockwise
		for i := range s.Fasteners {
			if s.Fasteners[i].ID == "idler-bolt" {
				s.Fasteners[i].Spec, s.Fasteners[i].Pattern = stages("30 N·m + 60°"), "crosswise"
			}
		}
		s.Tensioners[0].Turn = engine.Clockwise
	})
	c, _ := copied(t, x, y, p, nil)
	s := c.Procedure.Steps
	require.Len(t, s, 6)
	assert.Equal(t, "30 N·m + 60°", engine.StagesText(s[0].Action.(*step.Tighten).Stages))
	assert.Equal(t, "crosswise", s[0].Action.(*step.Tighten).Pattern)
	assert.Empty(t, s[1].Action.(*step.Tighten).Stages, "what was not the sheet's is not the other sheet's either")
	assert.Equal(t, engine.Clockwise, s[3].Action.(*step.Set).Way)
	assert.Equal(t, engine.Counterclockwise, s[4].Action.(*step.Turn).Way, "the engine runs the other way")
	taken, asks := says(c.Taken), says(c.Asks)
	assert.Contains(t, taken, "s1: torque: 39 N·m there, 30 N·m + 60° here")
	assert.Contains(t, taken, "s4: turned: counterclockwise there, clockwise here")
	assert.Contains(t, taken, "s5: turned: clockwise there, counterclockwise here")
	assert.Contains(t, asks, "s2: It was 40 N·m, which is not what the sheet of TQ4-18P says of it.")
	assert.Contains(t, asks, "s4: It was set to pointer in the notch")
	assert.Contains(t, asks, "s4: It was 20 °C")
	assert.Contains(t, asks, "s5: It was 2 turns")
	assert.Contains(t, asks, "s6: It was 15 min")
	assert.NotContains(t, asks, "s1:")
	assert.NotContains(t, asks, "s3:")

	bare := changed(x, func(s *engine.Sheet) {
		for i := range s.Fasteners {
			s.Fasteners[i].Spec = nil
		}
	})
	c, _ = copied(t, x, bare, p, nil)
	assert.Empty(t, c.Procedure.Steps[0].Action.(*step.Tighten).Stages)
	assert.Contains(t, says(c.Asks), "s1: It was 39 N·m. The sheet of NEW-1 gives no torque")
}

// A torque that the other sheet has by case is taken case by case.
func TestATorqueByCaseIsTakenByCase(t *testing.T) {
	x, p := small(t, "tighten idler bolt 39 Nm")
	y := changed(x, func(s *engine.Sheet) {
		s.Varies = []engine.Variation{{ID: "v1", Of: "fasteners/idler-bolt", Cases: []engine.Case{
			{When: engine.When{Years: engine.Years{To: 2021}}, Set: map[string]json.RawMessage{"spec": json.RawMessage(`[{"torque":"45 N·m"}]`)}},
			{When: engine.When{Years: engine.Years{From: 2022}}, Set: map[string]json.RawMessage{"across": json.RawMessage("15")}},
		}}}
	})
	c, _ := copied(t, x, y, p, nil)
	a := c.Procedure.Steps[0].Action.(*step.Tighten)
	assert.Empty(t, a.Stages)
	assert.Equal(t, "45 N·m up to 2021; 39 N·m from 2022", step.ByText(a.By))
}

func TestWhatIsNotThereIsLeftOut(t *testing.T) {
	x, p := small(t, "remove upper cover", "fit crank pin", "turn crank until crank mark", "tighten idler bolt and tensioner bolt 39 Nm", "check crank pin goes in by hand", "remove accessory belt")
	p.Steps[2].IfNot = true
	p.Steps[1].Again = &step.Again{From: "s1", Times: 2}
	p.Steps[5].Note = "Mind TL-101 and 5 mm of play."
	y := changed(x, func(*engine.Sheet) {})
	c, _ := copied(t, x, y, p, map[string]string{"locks/crank-pin": adapt.None, "fasteners/tensioner-bolt": adapt.None})
	assert.Equal(t, "s2: Fit the crank pin by hand (TL-101). NEW-1 does not have the crank pin.\ns3: "+en.Full(x, &p.Steps[2])+" It is for when step 2 fails, which is left out.\ns5: "+en.Full(x, &p.Steps[4])+" NEW-1 does not have the crank pin.", says(c.Left))
	asks := says(c.Asks)
	assert.Contains(t, asks, "s4: The step named the tensioner bolt as well, which NEW-1 does not have.")
	assert.Contains(t, asks, "s6: The note speaks of 5 mm: “Mind TL-101 and 5 mm of play.” Is that so", "the tool is the same there")
	c, _ = copied(t, x, y, p, map[string]string{"parts/upper-cover": adapt.None})
	require.Equal(t, step.ID("s2"), c.Procedure.Steps[0].ID)
	assert.Equal(t, &step.Again{Times: 2}, c.Procedure.Steps[0].Again)
	assert.Contains(t, says(c.Asks), "s2: When it failed, one went on from a step that is left out.")
}

// A step that names beside its work what the other engine does not have is kept, and
// asked about.
func TestWhatIsNamedBesideMayBeMissing(t *testing.T) {
	x, p := small(t, "tighten exhaust sprocket bolt 60 Nm + 90 deg hold with sprocket holder", "turn crank 2 turns on crank bolt")
	y := changed(x, func(*engine.Sheet) {})
	c, _ := copied(t, x, y, p, map[string]string{"locks/sprocket-holder": adapt.None, "fasteners/crank-bolt": adapt.None})
	require.Len(t, c.Procedure.Steps, 2)
	assert.Empty(t, c.Left)
	assert.Contains(t, says(c.Asks), "s1: The step named the sprocket holder as well")
	assert.Contains(t, says(c.Asks), "s2: The step named the crank bolt as well")
}

// What a page names that its own sheet does not have is asked for like anything else,
// and a page without steps is copied as one.
func TestWhatItsOwnSheetDoesNotHave(t *testing.T) {
	x, p := small(t, "remove upper cover", "fit crank pin")
	p.Steps[0].Action = &step.Remove{Parts: []engine.PartID{"no-such-part"}}
	p.Prelims.Tools = []engine.ToolID{"no-such-tool"}
	y := changed(x, func(*engine.Sheet) {})
	c, pairs := copied(t, x, y, p, nil)
	assert.Equal(t, []string{"no-such-part", "no-such-tool"}, adapt.Open(pairs))
	require.Len(t, c.Procedure.Steps, 1)
	assert.Contains(t, says(c.Left), "NEW-1 does not have the no-such-part.")
	assert.Contains(t, says(c.Asks), "The page named the no-such-tool above its steps")
	c, _ = copied(t, x, y, p, map[string]string{"parts/no-such-part": "upper-cover"})
	assert.Len(t, c.Procedure.Steps, 2)

	empty := &procedure.Procedure{Header: procedure.Header{Title: "Empty", Engine: "TQ4-18P"}}
	c, pairs = copied(t, x, y, empty, nil)
	assert.Empty(t, pairs)
	assert.Empty(t, c.Asks)
	assert.Equal(t, "NEW-1", c.Procedure.Engine)
}

// Two things that become one are named once.
func TestTwoThingsThatBecomeOne(t *testing.T) {
	x, p := small(t, "tighten inlet sprocket bolt and exhaust sprocket bolt 60 Nm + 90 deg", "fit crank pin and cam bar")
	y := changed(x, func(*engine.Sheet) {})
	c, _ := copied(t, x, y, p, map[string]string{"fasteners/inlet-sprocket-bolt": "exhaust-sprocket-bolt", "locks/crank-pin": "cam-bar"})
	assert.Equal(t, []engine.FastenerID{"exhaust-sprocket-bolt"}, c.Procedure.Steps[0].Action.(*step.Tighten).Fasteners)
	assert.Equal(t, []engine.LockID{"cam-bar"}, c.Procedure.Steps[1].Action.(*step.Lock).All())
}

// Words are asked about where they speak of the first engine, and only there.
func TestWordsThatSpeakOfTheFirstEngine(t *testing.T) {
	x, p := small(t, "remove accessory belt", "remove upper cover", "wait 5 min", "disconnect battery lead")
	p.Steps[0].Note = "Mark the way it ran."
	p.Steps[1].Cautions = []step.Caution{{Text: "On a TQ4-18P the cover is brittle."}}
	p.Steps[2].Wording = "Let it stand."
	p.Steps[3].Cautions = []step.Caution{step.CautionFor(engine.HazardBattery)}
	p.Purpose = "The upper cover hides TL-101."
	p.Prelims.Conditions, p.Prelims.Supplies = []string{"Spark plugs out"}, []string{"Coolant"}
	p.Applies.Note = "Seen clockwise."
	y := changed(x, func(s *engine.Sheet) {
		s.Running = engine.Counterclockwise
		for i := range s.Tools {
			s.Tools[i].Number = strings.Replace(s.Tools[i].Number, "TL-", "TL-9", 1)
		}
	})
	c, _ := copied(t, x, y, p, nil)
	asks := says(c.Asks)
	assert.NotContains(t, asks, "s1:")
	assert.Contains(t, asks, "s2: The caution speaks of TQ4-18P: “On a TQ4-18P the cover is brittle.” Is that so on NEW-1?")
	assert.Contains(t, asks, "s3: The step is worded by hand")
	assert.NotContains(t, asks, "s4:", "a caution of the house is of no engine")
	assert.Contains(t, asks, "Conditions and supplies were those of TQ4-18P: Spark plugs out; Coolant. Are they so on NEW-1?")
	assert.Contains(t, asks, "speaks of clockwise: “Seen clockwise.”", "the engine runs the other way")
	assert.Contains(t, asks, ": The purpose speaks of TL-101: “The")
}

func TestOptionsAreMatchedByName(t *testing.T) {
	x, p := small(t, "remove upper cover", "remove lower cover", "remove accessory belt")
	p.Steps[0].When.With = []string{"cold pack"}
	p.Steps[1].When.Without = []string{"cold pack"}
	p.Steps[2].When.Years = engine.Years{From: 2020}
	c, pairs := copied(t, x, changed(x, func(s *engine.Sheet) { s.Options = nil }), p, map[string]string{"options/cold pack": adapt.None})
	assert.Contains(t, js(t, pairs), "cold pack")
	assert.Contains(t, says(c.Left), "s1: "+en.Full(x, &p.Steps[0])+" It is for engines with cold pack, and NEW-1 does not have that.")
	assert.Empty(t, c.Procedure.Steps[0].When.Without, "all engines there are without it")
	assert.Contains(t, says(c.Asks), "s3: The step is for some engines of TQ4-18P only: from 2020.")
	c, _ = copied(t, x, changed(x, func(s *engine.Sheet) { s.Options = []string{"cold pack"} }), p, nil)
	assert.Empty(t, c.Left)
	assert.Equal(t, []string{"cold pack"}, c.Procedure.Steps[0].When.With)
}

// The tools a page lists are those its steps need on the other engine.
func TestToolsFollowTheSteps(t *testing.T) {
	x, p := small(t, "fit crank pin")
	p.Prelims.Tools = []engine.ToolID{"tl-101", "tl-118"}
	y := changed(x, func(s *engine.Sheet) {
		for i := range s.Tools {
			s.Tools[i].ID, s.Tools[i].Number = "n-"+s.Tools[i].ID, "N"+s.Tools[i].Number
		}
		for i := range s.Locks {
			if s.Locks[i].Tool != "" {
				s.Locks[i].Tool = "n-" + s.Locks[i].Tool
			}
		}
	})
	c, pairs := copied(t, x, y, p, nil)
	assert.Equal(t, []string{"TL-118 engine support bar"}, adapt.Open(pairs), "the pin's follows from its step")
	assert.Equal(t, []engine.ToolID{"n-tl-101"}, c.Procedure.Prelims.Tools)
	assert.Contains(t, says(c.Asks), "The page named the TL-118 engine support bar above its steps")
}

// Copies between the codes of the demo: what is the same by name is the same, what
// differs is said.
func TestAcrossCodes(t *testing.T) {
	a, b := fixture.Document(files[0]), fixture.Document("renew-belt-both-banks-r1.latch.json")
	x, y := engine.NewIndex(&a.Engine), engine.NewIndex(&b.Engine)
	pairs := map[string]adapt.Pair{}
	for _, p := range adapt.Match(x, y, adapt.Things(x, &a.Procedure), nil) {
		pairs[p.Ref()] = p
	}
	for _, c := range []struct {
		ref string
		how adapt.How
		to  string
		why string
	}{
		{"parts/battery-lead", adapt.Same, "battery lead", "The same name and kind."},
		{"locks/crank-pin", adapt.Proposed, "crank pin", "The same name, but another kind."}, // a stop there, a pin here
		{"parts/block-plug", adapt.Proposed, "bell housing plug", "It gives access to the crank pin, as there."},
		{"parts/engine-mount", adapt.Asked, "", ""},
		{"tensioners/tensioner", adapt.Proposed, "tensioner", "The same name, but another kind."},
	} {
		p, ok := pairs[c.ref]
		require.True(t, ok, c.ref)
		assert.Equal(t, []any{c.how, c.to, c.why}, []any{p.How, p.Becomes, p.Why}, c.ref)
		assert.NotEmpty(t, p.Others)
	}
	assert.Contains(t, pairs["fasteners/crank-bolt"].Apart, "torque: 120 N·m + 90 ±5° there, 100 N·m + 150 ±5° here")
}

func BenchmarkMatch(b *testing.B) {
	a, o := fixture.Document(files[0]), fixture.Document("renew-belt-both-banks-r1.latch.json")
	x, y := engine.NewIndex(&a.Engine), engine.NewIndex(&o.Engine)
	things := adapt.Things(x, &a.Procedure)
	for b.Loop() {
		adapt.Match(x, y, things, nil)
	}
}
