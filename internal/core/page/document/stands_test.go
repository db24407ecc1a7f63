package document_test

import (
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"inklatch/internal/core/engine"
	"inklatch/internal/core/fixture"
	"inklatch/internal/core/page/document"
	"inklatch/internal/core/page/lang/en"
	"inklatch/internal/core/page/step"
	"inklatch/internal/core/unit"
)

// sheetOf is the engine sheet of a page of the demo, changed.
func sheetOf(name string, change func(*engine.Sheet)) *engine.Index {
	s := fixture.Copy(fixture.Document(name)).Engine
	change(&s)
	return engine.NewIndex(&s)
}

// Each value of a sheet that a page prints changes the line it is printed in, at the
// steps that print it and at no other.
func TestWhatASheetPutsOnThePage(t *testing.T) {
	const belt = "renew-timing-belt-r3.latch.json"
	fastener := func(s *engine.Sheet) *engine.Fastener {
		return &s.Fasteners[slices.IndexFunc(s.Fasteners, func(f engine.Fastener) bool { return f.ID == "crank-bolt" })]
	}
	pin := func(s *engine.Sheet) *engine.Lock {
		return &s.Locks[slices.IndexFunc(s.Locks, func(l engine.Lock) bool { return l.ID == "crank-pin" })]
	}
	toolOf := func(s *engine.Sheet) *engine.Tool {
		return &s.Tools[slices.IndexFunc(s.Tools, func(v engine.Tool) bool { return v.ID == pin(s).Tool })]
	}
	was := sheetOf(belt, func(*engine.Sheet) {})
	doc := fixture.Document(belt)
	for name, c := range map[string]struct {
		change func(*engine.Sheet)
		verb   step.Verb
		thing  string
		lines  []string
	}{
		"lubricant":    {func(s *engine.Sheet) { fastener(s).Lubricant = "dry" }, "tighten", "crank bolt", []string{document.InCondition, document.InTorque}},
		"left-hand":    {func(s *engine.Sheet) { fastener(s).LeftHand = true }, "tighten", "crank bolt", []string{document.InCondition, document.InTorque}},
		"thread":       {func(s *engine.Sheet) { fastener(s).Thread = "M16×1.5" }, "tighten", "crank bolt", []string{document.InTorque}},
		"used again":   {func(s *engine.Sheet) { fastener(s).SingleUse = false }, "tighten", "crank bolt", nil},
		"its name":     {func(s *engine.Sheet) { fastener(s).Name = "centre bolt" }, "tighten", "crank bolt", []string{document.InSentence, document.InTorque}},
		"its strength": {func(s *engine.Sheet) { fastener(s).Class = "8.8" }, "tighten", "crank bolt", nil},
		"tool number":  {func(s *engine.Sheet) { toolOf(s).Number = "TL-900" }, "lock", "crank pin", []string{document.InSentence, document.InTools}},
		"kit":          {func(s *engine.Sheet) { toolOf(s).Kit = "K-77" }, "lock", "crank pin", []string{document.InTools}},
		"play":         {func(s *engine.Sheet) { pin(s).Play = 0.9 }, "lock", "crank pin", nil},
		"its length":   {func(s *engine.Sheet) { pin(s).Radius = unit.Of(99, unit.Millimetre).Value }, "lock", "crank pin", nil},
	} {
		now := sheetOf(belt, c.change)
		at := false
		for i := range doc.Procedure.Steps {
			s := &doc.Procedure.Steps[i]
			var differ []string
			a, b := document.Stands(was, s), document.Stands(now, s)
			require.Len(t, b, len(a), "a line for each thing, on every sheet")
			for k := range a {
				if assert.Equal(t, a[k].What, b[k].What); a[k].Text != b[k].Text {
					differ = append(differ, a[k].What)
				}
			}
			assert.Equal(t, len(differ) == 0, document.StandsAlike(was, now, s))
			said := strings.ToLower(en.Sentence(was, s.Action))
			if !strings.Contains(said, c.thing) {
				if len(c.lines) > 0 && !slices.Contains(differ, document.InTools) && !slices.Contains(differ, document.InParts) {
					assert.Empty(t, differ, "%s: step %d says nothing of it: %s", name, i+1, said)
				}
				continue
			}
			if s.Action.Verb() != c.verb {
				continue
			}
			at = true
			for _, l := range c.lines {
				assert.Contains(t, differ, l, "%s: step %d", name, i+1)
			}
			if len(c.lines) == 0 {
				assert.NotContains(t, differ, document.InSentence, "%s: step %d", name, i+1)
				assert.NotContains(t, differ, document.InTorque, "%s: step %d", name, i+1)
			}
		}
		assert.True(t, at, "%s: a step of the page prints it", name)
	}
}

// A page stands alike on its own sheet, on a copy of it and whatever nobody prints.
func TestAPageStandsAlikeOnItsOwnSheet(t *testing.T) {
	for _, f := range fixture.Documents() {
		d := fixture.Document(f)
		x := engine.NewIndex(&d.Engine)
		same := sheetOf(f, func(s *engine.Sheet) {
			s.Use += ", and elsewhere"
			for i := range s.Wheels {
				s.Wheels[i].X += 0.25
			}
		})
		for i := range d.Procedure.Steps {
			s := &d.Procedure.Steps[i]
			assert.True(t, document.StandsAlike(x, x, s))
			assert.True(t, document.StandsAlike(x, same, s), "%s: step %d: %v, %v", f, i+1, document.Stands(x, s), document.Stands(same, s))
			seen := map[string]bool{}
			for _, l := range document.Stands(x, s) {
				assert.False(t, seen[l.What], "%s stands once", l.What)
				seen[l.What] = true
				assert.Equal(t, strings.TrimSpace(l.Text), l.Text)
			}
		}
	}
}
