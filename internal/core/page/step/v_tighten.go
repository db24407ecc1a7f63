package step

import (
	"inklatch/internal/core/engine"
	"inklatch/internal/core/unit"
	"inklatch/internal/core/virtual"
)

// Tighten takes fasteners up: finger tight, nipped up, part way, or final.
type Tighten struct {
	action
	Fasteners []engine.FastenerID `json:"fasteners,omitempty"`
	Stages    []engine.Stage      `json:"stages,omitempty"`
	// Some is how many of the set are tightened, 0 for all.
	Some int `json:"some,omitzero"`
	// To is how far: empty means final.
	To      Reach         `json:"to,omitzero"`
	Hold    engine.LockID `json:"hold,omitzero"`
	Pattern string        `json:"pattern,omitzero"`
	// Holding is a tensioner that is held where it was set while its bolt is tightened, At
	// the torque it is held with.
	Holding engine.TensionerID `json:"holding,omitzero"`
	At      unit.Quantity      `json:"at,omitzero"`
	// By are the stages by case, instead of Stages, where they are not the same on
	// every engine.
	By []StagesFor `json:"by,omitempty"`
}

// Reach is how far a tightening step goes.
type Reach string

// How far.
const (
	ToFinal  Reach = ""
	ToFinger Reach = "finger tight"
	ToSnug   Reach = "nipped up"
	ToPart   Reach = "part way"
)

// Choices are how far a bolt may be taken before its final torque.
func (Reach) Choices() []string {
	return []string{string(ToFinger), string(ToSnug), string(ToPart)}
}

func (r Reach) stage() virtual.Stage {
	switch r {
	case ToFinger:
		return virtual.Finger
	case ToSnug:
		return virtual.Snug
	case ToPart:
		return virtual.Partial
	}
	return virtual.Final
}

var tightenSpec = &Spec{
	Verb: "tighten", Phrases: []string{"tighten", "torque", "nip up", "torque up", "tighten up", "torque tighten", "tighten down", "torque down", "do up", "nip", "take up", "retighten"}, Takes: []engine.Kind{engine.KindFastener},
	Fields: []Field{
		{Key: "fasteners", Label: "what", Kind: Things, Of: []engine.Kind{engine.KindFastener}},
		{Key: "stages", Label: "to", Kind: StagesIn, Hint: "60 N·m + 90°", Unit: unit.NewtonMetre},
		{Key: "by", Label: "by case", Kind: StagesByIn, Hint: "45 N·m up to 2021; 60 N·m from 2022", Unit: unit.NewtonMetre},
		{Key: "to", Label: "how far", Kind: ChoiceIn, Choices: []string{"", string(ToFinger), string(ToSnug), string(ToPart)}},
		{Key: "hold", Label: "hold with", Kind: OneThing, Of: []engine.Kind{engine.KindLock}, Beside: true},
		{Key: "holding", Label: "while holding", Kind: OneThing, Of: []engine.Kind{engine.KindTensioner}, Beside: true}, {Key: "at", Label: "held at", Kind: QuantityIn, Hint: "14 N·m", Unit: unit.NewtonMetre, With: "holding"},
		{Key: "pattern", Label: "pattern", Kind: ChoiceIn, Choices: []string{"", "alternating", "crosswise", "from the middle out"}},
		{Key: "some", Label: "only so many", Kind: NumberIn, With: "some"},
	},
	Example: "tighten exhaust sprocket bolt 60 Nm + 90 deg hold with sprocket holder", Phase: "tighten", Bolts: true,
	New: func() Action { return &Tighten{} },
}

// Verb is "tighten".
func (*Tighten) Verb() Verb { return "tighten" }

// Act takes each up to its stage.
func (a *Tighten) Act(m *virtual.Machine) {
	for _, f := range a.Fasteners {
		if someOf(m.Index, f, a.Some) {
			m.WorkSome(f, a.Hold)
			continue
		}
		m.Tighten(f, a.To.stage(), a.Hold, a.Stages...)
	}
	for k := range a.Stages {
		t, _ := a.Stages[k].Wait.Minutes()
		m.Wait(t)
	}
}

// Clause: "Tighten the tensioner bolt to 20 ±2 N·m (14.8 ±1.5 lbf·ft)".
func (a *Tighten) Clause(_ *engine.Index) Clause {
	form, to := Form(""), Part{Role: RoleFinal, Stages: a.Stages}
	if a.To == ToSnug {
		form = FormSnug
	}
	switch {
	case len(a.By) > 0:
		to = Part{Role: RoleByCase, By: a.By}
	case len(a.Stages) == 0:
		to = Part{}
	case a.Stages[0].Torque.IsZero():
		to.Role = RoleFurther
	}
	return clause(a.Verb(), form, number(RoleSome, float64(a.Some)),
		things(RoleWhat, named(engine.KindFastener, a.Fasteners...)), choice(RoleReach, a.To), to, choice(RolePattern, a.Pattern), things(RoleHeld, named(engine.KindLock, a.Hold)), things(RoleHolding, named(engine.KindTensioner, a.Holding)), a.heldAt())
}

// heldAt is the torque a tensioner is held with meanwhile.
func (a *Tighten) heldAt() Part {
	if a.Holding == "" {
		return Part{}
	}
	return figure(RoleHeldAt, a.At)
}

// Condition is how the threads of all it takes to the end are when the sheet's
// torque holds, as the sheet has it; empty where the sheet does not say, or not the same of all.
func (a *Tighten) Condition(x *engine.Index) string {
	said := ""
	for i, id := range a.Fasteners {
		f := x.Fastener(id)
		if f == nil || a.To != ToFinal || i > 0 && f.Lubricant != said {
			return ""
		}
		said = f.Lubricant
	}
	return said
}

// ThreadIs is the state of a thread as the sheet has it, in words.
func ThreadIs(condition string) string {
	if condition == "thread lock" {
		return "coated with thread lock"
	}
	return condition
}

// StuffOn is what is put on a thread for a state of the sheet; empty for dry, and for
// one that nothing is known of.
func StuffOn(condition string) Stuff {
	for _, c := range conditions {
		if c.name == condition {
			return c.stuff
		}
	}
	return ""
}

// conditions are the states of a thread, and what is put on for each.
var conditions = []struct {
	name  string
	stuff Stuff
}{
	{"oiled", Oil}, {"dry", ""}, {"greased", Grease}, {"thread lock", ThreadLock},
}

func (a *Tighten) hold() engine.LockID { return a.Hold }

func (a *Tighten) tools(x *engine.Index) []engine.ToolID { return lockTool(x, a.Hold) }

func (a *Tighten) hazards(x *engine.Index) []engine.Hazard {
	for _, id := range a.Fasteners {
		if f := x.Fastener(id); f != nil && f.LeftHand {
			return []engine.Hazard{engine.HazardLeftHand}
		}
	}
	return nil
}
