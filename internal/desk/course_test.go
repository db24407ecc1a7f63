package desk_test

import (
	"encoding/json"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"inklatch/internal/core/bolt"
	"inklatch/internal/core/engine"
	"inklatch/internal/core/page/step"
	"inklatch/internal/core/unit"
	"inklatch/internal/desk"
)

// crankBolt is that of the demo’s TQ4-18P.
func crankBolt(spec string) desk.CourseAsk {
	return desk.CourseAsk{Fastener: engine.Fastener{ID: "b", Name: "crank bolt", Count: 1, Thread: "M14×1.5", Class: "10.9", Lubricant: "oiled", SingleUse: true, Grip: 52, Plain: 24, Engaged: 24, Clamped: bolt.Steel, Into: bolt.Steel}, Spec: spec}
}

func course(t *testing.T, a desk.CourseAsk) *desk.CourseAnswer {
	t.Helper()
	c, err := desk.CourseOf(a)
	require.NoError(t, err)
	return c
}

func TestCourseOf(t *testing.T) {
	c := course(t, crankBolt("120 Nm + 90 ±5°"))
	assert.Equal(t, "120 N·m + 90 ±5°", c.Spec)
	assert.Equal(t, bolt.HasYielded, c.Reuse)
	assert.Contains(t, c.Title, "used once")
	assert.InDelta(t, 90, c.Turned, 1e-9)
	assert.Equal(t, []string{"120 N·m = 88.5 lbf·ft"}, c.Units, "NIST SP 811: 1 lbf·ft is 1.355818 N·m; 88.51, as it is set")
	var says []string
	for _, o := range c.Otherwise {
		says = append(says, o.Says)
	}
	assert.Equal(t, []string{"the angle left out", "the angle gone through twice", "90 N·m in place of 90 ±5°", "120 lbf·ft in place of N·m", "120 lbf·in in place of N·m"}, says)
	assert.Equal(t, c.Seated, c.Otherwise[0].Final, "left out, it stays at the torque")
	assert.Less(t, c.Otherwise[4].Seated.High, c.Seated.Low)

	// Nothing that is not known is worked out, and what is missing is said.
	a := crankBolt("")
	a.Fastener.Spec = []engine.Stage{{Torque: unit.Of(60, unit.NewtonMetre)}, {Angle: unit.Of(90, unit.Degree)}}
	a.Fastener.Grip = 0
	c = course(t, a)
	assert.Empty(t, c.Reuse)
	assert.Contains(t, strings.Join(c.Notes, " "), "clamped length is missing")
	assert.Positive(t, c.Final.High, "up to the torque it is known")
	a.Spec = "90°"
	assert.Empty(t, course(t, a).Points)
	for trouble, change := range map[string]func(*desk.CourseAsk){
		"tightened to nothing": func(a *desk.CourseAsk) { a.Spec, a.Fastener.Spec = "", nil },
		"thread is not said":   func(a *desk.CourseAsk) { a.Fastener.Thread = "" },
		"not read as a thread": func(a *desk.CourseAsk) { a.Fastener.Thread = "M14×9" },
	} {
		a := crankBolt("60 Nm")
		change(&a)
		assert.Contains(t, course(t, a).Trouble, trouble)
	}
	for field, a := range map[string]desk.CourseAsk{"spec": crankBolt("a lot"), "grip": crankBolt("60 Nm")} {
		if field == "grip" {
			a.Fastener.Grip = -3
		}
		_, err := desk.CourseOf(a)
		var p *desk.Problem
		if assert.ErrorAs(t, err, &p, field) {
			assert.Equal(t, field, p.Field)
		}
	}
	_, err := desk.CourseOf(crankBolt(strings.Repeat("5 Nm + ", 40) + "90°"))
	assert.Error(t, err)
}

// A slip of the unit or the mark is offered as it would be typed; a wrench that does not reach
// says why; a torque passed on by friction is said where the sheet has the ring.
func TestCourseSaysWhatIsWrong(t *testing.T) {
	a := crankBolt("1200 Nm")
	a.Fastener.Lubricant = "dry"
	a.Tools = []engine.Tool{
		{Number: "TL-9", Name: "small", Least: unit.Of(5, unit.NewtonMetre), Most: unit.Of(25, unit.NewtonMetre)},
		{Number: "TL-8", Name: "pin"}, {Number: "TL-7", Name: "large", Most: unit.Of(400, unit.NewtonMetre)},
	}
	c := course(t, a)
	assert.Equal(t, bolt.BreaksIt, c.Verdict)
	assert.Contains(t, c.Meant, "120 N·m")
	assert.Len(t, c.Wrench, 2, "a pin is no wrench")
	assert.Contains(t, c.Wrench[0].Why, "25 N·m")
	a.Spec, a.Fastener.Ring = "120 N·m", 22
	c = course(t, a)
	assert.Equal(t, "TL-7", c.Wrench[0].Tool, "what does it comes first")
	assert.Empty(t, c.Wrench[0].Why)
	assert.Contains(t, strings.Join(c.Notes, " "), "passes on")
	a.Fastener.Engaged, a.Fastener.Into = 9, bolt.Magnesium
	assert.Contains(t, strings.Join(course(t, a).Notes, " "), "torn out")
}

// A tightening step is worked out as it is typed, from the sheet where it says nothing; who
// may not read the page is told nothing of its bolts.
func TestBoltsOfAStep(t *testing.T) {
	h := open(t)
	ines := h.user("ines")
	of := func(a step.Action) []desk.StepBolt {
		out, err := h.d.Drafts.Bolts(t.Context(), ines, draft, &step.Step{ID: "s", Phase: "close", Action: a})
		require.NoError(t, err)
		return out
	}
	out := of(&step.Tighten{Fasteners: []engine.FastenerID{"crank-bolt"}})
	require.Len(t, out, 1)
	assert.Equal(t, "120 N·m + 90 ±5°", out[0].Course.Spec)
	assert.True(t, out[0].Unheld)
	out = of(&step.Tighten{Fasteners: []engine.FastenerID{"crank-bolt", "idler-bolt", "no-such"}, Hold: "flywheel-lock", Stages: []engine.Stage{{Torque: unit.Of(39, unit.NewtonMetre)}}})
	require.Len(t, out, 2)
	assert.Equal(t, "flywheel lock", out[0].Held)
	assert.Equal(t, "39 N·m", out[1].Course.Spec)
	assert.Equal(t, "TL-140", out[1].Course.Wrench[0].Tool)
	assert.Empty(t, of(&step.Tighten{Fasteners: []engine.FastenerID{"crank-bolt"}, To: step.ToFinger}))
	assert.Empty(t, of(&step.Wait{}))
	read, err := h.d.Drafts.Read(t.Context(), ines, draft, "tighten idler bolt 390 Nm\ntighten idler bolt 39 Nm\nwait 5 min", "")
	require.NoError(t, err)
	assert.Equal(t, "The bolt breaks · 39 N·m meant? · TL-140 torque wrench, with the TL-150 torque multiplier", read[0].Bolt)
	assert.True(t, read[0].BadBolt)
	assert.Contains(t, read[1].Bolt, "TL-140")
	assert.Empty(t, read[2].Bolt)
}

func BenchmarkCourseOf(b *testing.B) {
	a := crankBolt("120 N·m + 90 ±5°")
	for b.Loop() {
		_, _ = desk.CourseOf(a)
	}
}

// Whatever is typed for a bolt gets an answer or a sentence, and every figure of an answer is
// one.
func TestAnyBoltHasAnAnswer(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		mm := rapid.OneOf(rapid.Just(0.0), rapid.Float64Range(0, 10_000), rapid.Float64Range(0, 1e-6))
		value := rapid.SampledFrom([]string{"0 N·m", "0.001 N·m", "60 N·m", "60 ±60 N·m", "9999 N·m", "1e9 Nm", "60–20 N·m", "90°", "0°", "90 ±180°", "100000°", "−5 N·m", "12 lbf·in", "5 mm"})
		spec := value.Draw(t, "first")
		for range rapid.IntRange(0, 4).Draw(t, "more") {
			spec += " + " + value.Draw(t, "next")
		}
		a := desk.CourseAsk{Spec: spec, Fastener: engine.Fastener{
			ID: "b", Name: "bolt", Count: rapid.IntRange(0, 20).Draw(t, "count"), Thread: rapid.SampledFrom([]string{"", "M2", "M6", "M14×1.5", "M24", "1/2-20", "G1/4", "M10 LH", "M0", "M99999"}).Draw(t, "thread"),
			Class: rapid.SampledFrom([]string{"", "8.8", "12.9", "A2-70", "99"}).Draw(t, "class"), Lubricant: rapid.SampledFrom([]string{"", "dry", "greased", "with love"}).Draw(t, "lubricant"),
			Grip: mm.Draw(t, "grip"), Plain: mm.Draw(t, "plain"), Engaged: mm.Draw(t, "engaged"), Ring: mm.Draw(t, "ring"), Across: mm.Draw(t, "across"),
			Clamped: rapid.SampledFrom([]bolt.Material{"", bolt.Steel, bolt.Magnesium, "cheese"}).Draw(t, "clamped"), Into: rapid.SampledFrom([]bolt.Material{"", bolt.Aluminium, "cheese"}).Draw(t, "into"),
		}, Tools: []engine.Tool{{Number: "a", Most: unit.Of(140, unit.NewtonMetre)}, {Number: "b", Reach: 45}, {Number: "c", Ratio: 5}, {Number: "d", Most: unit.Of(25, unit.NewtonMetre), Lever: mm.Draw(t, "lever")}}}
		c, err := desk.CourseOf(a)
		if err != nil {
			var p *desk.Problem
			require.ErrorAs(t, err, &p)
			assert.NotEmpty(t, p.Title)
			return
		}
		_, err = json.Marshal(c)
		require.NoError(t, err, "%s: a figure is none", spec)
		assert.True(t, c.Trouble != "" || c.Title != "", spec)
	})
}
