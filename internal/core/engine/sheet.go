// Package engine holds the engine sheet: everything an author writes down once
// about one engine code, and what follows from it by arithmetic alone: the
// ratio of every shaft to the crank and the counts at which a mark or a lock
// comes home. Angles are degrees of the shaft in its own running direction from
// the timing position; lengths are millimetres seen from the stated view, x to
// the right and y up.
package engine

import "inklatch/internal/core/unit"

// Identifiers of the things on a sheet. They are short, lower case and never
// shown to a reader.
type (
	ShaftID     string
	WheelID     string
	LoopID      string
	MarkID      string
	LockID      string
	TensionerID string
	FastenerID  string
	PartID      string
	ToolID      string
)

// CrankID is the shaft every ratio is measured against.
const CrankID ShaftID = "crank"

// Sheet describes one engine code.
type Sheet struct {
	Code         string           `json:"code"`
	Family       string           `json:"family,omitzero"`
	Maker        string           `json:"maker"`
	Use          string           `json:"use,omitzero"`
	Years        Years            `json:"years"`
	Cylinders    int              `json:"cylinders"`
	Cycle        Cycle            `json:"cycle"`
	FiringOrder  []int            `json:"firingOrder,omitzero"`
	Bore         unit.Quantity    `json:"bore,omitzero"`
	Stroke       unit.Quantity    `json:"stroke,omitzero"`
	Rod          unit.Quantity    `json:"rod,omitzero"`
	Interference Known            `json:"interference"`
	Running      Way              `json:"running"`
	View         string           `json:"view"`
	Sides        string           `json:"sides,omitzero"`
	Shafts       []Shaft          `json:"shafts"`
	Wheels       []Wheel          `json:"wheels"`
	Loops        []Loop           `json:"loops"`
	Marks        []Mark           `json:"marks,omitzero"`
	Locks        []Lock           `json:"locks,omitzero"`
	Tensioners   []Tensioner      `json:"tensioners,omitzero"`
	Fasteners    []Fastener       `json:"fasteners,omitzero"`
	Parts        []Part           `json:"parts,omitzero"`
	Tools        []Tool           `json:"tools,omitzero"`
	Limits       Limits           `json:"limits"`
	Evidence     map[string]Proof `json:"evidence,omitzero"`
}

// Years is a closed range of model years; To 0 means still made.
type Years struct {
	From int `json:"from"`
	To   int `json:"to,omitzero"`
}

// Cycle is the working cycle.
type Cycle string

// The two cycles.
const (
	FourStroke Cycle = "four-stroke"
	TwoStroke  Cycle = "two-stroke"
)

// Degrees is one working cycle in crank degrees: 720 or 360.
func (c Cycle) Degrees() float64 {
	if c == TwoStroke {
		return 360
	}
	return 720
}

// Known is a yes, a no, or an honest unknown.
type Known string

// The three answers.
const (
	Yes     Known = "yes"
	No      Known = "no"
	Unknown Known = "unknown"
)

// Way is a sense of rotation in the sheet's view.
type Way string

// The two senses.
const (
	Clockwise        Way = "clockwise"
	Counterclockwise Way = "counterclockwise"
)

// Opposite is the other way round.
func (w Way) Opposite() Way {
	if w == Clockwise {
		return Counterclockwise
	}
	return Clockwise
}

// Shaft is a turning shaft that matters to the timing.
type Shaft struct {
	ID   ShaftID   `json:"id"`
	Name string    `json:"name"`
	Kind ShaftKind `json:"kind"`
}

// ShaftKind says what a shaft is for.
type ShaftKind string

// The kinds of shaft.
const (
	Crankshaft ShaftKind = "crank"
	InletCam   ShaftKind = "inlet cam"
	ExhaustCam ShaftKind = "exhaust cam"
	Pump       ShaftKind = "pump"
	Balance    ShaftKind = "balance"
	Pickup     ShaftKind = "pickup"
)

// IsCam reports whether valves hang on the shaft.
func (k ShaftKind) IsCam() bool { return k == InletCam || k == ExhaustCam }

// Mount says how a wheel sits on its shaft.
type Mount string

// The mounts.
const (
	// Keyed wheels cannot move on their shaft.
	Keyed Mount = "keyed"
	// Floating wheels sit on a taper or in slotted holes, clamped by bolts.
	Floating Mount = "floating"
	// Idle wheels turn on their own bearing and carry no shaft.
	Idle Mount = "idle"
)

// Wheel is something a loop runs over. Teeth 0 means plain, with Diameter.
type Wheel struct {
	ID       WheelID      `json:"id"`
	Name     string       `json:"name"`
	Shaft    ShaftID      `json:"shaft,omitzero"`
	Mount    Mount        `json:"mount"`
	Teeth    int          `json:"teeth,omitzero"`
	Diameter float64      `json:"diameter,omitzero"`
	X        float64      `json:"x"`
	Y        float64      `json:"y"`
	Clamps   []FastenerID `json:"clamps,omitzero"`
	Part     PartID       `json:"part,omitzero"`
}

// Side is the face of the loop that touches a wheel.
type Side string

// The two faces.
const (
	Inside Side = "inside"
	Back   Side = "back"
)

// Stop is one wheel on a loop's route.
type Stop struct {
	Wheel WheelID `json:"wheel"`
	Side  Side    `json:"side"`
}

// LoopKind is what the loop is made of.
type LoopKind string

// The kinds of loop.
const (
	Belt  LoopKind = "belt"
	Chain LoopKind = "chain"
)

// Loop is a belt or chain: its pitch in mm, its teeth or links, and the wheels
// it runs over in the order the loop travels, starting with the driver.
type Loop struct {
	ID    LoopID   `json:"id"`
	Name  string   `json:"name"`
	Kind  LoopKind `json:"kind"`
	Pitch float64  `json:"pitch"`
	Teeth int      `json:"teeth"`
	// Thickness is from the pitch line to the back face, mm.
	Thickness float64     `json:"thickness,omitzero"`
	Width     float64     `json:"width,omitzero"`
	Route     []Stop      `json:"route"`
	Tensioner TensionerID `json:"tensioner,omitzero"`
	Part      PartID      `json:"part,omitzero"`
}

// Length is pitch × teeth in mm.
func (l *Loop) Length() float64 { return l.Pitch * float64(l.Teeth) }

// MarkKind tells what a mark may be used for.
type MarkKind string

// The kinds of mark.
const (
	// TimingMark stands on a wheel or shaft and comes home with it.
	TimingMark MarkKind = "timing"
	// LoopMark is paint or a coloured link: for fitting only.
	LoopMark MarkKind = "loop"
	// LookAlike is something that could be taken for a mark and is not.
	LookAlike MarkKind = "look-alike"
)

// Mark is something to line up by eye.
type Mark struct {
	ID      MarkID   `json:"id"`
	Name    string   `json:"name"`
	Kind    MarkKind `json:"kind"`
	Wheel   WheelID  `json:"wheel,omitzero"`
	Loop    LoopID   `json:"loop,omitzero"`
	At      float64  `json:"at"`
	Pointer string   `json:"pointer,omitzero"`
	Look    string   `json:"look,omitzero"`
	// Shows is the smallest error the mark shows, in degrees of its shaft.
	Shows float64 `json:"shows,omitzero"`
	// Behind is the part that hides the mark, if any.
	Behind PartID `json:"behind,omitzero"`
}

// LockKind says how a lock point holds.
type LockKind string

// The kinds of lock point.
const (
	// StopLock meets the shaft in one direction only.
	StopLock LockKind = "stop"
	// PinLock passes through a hole.
	PinLock LockKind = "pin"
	// BarLock is a bar, plate or yoke across slots.
	BarLock LockKind = "bar"
	// FlywheelLock holds the crank for torque, at any angle.
	FlywheelLock LockKind = "flywheel lock"
	// Holder grips a wheel for torque, at any angle.
	Holder LockKind = "holder"
)

// ForPosition reports whether the lock fixes a timing position.
func (k LockKind) ForPosition() bool { return k == StopLock || k == PinLock || k == BarLock }

// Lock is a lock point.
type Lock struct {
	ID    LockID    `json:"id"`
	Name  string    `json:"name"`
	Kind  LockKind  `json:"kind"`
	Holds []ShaftID `json:"holds"`
	// At is the shaft angle where it goes in; Repeats how often per shaft turn.
	At      float64 `json:"at,omitzero"`
	Repeats int     `json:"repeats,omitzero"`
	// Play is the freedom left either side, degrees of the shaft.
	Play float64 `json:"play,omitzero"`
	// CarriesTorque allows bolt torque against it.
	CarriesTorque bool   `json:"carriesTorque,omitzero"`
	Tool          ToolID `json:"tool,omitzero"`
	// Access is the plug or cover that must be off first.
	Access PartID `json:"access,omitzero"`
	Note   string `json:"note,omitzero"`
}

// Method is how a tensioner sets the loop.
type Method string

// The methods the first engines use.
const (
	Eccentric Method = "eccentric with pointer"
	Hydraulic Method = "hydraulic with pin"
	SpringArm Method = "spring arm"
	Ratchet   Method = "ratchet plunger"
	Fixed     Method = "fixed"
)

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
}

// PointerAt is the place of the pointer from a temperature upwards.
type PointerAt struct {
	From  unit.Quantity `json:"from"`
	Place string        `json:"place"`
}

// Stage is one movement of the wrench: to a torque, or on through an angle.
// Exactly one of the two is written in a finished page.
type Stage struct {
	Torque unit.Quantity `json:"torque,omitzero"`
	Angle  unit.Quantity `json:"angle,omitzero"`
}

// Fastener is a bolt, nut, stud or threaded plug, or a set of equal ones.
type Fastener struct {
	ID       FastenerID `json:"id"`
	Name     string     `json:"name"`
	Count    int        `json:"count"`
	Thread   string     `json:"thread,omitzero"`
	Class    string     `json:"class,omitzero"`
	Across   float64    `json:"across,omitzero"`
	LeftHand bool       `json:"leftHand,omitzero"`
	// OnShaft is the shaft the bolt would turn; its torque must be held.
	OnShaft   ShaftID `json:"onShaft,omitzero"`
	SingleUse bool    `json:"singleUse,omitzero"`
	Lubricant string  `json:"lubricant,omitzero"`
	Spec      []Stage `json:"spec,omitzero"`
	Pattern   string  `json:"pattern,omitzero"`
	// HoldWith is the lock or holder that takes the torque.
	HoldWith LockID `json:"holdWith,omitzero"`
	// Part is the new part number's place in the parts list.
	Part PartID `json:"part,omitzero"`
	// Hazard names what it may do when slackened.
	Hazard Hazard `json:"hazard,omitzero"`
}

// Plural reports whether the name stands for several.
func (f *Fastener) Plural() bool { return f.Count > 1 }

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
}

// Tool is a special tool.
type Tool struct {
	ID     ToolID `json:"id"`
	Number string `json:"number"`
	Name   string `json:"name"`
	Kit    string `json:"kit,omitzero"`
}
