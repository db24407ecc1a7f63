// Package torques is the torque table of an engine code, or of a procedure of it: a row for
// each fastener, with what it is, how far it is tightened, how it is held, what that does to
// it and where the value comes from; and the way back, from a table that somebody changed to
// edits of the sheet, one by one.
package torques

import (
	"encoding/json"
	"slices"
	"strconv"
	"strings"

	"inklatch/internal/core/bolt"
	"inklatch/internal/core/engine"
	"inklatch/internal/core/page/procedure"
	"inklatch/internal/core/tool"
	"inklatch/internal/core/unit"
)

// Column is one value of every fastener.
type Column struct {
	// Key is its name for programs, Name that in the head of the table.
	Key, Name string
	// Right is set for figures.
	Right bool
	// of is the value in words, read takes it back as an edit’s value; nil for what follows
	// from the others.
	of   func(r *row) string
	read func(x *engine.Index, text string) (any, error)
}

// Reads reports whether a changed table may change it.
func (c *Column) Reads() bool { return c.read != nil }

// row is a fastener as a row is made.
type row struct {
	x     *engine.Index
	f     *engine.Fastener
	spec  []engine.Stage
	when  string
	steps []int
}

// Columns are those of the table, in order.
var Columns = []Column{
	{Key: "fastener", Name: "Fastener", of: func(r *row) string { return r.f.Name }},
	{Key: "count", Name: "Count", Right: true, of: func(r *row) string { return strconv.Itoa(max(r.f.Count, 1)) }, read: whole},
	{Key: "thread", Name: "Thread", of: func(r *row) string { return r.f.Thread }, read: words},
	{Key: "class", Name: "Class", of: func(r *row) string { return r.f.Class }, read: words},
	{Key: "spec", Name: "Tightened to", of: func(r *row) string { return engine.StagesText(r.spec) }, read: stages},
	{Key: "also", Name: "In other units", of: also},
	{Key: "when", Name: "On engines", of: func(r *row) string { return r.when }},
	{Key: "lubricant", Name: "Condition", of: func(r *row) string { return r.f.Lubricant }, read: words},
	{Key: "pattern", Name: "Order", of: func(r *row) string { return r.f.Pattern }, read: words},
	{Key: "holdWith", Name: "Held with", of: func(r *row) string {
		if l := r.x.Lock(r.f.HoldWith); l != nil {
			return l.Name
		}
		return ""
	}, read: holder},
	{Key: "singleUse", Name: "Used once", of: func(r *row) string { return yes(r.f.SingleUse) }, read: tick},
	{Key: "leftHand", Name: "Left-hand thread", of: func(r *row) string { return yes(r.f.LeftHand) }, read: tick},
	{Key: "grip", Name: "Clamped, mm", Right: true, of: func(r *row) string { return length(r.f.Grip) }, read: figure},
	{Key: "engaged", Name: "In the part, mm", Right: true, of: func(r *row) string { return length(r.f.Engaged) }, read: figure},
	{Key: "clamp", Name: "Clamp load, kN", Right: true, of: clamp},
	{Key: "reuse", Name: "Re-use", of: reuse},
	{Key: "wrench", Name: "Wrench", of: wrench},
	{Key: "source", Name: "Source", of: source},
	{Key: "steps", Name: "Steps", of: func(r *row) string {
		out := make([]string, len(r.steps))
		for i, n := range r.steps {
			out[i] = strconv.Itoa(n)
		}
		return strings.Join(out, ", ")
	}},
}

// Table is a torque table: the columns that say anything, and their texts.
type Table struct {
	Columns []Column
	// IDs are the fasteners of the rows.
	IDs  []engine.FastenerID
	Rows [][]string
}

// OfSheet is the table of a code: every fastener that is tightened to a value or has a
// thread, with its values by case in rows of their own.
func OfSheet(x *engine.Index) *Table {
	var rows []row
	for i := range x.Sheet.Fasteners {
		f := &x.Sheet.Fasteners[i]
		rows = append(rows, row{x: x, f: f, spec: f.Spec})
		rows = append(rows, byCase(x, f)...)
	}
	return table(rows, func(c *Column) bool { return c.Key != "steps" })
}

// byCase are the values that a fastener has on some engines only.
func byCase(x *engine.Index, f *engine.Fastener) (out []row) {
	for i := range x.Sheet.Varies {
		v := &x.Sheet.Varies[i]
		if v.Thing() != (engine.Ref{Kind: engine.KindFastener, ID: string(f.ID)}) {
			continue
		}
		for k := range v.Cases {
			var spec []engine.Stage
			if raw := v.Cases[k].Set["spec"]; raw != nil && json.Unmarshal(raw, &spec) == nil {
				out = append(out, row{x: x, f: f, spec: spec, when: v.Cases[k].When.Said()})
			}
		}
	}
	return out
}

// OfPage is the table of a procedure: what its steps tighten, in their order, with the values
// of the page and the steps they stand in.
func OfPage(x *engine.Index, p *procedure.Procedure) *Table {
	var rows []row
	for i := range p.Steps {
		for _, v := range p.Steps[i].Torques() {
			for _, id := range v.Fasteners {
				f := x.Fastener(id)
				if f == nil {
					continue
				}
				text, when := engine.StagesText(v.Stages), v.When.Said()
				at := slices.IndexFunc(rows, func(r row) bool {
					return r.f.ID == id && r.when == when && engine.StagesText(r.spec) == text
				})
				if at < 0 {
					rows = append(rows, row{x: x, f: f, spec: v.Stages, when: when})
					at = len(rows) - 1
				}
				rows[at].steps = append(rows[at].steps, i+1)
			}
		}
	}
	return table(rows, func(*Column) bool { return true })
}

// table fills in the columns in which any row says something.
func table(rows []row, wanted func(*Column) bool) *Table {
	out := &Table{}
	for c := range Columns {
		col := &Columns[c]
		if wanted(col) && (col.read != nil || slices.ContainsFunc(rows, func(r row) bool { return col.of(&r) != "" })) {
			out.Columns = append(out.Columns, *col)
		}
	}
	for i := range rows {
		texts := make([]string, len(out.Columns))
		for c := range out.Columns {
			texts[c] = out.Columns[c].of(&rows[i])
		}
		out.IDs, out.Rows = append(out.IDs, rows[i].f.ID), append(out.Rows, texts)
	}
	return out
}

func yes(v bool) string {
	if v {
		return "yes"
	}
	return ""
}

func length(v float64) string {
	if v == 0 {
		return ""
	}
	return unit.Number(v)
}

// also are the torques in the other of the two units of the trade, as they can be set.
func also(r *row) string {
	return engine.StagesSaid(r.spec, func(q unit.Quantity) string {
		low, high, ok := bolt.Ends(q)
		switch {
		case q.Kind() != unit.KindTorque:
			return q.String()
		case !ok || low <= 0:
			return ""
		}
		to := unit.PoundForceFoot
		switch {
		case q.Unit != unit.NewtonMetre:
			to = unit.NewtonMetre
		case low+high < 24:
			to = unit.PoundForceInch
		}
		return tool.SetIn(low, high, to).String()
	})
}

// course is what the stages do to the bolt, nil where it is not known.
func (r *row) course() *bolt.Course {
	b, known := r.f.Bolt()
	steps, ok := engine.WrenchSteps(r.spec)
	if b == nil || !known || !ok || r.f.Lubricant == "" {
		return nil
	}
	c, ok := b.Through(r.f.Joint(), steps)
	if !ok {
		return nil
	}
	return c
}

func clamp(r *row) string {
	c := r.course()
	if c == nil {
		return ""
	}
	return unit.Number(unit.Round(float64(c.Final.Low)/1000)) + "–" + unit.Number(unit.Round(float64(c.Final.High)/1000))
}

func reuse(r *row) string {
	if r.f.SingleUse {
		return "renew"
	}
	switch c := r.course(); {
	case c == nil:
		return ""
	case c.Reuse == bolt.MayReuse:
		return "use again"
	case c.Reuse == bolt.MayHaveYielded:
		return "measure its length"
	}
	return "renew"
}

func wrench(r *row) string {
	for _, a := range engine.Arrangements(r.x.Sheet.Tools, r.spec) {
		if a.Why == nil {
			return strings.TrimSpace(a.Wrench.Number + " " + a.Wrench.Name)
		}
	}
	return ""
}

func source(r *row) string {
	return r.x.Cited(r.x.Sheet.Evidence[string(r.f.ID)])
}
