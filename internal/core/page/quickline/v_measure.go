package quickline

import (
	"slices"
	"strings"

	"inklatch/internal/core/engine"
	"inklatch/internal/core/page/step"
	"inklatch/internal/core/unit"
)

var measureGrammar = &grammar{
	read: readMeasure,
	next: func(x *engine.Index, a step.Action) []string {
		m := a.(*step.Measure)
		var out []string
		for i := range x.Sheet.Readings {
			switch r := &x.Sheet.Readings[i]; {
			case m.What == "" && m.Reading == "":
				out = append(out, r.Name)
			case m.Reading == r.ID && m.Value.IsZero() && !r.Value.IsZero():
				out = append(out, r.Value.String())
			}
		}
		return out
	},
}

var measurable = []unit.Kind{unit.KindTorque, unit.KindAngle, unit.KindLength, unit.KindTime, unit.KindTemperature, unit.KindFrequency}

// passLeads are the words between what is measured and the figure that passes.
var passLeads = []string{"it must be between", "it should be between", "it must lie between", "it must read between", "must be between", "should be between", "must lie between", "must read between", "is between", "lies between", "to be between", "between", "it passes at", "passes at", "to pass at", "must be", "should be", "it must be", "it should be", "is to be", "to be", "is", "=", "of", "must read", "should read", "must lie at"}

// limits are words for a figure that is a limit on one side.
var limits = []string{"less", "more", "least", "most", "below", "above", "over", "under", "max", "min", "maximum", "minimum", "than", "within", "greater", "smaller", "exceed", "exceeds", "up"}

func readMeasure(l *Line) step.Action {
	a := &step.Measure{}
	l.Skip("the")
	readings := func() bool {
		if a.Readings != 0 || l.end() {
			return false
		}
		if l.Say("twice") {
			a.Readings = 2
			return true
		}
		l.Say("take", "and take", "with", "in")
		if l.end() {
			return false
		}
		v, ok := wholeNumber(l.tokens[l.pos].word)
		if !ok || v < 2 {
			return false
		}
		l.pos++
		a.Readings = v
		if l.Say("times", "readings") {
			return true
		}
		a.Readings = 0
		return false
	}
	// A figure passes behind words that say so, or by itself. Behind a bare "at" an angle or
	// a temperature is where it is measured, which no field keeps.
	figure := func() bool {
		from := l.pos
		at := !l.Say(passLeads...) && (l.Say("at") || l.pos > 0 && l.tokens[l.pos-1].word == "at")
		if l.end() || l.tokens[l.pos].figure == nil {
			return false
		}
		if k := l.tokens[l.pos].figure.Quantity.Kind(); at && (k == unit.KindAngle || k == unit.KindTemperature || k == unit.KindTime) {
			l.pos = from
			return false
		}
		return true
	}
	if readReading(a, l, readings, figure) {
		return readMeasured(a, l, readings, figure)
	}
	a.What = l.Free(func() bool {
		if readings() {
			a.Readings = 0
			return true
		}
		return figure()
	})
	a.OfLoop(l.x)
	if a.What == "" {
		l.refuse("it does not say what to measure")
	}
	for _, t := range tokens(a.What) {
		if slices.Contains(turning, t.word) || slices.Contains(limits, t.word) {
			l.refuse("“" + t.word + "” is not read. Write the figure that passes, as a value with its tolerance or a range")
		}
	}
	return readMeasured(a, l, readings, figure)
}

// readReading reads a reading of the sheet, where nothing but what belongs to it follows.
func readReading(a *step.Measure, l *Line, readings, figure func() bool) bool {
	from, asks, problem := l.pos, len(l.asks), l.problem
	id, ok := l.One(engine.KindReading)
	a.Reading = engine.ReadingID(id)
	if r := l.x.Reading(a.Reading); ok && r != nil && r.Place != "" {
		l.asWritten("at "+r.Place, "at the "+r.Place, "on "+r.Place, "on the "+r.Place, r.Place)
	}
	if ok && !l.end() && l.tokens[l.pos].mark {
		l.pos++
	}
	tool := func() bool { return l.toolNumber(step.Tools(l.x, a)...) }
	if ok && !l.asking() && (l.end() || l.ahead(readings, figure, tool)) {
		a.Readings = 0
		return true
	}
	l.pos, l.asks, l.problem, a.Reading = from, l.asks[:asks], problem, ""
	return false
}

// asWritten passes one of some phrases that stands here letter for letter, but for capitals,
// and ends where a word does.
func (l *Line) asWritten(phrases ...string) {
	if l.end() {
		return
	}
	rest := l.text[l.tokens[l.pos].start:]
	for _, p := range phrases {
		if len(rest) < len(p) || !strings.EqualFold(rest[:len(p)], p) {
			continue
		}
		n := l.pos
		for n < len(l.tokens) && l.tokens[n].end <= l.tokens[l.pos].start+len(p) {
			n++
		}
		if l.tokens[n-1].end == l.tokens[l.pos].start+len(p) {
			l.pos = n
			return
		}
	}
}

// ahead reports whether one of some clauses can be read next, and reads none.
func (l *Line) ahead(clauses ...func() bool) bool {
	from := l.pos
	for _, f := range clauses {
		if f() {
			l.pos = from
			return true
		}
		l.pos = from
	}
	return false
}

// readMeasured reads what passes, and how often it is read.
func readMeasured(a *step.Measure, l *Line, readings, figure func() bool) step.Action {
	l.Clauses(readings, func() bool { return l.toolNumber(step.Tools(l.x, a)...) }, func() bool {
		if !a.Within.IsZero() || !l.Say("readings within", "and readings within", "with readings within", "all within", "they agree within") {
			return false
		}
		q, ok := l.Figure(measurable...)
		a.Within = q
		l.Say("of each other", "of one another")
		return ok
	}, func() bool {
		if !a.Value.IsZero() || !figure() {
			return false
		}
		q, ok := l.Figure(measurable...)
		a.Value = q
		return ok
	})
	return a
}
