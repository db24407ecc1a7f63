package quickline_test

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"inklatch/internal/core/engine"
	"inklatch/internal/core/fixture"
	"inklatch/internal/core/page/lang/en"
	"inklatch/internal/core/page/quickline"
	"inklatch/internal/core/page/step"
)

// reading is what became of a line, with the words a reader of the page sees.
func reading(x *engine.Index, lex *quickline.Lexicon, line string) (quickline.Reading, string) {
	r := quickline.Read(lex, line)
	return r, strings.ToLower(r.Sentence(x))
}

// Lines that say something else than a step would: each is text, kept to the letter, or
// asked about; none is read as the step it looks like. Common practice, no source.
func TestLinesThatLookLikeSteps(t *testing.T) {
	d := fixture.Document("renew-timing-belt-r3.latch.json")
	x := engine.NewIndex(&d.Engine)
	lex := quickline.NewLexicon(x)
	for _, line := range []string{
		"Then do not turn the crank", "Please do not turn the crank", "Now never slacken the crank bolt", "Next, do not fit the crank pin",
		"Do the same on the exhaust side", "Do this again", "Do not take out the crank pin yet", "Do it up",
		"Inspect the water pump for leaks but do not renew it", "Inspect the water pump for leaks, do not renew it", "Inspect the water pump for leaks, renew it in any case",
		"Inspect the idler for play and hold it there while the bolt is tightened", "Inspect the idler for play, then renew it", "Inspect the idler for play and turn the crank",
		"Set the tensioner to the notch at 20 °C, not at 30 °C", "Set the tensioner to the notch and hold it there while the bolt is tightened",
		"Set the tensioner to the notch, leave the bolt loose", "Set the tensioner to the notch at 20 °C in summer and at 5 °C in winter", "Set the tensioner to the notch unless it is cold",
		"Tighten the idler bolt by 20 N·m", "Tighten the idler bolt to 42 N·m and a further 60 N·m", "Tighten the idler bolt another 20 N·m",
		"Tighten the idler bolt by hand, then 60 N·m", "Tighten the idler bolt finger tight 42 N·m", "Tighten the idler bolt in stages to 42 N·m",
		"Start the engine, but not before the coolant is in", "Start the engine for 30 s and hold it at idle", "Start the engine and turn the crank", "Start the engine if the lamp is off",
		"Wait 15 min, but not before the covers are on", "Wait until the engine is cold, but not below 5 °C", "Wait until the engine is cold and turn the crank", "Wait 15 min or until the engine is cold",
		"Measure the gap at 270°", "Measure the belt tension at 20 °C", "Measure the gap unless it was renewed", "Measure the gap and hold the crank there",
		"Set the tensioner to the notch or just short of it", "Wait until the engine is cold or the fan has stopped", "Tighten the idler bolt again", "Refit the old belt",
		"Turn the crank about 20 degrees clockwise", "Fill in about 4 L of engine oil", "Swing the crank about 5°",
	} {
		r, said := reading(x, lex, line)
		if r.Read() {
			// Kept to the letter is kept.
			do, ok := r.Action.(*step.Do)
			assert.True(t, ok && do.Text == quickline.Plain(line), "%q is read as %q", line, said)
			continue
		}
		assert.NotEmpty(t, r.Problem, line)
		for _, c := range r.Choices {
			for _, w := range []string{"again", "old", "not", "never"} {
				assert.Equal(t, strings.Contains(strings.ToLower(line), " "+w), strings.Contains(strings.ToLower(c), " "+w), "%q is offered for %q", c, line)
			}
		}
		assert.Equal(t, quickline.Plain(line), r.Action.(*step.Do).Text, "nothing typed is lost")
	}
	for line, want := range map[string]string{
		"Turn the crank slowly 2 turns clockwise": "turn the crank 2 turns clockwise. note: slowly.",
		"Drain the coolant completely":            "", // this engine has none on its sheet
		"Fit the old timing belt":                 "fit the timing belt. note: the old one.",
		"Apply a drop of oil to the crank bolt":   "apply engine oil to the crank bolt. note: a drop.",
		"Carefully turn the crank 2 turns":        "turn the crank 2 turns.",
		"do open the workshop door":               "open the workshop door.",
	} {
		if _, said := reading(x, lex, line); want != "" {
			assert.Equal(t, want, said, line)
		}
	}
}

// A word of a name is not lost where two names share their last.
func TestNamesThatShareTheirLastWord(t *testing.T) {
	d := fixture.Document("renew-both-belts-r1.latch.json")
	x := engine.NewIndex(&d.Engine)
	_, said := reading(x, quickline.NewLexicon(x), "Paint marks on the crank gear, the left cam and the right drive")
	assert.Equal(t, "paint marks on the crank gear, the left cam and the right drive.", said)
}

// A reason why a line stays text is true: what is on the sheet is not said to be missing.
func TestReasonsAreTrue(t *testing.T) {
	d := fixture.Document("renew-timing-belt-r3.latch.json")
	lex := quickline.NewLexicon(engine.NewIndex(&d.Engine))
	for _, line := range []string{
		"Tighten the idler bolt on the crankshaft", "Remove the upper cover before the crank bolt", "Wait 15 min at the crank pin", "Take out the crank pin and 20 N·m",
		"Slacken the crank bolt without the flywheel lock", "Fit the crank pin when the inlet cam mark",
	} {
		r := quickline.Read(lex, line)
		require.False(t, r.Read(), line)
		assert.NotContains(t, r.Problem, "not on this engine’s sheet", "%s: %s", line, r.Problem)
	}
	r := quickline.Read(lex, "Tighten the idler bolt on the vulcaniser")
	assert.Contains(t, r.Problem, "“vulcaniser” is not on this engine’s sheet")
	r = quickline.Read(lex, "Turn the crank about 20 degrees clockwise")
	assert.Contains(t, r.Problem, "write the value with its tolerance")
}

// turns are words and clauses that turn a line round, or ask for more than it does.
var turns = []string{
	"not", "never", "no", "without", "except", "unless", "only if", "but not", "instead of", "before", "after", "if", "until", "rather than", "about", "old", "slowly",
	"and hold it there while", ", leave the bolt loose,", "completely", ", but do not renew it", "do not", "a further", "in stages",
}

// Over every verb and every field: a word that turns a line round, put before, inside or
// behind it, never goes missing. The line stays text, or the word stands on the page.
func TestNoVerbLosesAWordThatTurnsItRound(t *testing.T) {
	tried, read := 0, 0
	// Every place of a line on one engine; its beginning, middle and end on the others.
	for n, f := range []string{"renew-timing-belt-r3.latch.json", "renew-both-belts-r1.latch.json", "renew-belt-in-oil-r1.latch.json", "renew-chain-two-actuators-r1.latch.json"} {
		d := fixture.Document(f)
		x := engine.NewIndex(&d.Engine)
		lex := quickline.NewLexicon(x)
		seen := map[string]bool{}
		var lines []string
		add := func(line string) {
			if r := quickline.Read(lex, line); r.Read() && r.Action.Verb() != "do" && !seen[line] {
				seen[line] = true
				lines = append(lines, line)
			}
		}
		for _, s := range step.Specs {
			add(s.Example)
		}
		for i := range d.Procedure.Steps {
			add(en.Typed(x, d.Procedure.Steps[i].Action))
		}
		for _, line := range lines {
			words := strings.Fields(line)
			for _, lead := range []string{"", "please ", "now ", "then ", "carefully "} {
				for _, turn := range turns {
					for i := 0; i <= len(words); i++ {
						if lead != "" && i > 0 || n > 0 && i != 0 && i != len(words)/2 && i != len(words) {
							continue
						}
						turned := strings.TrimSpace(lead + strings.Join(words[:i], " ") + " " + turn + " " + strings.Join(words[i:], " "))
						tried++
						r := quickline.Read(lex, turned)
						if !r.Read() {
							continue
						}
						read++
						said := strings.ToLower(r.Sentence(x))
						assert.True(t, keeps(said, turn, &r), "%s: %q is read as %q", f, turned, said)
					}
				}
			}
		}
	}
	t.Logf("%d lines turned round, %d of them read", tried, read)
	assert.Greater(t, tried, 15_000)
}

// keeps reports whether what a reading says keeps the words that turn its line round, in
// those words or the house's.
func keeps(said, turn string, r *quickline.Reading) bool {
	for _, w := range strings.FieldsFunc(turn, func(c rune) bool { return c == ' ' || c == ',' }) {
		if strings.Contains(said, w) {
			return true
		}
	}
	_, checks := r.Action.(*step.Check)
	_, turned := r.Action.(*step.Turn)
	_, tightened := r.Action.(*step.Tighten)
	switch turn {
	case "not", "no", "never":
		return checks && (strings.Contains(said, " out") || strings.Contains(said, " off"))
	case "until":
		return turned || tightened
	case "a further":
		return turned
	case "if":
		return r.IfNot || r.When.Said() != ""
	}
	return false
}
