// Package house is what a house decides for itself: its schools where practitioners disagree,
// its limits, what its rules weigh, which latches a page needs, which mistakes it has to catch.
package house

import (
	"fmt"
	"io"
	"maps"
	"slices"
	"strings"

	"github.com/go-json-experiment/json"

	"inklatch/internal/core/drill"
	"inklatch/internal/core/proof/finding"
	"inklatch/internal/core/proof/pageproof"
	"inklatch/internal/core/proof/sheetproof"
	"inklatch/internal/core/review/latch"
)

// Rules are all that a house chooses. In JSON they are one object.
type Rules struct {
	Proof   finding.House `json:",embed"`
	Latches latch.House   `json:",embed"`
	// Drill is what it says of the kinds of mistake.
	Drill drill.House `json:"drill,omitempty"`
}

// Default are the rules before anybody chooses.
func Default() Rules {
	return Rules{Proof: finding.DefaultHouse(), Latches: latch.DefaultHouse()}
}

// mostRules is how long rules may be, bytes, and the most words that are listed as vague.
const (
	mostRules = 1 << 20
	mostVague = 200
	vagueLong = 60
)

// Read reads rules as JSON; what is not there is as in Default. A name that is none is an
// error, and so is a value that Check refuses.
func Read(r io.Reader) (Rules, error) {
	out := Default()
	b, err := io.ReadAll(io.LimitReader(r, mostRules+1))
	if err != nil {
		return out, err
	}
	if len(b) > mostRules {
		return out, fmt.Errorf("house rules are at most %d bytes long", mostRules)
	}
	if err := out.UnmarshalJSON(b); err != nil {
		return out, fmt.Errorf("these are no house rules: %w", err)
	}
	wrong := out.Check()
	for _, field := range slices.Sorted(maps.Keys(wrong)) {
		return out, fmt.Errorf("%s: %s", field, wrong[field])
	}
	return out, nil
}

// Write writes rules as JSON, the same for the same rules.
func (r *Rules) Write() ([]byte, error) { return r.MarshalJSON() }

// plain are rules without their methods.
type plain Rules

// MarshalJSON writes rules as one object, for every JSON library.
func (r Rules) MarshalJSON() ([]byte, error) {
	return json.Marshal(plain(r), json.Deterministic(true))
}

// UnmarshalJSON reads rules over those that are there. A name that is none is an error.
func (r *Rules) UnmarshalJSON(b []byte) error {
	return json.Unmarshal(b, (*plain)(r), json.RejectUnknownMembers(true))
}

// Check says what is wrong with rules, in sentences, by the name of the value; none for
// nothing.
func (r *Rules) Check() map[string]string {
	out := map[string]string{}
	for i := range Questions {
		q := &Questions[i]
		if v := q.of(r); !slices.ContainsFunc(q.Choices, func(c Choice) bool { return c.ID == v }) {
			out[q.ID] = fmt.Sprintf("“%s” is no choice here.", v)
		}
	}
	for i := range Limits {
		l := &Limits[i]
		if v := l.of(r); !(v >= l.Least && v <= l.Most) || l.Whole && v != float64(int(v)) {
			out[l.ID] = l.bounds()
		}
	}
	known := map[string]bool{}
	for _, s := range Severities() {
		known[s.ID] = true
	}
	for id, s := range r.Proof.Severities {
		switch {
		case !known[id]:
			out["severities/"+id] = "There is no such rule."
		case s.Rank() < 0:
			out["severities/"+id] = "A rule blocks, should be fixed, or is to be checked."
		}
	}
	for i, w := range r.Proof.Vague {
		switch t := strings.TrimSpace(w); {
		case len(r.Proof.Vague) > mostVague:
			out["vague"] = fmt.Sprintf("At most %d words.", mostVague)
		case t == "" || len(t) > vagueLong:
			out["vague"] = fmt.Sprintf("A word or phrase has 1 to %d letters.", vagueLong)
		case slices.ContainsFunc(r.Proof.Vague[:i], func(o string) bool { return strings.EqualFold(strings.TrimSpace(o), t) }):
			out["vague"] = fmt.Sprintf("“%s” stands there twice.", t)
		}
	}
	for id, says := range r.Drill.Check() {
		out["drill/"+id] = says
	}
	return out
}

// Weighed is a rule with what it weighs when nobody chooses.
type Weighed struct {
	// ID is as a house's severities name it: sheet:ID for one of engine sheets.
	ID       string           `json:"id"`
	Family   string           `json:"family"`
	Doc      string           `json:"doc"`
	Severity finding.Severity `json:"severity"`
	// Sheet is set for a rule of engine sheets.
	Sheet bool `json:"sheet,omitzero"`
}

// Severities are all rules of pages and sheets.
func Severities() []Weighed {
	var out []Weighed
	for _, r := range pageproof.Rules() {
		out = append(out, Weighed{r.ID, r.Family, r.Doc, r.Severity, false})
	}
	for _, r := range sheetproof.Rules() {
		out = append(out, Weighed{sheetproof.HousePrefix + r.ID, r.Family, r.Doc, r.Severity, true})
	}
	return out
}
