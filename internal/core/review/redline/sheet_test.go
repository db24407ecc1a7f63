package redline_test

import (
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"pgregory.net/rapid"

	"inklatch/internal/core/engine"
	"inklatch/internal/core/fixture"
	"inklatch/internal/core/page/procedure"
	"inklatch/internal/core/page/quickline"
	"inklatch/internal/core/page/step"
	"inklatch/internal/core/review/redline"
	"inklatch/internal/core/unit"
)

// sheets are an engine sheet of the demo and the same, changed.
func sheets(file string, change func(*engine.Sheet)) (was, now *engine.Index) {
	a, b := fixture.Copy(fixture.Document(file)).Engine, fixture.Copy(fixture.Document(file)).Engine
	change(&b)
	return engine.NewIndex(&a), engine.NewIndex(&b)
}

func the[T any](of []T, is func(*T) bool) *T {
	for i := range of {
		if is(&of[i]) {
			return &of[i]
		}
	}
	panic("the demo has no such thing")
}

// A change of a sheet is said in the words of the screens, from what to what, with the
// things it names by their names.
func TestWhatChangesOnASheet(t *testing.T) {
	idler := func(s *engine.Sheet) *engine.Fastener {
		return the(s.Fasteners, func(f *engine.Fastener) bool { return f.ID == "idler-bolt" })
	}
	pin := func(s *engine.Sheet) *engine.Lock {
		return the(s.Locks, func(l *engine.Lock) bool { return l.ID == "crank-pin" })
	}
	for line, change := range map[string]func(*engine.Sheet){
		"idler bolt: torque and angle 39 N·m → 44 N·m": func(s *engine.Sheet) { idler(s).Spec = []engine.Stage{{Torque: unit.Of(44, unit.NewtonMetre)}} },
		"idler bolt: torque and angle 39 N·m → 39 N·m + 30°": func(s *engine.Sheet) {
			idler(s).Spec = append(idler(s).Spec, engine.Stage{Angle: unit.Of(30, unit.Degree)})
		},
		"idler bolt: left-hand thread none → yes":    func(s *engine.Sheet) { idler(s).LeftHand = true },
		"limits: allowed back-off, degrees 5 → 4":    func(s *engine.Sheet) { s.Limits.BackOff = 4 },
		"limits: top dead centre, degrees none → −3": func(s *engine.Sheet) { s.Limits.TDC = -3 },
		"years: last year 2024 → 2025":               func(s *engine.Sheet) { s.Years.To = 2025 },
		"firing order: 1, 3, 4, 2 → 1, 2, 4, 3":      func(s *engine.Sheet) { s.FiringOrder = []int{1, 2, 4, 3} },
		"crank pin: gone": func(s *engine.Sheet) {
			s.Locks = slices.DeleteFunc(s.Locks, func(l engine.Lock) bool { return l.ID == "crank-pin" })
		},
		"second rod: new": func(s *engine.Sheet) { s.Fluids = append(s.Fluids, engine.Fluid{ID: "second", Name: "second rod"}) },
		"crank pin: holds crank → crank, inlet cam":              func(s *engine.Sheet) { pin(s).Holds = append(pin(s).Holds, "inlet") },
		"runs: clockwise → counterclockwise":                     func(s *engine.Sheet) { s.Running = engine.Counterclockwise },
		"idler bolt: torque and angle 39 N·m → none":             func(s *engine.Sheet) { idler(s).Spec = nil },
		"crank pin: play, degrees 0.3 → 0.6; tool TL-101 → none": func(s *engine.Sheet) { pin(s).Play, pin(s).Tool = 0.6, "" },
	} {
		was, now := sheets(belt, change)
		got := redline.SheetLines(was, now)
		if !assert.NotEmpty(t, got, line) {
			continue
		}
		thing, what, _ := strings.Cut(line, ": ")
		i := slices.IndexFunc(got, func(l string) bool { return strings.HasPrefix(l, thing+": ") })
		if assert.GreaterOrEqual(t, i, 0, "%s in %q", thing, got) && !strings.Contains(line, ";") {
			assert.Contains(t, strings.ReplaceAll(got[i], ": → ", ": "), strings.TrimPrefix(what, " "), line)
		}
		for _, l := range got {
			assert.NotRegexp(t, `[a-z]+[A-Z]|/|\{|map\[`, l, "no paths and no JSON")
		}
		back := redline.Sheets(now, was)
		assert.Len(t, back, len(got), "%s, the other way", line)
	}
}

// What can do most comes first, and each thing comes once.
func TestTheGravestOfASheetComesFirst(t *testing.T) {
	was, now := sheets(belt, func(s *engine.Sheet) {
		s.Maker += " works"
		s.Tools[0].Kit = "K-9"
		s.Fasteners[0].Count++
		s.Fasteners[0].Thread = "M7"
		s.Locks[0].Play += 0.2
		s.Limits.CamError = 0.4
		s.Wheels[1].X++
	})
	var things []string
	for _, c := range redline.Sheets(was, now) {
		list, _, _ := strings.Cut(c.Thing, "/")
		things = append(things, list)
		assert.Equal(t, redline.Changed, c.Kind)
		assert.NotEmpty(t, c.Parts)
	}
	assert.Equal(t, []string{"locks", "limits", "wheels", "fasteners", "tools", "maker"}, things)
	assert.Empty(t, redline.Sheets(was, was), "nothing lies between a sheet and itself")
}

// What a redline lists of the sheet is what its review shows, and how much that is.
func TestARedlineCountsTheSheetToo(t *testing.T) {
	was, now := sheets(belt, func(s *engine.Sheet) {
		the(s.Fasteners, func(f *engine.Fastener) bool { return f.ID == "idler-bolt" }).LeftHand = true
		s.Limits.BackOff = 4
	})
	p := state(belt).Procedure
	r := redline.Between(redline.State{Index: was, Procedure: p}, redline.State{Index: now, Procedure: p})
	assert.Len(t, r.Sheet, 2)
	for _, l := range r.Lines() {
		assert.NotContains(t, l, "idler-bolt")
	}
	n := 0
	for _, w := range r.Rows {
		n += len(w.Parts)
		if w.Kind != redline.Same {
			assert.Contains(t, strings.ToLower(w.After), "idler bolt", "a step is not as it was where it prints the bolt")
		}
	}
	assert.Positive(t, n)
	assert.Regexp(t, `^\d+ values?$`, r.Counted)
}

// A first revision is read by what its steps can do; of two revisions the changes of
// weight come before those of wording, and all are counted once.
func TestTheGravestRowsComeFirst(t *testing.T) {
	s := state(belt)
	first := redline.Between(redline.State{Index: s.Index, Procedure: &procedure.Procedure{}}, s)
	for i := range first.Rows {
		spec := step.SpecOf(s.Procedure.Steps[i].Action.Verb())
		if spec.Weighs() {
			assert.Equal(t, redline.Gravest, first.Rows[i].Risk, first.Rows[i].After)
		}
	}
	rapid.Check(t, func(t *rapid.T) {
		gravest, grave, light := 0, 0, 0
		after := other(s, func(p *procedure.Procedure) {
			for i := range p.Steps {
				spec := step.SpecOf(p.Steps[i].Action.Verb())
				if !rapid.Bool().Draw(t, "a note") {
					continue
				}
				told := quickline.Instructs(p.Steps[i].Note) // and is not any more
				p.Steps[i].Note = "Mind this clip of ours."
				switch {
				case spec.Weighs():
					gravest++
				case told:
					grave++
				default:
					light++
				}
			}
		})
		r := redline.Between(s, after)
		got := map[redline.Risk]int{}
		for _, w := range r.Rows {
			if w.Kind != redline.Same {
				got[w.Risk]++
			}
		}
		assert.Equal(t, gravest, got[redline.Gravest])
		assert.Equal(t, grave, got[redline.Grave])
		assert.Equal(t, light, got[redline.Light])
		if gravest+grave+light == 0 {
			assert.Empty(t, r.Counted)
		}
		assert.Len(t, r.Lines(), gravest+grave+light)
	})
}

// Every kind of thing has its place among what is gravest.
func TestEveryKindIsWeighed(t *testing.T) {
	for _, k := range engine.Kinds {
		assert.True(t, redline.Weighed(k.List), "%s has no place in gravest", k.List)
	}
}
