package pageproof_test

import (
	"encoding/json"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"inklatch/internal/core/engine"
	"inklatch/internal/core/fixture"
	"inklatch/internal/core/page/procedure"
	"inklatch/internal/core/page/quickline"
	"inklatch/internal/core/page/step"
	"inklatch/internal/core/proof/finding"
	"inklatch/internal/core/proof/pageproof"
)

// ifNot puts lines behind the step that begins so, for when it fails.
func (b *bench) ifNot(begins string, lines ...string) {
	after := b.p.Steps[b.at(begins)].ID
	for _, line := range lines {
		r := quickline.Read(b.lex, "if not, "+line)
		require.Empty(b.t, r.Problem, line)
		s := r.Step(step.ID("if"+string(after)+string(rune('a'+len(b.p.Steps)%26))), "prove")
		for _, h := range s.Hazards(b.x) {
			s.Cautions = append(s.Cautions, step.CautionFor(h))
		}
		p, _, err := procedure.Apply(b.p, []procedure.Edit{{Op: procedure.Insert, After: after, Step: &s}})
		require.NoError(b.t, err)
		b.p, after = p, s.ID
	}
}

// v6 is the page of engine.md §7: it turns to the left cam mark alone, which the
// pump meets from one position of three.
func v6(t *testing.T) *bench {
	b := clean(t)
	b.open("renew-belt-both-banks-r1.latch.json")
	b.takeOut("Check that pump mark")
	return b
}

// What is done when a look fails makes a page come out from every position, where
// it is done as often as it takes.
func TestIfNotMeetsEveryPosition(t *testing.T) {
	b := v6(t)
	require.NotNil(t, has(b.prove(), "start-position"))
	b.before("Fit crank pin", "check that the pump mark stands")
	b.ifNot("Check that pump mark", "turn the crank 2 turns clockwise and try again")
	f := has(b.prove(), "start-position")
	require.NotNil(t, f, "once more is not enough: the pump is home every third turn of the cams")
	assert.Equal(t, 2, len(f.Starts), f.Starts)
	b.p.Steps[b.at("Check that pump mark")].Again = &step.Again{Times: 2}
	assert.Empty(t, b.prove())
}

// The same mend is offered, tried, where a lock that fails has nothing in the way
// of turning on.
func TestIfNotIsOfferedWhereItSettles(t *testing.T) {
	b := v6(t)
	b.before("Fit crank pin", "check that the pump mark stands")
	f := has(b.prove(), "start-position")
	require.NotNil(t, f)
	var labels []string
	for _, m := range f.Mends {
		labels = append(labels, m.Label)
		if !strings.HasPrefix(m.Label, "If not") {
			continue
		}
		p, _, err := procedure.Apply(b.p, m.Edits)
		require.NoError(t, err)
		assert.Nil(t, has(pageproof.Prove(b.x, p, finding.DefaultHouse()), "start-position"), m.Label)
	}
	assert.Contains(t, strings.Join(labels, "; "), "If not, 2 turns more and again")
}

// Each way through a failing step is proved to its end.
func TestAWayIsProvedToItsEnd(t *testing.T) {
	slacken, bar := "slacken the exhaust sprocket bolt, hold with the sprocket holder", "fit the cam bar"
	tighten := "tighten the exhaust sprocket bolt to 60 Nm + 90 ±5 deg, hold with the sprocket holder"
	for _, tc := range []struct {
		name, from string
		lines      []string
		want       string
	}{
		{"as it should be", "Take out crank pin and cam bar", []string{slacken, bar, tighten}, ""},
		{"never tightened", "Take out crank pin and cam bar", []string{slacken, bar}, "exhaust sprocket bolt"},
		{"held by nothing", "Take out crank pin and cam bar", []string{"slacken the exhaust sprocket bolt", bar, tighten}, "nothing holding"},
		{"another torque", "Take out crank pin and cam bar", []string{slacken, bar, "tighten the exhaust sprocket bolt to 50 Nm + 90 ±5 deg, hold with the sprocket holder"}, "50 N·m"},
		{"clamped with the cam loose", "Take out crank pin and cam bar", []string{slacken, tighten}, "not locked"},
		{"clamped where it stood", "Take out crank pin and cam bar", []string{slacken, tighten}, "does not bring the inlet cam and exhaust cam right"},
		{"not turned again", "", []string{slacken, bar, tighten, "take out the cam bar"}, "after the last turns"},
		{"the bar left in", "Turn crank clockwise and stop just short", []string{slacken, bar, tighten, "take out the crank pin"}, "cam bar"},
	} {
		b := clean(t)
		b.ifNot("Check that cam bar", tc.lines...)
		again := b.p.Steps[b.at("Check that cam bar")].Again
		require.NotNil(t, again, "it is tried again where nothing else is said")
		if tc.from != "" {
			again.From = b.p.Steps[b.last(tc.from)].ID
		}
		var said []string
		for _, f := range b.prove() {
			assert.Regexp(t, "^If step .* fails: |^What is done when step .* fails does not bring ", f.What, "%s: the page as it should go is clean", tc.name)
			said = append(said, f.What)
		}
		if tc.want == "" {
			assert.Empty(t, said, tc.name)
			continue
		}
		assert.Contains(t, strings.Join(said, "; "), tc.want, tc.name)
	}
}

// A page that is written for two kinds of engine is proved on each, and the same
// finding is not said twice.
func TestStepsByCaseAreProvedOnEach(t *testing.T) {
	early, late := engine.When{Years: engine.Years{To: 2022}}, engine.When{Years: engine.Years{From: 2023}}
	b := clean(t)
	i := b.at("Tighten idler bolt")
	two := b.p.Steps[i]
	two.ID, two.When = "other", late
	b.p.Steps[i].When = early
	b.p.Steps = append(b.p.Steps[:i+1], append([]step.Step{two}, b.p.Steps[i+1:]...)...)
	assert.Empty(t, b.prove(), "each engine has the bolt tightened once")

	// What is taken off on some engines goes back on those.
	k := b.at("Refit upper timing cover")
	b.p.Steps[k].When = early
	f0 := has(b.prove(), "case")
	require.NotNil(t, f0, "%v", rules(b.prove()))
	assert.Contains(t, f0.What, "2023–2024")
	b.p.Steps[k].When = engine.When{}

	b.p.Steps[i+1].Action = quickline.Read(b.lex, "tighten idler bolt 24 Nm").Action
	fs := b.prove()
	f := has(fs, "case")
	require.NotNil(t, f, "%v", rules(fs))
	assert.Contains(t, f.What, "2023–2024")
	assert.Equal(t, []step.ID{"other"}, f.Steps)

	b.p.Steps = append(b.p.Steps[:i+1], b.p.Steps[i+2:]...)
	fs = b.prove()
	require.NotNil(t, has(fs, "case"), "later engines have the bolt left as it is: %v", rules(fs))
}

// Values by case are held against the sheet's, each on the engines it is for.
func TestValuesByCase(t *testing.T) {
	b := clean(t)
	b.x.Sheet.Varies = []engine.Variation{{ID: "idler", Of: "fasteners/idler-bolt", Cases: []engine.Case{
		{When: engine.When{Years: engine.Years{To: 2022}}, Set: torqueOf("40 N·m")},
		{When: engine.When{Years: engine.Years{From: 2023}}, Set: torqueOf("45 N·m")},
	}}}
	b.x = engine.NewIndex(b.x.Sheet)
	b.become("Tighten idler bolt", "tighten idler bolt to 40 Nm up to 2022, 45 Nm from 2023")
	assert.Empty(t, b.prove())
	b.become("Tighten idler bolt", "tighten idler bolt to 45 Nm up to 2022, 40 Nm from 2023")
	if f := has(b.prove(), "case"); assert.NotNil(t, f) {
		assert.Equal(t, f.What, f.Message.What.String())
	}
	b.become("Tighten idler bolt", "tighten idler bolt to 40 Nm up to 2021, 45 Nm from 2023")
	assert.NotNil(t, has(b.prove(), "for-no-engine"), "2022 has no value")
	b.become("Tighten idler bolt", "tighten idler bolt to 40 Nm")
	f := has(b.prove(), "case")
	require.NotNil(t, f)
	require.NotEmpty(t, f.Mends, "the sheet has a value for each case")
	p, _, err := procedure.Apply(b.p, f.Mends[0].Edits)
	require.NoError(t, err)
	assert.Empty(t, pageproof.Prove(b.x, p, finding.DefaultHouse()))
}

// A page with ways and cases is read back as it was written.
func TestWaysAndCasesAreKept(t *testing.T) {
	b := clean(t)
	b.ifNot("Check that cam bar", "turn the crank 2 turns clockwise")
	b.p.Steps[3].When = engine.When{Years: engine.Years{From: 2020}, Without: []string{"cold pack"}}
	raw, err := json.Marshal(b.p)
	require.NoError(t, err)
	var again procedure.Procedure
	require.NoError(t, json.Unmarshal(raw, &again))
	assert.Equal(t, b.p, &again)
}

// BenchmarkProve200Ways is BenchmarkProve200 with a way for when a look fails and a
// step for later engines only.
func BenchmarkProve200Ways(b *testing.B) {
	d := twoHundred(b)
	x := engine.NewIndex(&d.Engine)
	p := &d.Procedure
	p.Steps[5].When = engine.When{Years: engine.Years{From: 2022}}
	for i := range p.Steps {
		if p.Steps[i].CanFail() && i+1 < len(p.Steps) {
			p.Steps[i].Again = &step.Again{Times: 1}
			p.Steps[i+1].IfNot = true
			break
		}
	}
	for b.Loop() {
		pageproof.Prove(x, p, finding.DefaultHouse())
	}
}

// BenchmarkProveClean is a clean page with a way for when a step fails, and one for
// two kinds of engine: what an author waits for at every key.
func BenchmarkProveClean(b *testing.B) {
	for _, name := range []string{"renew-belt-both-banks-r1.latch.json", "renew-belt-in-oil-r1.latch.json", "renew-belts-at-rest-r1.latch.json"} {
		d := fixture.Document(name)
		x := engine.NewIndex(&d.Engine)
		b.Run(d.Engine.Code, func(b *testing.B) {
			for b.Loop() {
				pageproof.Prove(x, &d.Procedure, finding.DefaultHouse())
			}
		})
	}
}
