package procedure_test

import (
	"fmt"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"inklatch/internal/core/fixture"
	"inklatch/internal/core/page/procedure"
	"inklatch/internal/core/page/step"
)

// Any edits, applied and then led back by their inverse, leave the procedure as
// it was, and never touch the one they were applied to.
func TestEditsLeadBack(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		p := &fixture.Document("check-valve-timing-r1.latch.json").Procedure
		for i := range p.Steps {
			p.Steps[i].IfNot = rapid.IntRange(0, 3).Draw(t, "branch") == 0
		}
		before := fmt.Sprint(p)
		var edits []procedure.Edit
		ids := []step.ID{""}
		for i := range p.Steps {
			ids = append(ids, p.Steps[i].ID)
		}
		for i := range rapid.IntRange(1, 8).Draw(t, "edits") {
			id := rapid.SampledFrom(ids).Draw(t, "step")
			after := rapid.SampledFrom(ids).Draw(t, "after")
			switch rapid.IntRange(0, 4).Draw(t, "kind") {
			case 0:
				s := step.Step{ID: step.ID(fmt.Sprintf("n%d", i)), Phase: "fit", Action: &step.Do{Text: "x"}, IfNot: rapid.Bool().Draw(t, "if not")}
				edits = append(edits, procedure.Edit{Op: procedure.Insert, After: after, Step: &s})
			case 1:
				edits = append(edits, procedure.Edit{Op: procedure.Remove, ID: id})
			case 2:
				edits = append(edits, procedure.Edit{Op: procedure.Move, ID: id, After: after, Phase: "close", Exact: rapid.Bool().Draw(t, "exact")})
			case 3:
				s := step.Step{ID: id, Phase: "fit", Action: &step.Do{Text: "y"}, IfNot: rapid.Bool().Draw(t, "if not")}
				edits = append(edits, procedure.Edit{Op: procedure.Replace, Step: &s})
			case 4:
				h := p.Header
				h.Title = "another"
				edits = append(edits, procedure.Edit{Op: procedure.SetHeader, Header: &h})
			}
		}
		n, back, err := procedure.Apply(p, edits)
		if fmt.Sprint(p) != before {
			t.Fatal("the procedure edited was changed")
		}
		if err != nil {
			return
		}
		again, _, err := procedure.Apply(n, back)
		if err != nil {
			t.Fatalf("the way back fails: %v", err)
		}
		if fmt.Sprint(again) != before {
			t.Fatalf("led back to %v", again)
		}
	})
}

// An acceptance falls away when what the step does changes, stays when only its
// wording does, and comes back with an undo.
func TestAcceptancesFallAway(t *testing.T) {
	p := &fixture.Document("check-valve-timing-r1.latch.json").Procedure
	p.Steps[0].Accept = []step.Acceptance{{Rule: "caution-missing", Reason: "said on the cover"}}
	set := func(change func(*step.Step)) (*procedure.Procedure, []procedure.Edit) {
		s := p.Steps[0]
		change(&s)
		n, back, err := procedure.Apply(p, []procedure.Edit{{Op: procedure.Replace, Step: &s}})
		require.NoError(t, err)
		return n, back
	}
	n, _ := set(func(s *step.Step) { s.Note = "mind the clip" })
	assert.Len(t, n.Steps[0].Accept, 1)
	n, back := set(func(s *step.Step) { s.Action = &step.Wait{} })
	assert.Empty(t, n.Steps[0].Accept)
	again, _, err := procedure.Apply(n, back)
	require.NoError(t, err)
	assert.Len(t, again.Steps[0].Accept, 1)
}

func TestEditsThatCannotBeMade(t *testing.T) {
	p := &fixture.Document("check-valve-timing-r1.latch.json").Procedure
	s := p.Steps[0]
	for _, e := range []procedure.Edit{
		{Op: "dance"}, {Op: procedure.Insert}, {Op: procedure.Insert, Step: &s}, {Op: procedure.Remove, ID: "nowhere"}, {Op: procedure.Remove},
		{Op: procedure.Move, ID: s.ID, After: s.ID}, {Op: procedure.Move, ID: s.ID, Phase: "lunch"}, {Op: procedure.SetHeader},
	} {
		_, _, err := procedure.Apply(p, []procedure.Edit{e})
		assert.Error(t, err, "%+v", e)
	}
	_, _, err := procedure.Apply(p, []procedure.Edit{{Op: procedure.Remove, ID: "nowhere"}})
	var gone procedure.Gone
	require.ErrorAs(t, err, &gone)
}
