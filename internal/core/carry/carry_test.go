package carry_test

import (
	"encoding/json"
	"fmt"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"inklatch/internal/core/carry"
	"inklatch/internal/core/engine"
	"inklatch/internal/core/fixture"
	"inklatch/internal/core/procedure"
	"inklatch/internal/core/proof"
	"inklatch/internal/core/step"
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

func js(t *testing.T, v any) string {
	t.Helper()
	b, err := json.Marshal(v)
	require.NoError(t, err)
	return string(b)
}

// A page copied within its own code is the page: nothing is left out, nothing becomes
// something else.
func TestACopyWithinItsCodeIsThePage(t *testing.T) {
	for _, f := range files {
		d := fixture.Document(f)
		x := engine.NewIndex(&d.Engine)
		pairs := carry.Match(x, x, carry.Things(x, &d.Procedure), nil)
		for _, p := range pairs {
			if p.How != carry.Same {
				t.Logf("%s: %s %s %s→%s %s", f, p.How, p.Ref(), p.ID, p.To, p.Why)
				continue
			}
			assert.Equal(t, p.ID, p.To, "%s: %s", f, p.Ref())
			assert.Empty(t, p.Apart)
		}
		c, err := carry.Over(x, x, &d.Procedure, pairs)
		require.NoError(t, err)
		for _, n := range c.Left {
			t.Logf("%s: left %+v", f, n)
		}
		for _, n := range c.Taken {
			t.Logf("%s: took %+v", f, n)
		}
		for _, n := range c.Asks {
			t.Logf("%s: ask %+v", f, n)
		}
		_ = js
		_ = slices.Max[[]int]
		_ = proof.DefaultHouse
		_ = step.Refs
		_ = procedure.Apply
	}
}

func TestStructure(t *testing.T) {
	for _, f := range files {
		d := fixture.Document(f)
		x, y := engine.NewIndex(&d.Engine), engine.NewIndex(away(&d.Engine, true))
		pairs := carry.Match(x, y, carry.Things(x, &d.Procedure), nil)
		n := map[carry.How]int{}
		for _, p := range pairs {
			n[p.How]++
			if p.To != "" && p.List != "options" && p.To != truth(p.Ref()) {
				t.Errorf("%s: %s %s → %s %s", f, p.How, p.Ref(), p.To, p.Why)
			}
			if p.How == carry.Asked {
				t.Logf("asked %s", p.Ref())
			}
		}
		t.Log(f, n)
	}
}

func TestAcross(t *testing.T) {
	a := fixture.Document("renew-timing-belt-r3.latch.json")
	for _, f := range files[1:] {
		d := fixture.Document(f)
		x, y := engine.NewIndex(&a.Engine), engine.NewIndex(&d.Engine)
		pairs := carry.Match(x, y, carry.Things(x, &a.Procedure), nil)
		t.Log("====", d.Engine.Code)
		for _, p := range pairs {
			t.Logf("%s %s “%s” → %s (%s) %v", p.How, p.List, p.Name, p.Becomes, p.Why, p.Apart)
		}
	}
}
