package store_test

import (
	"context"
	"strings"
	"sync"
	"sync/atomic"
	"testing"
	"unicode"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"golang.org/x/text/unicode/norm"
	"pgregory.net/rapid"

	"inklatch/internal/store"
	"inklatch/internal/store/pgtest"
)

// Names as people have them are kept as they are; those with signs nobody sees are not.
// RFC 8266, section 2, and Unicode's general categories.
func TestNamesAsTheyAreKept(t *testing.T) {
	for given, kept := range map[string]string{
		"Ines Okafor": "Ines Okafor", "  Ines \t Okafor ": "Ines Okafor", "Ｉｎｅｓ": "Ines", "Jean-Luc d’Arc": "Jean-Luc d’Arc", "Ægir Þórsson": "Ægir Þórsson",
		"山田 太郎": "山田 太郎", "O'Neil": "O'Neil", "Zoe\u0308": "Zoë", "Henrik ⅠⅠ": "Henrik II", "X Æ 12": "X Æ 12",
	} {
		got, err := store.Name(given)
		require.NoError(t, err, given)
		assert.Equal(t, kept, got, given)
	}
	for _, given := range []string{"", " ", "42", "…", "In\u200bes", "\u202eseni", "Ines\u2066", "In\u00ades", "Ines\ufe0f", "Ines\u0007", "Ines\u2028Okafor\u2029!"} {
		got, err := store.Name(given)
		if err == nil { // a line separator is a space
			assert.NotContains(t, got, "\u2028", given)
			continue
		}
		assert.ErrorIs(t, err, store.ErrName, "%q", given)
	}
}

// Whatever is typed, a name that is kept is kept again as it is, and has nothing in it
// that nobody sees.
func TestNamesByProperty(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		given := rapid.String().Draw(t, "name")
		kept, err := store.Name(given)
		if err != nil {
			assert.Empty(t, kept)
			return
		}
		again, err := store.Name(kept)
		assert.NoError(t, err)
		assert.Equal(t, kept, again)
		assert.True(t, norm.NFKC.IsNormalString(kept))
		assert.NotContains(t, kept, "  ")
		assert.Equal(t, strings.TrimSpace(kept), kept)
		for _, r := range kept {
			assert.False(t, unicode.Is(unicode.Cf, r) || unicode.Is(unicode.Cc, r), "%q", kept)
		}
	})
}

// Two who take one name at the same moment, or names that look alike, are never both let
// in, and everybody else is.
func TestNamesAreOnesOwnUnderARace(t *testing.T) {
	s, err := store.Open(t.Context(), pgtest.Config(t))
	require.NoError(t, err)
	t.Cleanup(func() { s.Close() })
	add := func(name, email string) error {
		return s.AddPerson(context.Background(), &store.Person{Name: name, Email: email, Roles: "reader"}, 0)
	}
	alike := []string{"Rosa Nilsson", "rosa nilsson", "ROSA NILSSON", "Rоsa Nilsson" /* Cyrillic o */, "Rosa Ni1sson", "Rosa  Nilsson"}
	var in, taken atomic.Int64
	var wg sync.WaitGroup
	for i, name := range alike {
		wg.Go(func() {
			switch err := add(name, string(rune('a'+i))+"@tarn.example"); {
			case err == nil:
				in.Add(1)
			case assert.ErrorIs(t, err, store.ErrNameTaken, name):
				taken.Add(1)
			}
		})
	}
	wg.Wait()
	assert.EqualValues(t, 1, in.Load(), "one of them")
	assert.EqualValues(t, len(alike)-1, taken.Load())
	for i, name := range []string{"Rosa Nilson", "Rosa N. Nilsson", "Rose Nilsson", "Nilsson Rosa", "Rosa"} {
		require.NoError(t, add(name, string(rune('q'+i))+"@tarn.example"), name)
	}
}
