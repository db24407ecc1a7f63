// Package message keeps what a finding says apart from the words it is said in: the
// sentence with places for what it speaks of, which is its id, and what stands
// there. A catalogue in another language is one from these ids to sentences with the
// same places.
package message

import (
	"fmt"
	"slices"
	"strings"
	"unicode/utf8"
)

// Text is a sentence.
type Text struct {
	// ID is the sentence in English with a place, %s or %d, for each of Args, in order.
	ID   string   `json:"id"`
	Args []string `json:"args,omitempty"`
}

// F is a sentence with places, as fmt has them, and what stands there.
func F(id string, args ...any) Text {
	t := Text{ID: id}
	for _, a := range args {
		t.Args = append(t.Args, fmt.Sprint(a))
	}
	return t
}

// As is words that are said as they are.
func As(words string) Text { return Text{ID: "%s", Args: []string{words}} }

// And is a sentence followed by another.
func (t Text) And(o Text) Text {
	return Text{t.ID + o.ID, append(append([]string{}, t.Args...), o.Args...)}
}

// Lower is the sentence as it goes on behind a colon: its first letter small.
func (t Text) Lower() Text {
	if len(t.Args) > 0 && strings.HasPrefix(t.ID, "%s") {
		t.Args = slices.Clone(t.Args)
		t.Args[0] = lower(t.Args[0])
		return t
	}
	t.ID = lower(t.ID)
	return t
}

func lower(s string) string {
	_, n := utf8.DecodeRuneInString(s)
	return strings.ToLower(s[:n]) + s[n:]
}

// String is the sentence in English.
func (t Text) String() string { return t.In(nil) }

// In is the sentence in the words of a catalogue, in English where it has none.
func (t Text) In(catalogue map[string]string) string {
	id := t.ID
	if other, ok := catalogue[id]; ok {
		id = other
	}
	out, arg := make([]byte, 0, len(id)+16), 0
	for i := 0; i < len(id); i++ {
		if id[i] != '%' || i+1 == len(id) {
			out = append(out, id[i])
			continue
		}
		switch i++; id[i] {
		case '%':
			out = append(out, '%')
		default:
			if arg < len(t.Args) {
				out = append(out, t.Args[arg]...)
			}
			arg++
		}
	}
	return string(out)
}

// Places is how many places a sentence has.
func Places(id string) int {
	n := 0
	for i := 0; i+1 < len(id); i++ {
		if id[i] == '%' {
			if id[i+1] != '%' {
				n++
			}
			i++
		}
	}
	return n
}
