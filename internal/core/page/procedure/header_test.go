package procedure_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"inklatch/internal/core/engine"
	"inklatch/internal/core/page/procedure"
)

// heading draws a header from a few words, so that fields are often the same.
func heading(t *rapid.T, name string) *procedure.Header {
	word := rapid.SampledFrom([]string{"", "a", "b"})
	list := rapid.SliceOfN(word, 0, 2)
	h := &procedure.Header{Title: word.Draw(t, name+" title"), Engine: "TQ4-18P", Purpose: word.Draw(t, name+" purpose")}
	h.Applies.Note = word.Draw(t, name+" note")
	h.Applies.Years = engine.Years{From: rapid.IntRange(2019, 2020).Draw(t, name+" from")}
	h.Prelims.People = word.Draw(t, name+" people")
	h.Prelims.Conditions = list.Draw(t, name+" conditions")
	h.Prelims.Supplies = list.Draw(t, name+" supplies")
	return h
}

// A change that is taken back from where it led is where it came from; taken
// back from where somebody else has changed other fields, theirs stay.
func TestHeaderBack(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		before, after, theirs := heading(t, "before"), heading(t, "after"), heading(t, "theirs")
		back, err := procedure.HeaderBack(after, before, after)
		require.NoError(t, err)
		assert.Equal(t, before.Title, back.Title)
		assert.Equal(t, before.Applies, back.Applies)
		assert.Equal(t, len(before.Prelims.Conditions), len(back.Prelims.Conditions))

		// Somebody else sets what this change left alone.
		now := *after
		if before.Title == after.Title {
			now.Title = theirs.Title
		}
		if before.Purpose == after.Purpose {
			now.Purpose = theirs.Purpose
		}
		if before.Prelims.People == after.Prelims.People {
			now.Prelims.People = theirs.Prelims.People
		}
		back, err = procedure.HeaderBack(&now, before, after)
		require.NoError(t, err)
		if before.Title == after.Title {
			assert.Equal(t, theirs.Title, back.Title)
		} else {
			assert.Equal(t, before.Title, back.Title)
		}
		if before.Prelims.People == after.Prelims.People {
			assert.Equal(t, theirs.Prelims.People, back.Prelims.People)
		}

		// And when they set the very same field, it is theirs.
		if before.Purpose != after.Purpose {
			now.Purpose = after.Purpose + "!"
			_, err = procedure.HeaderBack(&now, before, after)
			assert.ErrorContains(t, err, "the purpose has been changed again")
		}
	})
}
