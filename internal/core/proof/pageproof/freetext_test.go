package pageproof_test

import (
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"

	"inklatch/internal/core/engine"
	"inklatch/internal/core/fixture"
	"inklatch/internal/core/page/lang/en"
	"inklatch/internal/core/page/step"
	"inklatch/internal/core/proof/finding"
	"inklatch/internal/core/proof/pageproof"
)

// Notes and wordings as authors write them that say nothing wrong: none of them is
// found. Common practice, no source.
func TestRightWordsAreLeftAlone(t *testing.T) {
	d := fixture.Document("renew-timing-belt-r4.latch.json")
	x := engine.NewIndex(&d.Engine)
	b := &bench{t: t, x: x, p: &d.Procedure}
	idler := b.at("Tighten idler bolt")
	for _, note := range []string{
		"Tighten to 39 N·m in one movement.", "28.8 lbf·ft on a wrench that shows no N·m.", "Hold the roller while the bolt is tightened.",
		"The bolt is 45 mm long.", "Do not use an impact gun.", "It takes five minutes.", "The crank pin stays in until step 30.",
		"If the roller drags, renew it.", "The tensioner bolt is tightened later.", "Wipe the face before the roller goes on.",
		"Expect the roller to turn without noise.", "At 20 °C.", "TL-101 stays in.", "The longer bolt belongs at the top.",
	} {
		p := d.Procedure
		p.Steps = append(p.Steps[:0:0], p.Steps...)
		p.Steps[idler].Note = note
		for _, f := range pageproof.Prove(x, &p, finding.DefaultHouse()) {
			assert.NotEqual(t, "words-differ", f.Rule, "%s: %s", note, f.What)
		}
	}
	for _, free := range []string{
		"Mark the roller and the tensioner as used and lay them into the box for the field engineer", "Look the bolts over and lay them out in order",
	} {
		p := d.Procedure
		p.Steps = append(p.Steps[:0:0], p.Steps...)
		p.Steps[idler].Action = &step.Do{Text: free}
		for _, f := range pageproof.Prove(x, &p, finding.DefaultHouse()) {
			assert.NotEqual(t, "words-differ", f.Rule, "%s: %s", free, f.What)
		}
	}
	for _, wording := range []string{
		"Tighten the idler bolt to 39 N·m.", "Tighten the idler bolt to 39 N·m (28.8 lbf·ft).", "Now tighten the idler bolt to 39 N·m, by hand and slowly.",
		"With a torque wrench, tighten the idler bolt to 39 N·m.", "Tighten the idler bolt and take it to 39 N·m.", "Torque the idler bolt to 39 N·m, then mark its head.",
	} {
		p := d.Procedure
		p.Steps = append(p.Steps[:0:0], p.Steps...)
		p.Steps[idler].Wording = wording
		for _, f := range pageproof.Prove(x, &p, finding.DefaultHouse()) {
			assert.False(t, f.Rule == "wording-drifted" && f.Steps[0] == p.Steps[idler].ID, "%s: %s", wording, f.What)
		}
	}
}

// A number in free text is told with the step it stands for now, or that there is none.
func TestAStepNamedByItsNumber(t *testing.T) {
	d := fixture.Document("renew-timing-belt-r4.latch.json")
	x := engine.NewIndex(&d.Engine)
	for note, want := range map[string]string{
		"The bolt of step 2 is the longer one.": "Now step 2 is “" + en.Sentence(x, d.Procedure.Steps[1].Action) + "”.",
		"Go back to step 900 if it drags.":      "The page has no step 900.",
		"It takes two steps of the wrench.":     "",
		"At step one the battery was off.":      "", // a word, and no number that moves
	} {
		p := d.Procedure
		p.Steps = append(p.Steps[:0:0], p.Steps...)
		p.Steps[4].Note = note
		got := ""
		for _, f := range pageproof.Prove(x, &p, finding.DefaultHouse()) {
			if f.Rule == "step-by-number" {
				got = f.Why
				assert.Equal(t, finding.Look, f.Severity)
			}
		}
		assert.True(t, want == "" && got == "" || want != "" && strings.HasPrefix(got, want), "%s: %q", note, got)
	}
}

// ofWords are what the proof finds of a page in its words, with a step changed.
func ofWords(b *bench, at int, change func(*step.Step)) []pageproof.Finding {
	p := *b.p
	p.Steps = append(p.Steps[:0:0], p.Steps...)
	change(&p.Steps[at])
	var out []pageproof.Finding
	for _, f := range pageproof.Prove(b.x, &p, finding.DefaultHouse()) {
		if f.Rule == "words-differ" || f.Rule == "wording-drifted" {
			out = append(out, f)
		}
	}
	return out
}

// Words that tell of something else than work of the page, on the first bolt that every
// page of the demo tightens: none is a finding, whether it is a note or a caution. Common
// practice, no source.
func TestNotesThatSendNobodyAnywhere(t *testing.T) {
	notes := []string{
		"Ignore the paint marks of the old belt.", "Use a torque wrench instead of an impact gun.", "There is no need to mark the belt.", "Grease is not needed.",
		"Sealant is not necessary here.", "The hose can be left in place.", "The bracket may be left on.", "The bypass hose is behind it.", "If the old mark does not match, ignore it.",
		"Continue only when it runs free.", "Repeat until it runs free.", "The letter EL-0433 gives the reason.", "See drawing AB-1203.", "A second person holds the lamp.",
		"The washer faces the block.", "Do not use an impact gun.", "Never pry against the pump.", "The thread is 25 mm deep.", "It takes 5 min.", "The bench made 0.3 mm of play.",
		"Keep the old bolt for the core.", "The belt must not be bent below 35 mm.", "Turn the wrench slowly.", "If the thread is damaged, renew the bolt.", "Wait for the click of the wrench.",
		"Count aloud.", "Start the thread by hand.", "Lock the wrench after use.", "Lay a cloth under it.", "Fit and finish matter here.", "Run a finger round the face.", "Clean the face first.",
		"Skip the plastic washer some kits have.", "Omit the washer of the first kits.", "In place of the old roller a coated one may come.", "Disregard the figure on the bag.",
	}
	tried := 0
	for _, f := range procedures {
		d := fixture.Document(f)
		b := &bench{t: t, x: engine.NewIndex(&d.Engine), p: &d.Procedure}
		at := slices.IndexFunc(b.p.Steps, func(s step.Step) bool { return s.Action.Verb() == "tighten" })
		if at < 0 {
			continue
		}
		before := len(ofWords(b, at, func(*step.Step) {}))
		for _, n := range notes {
			tried++
			assert.Len(t, ofWords(b, at, func(s *step.Step) { s.Note = n }), before, "%s: note %q", f, n)
			assert.Len(t, ofWords(b, at, func(s *step.Step) { s.Cautions = append(s.Cautions[:0:0], step.Caution{Text: n}) }), before, "%s: caution %q", f, n)
		}
	}
	assert.Greater(t, tried, 300)
}

// A sentence of the author's own says more than the step, and says nothing wrong.
func TestWordingsThatSayNothingWrong(t *testing.T) {
	d := fixture.Document("renew-timing-belt-r3.latch.json")
	b := &bench{t: t, x: engine.NewIndex(&d.Engine), p: &d.Procedure}
	idler := b.at("Tighten idler bolt")
	for _, w := range []string{
		"Tighten the idler bolt to 39 N·m with a torque wrench instead of an impact gun.", "Tighten the idler bolt to 39 N·m; there is no need to mark it.",
		"Tighten the idler bolt to 39 N·m in one pull.", "Take the idler bolt to 39 N·m.", "Torque the idler bolt: 39 N·m.", "Tighten the idler bolt to 39 N·m and wipe the face clean.",
		"Reach below the pump and tighten the idler bolt to 39 N·m.", "With the lamp behind it, tighten the idler bolt to 39 N·m.", "Set the wrench and tighten the idler bolt to 39 N·m.",
		"Start the idler bolt by hand and tighten it to 39 N·m.", "Fit the socket and tighten the idler bolt to 39 N·m.", "Turn the wrench slowly and tighten the idler bolt to 39 N·m.",
		"Lay the wrench on and tighten the idler bolt to 39 N·m.", "Tighten the idler bolt to 39 N·m; the old washer may be left on.", "Tighten the idler bolt to 39 N·m, ignoring the paint mark.",
	} {
		assert.Empty(t, ofWords(b, idler, func(s *step.Step) { s.Wording = w }), "%q", w)
	}
}

// Words that send a reader past work of the page are found, in a note as in the wording.
func TestWordsThatSendPastThePage(t *testing.T) {
	d := fixture.Document("renew-timing-belt-r3.latch.json")
	b := &bench{t: t, x: engine.NewIndex(&d.Engine), p: &d.Procedure}
	idler := b.at("Tighten idler bolt")
	for _, n := range []string{
		"On a worn engine skip this.", "Skip the next four steps.", "Ignore steps 27 to 29.", "Disregard the instructions above on the bench.", "Omit the following in winter.",
		"Go to step 40 if it is cold.", "Continue with step 31.", "Jump to step 12.", "Use a screwdriver instead of the crank pin.", "A rod serves in place of the cam bar.",
		"The crank pin is not needed on this engine.", "The flywheel lock can be left in.", "There is no need to fit the cam bar.", "The pin may be left in place.",
		"This step is not necessary on a new engine.", "Skip the tensioner bolt.", "Bypass the check of the marks on the next page.", "Skip the verification turns; omit them all.",
	} {
		got := ofWords(b, idler, func(s *step.Step) { s.Note = n })
		if assert.NotEmpty(t, got, "note %q", n) {
			assert.Equal(t, finding.ShouldFix, got[0].Severity, n)
		}
		got = ofWords(b, idler, func(s *step.Step) { s.Wording = "Tighten the idler bolt to 39 N·m. " + n })
		if assert.NotEmpty(t, got, "wording %q", n) {
			assert.Equal(t, finding.Blocks, got[0].Severity, n)
		}
	}
}
