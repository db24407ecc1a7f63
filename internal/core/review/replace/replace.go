// Package replace changes one term or one value wherever it stands on a page or an
// engine sheet, and says what each place would say then. A value is changed where it is
// that value, in a step or in words; a term where it stands as whole words. Things that
// a page names by what they are called on the sheet change with the sheet.
package replace

import (
	"errors"
	"fmt"
	"reflect"
	"slices"
	"strings"
	"unicode"
	"unicode/utf8"

	"inklatch/internal/core/engine"
	"inklatch/internal/core/page/lang/en"
	"inklatch/internal/core/page/procedure"
	"inklatch/internal/core/page/step"
	"inklatch/internal/core/review/redline"
	"inklatch/internal/core/unit"
)

// Change is one term or value and what it is to be.
type Change struct {
	from, to string
	// value is set where both are quantities of one kind.
	value bool
	was   unit.Quantity
	is    unit.Quantity
}

// Of reads what is to be changed. It is an error when one of the two is a value and the
// other is not, or one of another kind; when they are the same; or when one is empty.
func Of(from, to string) (*Change, error) {
	from, to = strings.TrimSpace(from), strings.TrimSpace(to)
	if from == "" || to == "" {
		return nil, errors.New("write what stands there now, and what is to stand there")
	}
	c := &Change{from: from, to: to}
	a, errA := unit.Judge(from)
	if errA == nil {
		to = unit.Bare(to, a.Unit) // “45” beside “42 N·m”
	}
	b, errB := unit.Judge(to)
	switch {
	case errA == nil && errB != nil:
		return nil, fmt.Errorf("%s is a value; what it becomes has to be one too, such as “%s”", a, example(a))
	case errA != nil && errB == nil && len(unit.Find(from)) == 0:
		return nil, fmt.Errorf("%s is a value, and “%s” is none", b, from)
	case errA == nil && a.Kind() != b.Kind():
		return nil, fmt.Errorf("%s and %s do not measure the same", a, b)
	case errA == nil:
		c.value, c.was, c.is = true, a, b
		c.from, c.to = a.String(), b.String()
	}
	if c.from == c.to {
		return nil, errors.New("both say the same")
	}
	return c, nil
}

func example(q unit.Quantity) string {
	q.Value++
	return q.First().String()
}

// Bare reports whether a value is one that engine sheets have as bare figures too, in
// degrees and millimetres: those are not looked at.
func (c *Change) Bare() bool {
	return c.value && (c.was.Kind() == unit.KindAngle || c.was.Kind() == unit.KindLength)
}

// Value reports whether a value is changed, and not a term.
func (c *Change) Value() bool { return c.value }

// From and To are both as they are written.
func (c *Change) From() string { return c.from }

// To is what it is to be.
func (c *Change) To() string { return c.to }

// Place is one place at which it stands: a step, what stands above the steps, or a
// thing of a sheet.
type Place struct {
	// Key names the place: a step's id, empty for what stands above the steps, or the
	// thing of the sheet, "fasteners/idler-bolt".
	Key string `json:"key"`
	// Number is the step's, from 1; Name the thing's.
	Number int    `json:"number,omitzero"`
	Name   string `json:"name,omitzero"`
	// Texts are what stands there now and what would stand there.
	Texts []Text `json:"texts"`
}

// Text is one text before and after.
type Text struct {
	What   string `json:"what"`
	Before string `json:"before"`
	After  string `json:"after"`
	// Words are both, word by word.
	Words []redline.Word `json:"words"`
}

// Became is a text and what it becomes.
func Became(what, before, after string) Text {
	return Text{what, before, after, redline.Words(before, after)}
}

// OnPage lists the places of a page at which it stands, and the edits that change those
// that wanted says yes to; nil stands for all. Two edits never touch one step. The page
// is not changed.
func (c *Change) OnPage(x *engine.Index, p *procedure.Procedure, wanted func(key string) bool) ([]Place, []procedure.Edit) {
	var places []Place
	var edits []procedure.Edit
	if h, texts := c.header(&p.Header); len(texts) > 0 {
		places = append(places, Place{Key: "", Texts: texts})
		if wanted == nil || wanted("") {
			edits = append(edits, procedure.Edit{Op: procedure.SetHeader, Header: h})
		}
	}
	for i := range p.Steps {
		s, texts := c.step(x, &p.Steps[i])
		if len(texts) == 0 {
			continue
		}
		places = append(places, Place{Key: string(s.ID), Number: i + 1, Texts: texts})
		if wanted == nil || wanted(string(s.ID)) {
			edits = append(edits, procedure.Edit{Op: procedure.Replace, Step: s})
		}
	}
	return places, edits
}

func (c *Change) header(h *procedure.Header) (*procedure.Header, []Text) {
	n := *h
	var texts []Text
	one := func(what string, s *string) {
		if after := c.words(*s); after != *s {
			texts = append(texts, Became(what, *s, after))
			*s = after
		}
	}
	list := func(what string, all *[]string) {
		*all = slices.Clone(*all)
		for i := range *all {
			one(what, &(*all)[i])
		}
	}
	one("title", &n.Title)
	one("purpose", &n.Purpose)
	one("applicability", &n.Applies.Note)
	one("people", &n.Prelims.People)
	one("goes on from", &n.After) // the titles of the pages beside it
	one("goes on in", &n.Before)
	list("condition", &n.Prelims.Conditions)
	list("supply", &n.Prelims.Supplies)
	if after, ok := c.quantity(n.Prelims.Time); ok {
		texts = append(texts, Became("time", n.Prelims.Time.String(), after.String()))
		n.Prelims.Time = after
	}
	return &n, texts
}

func (c *Change) step(x *engine.Index, s *step.Step) (*step.Step, []Text) {
	n := *s
	n.Action = step.Clone(s.Action)
	hit := c.quantities(reflect.ValueOf(n.Action).Elem())
	step.EachTurns(n.Action, func(v float64) float64 {
		if after, ok := c.quantity(unit.Of(v, unit.Turn)); ok && after.Plain() && after.Unit == unit.Turn {
			hit = true
			return after.Value
		}
		return v
	})
	step.EachText(n.Action, func(t string) string {
		after := c.words(t)
		hit = hit || after != t
		return after
	})
	n.Wording = c.words(s.Wording)
	var texts []Text
	if hit || n.Wording != s.Wording {
		texts = append(texts, Became("step", en.Full(x, s), en.Full(x, &n)))
	}
	if n.Note = c.words(s.Note); n.Note != s.Note {
		texts = append(texts, Became("note", s.Note, n.Note))
	}
	n.Cautions = slices.Clone(s.Cautions)
	for i := range n.Cautions {
		if k := &n.Cautions[i]; c.words(k.Text) != k.Text {
			texts = append(texts, Became("caution", k.Text, c.words(k.Text)))
			k.Text = c.words(k.Text)
		}
	}
	return &n, texts
}

// quantities changes every value of a struct that is the one; it reports whether there
// was one. Lists are written anew.
func (c *Change) quantities(v reflect.Value) bool {
	if !c.value {
		return false
	}
	hit := false
	switch v.Kind() {
	case reflect.Struct:
		if q, ok := v.Interface().(unit.Quantity); ok {
			if after, ok := c.quantity(q); ok {
				v.Set(reflect.ValueOf(after))
				return true
			}
			return false
		}
		for i := range v.NumField() {
			if v.Type().Field(i).IsExported() {
				hit = c.quantities(v.Field(i)) || hit
			}
		}
	case reflect.Slice:
		if v.Type().Elem().Kind() != reflect.Struct || v.Len() == 0 {
			return false
		}
		own := reflect.MakeSlice(v.Type(), v.Len(), v.Len())
		reflect.Copy(own, v)
		for i := range own.Len() {
			hit = c.quantities(own.Index(i)) || hit
		}
		if hit {
			v.Set(own)
		}
	case reflect.Pointer:
		if v.IsNil() || v.Elem().Kind() != reflect.Struct {
			return false
		}
		own := reflect.New(v.Elem().Type())
		own.Elem().Set(v.Elem())
		if hit = c.quantities(own.Elem()); hit {
			v.Set(own)
		}
	}
	return hit
}

// quantity is what a value becomes; false for another one. A second figure beside it
// was worked out from the first, and goes.
func (c *Change) quantity(q unit.Quantity) (unit.Quantity, bool) {
	if !c.value || q.IsZero() || q != c.was && q.First() != c.was.First() {
		return q, false
	}
	return c.is, true
}

// words is a text with the term or value changed wherever it stands.
func (c *Change) words(s string) string {
	if s == "" {
		return s
	}
	if c.value {
		return c.figures(s)
	}
	var b strings.Builder
	for {
		i := indexWord(s, c.from)
		if i < 0 {
			break
		}
		end := i + len(c.from)
		was := s[i:end]
		b.WriteString(s[:i])
		to := c.to
		if n := plural(s[end:]); n > 0 {
			if !en.PluralName(c.to) {
				to += s[end : end+n]
			}
			end += n
		}
		b.WriteString(as(was, c.from, to))
		s = s[end:]
	}
	b.WriteString(s)
	return b.String()
}

// figures is a text with the value changed where it is written as a figure with its
// unit.
func (c *Change) figures(s string) string {
	var b strings.Builder
	at := 0
	for _, m := range unit.Find(s) {
		if m.Problem != "" {
			continue
		}
		if after, ok := c.quantity(m.Quantity); ok {
			b.WriteString(s[at:m.Start])
			b.WriteString(after.String())
			at = m.End
		}
	}
	b.WriteString(s[at:])
	return b.String()
}

// indexWord is where a term stands in a text as whole words, in capital or small
// letters; −1 for nowhere.
func indexWord(s, term string) int {
	for from := 0; from+len(term) <= len(s); {
		i := from
		if !strings.EqualFold(s[i:i+len(term)], term) {
			_, w := utf8.DecodeRuneInString(s[from:])
			from += w
			continue
		}
		before, _ := utf8.DecodeLastRuneInString(s[:i])
		rest := s[i+len(term):]
		after, _ := utf8.DecodeRuneInString(rest[plural(rest):])
		if !joins(before) && (!joins(after) || possessive(rest[plural(rest):])) {
			return i
		}
		_, w := utf8.DecodeRuneInString(s[from:])
		from += w
	}
	return -1
}

// plural is the length of the ending that makes a term mean several, with which a text
// goes on: crank pins, and CRANK PINS.
func plural(rest string) int {
	if rest == "" || rest[0] != 's' && rest[0] != 'S' {
		return 0
	}
	if after, _ := utf8.DecodeRuneInString(rest[1:]); joins(after) && !possessive(rest[1:]) {
		return 0
	}
	return 1
}

// possessive reports whether a text goes on with the ending of what belongs to somebody:
// the crank pin’s bore, the crank pins’ bores.
func possessive(rest string) bool {
	r, w := utf8.DecodeRuneInString(rest)
	if r != '\'' && r != '’' {
		return false
	}
	s, n := utf8.DecodeRuneInString(rest[w:])
	if s == 's' || s == 'S' {
		s, _ = utf8.DecodeRuneInString(rest[w+n:])
	}
	return !unicode.IsLetter(s) && !unicode.IsDigit(s)
}

// joins reports whether a letter beside a term makes it part of a longer one.
func joins(r rune) bool {
	return r != utf8.RuneError && (unicode.IsLetter(r) || unicode.IsDigit(r) || r == '-' || r == '\'' || r == '’')
}

// as writes the new term as the old one stood there: with a capital where only the
// sentence asked for it, in capitals where all of it is.
func as(was, from, to string) string {
	a, _ := utf8.DecodeRuneInString(was)
	b, _ := utf8.DecodeRuneInString(from)
	c, w := utf8.DecodeRuneInString(to)
	if was != from && len(was) > 1 && was == strings.ToUpper(was) && was != strings.ToLower(was) && from == strings.ToLower(from) {
		return strings.ToUpper(to) // all of it stands in capitals
	}
	if was != from && unicode.IsUpper(a) && unicode.IsLower(b) {
		return string(unicode.ToUpper(c)) + to[w:]
	}
	return to
}
