package engine

import (
	"cmp"
	"encoding/json"
	"fmt"
	"slices"
	"strings"
)

// When says which engines of a code a case is for. Every part left empty
// stands for all.
type When struct {
	// Years is a closed range of model years.
	Years Years `json:"years,omitzero"`
	// Builds is a closed range of build numbers.
	Builds Builds `json:"builds,omitzero"`
	// With and Without name options of the sheet.
	With    []string `json:"with,omitzero"`
	Without []string `json:"without,omitzero"`
}

// Builds is a closed range of build numbers; To 0 means still made.
type Builds struct {
	From int `json:"from,omitzero"`
	To   int `json:"to,omitzero"`
}

// Case is one way a thing of the sheet is, for some engines of the code.
type Case struct {
	When When `json:"when"`
	// Set is a JSON merge patch (RFC 7386) on the thing.
	Set map[string]json.RawMessage `json:"set"`
	// Unfitted is set where these engines do not have the thing at all.
	Unfitted bool `json:"unfitted,omitzero"`
}

// Variation is a thing of the sheet that is not the same on every engine of
// the code. Its cases must neither overlap nor leave a gap.
type Variation struct {
	ID string `json:"id"`
	// Of is the thing: "fasteners/idler-bolt".
	Of    string `json:"of"`
	Cases []Case `json:"cases"`
}

// Car is one engine as somebody has it in front of them.
type Car struct {
	Year    int      `json:"year"`
	Build   int      `json:"build,omitzero"`
	Options []string `json:"options,omitempty"`
}

// Covers reports whether the case is for a car.
func (w When) Covers(c Car) bool {
	switch {
	case w.Years.From > 0 && c.Year < w.Years.From, w.Years.To > 0 && c.Year > w.Years.To:
		return false
	case w.Builds.From > 0 && c.Build < w.Builds.From, w.Builds.To > 0 && c.Build > w.Builds.To:
		return false
	}
	for _, o := range w.With {
		if !slices.Contains(c.Options, o) {
			return false
		}
	}
	return !slices.ContainsFunc(w.Without, func(o string) bool { return slices.Contains(c.Options, o) })
}

// All reports whether the case is for every engine of the code.
func (w When) All() bool {
	return w.Years == (Years{}) && w.Builds == (Builds{}) && len(w.With)+len(w.Without) == 0
}

// String is the case in words: "2019–2021, with cold pack".
func (w When) String() string {
	var parts []string
	if w.Years != (Years{}) {
		parts = append(parts, span(w.Years.From, w.Years.To, ""))
	}
	if w.Builds != (Builds{}) {
		parts = append(parts, span(w.Builds.From, w.Builds.To, "build "))
	}
	for _, o := range w.With {
		parts = append(parts, "with "+o)
	}
	for _, o := range w.Without {
		parts = append(parts, "without "+o)
	}
	if len(parts) == 0 {
		return "all"
	}
	return strings.Join(parts, ", ")
}

func span(from, to int, name string) string {
	switch {
	case from == 0:
		return fmt.Sprintf("up to %s%d", name, to)
	case to == 0:
		return fmt.Sprintf("from %s%d", name, from)
	case from == to:
		return fmt.Sprintf("%s%d", name, from)
	}
	return fmt.Sprintf("%s%d–%d", name, from, to)
}

// Uncovered is a car that no case, or more than one, is for.
type Uncovered struct {
	Car   Car
	Cases []int
}

// maxOptions is how many options one variation may speak of: the check tries
// every combination. maxTried is how many cases it holds against how many engines.
const (
	maxOptions = 10
	maxTried   = 2_000_000
)

// lastYear stands for "still made" when cells of years are laid out; the
// calendar of no engine sheet reaches it.
const lastYear = 9999

// Check finds the first car inside the code's own range that no case covers
// and the first that two cover; nil for none. Years, builds and options are cut
// where any case begins or ends, so that trying one car of each cell tries all.
// It is an error for a variation to speak of more than ten options, or of more engines
// than can be tried.
func (v *Variation) Check(s *Sheet) (gap, overlap *Uncovered, err error) {
	from, to := s.Years.From, s.Years.To
	if to == 0 {
		to = lastYear
	}
	years, builds := []int{from}, []int{1}
	var options []string
	for _, c := range v.Cases {
		years = append(years, c.When.Years.From, next(c.When.Years.To))
		builds = append(builds, c.When.Builds.From, next(c.When.Builds.To))
		options = append(append(options, c.When.With...), c.When.Without...)
	}
	years = sorted(years, from, to)
	builds = sorted(builds, 1, 1<<60)
	slices.Sort(options)
	options = slices.Compact(options)
	if len(options) > maxOptions {
		return nil, nil, fmt.Errorf("%d options in one list of cases are too many to be checked; at most %d", len(options), maxOptions)
	}
	if engines := (len(years) * len(builds)) << len(options); engines*len(v.Cases) > maxTried {
		return nil, nil, fmt.Errorf("%d cases and %d different engines in one list of cases are too many to be checked", len(v.Cases), engines)
	}
	for _, y := range years {
		for _, b := range builds {
			for set := range 1 << len(options) {
				car := Car{Year: y, Build: b}
				for i, o := range options {
					if set>>i&1 == 1 {
						car.Options = append(car.Options, o)
					}
				}
				hit := v.covering(car)
				switch {
				case len(hit) == 0 && gap == nil:
					gap = &Uncovered{car, hit}
				case len(hit) > 1 && overlap == nil:
					overlap = &Uncovered{car, hit}
				}
			}
		}
	}
	return gap, overlap, nil
}

func next(n int) int {
	if n == 0 {
		return 0
	}
	return n + 1
}

// sorted keeps the cuts inside a range, each once.
func sorted(cuts []int, from, to int) []int {
	cuts = slices.DeleteFunc(cuts, func(n int) bool { return n < from || n > to })
	slices.Sort(cuts)
	return slices.Compact(cuts)
}

func (v *Variation) covering(c Car) []int {
	hit := []int{}
	for i := range v.Cases {
		if v.Cases[i].When.Covers(c) {
			hit = append(hit, i)
		}
	}
	return hit
}

// Lacking is the case by which an engine does not have the thing of a variation; nil where
// it has it.
func (v *Variation) Lacking(c Car) *Case {
	for _, i := range v.covering(c) {
		if v.Cases[i].Unfitted {
			return &v.Cases[i]
		}
	}
	return nil
}

// Thing is the thing of a variation.
func (v *Variation) Thing() Ref {
	list, id, _ := strings.Cut(v.Of, "/")
	if k := KindOn(list); k != nil {
		return Ref{Kind: k.Kind, ID: id}
	}
	return Ref{}
}

// For is the sheet as it holds for one car: every variation is settled and
// gone. It is an error when the car is outside the code's years, or when no
// case, or more than one, covers it.
func (s *Sheet) For(c Car) (*Sheet, error) {
	if !s.madeIn(c.Year) {
		return nil, fmt.Errorf("%s was made %s; %d is outside", s.Code, span(s.Years.From, s.Years.To, ""), c.Year)
	}
	var edits []Edit
	for i := range s.Varies {
		v := &s.Varies[i]
		hit := v.covering(c)
		if len(hit) != 1 {
			return nil, fmt.Errorf("%s: %d cases cover %s, not one", v.Of, len(hit), c)
		}
		if v.Cases[hit[0]].Unfitted {
			edits = append(edits, Edit{Path: v.Of})
			continue
		}
		for key, value := range v.Cases[hit[0]].Set {
			edits = append(edits, Edit{Path: v.Of + "/" + key, Value: value})
		}
	}
	// What is not there goes last: another case may still be of it.
	slices.SortFunc(edits, func(a, b Edit) int {
		return cmp.Or(cmp.Compare(len(b.Value), 0)-cmp.Compare(len(a.Value), 0), strings.Compare(a.Path, b.Path))
	})
	out, err := Apply(s, edits)
	if err != nil {
		return nil, err
	}
	out.Varies = nil
	return out, nil
}

// madeIn reports whether the code was made in a year.
func (s *Sheet) madeIn(year int) bool {
	return year >= s.Years.From && (s.Years.To == 0 || year <= s.Years.To)
}

// String is the car in words.
func (c Car) String() string {
	parts := []string{fmt.Sprint(c.Year)}
	if c.Build > 0 {
		parts = append(parts, fmt.Sprintf("build %d", c.Build))
	}
	for _, o := range c.Options {
		parts = append(parts, "with "+o)
	}
	return strings.Join(parts, ", ")
}
