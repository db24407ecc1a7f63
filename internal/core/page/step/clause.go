package step

import (
	"inklatch/internal/core/engine"
	"inklatch/internal/core/unit"
)

// Clause is what a step says, before it is said in any language: its verb and what
// belongs to it, in the order of a page.
type Clause struct {
	Verb Verb
	// Form is which of a verb's ways it is, empty for the usual one: a lead is
	// disconnected, a plug taken out.
	Form  Form
	Parts []Part
}

// Form tells ways of one verb apart that a language may have words of its own for.
type Form string

// The forms.
const (
	FormLead Form = "lead" // of a lead: connect, disconnect
	FormOut  Form = "out"  // of a plug or seal: take out
	FormNew  Form = "new"  // of a new part
	FormSnug Form = "snug" // nip up
	FormCopy Form = "copy" // paint marks taken over
	FormPin  Form = "pin"  // held by a pin of its own
)

// Part says one thing of a step: one of Things, Value, Number, Stages, By, Choice and
// Words is set, or none where the role says it all.
type Part struct {
	Role Role
	// Things are of the sheet; Fresh says that they are new ones.
	Things []engine.Ref
	Fresh  bool
	Value  unit.Quantity
	// Number is a count, or a number of turns.
	Number float64
	Stages []engine.Stage
	By     []StagesFor
	// Choice is one of a closed set: a way to turn, how far, how something is found.
	Choice string
	// Words are an author's or a sheet's own, in the language they are written in.
	Words string
}

// Role is what a part says of its verb.
type Role string

// The roles. Where a role says it all a part has nothing else.
const (
	RoleWhat      Role = "what"      // what is worked at
	RoleBolts     Role = "bolts"     // how many fasteners that are: Number
	RoleTurns     Role = "turns"     // Number of turns of a shaft or bolt
	RoleDegrees   Role = "degrees"   // Value, beside or instead of turns
	RoleWay       Role = "way"       // Choice: clockwise
	RoleFrom      Role = "from"      // Words: from where it is seen
	RoleOther     Role = "other end" // it is seen from the other end
	RoleOn        Role = "on"        // the fastener a wrench is put on; what paint goes on
	RoleTo        Role = "to"        // the marks that are brought home; what something is put on
	RolePlace     Role = "place"     // Words: where something is set to, or measured
	RoleGoal      Role = "goal"      // Choice: the end of its travel something is set to
	RolePainted   Role = "painted"   // the paint marks stand
	RoleOnto      Role = "onto"      // the lock that is turned up to
	RoleInto      Role = "into"      // the lock that goes in
	RoleShort     Role = "short"     // and stop just short
	RoleReach     Role = "reach"     // Choice: how far a bolt is tightened
	RoleFinal     Role = "final"     // Stages, the first a torque
	RoleFurther   Role = "further"   // Stages, the first an angle
	RoleByCase    Role = "by"        // By
	RolePattern   Role = "pattern"   // Choice: the order of bolts
	RoleHeld      Role = "held"      // the lock or holder that holds meanwhile
	RoleByHand    Role = "by hand"   // a lock goes in by hand
	RoleTools     Role = "tools"     // the special tools
	RoleOrder     Role = "order"     // the wheels a loop is led over, one after another
	RoleSlack     Role = "slack"     // the wheel where slack is left
	RoleKeepIn    Role = "keep in"   // its pin holds it; Number of pins
	RoleDrive     Role = "drive"     // Choice: belt, chains, all loops together
	RolePhaser    Role = "phaser"    // the wheel whose phaser is meant
	RoleAt        Role = "at"        // Value: a temperature
	RoleFor       Role = "for"       // Value: how long; Words: what is looked for
	RoleUntil     Role = "until"     // Words
	RoleThen      Role = "then"      // Words
	RoleReadings  Role = "readings"  // Number of them
	RoleSeats     Role = "seats"     // how many come off their seats
	RoleHolding   Role = "holding"   // the tensioner that is held meanwhile
	RoleHeldAt    Role = "held at"   // the torque it is held with
	RoleSome      Role = "some"      // how many of a set
	RoleSprockets Role = "sprockets"
	RoleGears     Role = "gears"
	RoleFaces     Role = "faces"    // it is the faces that are cleaned
	RoleMeets     Role = "meets"    // the reading that is taken, or that the turn ends at
	RoleReads     Role = "reads"    // what it reads there
	RolePasses    Role = "passes"   // Value at which a reading passes
	RoleWithin    Role = "within"   // Value: how far readings may lie apart, or how soon it is closed
	RoleAmount    Role = "amount"   // Value: how much
	RoleStuffs    Role = "stuff"    // Choice: what is put on
	RoleNewSeal   Role = "new seal" // with a new seal
	RoleNeeds     Role = "needs"    // Words of the sheet
	RoleLoops     Role = "loops"    // belts and chains
	RoleParts     Role = "parts"    // parts of the sheet
	RolePointer   Role = "pointer"  // the tensioner whose pointer stands in its notch
	RolePins      Role = "pins"     // the tensioners whose pins go in
	RoleKit       Role = "kit"      // every tool is back
	RoleThat      Role = "that"     // Words
	RoleLocks     Role = "locks"    // locks; Choice: how they are found
	RoleMarks     Role = "marks"    // marks; Choice: how they are found
	RoleAcross    Role = "across"   // a loop that paint goes across, Number of marks
	RoleAlso      Role = "also"     // what is painted beside it
	RoleCounter   Role = "counter"  // Words: a counter by name, of a part or of none
	RoleCounterOf Role = "counter of"
	RoleEngine    Role = "engine"
	RoleToAndFro  Role = "to and fro"
	RoleText      Role = "text" // Words: a step of free text
)

// named are things of one kind.
func named[T ~string](kind engine.Kind, ids ...T) []engine.Ref {
	var out []engine.Ref
	for _, id := range ids {
		if id != "" {
			out = append(out, engine.Ref{Kind: kind, ID: string(id)})
		}
	}
	return out
}

// clause makes one of the parts that say something.
func clause(v Verb, form Form, parts ...Part) Clause {
	c := Clause{Verb: v, Form: form}
	for _, p := range parts {
		if p.Role != "" {
			c.Parts = append(c.Parts, p)
		}
	}
	return c
}

// things is a part that names things; none where there are none.
func things(r Role, refs []engine.Ref) Part {
	if len(refs) == 0 {
		return Part{}
	}
	return Part{Role: r, Things: refs}
}

// figure is a part with a quantity, none where it is not filled in.
func figure(r Role, q unit.Quantity) Part {
	if q.IsZero() {
		return Part{}
	}
	return Part{Role: r, Value: q}
}

// number is a part with a count, none for 0.
func number(r Role, n float64) Part {
	if n == 0 {
		return Part{}
	}
	return Part{Role: r, Number: n}
}

// words is a part in somebody's own words.
func words(r Role, s string) Part {
	if s == "" {
		return Part{}
	}
	return Part{Role: r, Words: s}
}

// choice is a part from a closed set.
func choice[T ~string](r Role, c T) Part {
	if c == "" {
		return Part{}
	}
	return Part{Role: r, Choice: string(c)}
}

// only is a part whose role says it all.
func only(r Role, so bool) Part {
	if !so {
		return Part{}
	}
	return Part{Role: r}
}

// bolts is how many fasteners some are, where it is more than one.
func bolts(x *engine.Index, ids []engine.FastenerID) Part {
	if n := FastenerCount(x, ids); n > 1 {
		return Part{Role: RoleBolts, Number: float64(n)}
	}
	return Part{}
}

// saidWay is a way round, as it is seen from the sheet's view or from the other end.
func saidWay(way engine.Way, otherEnd bool) Part {
	if way != "" && otherEnd {
		way = way.Opposite()
	}
	return choice(RoleWay, way)
}

// seenFrom says from where a way is seen, where that is not the sheet's view.
func seenFrom(x *engine.Index, way engine.Way, otherEnd bool) Part {
	switch {
	case !otherEnd || way == "":
		return Part{}
	case x.Sheet.OtherView != "":
		return words(RoleFrom, x.Sheet.OtherView)
	}
	return only(RoleOther, true)
}
