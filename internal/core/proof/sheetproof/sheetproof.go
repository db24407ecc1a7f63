// Package sheetproof proves an engine sheet the way package pageproof proves a
// procedure: small rules in families, each finding one sentence with its place
// on the sheet and, where there is one, a mend that can be taken with a key.
package sheetproof

import (
	"encoding/json"
	"fmt"
	"math"
	"slices"
	"strconv"
	"strings"

	"inklatch/internal/core/engine"
	"inklatch/internal/core/engine/route"
	"inklatch/internal/core/message"
	"inklatch/internal/core/proof/pageproof"
)

// Mend is a set of edits that would settle a finding.
type Mend struct {
	Label string        `json:"label"`
	Edits []engine.Edit `json:"edits"`
}

// Edition names the rules as they are; whoever changes what one finds changes it.
const Edition = "6"

// Finding is one sentence about a sheet. On is the path of the thing or value
// it speaks of, as package engine's edits write it.
type Finding struct {
	// ID names the finding within one proof; Cause is that of the one it follows from,
	// empty for one that stands by itself.
	ID       string             `json:"id"`
	Cause    string             `json:"cause,omitzero"`
	Rule     string             `json:"rule"`
	Severity pageproof.Severity `json:"severity"`
	On       string             `json:"on"`
	What     string             `json:"what"`
	Why      string             `json:"why"`
	Mends    []Mend             `json:"mends"`
	// Message is what it says as ids and what stands in them; see pageproof.Message.
	Message *pageproof.Message `json:"message,omitempty"`
}

// Rule is one thing the tally looks for.
type Rule struct {
	ID       string
	Family   string
	Severity pageproof.Severity
	// Protects says what goes wrong without the rule.
	Protects string
	check    func(*tallying)
}

var families = [][]Rule{driveRules, routeRules, lockRules, tensionRules, fastenerRules, caseRules, contactRules, orderRules}

// Rules lists every rule.
func Rules() []Rule { return slices.Concat(families...) }

type tallying struct {
	x     *engine.Index
	s     *engine.Sheet
	house pageproof.House
	laid  []laid
	rule  *Rule
	out   []Finding
}

// laid is a loop as far as it could be laid.
type laid struct {
	circles []route.Circle
	path    *route.Path
	take    *route.TakeUp
	err     error
}

// Prove gives the findings of a sheet, the gravest first, otherwise in the
// order of the families.
func Prove(x *engine.Index, house pageproof.House) []Finding {
	t := &tallying{x: x, s: x.Sheet, house: house, laid: make([]laid, len(x.Sheet.Loops))}
	for i := range t.s.Loops {
		l, v := &t.s.Loops[i], &t.laid[i]
		if v.circles, v.err = route.Circles(x, l); v.err != nil {
			continue
		}
		if v.path, v.err = route.Of(x, l); v.err != nil {
			continue
		}
		if take, err := route.Take(x, l); err == nil {
			v.take = take
		}
	}
	for _, f := range families {
		for i := range f {
			t.rule = &f[i]
			f[i].check(t)
		}
	}
	rank := func(f *Finding) int {
		return slices.Index([]pageproof.Severity{pageproof.Blocks, pageproof.ShouldFix, pageproof.Look}, f.Severity)
	}
	slices.SortStableFunc(t.out, func(a, b Finding) int { return rank(&a) - rank(&b) })
	causes(t.out)
	if t.out == nil {
		return []Finding{}
	}
	return t.out
}

// Blocking counts the findings that keep a sheet out of use.
func Blocking(fs []Finding) int {
	n := 0
	for i := range fs {
		if fs[i].Severity == pageproof.Blocks {
			n++
		}
	}
	return n
}

// find adds a finding under the rule's own severity.
func (t *tallying) find(on string, what, why message.Text, mends ...Mend) {
	t.findAs(t.rule.Severity, on, what, why, mends...)
}

func (t *tallying) findAs(sev pageproof.Severity, on string, what, why message.Text, mends ...Mend) {
	if s, ok := t.house.Severities["sheet:"+t.rule.ID]; ok {
		sev = s
	}
	f := Finding{Rule: t.rule.ID, Severity: sev, On: on, What: what.String(), Why: why.String(), Message: &pageproof.Message{What: what, Why: why}, Mends: []Mend{}}
	for _, m := range mends {
		if len(m.Edits) > 0 {
			f.Mends = append(f.Mends, m)
		}
	}
	t.out = append(t.out, f)
}

// set is a mend of one value.
func set(label, path string, value any) Mend {
	b, err := json.Marshal(value)
	if err != nil {
		panic(err) // numbers, words and things of the sheet only
	}
	return Mend{label, []engine.Edit{{Path: path, Value: b}}}
}

// fixed prints a figure with at most d decimals.
func fixed(v float64, d int) string {
	s := strconv.FormatFloat(v, 'f', d, 64)
	if strings.Contains(s, ".") {
		s = strings.TrimRight(strings.TrimRight(s, "0"), ".")
	}
	if s == "-0" {
		return "0"
	}
	return strings.Replace(s, "-", "−", 1)
}

func count(n int, one string) string {
	if n == 1 {
		return "1 " + one
	}
	return fmt.Sprintf("%d %ss", n, one)
}

func (t *tallying) wheel(id engine.WheelID) string {
	if w := t.x.Wheel(id); w != nil {
		return w.Name + " wheel"
	}
	return string(id)
}

func near(a, b, within float64) bool { return math.Abs(a-b) <= within }
