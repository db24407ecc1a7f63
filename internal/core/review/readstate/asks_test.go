package readstate_test

import (
	"testing"
	"time"

	"github.com/stretchr/testify/assert"

	"inklatch/internal/core/engine"
	"inklatch/internal/core/fixture"
	"inklatch/internal/core/page/quickline"
	"inklatch/internal/core/page/step"
	"inklatch/internal/core/review/readstate"
)

// What asks for a word of its reader's, and what stands in view for as long as its words
// take.
func TestWhatAStepAsks(t *testing.T) {
	d := fixture.Document("renew-timing-belt-r4.latch.json")
	x := engine.NewIndex(&d.Engine)
	lex := quickline.NewLexicon(x)
	of := func(line string, also func(*step.Step), changed bool, pace int) readstate.Asks {
		s := &step.Step{ID: "s", Action: quickline.Read(lex, line).Action}
		if also != nil {
			also(s)
		}
		return readstate.AsksOf(x, s, changed, pace)
	}
	for _, c := range []struct {
		line    string
		also    func(*step.Step)
		changed bool
		own     string
	}{
		{line: "remove upper timing cover"},
		{line: "fit crank pin"},
		{line: "remove upper timing cover", changed: true, own: "it has changed"},
		{line: "tighten idler bolt to 39 N·m", own: "it has a value"},
		{line: "turn crank 2 turns clockwise", own: "it has a value"},
		{line: "remove upper timing cover", also: func(s *step.Step) { s.Note = "It weighs 4 kg." }, own: "it has a value"},
		{line: "remove upper timing cover", also: func(s *step.Step) { s.Note = "TL-101 stays where it is." }},
		{line: "remove upper timing cover", also: func(s *step.Step) { s.Note = "Then turn the crank a little." }, own: "its note gives an instruction"},
		{line: "remove upper timing cover", also: func(s *step.Step) { s.Cautions = []step.Caution{{Text: "Mind the edge."}} }, own: "it has a caution"},
		{line: "remove upper timing cover", also: func(s *step.Step) { s.Wording = "Lift the upper timing cover off." }, own: "it is in its author’s own words"},
		{line: "hum a tune over it", own: "it is free text"},
	} {
		a := of(c.line, c.also, c.changed, 150)
		assert.Equal(t, c.own, a.Own, c.line)
		assert.Equal(t, c.own != "", a.For == 0, "%s: either a word or a time", c.line)
	}
	long := func(s *step.Step) {
		s.Note = "Look behind the bracket before the cover goes back, for a clip that fell is found by the belt and by nobody else"
	}
	slow, quick := of("remove upper timing cover", long, false, 100), of("remove upper timing cover", long, false, 200)
	assert.Equal(t, slow.For, 2*quick.For, "half the pace takes twice the time")
	assert.Greater(t, slow.For, 10*time.Second)
	assert.Equal(t, 1500*time.Millisecond, of("remove upper timing cover", nil, false, 10_000).For, "nothing is read in no time")
	assert.Positive(t, of("remove upper timing cover", nil, false, 0).For)
}
