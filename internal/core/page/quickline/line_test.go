package quickline_test

import (
	"strings"
	"testing"

	"github.com/go-json-experiment/json"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"inklatch/internal/core/engine"
	"inklatch/internal/core/fixture"
	"inklatch/internal/core/page/lang/en"
	"inklatch/internal/core/page/quickline"
	"inklatch/internal/core/page/step"
)

func lexicon() (*engine.Index, *quickline.Lexicon) {
	d := fixture.Document("renew-timing-belt-r3.latch.json")
	x := engine.NewIndex(&d.Engine)
	return x, quickline.NewLexicon(x)
}

// Each line and the sentence it becomes.
func TestQuickLines(t *testing.T) {
	x, lex := lexicon()
	for line, want := range map[string]string{
		"disconnect battery lead":                                                    "Disconnect the battery lead.",
		"Remove the upper timing cover.":                                             "Remove the upper timing cover.",
		"12. take out block plug":                                                    "Take out the block plug.",
		"refit block plug with new seal":                                             "Refit the block plug with a new seal.",
		"take out crank pin and cam bar":                                             "Take out the crank pin and the cam bar.",
		"fit TL-102":                                                                 "Fit the cam bar by hand (TL-102).",
		"turn crank 2 turns clockwise, stop short":                                   "Turn the crank 2 turns clockwise and stop just short.",
		"turn crank two turns cw":                                                    "Turn the crank 2 turns clockwise.",
		"rotate the engine 30° anticlockwise":                                        "Turn the crank 30° counterclockwise.",
		"turn crank clockwise onto crank pin":                                        "Turn the crank clockwise onto the crank pin.",
		"turn crank 2 turns cw onto crank pin":                                       "Turn the crank 2 turns clockwise onto the crank pin.",
		"turn crank clockwise to inlet cam mark, stop short":                         "Turn the crank clockwise to the inlet cam mark and stop just short.",
		"slacken both sprocket bolts one turn with sprocket holder":                  "Slacken the inlet sprocket bolt and the exhaust sprocket bolt 1 turn, held with the sprocket holder.",
		"loosen inlet and exhaust sprocket bolts":                                    "Slacken the inlet sprocket bolt and the exhaust sprocket bolt.",
		"tighten exhaust sprocket bolt 60 Nm + 90 deg hold with sprocket holder":     "Tighten the exhaust sprocket bolt to 60 N·m (44.3 lbf·ft) + 90°, held with the sprocket holder.",
		"tighten exhaust sprocket bolt to 60 Nm, slacken it, then to 40 Nm + 90 deg": "Tighten the exhaust sprocket bolt to 60 N·m (44.3 lbf·ft) + slacken + 40 N·m (29.5 lbf·ft) + 90°.",
		"tighten exhaust sprocket bolt to 60 Nm, wait 10 min, then 90 deg":           "Tighten the exhaust sprocket bolt to 60 N·m (44.3 lbf·ft) + wait 10 min + 90°.",
		"tighten tensioner bolt to 20 ±2 N·m":                                        "Tighten the tensioner bolt to 20 ±2 N·m (14.8 ±1.5 lbf·ft).",
		"tighten upper cover bolts 10 Nm crosswise":                                  "Tighten the upper cover bolts to 10 N·m (88.5 lbf·in) crosswise.",
		"tighten idler bolt finger tight":                                            "Tighten the idler bolt finger tight.",
		"take off timing belt":                                                       "Take off the timing belt.",
		"fit new timing belt, crank → idler → exhaust → inlet → pump → tensioner, slack at tensioner": "Fit the new timing belt in the order crank, idler, exhaust, inlet, pump and tensioner, and leave the slack at the tensioner.",
		"pin tensioner":         "Retract the tensioner and hold it with its pin (TL-105).",
		"release tensioner pin": "Pull the pin and let the tensioner move out slowly.",
		"wait 15 min":           "Wait 15 min.",
		"wait 20 minutes until the engine is cold":                      "Wait 20 min until the engine is cold.",
		"settle belt 6 turns":                                           "Settle the belt: turn the crank 6 turns clockwise.",
		"check that inlet cam mark stands":                              "Check that the inlet cam mark stands.",
		"check cam bar goes in by hand":                                 "Check that the cam bar goes in by hand.",
		"renew plug seal and idler roller":                              "Renew the plug seal and the idler roller.",
		"apply sealant to lower timing cover, open time 10 min":         "Apply sealant to the lower timing cover and close within 10 min.",
		"inspect water pump for leaks and play, then renew if found so": "Inspect the water pump for leaks and play, then renew if found so.",
		"measure coolant temperature 20 ±5 °C":                          "Measure the coolant temperature; it passes at 20 ±5 °C.",
		"start engine 30 s and listen":                                  "Start the engine, run it for 30 s and listen.",
		"do open the door":                                              "Open the door.",
	} {
		r := quickline.Read(lex, line)
		assert.Empty(t, r.Problem, line)
		assert.Equal(t, want, en.Sentence(x, r.Action), line)
	}
}

func TestLinesThatStayFreeText(t *testing.T) {
	_, lex := lexicon()
	for line, near := range map[string]string{
		"tighten exhaust sproket bolt 60 Nm": "tighten exhaust sprocket bolt 60 Nm",
		"tigthen tensioner bolt 20 Nm":       "tighten tensioner bolt 20 Nm",
		"fit crnk pin":                       "fit crank pin",
		"admire the view":                    "",
		"":                                   "",
		"remove":                             "",
	} {
		r := quickline.Read(lex, line)
		assert.NotEmpty(t, r.Problem, line)
		d, ok := r.Action.(*step.Do)
		require.True(t, ok, line)
		assert.True(t, d.Unread)
		assert.Equal(t, line, d.Text, "nothing typed is lost")
		if near != "" {
			assert.Contains(t, r.Choices, near, line)
		}
	}
}

func TestCompletion(t *testing.T) {
	_, lex := lexicon()
	labels := func(typed string) []string {
		var out []string
		for _, c := range quickline.Complete(lex, typed) {
			out = append(out, c.Label)
		}
		return out
	}
	assert.Contains(t, labels("tig"), "tighten")
	assert.Equal(t, []string{"tensioner bolt"}, labels("tighten tens"))
	assert.Contains(t, labels("tighten inlet sprocket bolt "), "60 N·m + 90 ±5°", "the sheet's own value is offered")
	assert.Contains(t, labels("tighten inlet sprocket bolt 60 Nm "), "hold with sprocket holder")
	assert.Contains(t, labels("turn crank "), "2 turns")
	assert.Contains(t, labels("fit new timing belt "), "over crank → idler → exhaust → inlet → pump → tensioner")
	assert.Empty(t, labels("tighten sproket 60 Nm x"), "nothing is offered behind what was not understood")
}

// Every completion offered leads to a line that reads no worse than before.
func TestCompletionsCanBeTaken(t *testing.T) {
	_, lex := lexicon()
	for _, s := range step.Specs {
		for _, c := range quickline.Complete(lex, s.Example[:strings.Index(s.Example, " ")+1]) {
			assert.True(t, strings.HasPrefix(c.Line, s.Example[:strings.Index(s.Example, " ")]), c.Line)
		}
	}
}

func TestEveryExampleIsUnderstood(t *testing.T) {
	d := fixture.Document("renew-timing-belt-r3.latch.json")
	d.Engine.Fluids = []engine.Fluid{{ID: "coolant", Name: "coolant"}}
	d.Engine.Parts[0].Reset = "belt counter"
	x := engine.NewIndex(&d.Engine)
	lex := quickline.NewLexicon(x)
	for _, s := range step.Specs {
		r := quickline.Read(lex, s.Example)
		assert.Empty(t, r.Problem, s.Example)
		assert.Equal(t, s.Verb, r.Action.Verb(), s.Example)
		assert.NotEmpty(t, en.Sentence(x, r.Action))
		one := step.Step{ID: "a", Phase: s.Phase, Action: r.Action}
		b, err := json.Marshal(one)
		require.NoError(t, err)
		var back step.Step
		require.NoError(t, json.Unmarshal(b, &back))
		assert.True(t, step.SameAction(one.Action, back.Action), "%s", b)
	}
}

// A step's own sentence, typed back in, is the same step where the verb's
// phrases allow it.
func TestSentencesReadBack(t *testing.T) {
	x, lex := lexicon()
	d := fixture.Document("renew-timing-belt-r3.latch.json")
	same := 0
	for _, s := range d.Procedure.Steps {
		r := quickline.Read(lex, en.Sentence(x, s.Action))
		if r.Problem == "" && step.SameAction(r.Action, s.Action) {
			same++
		}
	}
	assert.Greater(t, same, len(d.Procedure.Steps)/2)
}

func TestSplitAPage(t *testing.T) {
	assert.Equal(t, []string{"1. remove belt", "2) fit cam bar"}, quickline.Split("1. remove belt\n2) fit\n   cam bar\n\n"))
	assert.Equal(t, []string{"remove belt", "wait 5 min"}, quickline.Split("remove belt\r\n\r\nwait 5 min"))
}

func FuzzRead(f *testing.F) {
	_, lex := lexicon()
	for _, s := range step.Specs {
		f.Add(s.Example)
	}
	f.Add("tighten İ 60 Nm")
	f.Fuzz(func(t *testing.T, line string) {
		r := quickline.Read(lex, line)
		if r.Action == nil {
			t.Fatal("no action")
		}
		quickline.Complete(lex, line)
		quickline.Split(line)
		if _, err := json.Marshal(step.Step{ID: "x", Phase: "fit", Action: r.Action}); err != nil {
			t.Fatalf("%q became a step that cannot be written: %v", line, err)
		}
	})
}

// A way round said as it is seen from the other end is the other way round, and is printed
// as it was said; from the sheet's own view it is what it is.
func TestSeenFromTheOtherEnd(t *testing.T) {
	s := fixture.Document("renew-timing-belt-r3.latch.json").Engine
	s.OtherView = "flywheel end"
	x := engine.NewIndex(&s)
	lex := quickline.NewLexicon(x)
	for line, want := range map[string]string{
		"turn crank 2 turns clockwise seen from the front":                               "Turn the crank 2 turns clockwise.",
		"turn crank counterclockwise 2 turns, viewed from the flywheel":                  "Turn the crank 2 turns counterclockwise seen from the flywheel end.",
		"turn crank 90° in running direction as seen from the other end":                 "Turn the crank 90° counterclockwise seen from the flywheel end.",
		"set tensioner counterclockwise to pointer in notch at 20 °C seen from the rear": "Set the tensioner counterclockwise seen from the flywheel end until the pointer stands in the notch at 20 °C.",
		"set tensioner clockwise seen from the flywheel side of the engine to its rest":  "Set the tensioner clockwise seen from the flywheel end to its zero.",
	} {
		r := quickline.Read(lex, line)
		assert.Empty(t, r.Problem, line)
		assert.Equal(t, want, en.Sentence(x, r.Action), line)
		switch a := r.Action.(type) {
		case *step.Turn:
			assert.Equal(t, engine.Clockwise, a.Way, "%s: kept as the sheet sees it", line)
			if a.Turns == 2 && a.OtherEnd {
				assert.Equal(t, a, quickline.Read(lex, "turn crank counterclockwise 2 turns, viewed from the rear").Action)
			}
		case *step.Set:
			assert.True(t, a.OtherEnd, line)
		default:
			t.Errorf("%s: %T", line, a)
		}
	}
	assert.NotEmpty(t, quickline.Read(lex, "turn crank 2 turns seen from the flywheel end").Problem, "it says no way")
	assert.NotEmpty(t, quickline.Read(lex, "turn crank 2 turns clockwise seen from the gearbox").Problem, "no end of this engine")
}

// A tension that is measured is of the belt, where there is one; what else is called so is
// not.
func TestWhatIsMeasuredOfTheBelt(t *testing.T) {
	d := fixture.Document("renew-timing-belt-r3.latch.json")
	lex := quickline.NewLexicon(engine.NewIndex(&d.Engine))
	for line, loop := range map[string]engine.LoopID{
		"measure belt deflection 5 ±1 mm": "timing-belt", "measure twist 90°": "timing-belt", "measure timing belt tension 120 Hz": "timing-belt",
		"measure spring tension 40 N·m": "", "measure frequency of alternator 50 Hz": "",
	} {
		a, ok := quickline.Read(lex, line).Action.(*step.Measure)
		if assert.True(t, ok, line) {
			assert.Equal(t, loop, a.Loop, line)
		}
	}
}

// Where a reading is taken is the sheet’s, printed with it, and read back as no other.
func TestWhereAReadingIsTaken(t *testing.T) {
	d := fixture.Document("set-pump-by-lift-r1.latch.json")
	for place, said := range map[string]string{"three places": " at three places", "between teeth 3 and 4": " between teeth 3 and 4", "": ""} {
		d.Engine.Readings[1].Place = place
		x := engine.NewIndex(&d.Engine)
		lex := quickline.NewLexicon(x)
		r := quickline.Read(lex, "measure backlash of the pump gear: 0.07–0.16 mm")
		require.Empty(t, r.Problem)
		sentence := en.Sentence(x, r.Action)
		assert.Equal(t, "Measure the backlash of the pump gear"+said+"; it passes at 0.07–0.16 mm.", sentence)
		assert.Equal(t, r.Action, quickline.Read(lex, strings.TrimSuffix(sentence, ".")).Action)
	}
}
