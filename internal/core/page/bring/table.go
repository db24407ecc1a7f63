package bring

import (
	"strings"
	"unicode"

	"inklatch/internal/core/engine"
	"inklatch/internal/core/page/quickline"
	"inklatch/internal/core/page/step"
	"inklatch/internal/core/unit"
)

// cells holds a row of a table of torques against the engine sheet. A row without a figure is the
// head of its table.
func (b *bringing) cells(r *Row) {
	if cell := b.instructing(r.Cells); cell != "" {
		r.parts = []string{cell}
		b.instruction(r)
		return
	}
	r.Outcome = Left
	name, value := "", ""
	for i, c := range r.Cells {
		switch {
		case value == "" && isTorque(c):
			value = c
		case value == "" && bare(c) && i < len(b.head) && torqueUnit(b.head[i]) != "":
			value = c + " " + torqueUnit(b.head[i])
		case name == "" && strings.ContainsFunc(c, func(r rune) bool { return r >= 'A' }) && !isTorque(c) && !strings.HasPrefix(c, "M"):
			name = c
		}
	}
	switch {
	case value == "":
		b.head = r.Cells
		r.Says = "The head of a table, or a row without a torque."
		return
	case name == "":
		r.Says = "It does not say of which bolt the torque is."
		return
	}
	read := quickline.Read(b.lex, "tighten the "+lower(name)+" to "+value)
	a, ok := read.Action.(*step.Tighten)
	if !read.Read() || !ok || len(a.Fasteners) == 0 || len(a.Stages) == 0 {
		r.Says = "The engine sheet has no bolt of that name, or the value is not understood."
		r.Choices = read.Choices
		return
	}
	r.Outcome, r.Says = Agrees, "As the engine sheet has it."
	for _, id := range a.Fasteners {
		f := b.x.Fastener(id)
		if f == nil || sameStages(f.Spec, a.Stages) {
			continue
		}
		r.Outcome = Differs
		if len(f.Spec) == 0 {
			r.Says = "The engine sheet has no torque for the " + f.Name + "."
		} else {
			r.Says = "The engine sheet says " + engine.StagesText(f.Spec) + " for the " + f.Name + "."
		}
		return
	}
}

// instructing is the one cell of a row that is an instruction, in a table of steps; empty where none
// is, or several are.
func (b *bringing) instructing(cells []string) string {
	out := ""
	for _, c := range cells {
		read := quickline.Read(b.lex, c)
		step := read.Read() && read.Aside == "" && !isFree(&read) || read.Parts != nil
		if !step || startsWithThing(b.lex, c) {
			continue
		}
		if out != "" {
			return ""
		}
		out = c
	}
	return out
}

// startsWithThing reports whether a cell is a thing and its value, as in a table of torques.
func startsWithThing(lex *quickline.Lexicon, cell string) bool {
	read := quickline.Read(lex, "tighten the "+lower(cell))
	return isTorque(cell) && read.Read()
}

func isTorque(s string) bool {
	for _, m := range unit.Find(s) {
		if m.Quantity.Kind() == unit.KindTorque {
			return true
		}
	}
	return false
}

// bare reports whether a cell is a figure with nothing behind it.
func bare(s string) bool {
	return s != "" && strings.Trim(s, "0123456789.,± +-") == "" && strings.ContainsAny(s, "0123456789")
}

// torqueUnit is the unit that the head of a column names, empty for none.
func torqueUnit(head string) string {
	said := strings.NewReplacer("·", "", ".", "", " ", "", "-", "").Replace(strings.ToLower(head))
	switch {
	case strings.Contains(said, "lbfft") || strings.Contains(said, "lbft") || strings.Contains(said, "ftlb"):
		return "lbf·ft"
	case strings.Contains(said, "lbfin") || strings.Contains(said, "lbin") || strings.Contains(said, "inlb"):
		return "lbf·in"
	case strings.Contains(said, "nm"):
		return "N·m"
	}
	return ""
}

// sameStages reports whether two tightenings are the same, in whatever unit they are given.
func sameStages(a, b []engine.Stage) bool {
	if len(a) != len(b) {
		return false
	}
	for i := range a {
		if !same(a[i].Torque, b[i].Torque) || !same(a[i].Angle, b[i].Angle) {
			return false
		}
	}
	return true
}

// same reports whether two values are the same, one of them perhaps rounded to another unit.
func same(a, b unit.Quantity) bool {
	switch {
	case a.IsZero() || b.IsZero():
		return a.IsZero() == b.IsZero()
	case a.Unit == b.Unit:
		return a.SameValue(b)
	}
	return unit.Quantity{Value: a.Value, Unit: a.Unit, Also: b.Value, AlsoUnit: b.Unit}.Agrees()
}

// lower is a name with a small letter in front, but for one that is written in capitals.
func lower(name string) string {
	r := []rune(name)
	if len(r) > 1 && unicode.IsUpper(r[1]) {
		return name
	}
	r[0] = unicode.ToLower(r[0])
	return string(r)
}
