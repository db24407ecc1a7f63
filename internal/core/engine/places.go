package engine

import (
	"slices"
	"strings"
)

func placeWords(s string) []string {
	return strings.FieldsFunc(strings.ToLower(s), func(r rune) bool { return !(r >= 'a' && r <= 'z' || r >= '0' && r <= '9') })
}

// smallWords are words of a place that tell no two of them apart.
var smallWords = []string{"the", "its", "a", "an", "is", "stands", "stand", "until", "till", "so", "that", "pointer", "in", "on", "at", "of", "to", "with", "meets", "and", "it", "points"}

// tells are the words of a place that tell it from the others of its tensioner.
func (t *Tensioner) tells(place string) []string {
	var out []string
	for _, w := range placeWords(place) {
		if slices.Contains(smallWords, w) {
			continue
		}
		common := true
		for _, o := range t.Pointer {
			common = common && slices.Contains(placeWords(o.Place), w)
		}
		if !common {
			out = append(out, w)
		}
	}
	return out
}

// SaysPlace reports whether words name a place of the pointer and none of the others: what
// tells it apart is in them, and nothing that tells another one apart.
func (t *Tensioner) SaysPlace(words, place string) bool {
	have := placeWords(words)
	mine := t.tells(place)
	for _, w := range mine {
		if !slices.Contains(have, w) {
			return false
		}
	}
	for _, o := range t.Pointer {
		for _, w := range t.tells(o.Place) {
			if slices.Contains(have, w) && !slices.Contains(mine, w) {
				return false
			}
		}
	}
	return true
}

// KnowsPlace reports whether words share anything of weight with a place of the pointer.
func (t *Tensioner) KnowsPlace(words string) bool {
	have := placeWords(words)
	return slices.ContainsFunc(t.Pointer, func(p PointerAt) bool {
		return slices.ContainsFunc(placeWords(p.Place), func(w string) bool {
			return !slices.Contains(smallWords, w) && slices.Contains(have, w)
		})
	})
}

// PlaceNamed is the place of the pointer that words name, as the sheet has it; false where
// they name none, more than one, or say anything beside it.
func (t *Tensioner) PlaceNamed(words string) (string, bool) {
	if !t.KnowsPlace(words) {
		return "", false
	}
	found := ""
	for _, p := range t.Pointer {
		if !t.SaysPlace(words, p.Place) || p.Place == found {
			continue
		}
		if found != "" {
			return "", false
		}
		found = p.Place
	}
	own := placeWords(found)
	for _, w := range placeWords(words) {
		if !slices.Contains(smallWords, w) && !slices.Contains(own, w) {
			return "", false
		}
	}
	return found, found != ""
}
