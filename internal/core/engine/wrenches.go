package engine

import (
	"errors"
	"slices"
	"strings"

	"inklatch/internal/core/bolt"
	"inklatch/internal/core/tool"
	"inklatch/internal/core/unit"
)

// Wrenching is what stands between a hand and a bolt: a torque wrench, and what makes its
// lever longer or gears it down; nil for what there is none of.
type Wrenching struct {
	Wrench, Adapter, Multiplier *Tool
}

// WrenchingWith is what some tools make together, the first of each kind.
func (x *Index) WrenchingWith(tools []ToolID) Wrenching {
	var w Wrenching
	for _, id := range tools {
		t := x.Tool(id)
		switch {
		case t == nil:
		case t.Ratio > 0 && w.Multiplier == nil:
			w.Multiplier = t
		case t.Reach > 0 && w.Adapter == nil:
			w.Adapter = t
		case t.IsWrench() && w.Wrench == nil:
			w.Wrench = t
		}
	}
	return w
}

// IsWrench reports whether a tool shows a torque.
func (t *Tool) IsWrench() bool { return t.Most.Kind() == unit.KindTorque && !t.Most.IsZero() }

// IsKitOf reports whether a tool of the sheet is the kit that another comes in.
func (x *Index) IsKitOf(kit ToolID, t *Tool) bool {
	k := x.Tool(kit)
	return k != nil && k != t && t.Kit != "" && strings.EqualFold(t.Kit, k.Number)
}

// Changes reports whether the wrench shows another torque than comes to the bolt.
func (w Wrenching) Changes() bool { return w.Adapter != nil || w.Multiplier != nil }

// Why a setting is not known.
var (
	ErrNoWrench = errors.New("no torque wrench is named with it")
	ErrNoLever  = errors.New("the sheet does not say how long the wrench is")
)

// Setting is what the wrench is set to so that a torque comes to the bolt, as it can be set and
// within its tolerance, in its unit; the torque itself where nothing stands between.
func (w Wrenching) Setting(q unit.Quantity) (unit.Quantity, error) {
	q = q.First()
	low, high, ok := bolt.Ends(q)
	if !w.Changes() || !ok || low <= 0 {
		return q, nil
	}
	if w.Wrench == nil {
		return unit.Quantity{}, ErrNoWrench
	}
	var a tool.Adapter
	if w.Adapter != nil {
		if w.Wrench.Lever <= 0 {
			return unit.Quantity{}, ErrNoLever
		}
		a.Reach, a.Angle = unit.Length(w.Adapter.Reach), unit.Angle(w.Adapter.Bend)
	}
	var m tool.Multiplier
	if w.Multiplier != nil {
		m = tool.Multiplier{Ratio: w.Multiplier.Ratio, Efficiency: w.Multiplier.Efficiency}
		if m.Efficiency == 0 {
			m.Efficiency = 1 // what it is called for is what it gives, where nobody says more
		}
	}
	mid := (low + high) / 2
	set, err := tool.Setting(mid, unit.Length(w.Wrench.Lever), a, m)
	if err != nil {
		return unit.Quantity{}, err
	}
	by := set / mid
	return tool.SetIn(low*by, high*by, q.Unit), nil
}

// Reaches is why the wrench cannot be set to a torque, nil where it can.
func (w Wrenching) Reaches(q unit.Quantity) error {
	if w.Wrench == nil {
		return ErrNoWrench
	}
	set, err := w.Setting(q)
	if err != nil {
		return err
	}
	v, _ := set.Torque()
	least, okL := w.Wrench.Least.Torque()
	most, okM := w.Wrench.Most.Torque()
	switch {
	case okM && most > 0 && v > most*(1+1e-9):
		return errors.New("it goes no further than " + w.Wrench.Most.String())
	case okL && least > 0 && v < least*(1-1e-9):
		return errors.New("it begins at " + w.Wrench.Least.String())
	case okM && most > 0 && !(okL && least > 0):
		return tool.Reach(v, most)
	}
	return nil
}

// Arrangement is a torque wrench, and what stands between it and a bolt, for some stages.
type Arrangement struct {
	Wrenching
	// Sets are what it is set to, stage by stage, Share how far up its scale the greatest
	// lies.
	Sets  []unit.Quantity
	Share float64
	// Why is why it does not do, nil where it does.
	Why error
}

// Arrangements are the ways to take a bolt through its torques with the tools there are: every
// wrench by itself, then each adapter and multiplier with the wrench that reaches, those that
// do first. None where no stage is a torque.
func Arrangements(tools []Tool, spec []Stage) []Arrangement {
	var torques []unit.Quantity
	for _, s := range spec {
		if low, _, ok := bolt.Ends(s.Torque); ok && low > 0 {
			torques = append(torques, s.Torque.First())
		}
	}
	if len(torques) == 0 {
		return nil
	}
	var out []Arrangement
	for i := range tools {
		if tools[i].IsWrench() {
			out = append(out, arranged(Wrenching{Wrench: &tools[i]}, torques))
		}
	}
	for i := range tools {
		t := &tools[i]
		w := Wrenching{Adapter: t}
		switch {
		case t.Ratio > 0:
			w = Wrenching{Multiplier: t}
		case t.Reach <= 0:
			continue
		}
		best := arranged(w, torques)
		for k := range tools {
			if !tools[k].IsWrench() {
				continue
			}
			w.Wrench = &tools[k]
			if a := arranged(w, torques); best.Why != nil {
				best = a
			}
		}
		out = append(out, best)
	}
	slices.SortStableFunc(out, func(a, b Arrangement) int {
		switch {
		case (a.Why == nil) == (b.Why == nil):
			return 0
		case a.Why == nil:
			return -1
		}
		return 1
	})
	return out
}

func arranged(w Wrenching, torques []unit.Quantity) Arrangement {
	a := Arrangement{Wrenching: w}
	for _, q := range torques {
		if a.Why == nil {
			a.Why = w.Reaches(q)
		}
		set, err := w.Setting(q)
		if err != nil {
			a.Why, a.Sets = err, nil
			return a
		}
		a.Sets = append(a.Sets, set)
		v, _ := set.Torque()
		if most, ok := w.Wrench.Most.Torque(); ok && most > 0 {
			a.Share = max(a.Share, float64(v/most))
		}
	}
	return a
}
