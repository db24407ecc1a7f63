package proof_test

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"

	"inklatch/internal/core/engine"
	"inklatch/internal/core/fixture"
	"inklatch/internal/core/proof"
	"inklatch/internal/core/step"
)

// Notes and wordings as authors write them that say nothing wrong: none of them is
// found. Common practice, no source.
func TestRightWordsAreLeftAlone(t *testing.T) {
	d := fixture.Document("renew-timing-belt-r4.latch.json")
	x := engine.NewIndex(&d.Engine)
	b := &bench{t: t, x: x, p: &d.Procedure}
	idler := b.at("Tighten idler bolt")
	for _, note := range []string{
		"Tighten to 42 N·m in one movement.", "31 lbf·ft on a wrench that shows no N·m.", "Hold the roller while the bolt is tightened.",
		"The bolt is 45 mm long.", "Do not use an impact gun.", "It takes five minutes.", "The crank pin stays in until step 30.",
		"If the roller drags, renew it.", "The tensioner bolt is tightened later.", "Wipe the face before the roller goes on.",
		"Expect the roller to turn without noise.", "At 20 °C.", "TL-101 stays in.", "The longer bolt belongs at the top.",
	} {
		p := d.Procedure
		p.Steps = append(p.Steps[:0:0], p.Steps...)
		p.Steps[idler].Note = note
		for _, f := range proof.Prove(x, &p, proof.DefaultHouse()) {
			assert.NotEqual(t, "words-differ", f.Rule, "%s: %s", note, f.What)
		}
	}
	for _, free := range []string{
		"Mark the roller and the tensioner as used and lay them into the box for the field engineer", "Look the bolts over and lay them out in order",
	} {
		p := d.Procedure
		p.Steps = append(p.Steps[:0:0], p.Steps...)
		p.Steps[idler].Action = &step.Do{Text: free}
		for _, f := range proof.Prove(x, &p, proof.DefaultHouse()) {
			assert.NotEqual(t, "words-differ", f.Rule, "%s: %s", free, f.What)
		}
	}
	for _, wording := range []string{
		"Tighten the idler bolt to 42 N·m.", "Tighten the idler bolt to 42 N·m (31 lbf·ft).", "Now tighten the idler bolt to 42 N·m, by hand and slowly.",
		"With a torque wrench, tighten the idler bolt to 42 N·m.", "Tighten the idler bolt and take it to 42 N·m.", "Torque the idler bolt to 42 N·m, then mark its head.",
	} {
		p := d.Procedure
		p.Steps = append(p.Steps[:0:0], p.Steps...)
		p.Steps[idler].Wording = wording
		for _, f := range proof.Prove(x, &p, proof.DefaultHouse()) {
			assert.False(t, f.Rule == "wording-drifted" && f.Steps[0] == p.Steps[idler].ID, "%s: %s", wording, f.What)
		}
	}
}

// A number in free text is told with the step it stands for now, or that there is none.
func TestAStepNamedByItsNumber(t *testing.T) {
	d := fixture.Document("renew-timing-belt-r4.latch.json")
	x := engine.NewIndex(&d.Engine)
	for note, want := range map[string]string{
		"The bolt of step 2 is the longer one.": "Now step 2 is “" + step.Sentence(x, d.Procedure.Steps[1].Action) + "”.",
		"Go back to step 900 if it drags.":      "The page has no step 900.",
		"It takes two steps of the wrench.":     "",
		"At step one the battery was off.":      "", // a word, and no number that moves
	} {
		p := d.Procedure
		p.Steps = append(p.Steps[:0:0], p.Steps...)
		p.Steps[4].Note = note
		got := ""
		for _, f := range proof.Prove(x, &p, proof.DefaultHouse()) {
			if f.Rule == "step-by-number" {
				got = f.Why
				assert.Equal(t, proof.Look, f.Severity)
			}
		}
		assert.True(t, want == "" && got == "" || want != "" && strings.HasPrefix(got, want), "%s: %q", note, got)
	}
}
