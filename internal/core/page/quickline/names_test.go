package quickline_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"inklatch/internal/core/engine"
	"inklatch/internal/core/fixture"
	"inklatch/internal/core/page/lang/en"
	"inklatch/internal/core/page/quickline"
	"inklatch/internal/core/page/step"
)

// An engine sheet's own names for its things are read like the things' names.
func TestNamesOfTheSheetsOwn(t *testing.T) {
	d := fixture.Document("renew-timing-belt-r3.latch.json")
	s := d.Engine
	s.Names = []engine.OwnName{{ID: "a", Say: "dog bone", Of: "parts/engine-mount"}, {ID: "b", Say: "the grim reaper", Of: "locks/cam-bar"}}
	x := engine.NewIndex(&s)
	lex := quickline.NewLexicon(x)
	for line, want := range map[string]string{
		"remove the dog bone":                        "Remove the engine mount.",
		"fit the grim reaper":                        "Fit the cam bar by hand (TL-102).",
		"check that the grim reaper is out":          "Check that the cam bar is out.",
		"take out the crank pin and the grim reaper": "Take out the crank pin and the cam bar.",
	} {
		r := quickline.Read(lex, line)
		require.True(t, r.Read(), "%s: %s", line, r.Problem)
		assert.Equal(t, want, en.Sentence(x, r.Action))
	}
	out, err := engine.Apply(&s, []engine.Edit{{Path: "parts/engine-mount"}})
	require.NoError(t, err)
	assert.Len(t, out.Names, 1, "a name goes with its thing")
}

// A note or a caution in the quick line belongs to the step above it.
func TestAsides(t *testing.T) {
	_, lex := lexicon()
	for line, want := range map[string]struct {
		aside quickline.Aside
		text  string
	}{
		"note: keep the washers":       {quickline.NoteAside, "Keep the washers"},
		"Caution: hot parts.":          {quickline.CautionAside, "Hot parts"},
		"Caution: Caution: hot parts":  {quickline.CautionAside, "Hot parts"},
		"WARNING: spring force":        {quickline.CautionAside, "Spring force"},
		"3. Note: keep the washers":    {quickline.NoteAside, "Keep the washers"},
		"apply sealant to lower cover": {"", ""},
	} {
		r := quickline.Read(lex, line)
		assert.Equal(t, want.aside, r.Aside, line)
		if want.aside != "" {
			assert.True(t, r.Read())
			assert.Equal(t, want.text, r.Action.(*step.Do).Text)
		}
	}
	r := quickline.Read(lex, "note:")
	assert.False(t, r.Read())
}

// The opposite of a word is never offered, nor a word that only looks like it.
func TestOffersAreNeverTheOpposite(t *testing.T) {
	_, lex := lexicon()
	for _, line := range []string{"screw the plug", "hook up the belt", "lock the plug", "pin the plug", "fasten the mount", "unfit the bar"} {
		r := quickline.Read(lex, line)
		for _, c := range r.Choices {
			assert.NotRegexp(t, `^(un|slacken|loosen|remove|take|lock up)`, c, line)
		}
	}
}

func TestExamplesAreThisEnginesOwn(t *testing.T) {
	for _, f := range procedures {
		d := fixture.Document(f)
		x := engine.NewIndex(&d.Engine)
		lex := quickline.NewLexicon(x)
		lines := quickline.Examples(lex)
		assert.GreaterOrEqual(t, len(lines), 3, f)
		for _, l := range lines {
			r := quickline.Read(lex, l)
			assert.True(t, r.Read(), "%s: %s", f, l)
		}
	}
}

func BenchmarkRead(b *testing.B) {
	_, lex := lexicon()
	for b.Loop() {
		quickline.Read(lex, "tighten exhaust sprocket bolt 60 Nm + 90 deg hold with sprocket holder")
	}
}

func BenchmarkReadNotWhole(b *testing.B) {
	_, lex := lexicon()
	for b.Loop() {
		quickline.Read(lex, "tighten exhaust sproket bolt 60 Nm really firmly before lunch")
	}
}

func BenchmarkComplete(b *testing.B) {
	_, lex := lexicon()
	for b.Loop() {
		quickline.Complete(lex, "tighten exhaust sprocket bolt 60 Nm hold with sp")
	}
}
