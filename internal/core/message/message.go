// Package message keeps what a finding says apart from the words it is said in: the
// sentence with places for what it speaks of, which is its id, and what stands
// there. A catalogue in another language is one from these ids to sentences with the
// same places.
package message

import (
	"fmt"
	"slices"
	"strings"
	"unicode"
	"unicode/utf8"

	"inklatch/internal/core/unit"
)

// Text is a sentence.
type Text struct {
	// ID is the sentence in English with a place, %s or %d, for each of Args, in order.
	ID   string `json:"id"`
	Args []Arg  `json:"args,omitempty"`
}

// Kind is what an argument is.
type Kind uint8

// The kinds of argument.
const (
	// Words are said as they are: names people gave, and what they wrote.
	Words Kind = iota
	// Thing is a thing of an engine sheet; Ref is its path, such as locks/cam-pin.
	Thing
	// Step is a step of a page; Ref is its id. Its number says where it stands now.
	Step
	// Count is a whole number.
	Count
	// Figure is a quantity with its unit.
	Figure
	// Phrase is a message within another, Says.
	Phrase
)

// Arg is what stands in one place of a sentence, in the form of files its words.
type Arg struct {
	Kind Kind
	// Ref tells a thing or a step from any other, whatever it is called now.
	Ref  string
	Text string
	// Says is the message that stands here, for a phrase.
	Says *Text
}

// Named is a thing of the sheet by its path and the name it is called by.
func Named(path, name string) Arg { return Arg{Kind: Thing, Ref: path, Text: name} }

// StepAt is a step by its id, said in words such as “Step 4” or as its number.
func StepAt(id, words string) Arg { return Arg{Kind: Step, Ref: id, Text: words} }

// String is what is said.
func (a Arg) String() string { return a.Text }

// MarshalText writes what is said.
func (a Arg) MarshalText() ([]byte, error) { return []byte(a.Text), nil }

// UnmarshalText reads words.
func (a *Arg) UnmarshalText(b []byte) error {
	*a = Arg{Text: string(b)}
	return nil
}

// F is a sentence with places, as fmt has them, and what stands there.
func F(id string, args ...any) Text {
	t := Text{ID: id}
	for _, a := range args {
		switch v := a.(type) {
		case Arg:
			t.Args = append(t.Args, v)
		case Text:
			t.Args = append(t.Args, Arg{Kind: Phrase, Text: v.String(), Says: &v})
		case unit.Quantity:
			t.Args = append(t.Args, Arg{Kind: Figure, Text: v.String()})
		case int, int64:
			t.Args = append(t.Args, Arg{Kind: Count, Text: fmt.Sprint(v)})
		default:
			t.Args = append(t.Args, Arg{Text: fmt.Sprint(v)})
		}
	}
	return t
}

// As is words that are said as they are.
func As(words string) Text { return Text{ID: "%s", Args: []Arg{{Text: words}}} }

// And is a sentence followed by another.
func (t Text) And(o Text) Text {
	return Text{t.ID + o.ID, slices.Concat(t.Args, o.Args)}
}

// Of is what a sentence speaks of, whatever things are called and wherever steps
// stand: its id with the things in it, and without the numbers of steps.
func (t Text) Of() string {
	var b strings.Builder
	b.WriteString(t.ID)
	for _, a := range t.Args {
		switch a.Kind {
		case Thing:
			b.WriteString("|" + a.Ref)
		case Step:
		default:
			b.WriteString("|" + strings.ToLower(a.Text))
		}
	}
	return b.String()
}

// Lower is the sentence as it goes on behind a colon: its first letter small.
func (t Text) Lower() Text {
	if len(t.Args) > 0 && strings.HasPrefix(t.ID, "%s") {
		t.Args = slices.Clone(t.Args)
		t.Args[0].Text = lower(t.Args[0].Text)
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
				said := t.Args[arg].Text
				if in := t.Args[arg].Says; in != nil && catalogue != nil {
					said = in.In(catalogue)
				}
				out = append(out, said...)
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

// Capital is a sentence with a capital at its start.
func Capital(s string) string {
	r, w := utf8.DecodeRuneInString(s)
	if w == 0 || !unicode.IsLower(r) {
		return s
	}
	return string(unicode.ToUpper(r)) + s[w:]
}
