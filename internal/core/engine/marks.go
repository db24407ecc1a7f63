package engine

import (
	"math"

	"inklatch/internal/core/unit"
)

// MarkKind tells what a mark may be used for.
type MarkKind string

// The kinds of mark.
const (
	// TimingMark stands on a wheel or shaft and comes home with it.
	TimingMark MarkKind = "timing"
	// LoopMark is paint or a coloured link, met by the mark of Wheel where one
	// is named: for fitting only.
	LoopMark MarkKind = "loop"
	// LookAlike is something that could be taken for a mark and is not.
	LookAlike MarkKind = "look-alike"
)

// Mark is something to line up by eye.
type Mark struct {
	ID    MarkID   `json:"id"`
	Name  string   `json:"name"`
	Kind  MarkKind `json:"kind"`
	Wheel WheelID  `json:"wheel,omitzero"`
	// Shaft is what a timing mark is on that is on no wheel.
	Shaft ShaftID `json:"shaft,omitzero"`
	Loop  LoopID  `json:"loop,omitzero"`
	// At is the shaft angle at which the mark meets its pointer.
	At float64 `json:"at"`
	// Clock is where the pointer stands as seen from the wheel's centre, degrees
	// clockwise from twelve o'clock in the sheet's view.
	Clock float64 `json:"clock,omitzero"`
	// Link is the tooth or link of a loop mark, counted in the direction of
	// travel from the loop's first mark, which is 0.
	Link    int    `json:"link,omitzero"`
	Pointer string `json:"pointer,omitzero"`
	Look    string `json:"look,omitzero"`
	// Shows is the smallest error the mark shows, in degrees of its shaft.
	Shows float64 `json:"shows,omitzero"`
	// Behind is the part that hides the mark, if any.
	Behind PartID `json:"behind,omitzero"`
	// On is the part that carries its pointer and has to be on to read it.
	On PartID `json:"on,omitzero"`
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

// Meets is the side from which a stop is met.
type Meets string

// The two sides.
const (
	MeetsRunning Meets = "running direction"
	MeetsAgainst Meets = "against running direction"
)

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
	// PlayMM and Radius give the play as millimetres at a radius instead.
	PlayMM float64 `json:"playMM,omitzero"`
	Radius float64 `json:"radius,omitzero"`
	// CarriesTorque allows bolt torque against it.
	CarriesTorque bool   `json:"carriesTorque,omitzero"`
	Tool          ToolID `json:"tool,omitzero"`
	// Access is the plug or cover that must be off first.
	Access PartID `json:"access,omitzero"`
	// Also are further parts that must be off first.
	Also []PartID `json:"also,omitzero"`
	// Wheel is the wheel it holds, where it holds one that floats and not its shaft.
	Wheel WheelID `json:"wheel,omitzero"`
	// Meets is the way of the crank in which a stop is met; empty for the running
	// direction.
	Meets Meets `json:"meets,omitzero"`
	// Screws are its own fastenings: they go in with it, are tightened in this order
	// once it sits, and come out with it.
	Screws []FastenerID `json:"screws,omitzero"`
	Note   string       `json:"note,omitzero"`
}

// Period is the angle of the shaft after which it goes in again, degrees.
func (l *Lock) Period() unit.Angle { return unit.Angle(360 / float64(max(l.Repeats, 1))) }

// Way is 1 for a stop that is met in running direction, −1 for one met against it.
func (l *Lock) Way() float64 {
	if l.Meets == MeetsAgainst {
		return -1
	}
	return 1
}

// Accesses are all parts that must be off before it can be fitted.
func (l *Lock) Accesses() []PartID {
	if l.Access == "" {
		return l.Also
	}
	if len(l.Also) == 0 {
		return []PartID{l.Access}
	}
	return append([]PartID{l.Access}, l.Also...)
}

// Freedom is the play either side in degrees of the shaft: Play, or PlayMM laid
// round a circle of Radius.
func (l *Lock) Freedom() unit.Angle {
	if l.Play == 0 && l.PlayMM > 0 && l.Radius > 0 {
		return unit.Angle(l.PlayMM / l.Radius * 180 / math.Pi)
	}
	return unit.Angle(l.Play)
}
