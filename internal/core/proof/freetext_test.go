package proof_test

import (
	"testing"

	"github.com/stretchr/testify/assert"

	"inklatch/internal/core/engine"
	"inklatch/internal/core/fixture"
	"inklatch/internal/core/proof"
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
