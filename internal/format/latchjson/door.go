package latchjson

import (
	"fmt"
	"reflect"
	"regexp"
	"slices"
	"strings"
	"unicode"
	"unicode/utf8"

	"inklatch/internal/core/engine"
	"inklatch/internal/core/page/procedure"
	"inklatch/internal/core/page/step"
)

// The limits of what is taken in, through a file or through an edit. A real page
// is far below each of them.
const (
	MaxSteps = 2000
	// maxText is in bytes, maxList in entries.
	maxText = 4000
	maxList = 2000
	// maxFigure bounds every number with a fraction, maxCount every whole one
	// (build numbers run to ten figures), maxTurns what a step may turn.
	maxFigure = 1e6
	maxCount  = int64(1e12)
	maxTurns  = 1000
)

// codeShape is what an engine code looks like, idShape the id of a step or of a
// thing on a sheet.
var (
	codeShape = regexp.MustCompile(`^[A-Z0-9][A-Z0-9-]{1,19}$`)
	idShape   = regexp.MustCompile(`^[A-Za-z0-9][A-Za-z0-9._:+-]{0,63}$`)
)

// CheckCode holds an engine code against its shape: 2 to 20 capital letters,
// figures and hyphens. The error is an *Error.
func CheckCode(code string) error {
	if !codeShape.MatchString(code) {
		return &Error{"code", "an engine code has 2 to 20 capital letters, figures and hyphens, such as TQ4-18P"}
	}
	return nil
}

// CheckProcedure holds a procedure against what is taken in, whichever way it
// came: counts, sizes, finite figures, text that can be kept, ids of one shape
// that differ. Every error is an *Error with the place.
func CheckProcedure(p *procedure.Procedure) error { return checkProcedure(p, "") }

func checkProcedure(p *procedure.Procedure, at string) error {
	if strings.TrimSpace(p.Title) == "" || utf8.RuneCountInString(p.Title) > 300 {
		return &Error{at + "title", "a procedure needs a title of at most 300 letters"}
	}
	if strings.ContainsFunc(p.Title, unicode.IsControl) {
		return &Error{at + "title", "a title is one line"}
	}
	if len(p.Steps) > MaxSteps {
		return &Error{at + "steps", fmt.Sprintf("a procedure has at most %d steps", MaxSteps)}
	}
	if err := fits(p.Header, strings.TrimSuffix(at, ".")); err != nil {
		return err
	}
	seen := make(map[step.ID]int, len(p.Steps))
	for i := range p.Steps {
		s := &p.Steps[i]
		here := func() string { return fmt.Sprintf("%ssteps[%d]", at, i) }
		if !idShape.MatchString(string(s.ID)) {
			return &Error{here() + ".id", "a step's id has at most 64 letters, figures and . _ : + -"}
		}
		if first, dup := seen[s.ID]; dup {
			return &Error{here() + ".id", fmt.Sprintf("%q is the id of steps[%d] already", s.ID, first)}
		}
		seen[s.ID] = i
		if err := planFor(reflect.TypeFor[step.Step]()).hold(reflect.ValueOf(s).Elem()); err != nil {
			return err.in(here())
		}
		if s.Picture != step.UsualPicture && !slices.Contains(engine.ChoicesOf(reflect.TypeFor[step.Picture]()), string(s.Picture)) {
			return &Error{here() + ".picture", "the picture of a step is always or never, or left out"}
		}
	}
	return nil
}

// CheckText holds one text against what can be kept. The error is an *Error at
// the place.
func CheckText(s, at string, most int) error {
	if err := textFits(s, most); err != nil {
		return err.in(at)
	}
	return nil
}

func textFits(s string, most int) *Error {
	for i := range len(s) {
		if b := s[i]; b < ' ' && b != '\n' && b != '\t' || b >= 0x7f {
			return strangeText(s, most)
		}
	}
	if len(s) > most {
		return &Error{"", fmt.Sprintf("this is too long: at most %d letters", most)}
	}
	return nil
}

// strangeText looks at a text with more than plain letters in it.
func strangeText(s string, most int) *Error {
	switch {
	case !utf8.ValidString(s):
		return &Error{"", "this is not text: its bytes are no UTF-8"}
	case strings.ContainsFunc(s, func(r rune) bool { return r < ' ' && r != '\n' && r != '\t' || r == 0x7f }):
		return &Error{"", "a character here cannot be kept or printed"}
	case len(s) > most:
		return &Error{"", fmt.Sprintf("this is too long: at most %d letters", most)}
	}
	return nil
}

// ids holds the id of every thing on a sheet against the shape.
func ids(s *engine.Sheet, at string) error {
	v := reflect.ValueOf(s).Elem()
	for i := range v.NumField() {
		list := v.Field(i)
		if list.Kind() != reflect.Slice || list.Type().Elem().Kind() != reflect.Struct {
			continue
		}
		name, _, _ := strings.Cut(v.Type().Field(i).Tag.Get("json"), ",")
		for k := range list.Len() {
			id := list.Index(k).FieldByName("ID")
			if id.IsValid() && id.Kind() == reflect.String && id.String() != "" && !idShape.MatchString(id.String()) {
				return &Error{fmt.Sprintf("%s%s[%d].id", at, name, k), "an id has at most 64 letters, figures and . _ : + -"}
			}
		}
	}
	return nil
}
