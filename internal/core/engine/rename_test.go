package engine_test

import (
	"encoding/json"
	"fmt"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"inklatch/internal/core/engine"
	"inklatch/internal/core/fixture"
)

var pages = []string{
	"renew-timing-belt-r3.latch.json", "renew-belt-both-banks-r1.latch.json", "renew-both-belts-r1.latch.json", "renew-chain-two-actuators-r1.latch.json",
	"renew-cam-chain-r1.latch.json", "renew-belt-in-oil-r1.latch.json", "renew-belts-at-rest-r1.latch.json", "renew-timing-chain-r1.latch.json",
}

func sheetJSON(t require.TestingT, s *engine.Sheet) string {
	b, err := json.Marshal(s)
	require.NoError(t, err)
	return string(b)
}

// Renamed there and back, a sheet is what it was; renamed, everything that names a
// thing still names one; and the sheet it was made from is left alone.
func TestASheetIsRenamedThereAndBack(t *testing.T) {
	for _, f := range pages {
		s := &fixture.Document(f).Engine
		before := sheetJSON(t, s)
		n := *s
		engine.Rename(&n, func(list, id string) string {
			assert.True(t, s.Has(list, id), "%s: %s/%s", f, list, id)
			return "x-" + id
		})
		assert.Equal(t, before, sheetJSON(t, s), "what shares its lists stays")
		assert.NotEqual(t, before, sheetJSON(t, &n))
		for _, r := range n.Namings() {
			assert.True(t, n.Has(r.List, r.ID), "%s names %s/%s", r.Path, r.List, r.ID)
			assert.True(t, strings.HasPrefix(r.ID, "x-"))
		}
		require.Len(t, n.Namings(), len(s.Namings()))
		engine.Rename(&n, func(_, id string) string { return strings.TrimPrefix(id, "x-") })
		assert.Equal(t, before, sheetJSON(t, &n))
	}
}

// What has no name any more goes out of what names it, and of those in a list that get
// one name the first stays: no list has one thing twice.
func TestWhatIsRenamedToNothingIsGone(t *testing.T) {
	rapid.Check(t, func(r *rapid.T) {
		s := fixture.Document(pages[rapid.IntRange(0, len(pages)-1).Draw(r, "sheet")]).Engine
		gone := map[string]bool{}
		to := map[string]string{}
		for _, ref := range s.Namings() {
			key := ref.List + "/" + ref.ID
			switch rapid.IntRange(0, 5).Draw(r, key) {
			case 0:
				gone[key] = true
			case 1:
				to[key] = "one-" + ref.List
			}
		}
		n := s
		engine.Rename(&n, func(list, id string) string {
			if gone[list+"/"+id] {
				return ""
			}
			if v := to[list+"/"+id]; v != "" {
				return v
			}
			return id
		})
		seen := map[string]bool{}
		for _, ref := range n.Namings() {
			require.False(r, gone[ref.List+"/"+ref.ID] && to[ref.List+"/"+ref.ID] == "", "%s still names %s", ref.Path, ref.ID)
			require.NotEmpty(r, ref.ID)
			own := !strings.Contains(ref.Path, "//") && !strings.Contains(ref.Path, "/one-") // things that have no name of their own now are one path
			if ref.Several && own {
				key := fmt.Sprint(ref.Path, " ", ref.ID)
				require.False(r, seen[key] && !strings.Contains(ref.Path, "route"), "%s twice", key)
				seen[key] = true
			}
		}
	})
}

// Every thing of a sheet is called by its name, and nothing else is.
func TestThingsAreCalledByTheirNames(t *testing.T) {
	for _, f := range pages {
		s := &fixture.Document(f).Engine
		x := engine.NewIndex(s)
		name := func(list, id, want string) {
			t.Helper()
			assert.Equal(t, want, x.NameOf(list, id), "%s: %s/%s", f, list, id)
			assert.Empty(t, x.NameOf(list, id+"-not"))
		}
		for _, v := range s.Shafts {
			name("shafts", string(v.ID), v.Name)
			assert.Equal(t, v.ID, x.Shaft(v.ID).ID)
		}
		for _, v := range s.Wheels {
			name("wheels", string(v.ID), v.Name+" wheel")
		}
		for _, v := range s.Loops {
			name("loops", string(v.ID), v.Name)
			assert.InDelta(t, v.Pitch*float64(v.Teeth), float64(v.Length()), 1e-9)
			for _, id := range v.Tensioners() {
				assert.True(t, v.Tensions(id))
			}
			assert.False(t, v.Tensions(""))
		}
		for i, v := range s.Gears {
			name("gears", string(v.ID), v.Name)
			assert.Equal(t, i, x.GearAt(v.ID))
		}
		for _, v := range s.Marks {
			name("marks", string(v.ID), v.Name)
		}
		for _, v := range s.Locks {
			name("locks", string(v.ID), v.Name)
			assert.InDelta(t, 360, float64(v.Period())*float64(max(v.Repeats, 1)), 1e-9)
			for _, id := range v.Accesses() {
				assert.NotNil(t, x.Part(id))
			}
		}
		for _, v := range s.Tensioners {
			name("tensioners", string(v.ID), v.Name)
		}
		for _, v := range s.Fasteners {
			name("fasteners", string(v.ID), v.Name)
			assert.Equal(t, v.Count > 1, v.Plural())
			assert.True(t, strings.HasPrefix(v.Words(), v.Name))
			assert.Equal(t, v.Plural() && !strings.HasSuffix(v.Name, "s"), v.Words() != v.Name)
		}
		for _, v := range s.Parts {
			name("parts", string(v.ID), v.Name)
		}
		for _, v := range s.Tools {
			name("tools", string(v.ID), v.Number+" "+v.Name)
			assert.Equal(t, v.Number, x.Tool(v.ID).Number)
		}
		for i, v := range s.Fluids {
			name("fluids", string(v.ID), v.Name)
			assert.Equal(t, i, x.FluidAt(v.ID))
			assert.Equal(t, v.Name, x.Fluid(v.ID).Name)
		}
		for _, v := range s.Banks {
			name("banks", string(v.ID), v.Name)
		}
		for _, v := range s.Varies {
			list, id, _ := strings.Cut(v.Of, "/")
			name("varies", v.ID, "cases of the "+x.NameOf(list, id))
		}
		for _, v := range s.Names {
			name("names", v.ID, "name “"+v.Say+"”")
		}
		assert.Empty(t, x.NameOf("no such list", "crank"))
	}
}

// What all loops together are called, by what they are made of.
func TestWhatTheDriveIsCalled(t *testing.T) {
	for want, kinds := range map[string][]engine.LoopKind{
		"belt": {engine.Belt}, "belts": {engine.Belt, engine.Belt}, "chain": {engine.Chain}, "chains": {engine.Chain, engine.Chain}, "drive": {engine.Belt, engine.Chain},
	} {
		s := &engine.Sheet{}
		for i, k := range kinds {
			s.Loops = append(s.Loops, engine.Loop{ID: engine.LoopID(fmt.Sprint("l", i)), Kind: k})
		}
		assert.Equal(t, want, engine.NewIndex(s).Drives())
	}
	assert.Equal(t, "belt", engine.NewIndex(&engine.Sheet{}).Drives())
}

// Shafts that only gears tie always stand together; those that a loop of their own
// drives need not.
func TestShaftsThatGearsTie(t *testing.T) {
	x := engine.NewIndex(&fixture.Document("renew-belt-both-banks-r1.latch.json").Engine)
	at := func(id engine.ShaftID) int { return x.ShaftAt(id) }
	assert.True(t, x.Geared(at("left-inlet"), at("left-exhaust")))
	assert.True(t, x.Geared(at("left-exhaust"), at("left-inlet")))
	assert.True(t, x.Geared(at("crank"), at("crank")))
	assert.False(t, x.Geared(at("left-inlet"), at("right-inlet")), "the belt is between them")
	assert.False(t, x.Geared(at("crank"), at("left-inlet")))
	assert.False(t, x.Geared(at("crank"), -1))
	for _, m := range []engine.Method{engine.Eccentric, engine.OverTension, engine.ByFrequency, engine.PreLoad} {
		assert.True(t, m.Of().ByBolts, m)
	}
	for _, m := range []engine.Method{engine.Hydraulic, engine.SpringArm, engine.Ratchet, engine.Fixed} {
		assert.False(t, m.Of().ByBolts, m)
	}
}

func TestRatiosAreWrittenAsPeopleWriteThem(t *testing.T) {
	for _, c := range []struct {
		num, den int64
		want     string
		float    float64
		home     int64
	}{{1, 2, "1/2", 0.5, 2}, {4, 2, "2", 2, 1}, {-5, 7, "-5/7", -5. / 7, 7}, {3, -9, "-1/3", -1. / 3, 3}, {0, 5, "0", 0, 1}} {
		r := engine.NewRatio(c.num, c.den)
		assert.Equal(t, c.want, r.String())
		assert.InDelta(t, c.float, r.Float(), 1e-12)
		assert.Equal(t, c.home, r.HomeEvery(1))
		assert.Equal(t, c.home, r.HomeEvery(0), "once a turn at least")
	}
	assert.Zero(t, engine.Ratio{}.Float(), "nothing drives it")
	assert.Panics(t, func() { engine.NewRatio(1, 0) })
	assert.Equal(t, int64(1), engine.NewRatio(1, 2).HomeEvery(2))
}
