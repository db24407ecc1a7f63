package engine_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"inklatch/internal/core/engine"
	"inklatch/internal/core/fixture"
)

var everySheet = []string{
	"renew-timing-belt-r3.latch.json", "renew-belt-in-oil-r1.latch.json", "renew-belt-both-banks-r1.latch.json", "renew-timing-chain-r1.latch.json",
	"renew-both-belts-r1.latch.json", "renew-cam-chain-r1.latch.json", "renew-belts-at-rest-r1.latch.json", "renew-chain-two-actuators-r1.latch.json",
}

// Nothing names a thing that has gone, whichever goes: a field that names things
// and was forgotten here would be found by the type of its identifier.
func TestNothingNamesWhatIsGone(t *testing.T) {
	for _, file := range everySheet {
		s := &fixture.Document(file).Engine
		for _, r := range s.Namings() {
			require.True(t, s.Has(r.List, r.ID), "%s: %s names %q", file, r.Path, r.ID)
			if r.List == "shafts" && r.ID == string(engine.CrankID) {
				continue
			}
			n, err := engine.Apply(s, []engine.Edit{{Path: r.List + "/" + r.ID}})
			require.NoError(t, err, "%s: %s/%s", file, r.List, r.ID)
			assert.False(t, n.Has(r.List, r.ID))
			for _, o := range n.Namings() {
				assert.False(t, o.List == r.List && o.ID == r.ID, "%s: %s still names %s/%s", file, o.Path, r.List, r.ID)
			}
		}
	}
}

// Every way in which a value can name a thing is among the references.
func TestRefsAreReadOffTheTypes(t *testing.T) {
	s := &engine.Sheet{
		Parts:      []engine.Part{{ID: "a", After: []engine.PartID{"b"}, With: []engine.PartID{"c"}, Seal: "d", Held: []engine.FastenerID{"e"}}},
		Fasteners:  []engine.Fastener{{ID: "e", Access: "a", HoldWith: "f", OnShaft: "g"}},
		Tensioners: []engine.Tensioner{{ID: "t", Frequency: &engine.Frequency{From: "h", To: "i"}}},
	}
	assert.ElementsMatch(t, []engine.Naming{
		{Path: "parts/a/after", List: "parts", ID: "b", Several: true}, {Path: "parts/a/with", List: "parts", ID: "c", Several: true}, {Path: "parts/a/seal", List: "parts", ID: "d"},
		{Path: "parts/a/held", List: "fasteners", ID: "e", Several: true}, {Path: "fasteners/e/access", List: "parts", ID: "a"}, {Path: "fasteners/e/holdWith", List: "locks", ID: "f"},
		{Path: "fasteners/e/onShaft", List: "shafts", ID: "g"}, {Path: "tensioners/t/frequency/from", List: "wheels", ID: "h"}, {Path: "tensioners/t/frequency/to", List: "wheels", ID: "i"},
	}, s.Namings())
}
