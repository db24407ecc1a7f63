package engine

import (
	"strings"

	"inklatch/internal/core/bolt"
	"inklatch/internal/core/unit"
)

// Method is how a tensioner sets the loop.
type Method string

// The methods the first engines use.
const (
	Eccentric Method = "eccentric with pointer"
	Hydraulic Method = "hydraulic with pin"
	SpringArm Method = "spring arm"
	Ratchet   Method = "ratchet plunger"
	Fixed     Method = "fixed"
	// ByFrequency is set by the note of a plucked run.
	ByFrequency Method = "frequency"
	// OverTension goes to the upper stop, settles and comes back to the notch.
	OverTension Method = "over-tension, settle, set"
	// PreLoad is a torque held on the roller.
	PreLoad Method = "pre-load by torque"
	// SpringSet is set by its spring while its bolts are slack, and stays where they
	// clamp it.
	SpringSet Method = "spring sets, bolt clamps"
)

// Frequency is the note a run is to give.
type Frequency struct {
	// From and To are the wheels at the ends of the run.
	From WheelID `json:"from"`
	To   WheelID `json:"to"`
	// Note is the frequency with its tolerance, First the one it is set to before it
	// settles.
	Note  unit.Quantity `json:"note"`
	First unit.Quantity `json:"first,omitzero"`
	// At is the crank angle at which it is read, degrees.
	At float64 `json:"at,omitzero"`
	// Readings is how many are taken, the crank turned between them; Within how far
	// they may lie apart.
	Readings int           `json:"readings,omitzero"`
	Within   unit.Quantity `json:"within,omitzero"`
}

// Tensioner keeps a loop tight.
type Tensioner struct {
	ID     TensionerID `json:"id"`
	Name   string      `json:"name"`
	Method Method      `json:"method"`
	Wheel  WheelID     `json:"wheel,omitzero"`
	// Pin is the tool that holds it retracted.
	Pin ToolID `json:"pin,omitzero"`
	// Turn is the way the eccentric is turned to tension.
	Turn Way `json:"turn,omitzero"`
	// Bolts clamp it.
	Bolts []FastenerID `json:"bolts,omitzero"`
	Part  PartID       `json:"part,omitzero"`
	// Pointer lists where the pointer belongs by ambient temperature.
	Pointer []PointerAt `json:"pointer,omitzero"`
	// Travel is how far its wheel's centre moves either side of nominal, mm.
	Travel float64 `json:"travel,omitzero"`
	// Moves is the way the centre moves when it takes up, degrees clockwise from
	// twelve o'clock; 0 stands for straight into the loop.
	Moves float64 `json:"moves,omitzero"`
	// Settle is the crank turns after release before it is looked at again.
	Settle int `json:"settle,omitzero"`
	// Wait is the time after those turns.
	Wait unit.Quantity `json:"wait,omitzero"`
	// Length is the plunger's length before it is fitted; Hold the torque a
	// roller is held with.
	Length unit.Quantity `json:"length,omitzero"`
	Hold   unit.Quantity `json:"hold,omitzero"`
	// Drags is set where its bolt drags it along: it is held while that is tightened.
	Drags bool `json:"drags,omitzero"`
	// Gap is what a gauge is to find at its pointer or between its shoes.
	Gap       unit.Quantity `json:"gap,omitzero"`
	Frequency *Frequency    `json:"frequency,omitzero"`
}

// PointerAt is the place of the pointer from a temperature upwards.
type PointerAt struct {
	From  unit.Quantity `json:"from"`
	Place string        `json:"place"`
}

// Stage is one movement of the wrench: to a torque, on through an angle, or back. In a
// finished page exactly one of torque and angle is written, but for a bolt that is slackened
// altogether.
type Stage struct {
	Torque unit.Quantity `json:"torque,omitzero"`
	Angle  unit.Quantity `json:"angle,omitzero"`
	// Slacken is set where the bolt is turned back: by the angle, or until it is loose.
	Slacken bool `json:"slacken,omitzero"`
	// Wait is the time that passes before it.
	Wait unit.Quantity `json:"wait,omitzero"`
}

// Tightens reports whether the stage is a value that a bolt is taken to.
func (s Stage) Tightens() bool { return !s.Slacken && !(s.Torque.IsZero() && s.Angle.IsZero()) }

// Fastener is a bolt, nut, stud or threaded plug, or a set of equal ones.
type Fastener struct {
	ID       FastenerID `json:"id"`
	Name     string     `json:"name"`
	Count    int        `json:"count"`
	Thread   string     `json:"thread,omitzero"`
	Class    string     `json:"class,omitzero"`
	Across   float64    `json:"across,omitzero"`
	LeftHand bool       `json:"leftHand,omitzero"`
	// Grip is the length that is clamped under its head, Plain how much of that is shank
	// without thread, Engaged the length of thread in the tapped part, mm; 0 where nobody says.
	Grip    float64 `json:"grip,omitzero"`
	Plain   float64 `json:"plain,omitzero"`
	Engaged float64 `json:"engaged,omitzero"`
	// Clamped and Into are what the clamped and the tapped part are made of.
	Clamped bolt.Material `json:"clamped,omitzero"`
	Into    bolt.Material `json:"into,omitzero"`
	// Ring is the mean radius of the ring it clamps, mm, where that passes on the torque of a
	// shaft by friction.
	Ring float64 `json:"ring,omitzero"`
	// OnShaft is the shaft the bolt would turn; its torque must be held.
	OnShaft   ShaftID `json:"onShaft,omitzero"`
	SingleUse bool    `json:"singleUse,omitzero"`
	Lubricant string  `json:"lubricant,omitzero"`
	Spec      []Stage `json:"spec,omitzero"`
	Pattern   string  `json:"pattern,omitzero"`
	// Places are where the single ones of a set sit, mm in the sheet's view from any
	// origin, in the order they are tightened.
	Places []Place `json:"places,omitzero"`
	// After are fasteners that are tight before this one is taken to the end.
	After []FastenerID `json:"after,omitzero"`
	// Nip is what it is nipped up to, below its torque, where that is when it clamps.
	Nip unit.Quantity `json:"nip,omitzero"`
	// Again is set for one that is taken to its torque once more when the engine has been
	// turned.
	Again bool `json:"again,omitzero"`
	// HoldWith is the lock or holder that takes the torque.
	HoldWith LockID `json:"holdWith,omitzero"`
	// Access is the part that bars the way to it until it is off.
	Access PartID `json:"access,omitzero"`
	// Part is the new part number's place in the parts list.
	Part PartID `json:"part,omitzero"`
	// Hazard names what it may do when slackened.
	Hazard Hazard `json:"hazard,omitzero"`
}

// Place is a point in the sheet's view, mm, y up.
type Place struct {
	X float64 `json:"x"`
	Y float64 `json:"y"`
}

// Stretches reports whether its last stage is an angle: what that puts into a bolt stays
// in it.
func (f *Fastener) Stretches() bool {
	last := len(f.Spec) - 1
	return last >= 0 && !f.Spec[last].Angle.IsZero() && !f.Spec[last].Slacken
}

// Plural reports whether the name stands for several.
func (f *Fastener) Plural() bool { return f.Count > 1 }

// Words is the fastener's name, in the plural for several: "upper cover bolts".
// A name that is plural already stays as it is.
func (f *Fastener) Words() string {
	if f.Plural() && !strings.HasSuffix(f.Name, "s") {
		return f.Name + "s"
	}
	return f.Name
}

// PartKind groups parts by what the virtual engine needs to know.
type PartKind string

// The kinds of part.
const (
	Component PartKind = "component"
	Cover     PartKind = "cover"
	Plug      PartKind = "plug"
	Seal      PartKind = "seal"
	LoopPart  PartKind = "loop"
	Lead      PartKind = "lead"
)

// Policy says when a part is renewed.
type Policy string

// The policies.
const (
	AlwaysNew    Policy = "always new"
	NewIfFoundSo Policy = "new if found so"
	WhileThere   Policy = "renew while there"
	Reuse        Policy = "goes back"
)

// Face is the state in which a part goes on.
type Face string

// The states.
const (
	FaceDry   Face = "clean and dry"
	FaceOiled Face = "oiled"
	// FaceCleaned has old sealant taken off first, which a page says.
	FaceCleaned Face = "old sealant removed"
)

// Choices are the states a part goes on in.
func (Face) Choices() []string { return words(FaceDry, FaceOiled, FaceCleaned) }

// Part is something that comes off, goes back, or is renewed.
type Part struct {
	ID     PartID   `json:"id"`
	Name   string   `json:"name"`
	Kind   PartKind `json:"kind"`
	Policy Policy   `json:"policy"`
	If     string   `json:"if,omitzero"`
	// Held lists the fasteners that come out with it.
	Held []FastenerID `json:"held,omitzero"`
	// Seal is renewed whenever the part goes back.
	Seal PartID `json:"seal,omitzero"`
	// After lists parts that must be off first.
	After  []PartID `json:"after,omitzero"`
	Needs  string   `json:"needs,omitzero"`
	Hazard Hazard   `json:"hazard,omitzero"`
	// Sealant is the time in which its joint is closed once the sealant is on;
	// zero for a joint that takes none.
	Sealant unit.Quantity `json:"sealant,omitzero"`
	// Face is how its seat, lips or lobes have to be when it goes on; empty where the sheet
	// does not say.
	Face Face `json:"face,omitzero"`
	// With are parts that are renewed with it: they have run together.
	With []PartID `json:"with,omitzero"`
	// Hides are the wheels behind it: nobody gets at what is on them.
	Hides []WheelID `json:"hides,omitzero"`
	// Spills is what runs out when it comes off, unless it was drained.
	Spills FluidID `json:"spills,omitzero"`
	// Number is its part number, Replaces the numbers it stands for now, and Every
	// when it is due: "1500 h or 5 years".
	Number   string `json:"number,omitzero"`
	Replaces string `json:"replaces,omitzero"`
	Every    string `json:"every,omitzero"`
	// Reset is the counter that is set back once it is renewed: "belt counter".
	Reset string `json:"reset,omitzero"`
}

// Tool is a special tool.
type Tool struct {
	ID     ToolID `json:"id"`
	Number string `json:"number"`
	Name   string `json:"name"`
	Kit    string `json:"kit,omitzero"`
	// Equivalents may be used instead, each with its own play.
	Equivalents []Equivalent `json:"equivalents,omitzero"`
	// Least and Most are the range of a torque tool.
	Least unit.Quantity `json:"least,omitzero"`
	Most  unit.Quantity `json:"most,omitzero"`
	// Lever is how long a torque wrench is, from the middle of its grip to its square, Reach
	// how far an adapter reaches from there, mm, and Bend the angle at which it stands to the
	// wrench, degrees: 0 in line with it, 90 square to it.
	Lever float64 `json:"lever,omitzero"`
	Reach float64 `json:"reach,omitzero"`
	Bend  float64 `json:"bend,omitzero"`
	// Ratio is how many times a multiplier multiplies, Efficiency which share of that comes
	// through, 0 where nobody says.
	Ratio      float64 `json:"ratio,omitzero"`
	Efficiency float64 `json:"efficiency,omitzero"`
}

// Equivalent is another tool for the same job.
type Equivalent struct {
	Number string `json:"number"`
	// Play is its freedom either side, degrees of the shaft it holds.
	Play float64 `json:"play"`
}
