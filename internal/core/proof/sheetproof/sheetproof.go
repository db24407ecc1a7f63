// Package sheetproof proves an engine sheet the way package pageproof proves a
// procedure: small rules in families, each finding one sentence with its place
// on the sheet and, where there is one, a mend that can be taken with a key.
package sheetproof

import (
	"encoding/json"
	"math"
	"slices"
	"strconv"
	"strings"

	"inklatch/internal/core/engine"
	"inklatch/internal/core/engine/resolution"
	"inklatch/internal/core/engine/route"
	"inklatch/internal/core/message"
	"inklatch/internal/core/proof/finding"
)

// Mend is edits of the sheet that would settle a finding.
type Mend = finding.Mend[engine.Edit]

// HousePrefix is how a house’s severities name a rule of sheets.
const HousePrefix = "sheet:"

// Edition names the rules as they are; whoever changes what one finds changes it.
const Edition = "12"

// Finding is one sentence about a sheet. On is the path of the thing or value
// it speaks of, as package engine's edits write it.
type Finding struct {
	finding.Finding
	On    string `json:"on"`
	Mends []Mend `json:"mends"`
}

var families = []finding.Family[*looking]{driveRules, routeRules, lockRules, tensionRules, fastenerRules, boltRules, caseRules, contactRules, orderRules}

// Rules lists every rule.
func Rules() []finding.Rule[*looking] { return slices.Concat(families...) }

// looking is one proof of a sheet under way.
type looking struct {
	x     *engine.Index
	s     *engine.Sheet
	house finding.House
	laid  []laid
	// trains are the valves of each shaft, nil where they cannot be worked out.
	trains []*train
	// shown is what can be seen of each shaft, once it was asked for; see table.
	shown *resolution.Table
	rule  *finding.Rule[*looking]
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
func Prove(x *engine.Index, house finding.House) []Finding {
	t := &looking{x: x, s: x.Sheet, house: house, laid: make([]laid, len(x.Sheet.Loops))}
	t.trains = trainsOf(t.x)
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
	finding.Through(families, func(r *finding.Rule[*looking]) {
		t.rule = r
		r.Check(t)
	}, finding.Run)
	finding.Sort(t.out, func(f *Finding) *finding.Finding { return &f.Finding }, func(*Finding) int { return 0 }, func(f *Finding) string { return f.On })
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
		if fs[i].Severity == finding.Blocks {
			n++
		}
	}
	return n
}

// table is what can be seen of each shaft.
func (t *looking) table() *resolution.Table {
	if t.shown == nil {
		t.shown = resolution.TableOf(t.x)
	}
	return t.shown
}

// find adds a finding under the rule's own severity.
func (t *looking) find(on string, what, why message.Text, mends ...Mend) {
	t.findAs(t.rule.Severity, on, what, why, mends...)
}

func (t *looking) findAs(sev finding.Severity, on string, what, why message.Text, mends ...Mend) {
	r := *t.rule
	r.Severity = sev
	f := Finding{Finding: finding.New(&r, t.house, HousePrefix+r.ID, what, why), On: on, Mends: []Mend{}}
	for _, m := range mends {
		if len(m.Edits) > 0 {
			f.Mends = append(f.Mends, m)
		}
	}
	t.out = append(t.out, f)
}

// set is a mend of one value.
func set(label message.Text, path string, value any) Mend {
	return finding.MendOf(label, []engine.Edit{edit(path, value)})
}

// edit writes a value at a path of the sheet.
func edit(path string, value any) engine.Edit {
	b, err := json.Marshal(value)
	if err != nil {
		panic(err) // numbers, words and things of the sheet only
	}
	return engine.Edit{Path: path, Value: b}
}

// fixed prints a figure with at most d decimals.
func fixed[A ~float64](v A, d int) string {
	s := strconv.FormatFloat(float64(v), 'f', d, 64)
	if strings.Contains(s, ".") {
		s = strings.TrimRight(strings.TrimRight(s, "0"), ".")
	}
	if s == "-0" {
		return "0"
	}
	return strings.Replace(s, "-", "−", 1)
}

func cylinders(n int) message.Text {
	if n == 1 {
		return message.F("1 cylinder")
	}
	return message.F("%d cylinders", n)
}

func (t *looking) wheel(id engine.WheelID) string {
	if w := t.x.Wheel(id); w != nil {
		return w.Name + " wheel"
	}
	return string(id)
}

func near(a, b, within float64) bool { return math.Abs(a-b) <= within }
