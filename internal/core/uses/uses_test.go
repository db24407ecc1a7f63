package uses_test

import (
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"inklatch/internal/core/engine"
	"inklatch/internal/core/fixture"
	"inklatch/internal/core/step"
	"inklatch/internal/core/uses"
)

func has(us []uses.Use, k uses.Kind, term string, id step.ID) bool {
	return slices.ContainsFunc(us, func(u uses.Use) bool { return u.Kind == k && u.Term == term && u.Step == id })
}

func TestWhatAPageUses(t *testing.T) {
	d := fixture.Document("renew-timing-belt-r3.latch.json")
	us := uses.OfPage(engine.NewIndex(&d.Engine), &d.Procedure)
	for _, c := range []struct {
		kind uses.Kind
		term string
		step step.ID
	}{
		{uses.Lock, "crank pin", "s08"}, {uses.Tool, "TL-101", "s08"}, {uses.Tool, "crank pin", "s08"}, {uses.Fastener, "idler bolt", "s26"},
		{uses.Value, "42 N·m", "s26"}, {uses.Part, "idler roller", "s25"}, {uses.Words, "step", "s08"}, {uses.Words, "title", ""}, {uses.Words, "condition", ""},
	} {
		assert.True(t, has(us, c.kind, c.term, c.step), "%s %s at %q", c.kind, c.term, c.step)
	}
}

// Every step says what it says, every thing that its row names is found by its name,
// and no place is listed twice.
func TestEveryThingARowNamesIsFound(t *testing.T) {
	for _, f := range []string{"renew-timing-belt-r3.latch.json", "renew-belt-both-banks-r1.latch.json", "renew-both-belts-r1.latch.json", "renew-chain-two-actuators-r1.latch.json", "renew-cam-chain-r1.latch.json"} {
		d := fixture.Document(f)
		x := engine.NewIndex(&d.Engine)
		for i := range d.Procedure.Steps {
			s := &d.Procedure.Steps[i]
			us := uses.OfStep(x, s)
			assert.True(t, slices.ContainsFunc(us, func(u uses.Use) bool { return u.Kind == uses.Words && u.Said == s.Full(x) }))
			for _, span := range step.Row(x, s.Action).Spans {
				if span.Ref == "" {
					continue
				}
				name := strings.TrimSuffix(strings.TrimPrefix(strings.TrimSpace(span.Text), "new "), ",")
				found := slices.ContainsFunc(us, func(u uses.Use) bool {
					return u.Kind != uses.Words && strings.Contains(strings.ToLower(u.Term), strings.ToLower(strings.TrimSuffix(name, "s")))
				})
				assert.True(t, found, "%s %s: %q of %q", f, s.ID, span.Text, span.Ref)
			}
			for k, u := range us {
				assert.NotEmpty(t, u.Term)
				assert.NotEmpty(t, u.Said)
				assert.False(t, slices.Contains(us[:k], u), "%s %s: %+v is listed twice", f, s.ID, u)
			}
		}
	}
}

func TestWhatASheetUses(t *testing.T) {
	d := fixture.Document("renew-timing-belt-r3.latch.json")
	us := uses.OfSheet(&d.Engine)
	for i := range d.Engine.Tools {
		require.True(t, has(us, uses.Tool, d.Engine.Tools[i].Number, ""))
	}
	for i := range d.Engine.Fasteners {
		require.True(t, has(us, uses.Fastener, d.Engine.Fasteners[i].Name, ""))
	}
	assert.Equal(t, "idler bolt", uses.Key("  Idler   bolt "))
}
