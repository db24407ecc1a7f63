package quickline_test

import (
	"fmt"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"inklatch/internal/core/engine"
	"inklatch/internal/core/fixture"
	"inklatch/internal/core/page/quickline"
	"inklatch/internal/core/page/step"
)

// hands are the kinds of author whose lines stand in testdata/forms.
var hands = map[string]string{"H": "house wording", "M": "a maker’s manual", "S": "workshop shorthand", "P": "speech"}

// became is what a line became: the sentence of a step, those of the lines it is taken apart
// into, a question, or text.
func became(x *engine.Index, lex *quickline.Lexicon, line string) string {
	r := quickline.Read(lex, line)
	var says []string
	for _, part := range r.Parts {
		one := quickline.Read(lex, part)
		says = append(says, one.Sentence(x))
	}
	switch _, text := r.Action.(*step.Do); {
	case r.Read() && !text:
		return r.Sentence(x)
	case len(says) > 0:
		return strings.Join(says, " | ")
	case len(r.Choices) > 0:
		return "? " + strings.Join(r.Choices, " / ")
	}
	return "text"
}

// Lines in other forms than a verb with what it is done to, by four hands: each becomes what
// stands behind it, and a good part of them something. They were written before it was looked
// what is read, and the reader was mended after them: fresh ones read less well.
func TestLinesOfFourHands(t *testing.T) {
	all, some := map[string]int{}, map[string]int{}
	for _, f := range formFiles(t) {
		out := "# " + f.on + "\n"
		for _, l := range f.lines {
			got := became(f.x, f.lex, l.line)
			out += fmt.Sprintf("%s %s => %s\n", l.hand, l.line, got)
			assert.Equal(t, l.want, got, l.line)
			if all[l.hand]++; got != "text" {
				some[l.hand]++
			}
		}
		if os.Getenv("UPDATE") != "" {
			require.NoError(t, os.WriteFile(f.name, []byte(out), 0o644))
		}
	}
	for h, name := range hands {
		t.Logf("%s: %d of %d", name, some[h], all[h])
		assert.GreaterOrEqual(t, float64(some[h]), 0.65*float64(all[h]), name)
	}
}

// formFile is lines of four hands on one engine.
type formFile struct {
	name, on string
	x        *engine.Index
	lex      *quickline.Lexicon
	lines    []struct{ hand, line, want string }
}

func formFiles(t *testing.T) []formFile {
	names, err := filepath.Glob("testdata/forms/*.txt")
	require.NoError(t, err)
	require.NotEmpty(t, names)
	var out []formFile
	for _, name := range names {
		b, err := os.ReadFile(name)
		require.NoError(t, err)
		head, body, _ := strings.Cut(strings.TrimSpace(string(b)), "\n")
		f := formFile{name: name, on: strings.TrimPrefix(head, "# ")}
		d := fixture.Document(f.on)
		f.x = engine.NewIndex(&d.Engine)
		f.lex = quickline.NewLexicon(f.x)
		for l := range strings.SplitSeq(body, "\n") {
			line, want, _ := strings.Cut(l, " => ")
			hand, line, _ := strings.Cut(line, " ")
			require.Contains(t, hands, hand, l)
			f.lines = append(f.lines, struct{ hand, line, want string }{hand, line, want})
		}
		out = append(out, f)
	}
	return out
}

// A word that turns a line round, put anywhere into a line of another form, never goes missing:
// the line stays text, is asked about with the word in it, or the word stands on the page.
func TestFormsLoseNoWordThatTurnsThemRound(t *testing.T) {
	tried, read := 0, 0
	for _, f := range formFiles(t) {
		for _, l := range f.lines {
			if l.want == "text" || strings.HasPrefix(l.want, "? ") {
				continue
			}
			words := strings.Fields(l.line)
			for _, turn := range []string{"not", "never", "no", "without", "except", "unless", "only if", "but not", "instead of", "before", "after", "if", "until", "rather than", "about", "or", "do not", "avoid"} {
				for i := 0; i <= len(words); i++ {
					turned := strings.Join(words[:i], " ") + " " + turn + " " + strings.Join(words[i:], " ")
					if tried++; !holds(f.x, f.lex, turned, turn) {
						assert.Fail(t, became(f.x, f.lex, turned), "%q loses %q", turned, turn)
					} else if r := quickline.Read(f.lex, turned); r.Read() {
						read++
					}
				}
			}
		}
	}
	t.Logf("%d lines turned round, %d of them read with the word on the page", tried, read)
	assert.Greater(t, tried, 8000)
}

// holds reports whether a word of a line stands wherever the line went.
func holds(x *engine.Index, lex *quickline.Lexicon, line, word string) bool {
	r := quickline.Read(lex, line)
	has := func(s string) bool {
		s = strings.ToLower(s)
		// "until it is in" and "if not" are said as what they mean.
		return strings.Contains(s, word) || word == "until" && (strings.Contains(s, "onto") || strings.Contains(s, " to ")) || strings.Contains(word, "not") && strings.Contains(s, " out")
	}
	if r.Read() {
		return has(r.Sentence(x))
	}
	for _, c := range r.Choices {
		if !has(c) {
			return false
		}
	}
	return len(r.Parts) == 0 || has(strings.Join(r.Parts, " "))
}

// Lines that look like another form and are none: how something is found, where it goes beside
// the engine, whether it does. Each is text or asked about. Common practice, no source.
func TestLinesThatLookLikeAnotherForm(t *testing.T) {
	d := fixture.Document("renew-timing-belt-r3.latch.json")
	x := engine.NewIndex(&d.Engine)
	lex := quickline.NewLexicon(x)
	for _, line := range []string{
		"the crank pin is out", "The cam bar is fitted.", "the belt is fitted", "crank pin in?", "2 turns on the tensioner bolt", "half a turn on the idler bolt", "90° on the crank bolt", "two turns of the tensioner bolt",
		"idler bolt 39 Nm max", "idler bolt 39 Nm last time", "crank bolt 120", "old belt off", "leave the cam bar in for ten minutes", "leave the belt off for two hours", "hang on to the pulley for 10 seconds",
		"take the belt off one tooth", "put the pin in your pocket", "new belt on order", "is the battery off", "engine off", "crank clockwise", "tensioner bolt off the shelf", "crank pin out of its box",
		"cam bar in the vice", "battery on charge", "upper cover on the bench", "timing belt new in 2021", "check the belt is new", "spin the idler by hand", "the pump is turned by the belt", "the cam is locked by the bar",
		"the timing belt is driven by the crank", "the tensioner is set at the factory", "2 turns later the marks line up", "tensioner back to the store", "cover off the engine", "To tighten the crank bolt, use the flywheel lock",
		"With the crank pin in, the cam bar goes in", "give the crank bolt two turns", "torque the crank down to the mark", "try the starter", "four turns of the idler", "the sprocket bolts are tightened at the end",
		"crank pin in first, then the bar", "the crank bolt is renewed at every belt change", "the belt must be renewed every 5 years", "the idler bolt is tightened to 39 N·m at the factory", "belt on the wrong way round",
		"new belt on inside out", "pin out of the tensioner", "bar out halfway", "cam bar half out", "tensioner bolt loose enough", "the upper cover off and on", "idler off then on", "idler bolt 39 ft", "crk bolt 120 Nm, no lock",
		"holding the belt, tighten the idler bolt to 39 Nm", "holding the crank by hand, tighten the crank bolt to 120 Nm", "with two bolts, fit the upper cover", "to be removed: upper cover", "Check that before the crank pin is removed",
	} {
		r := quickline.Read(lex, line)
		_, text := r.Action.(*step.Do)
		assert.True(t, text, "%q is read as %q", line, r.Sentence(x))
	}
}
