// Package virtual is the virtual engine. A Machine starts as a complete, running
// engine with the crank somewhere before top dead centre; the steps of a
// procedure act on it one after another, and the Trace keeps the state before
// and after each and what each one met. Where a step could not be done or would
// do harm, the machine notes an Event and goes on as the author meant, so that
// one mistake does not hide the next.
package virtual

import "inklatch/internal/core/engine"

// Stage is how far a fastener has been taken.
type Stage uint8

// The stages, in order.
const (
	Out Stage = iota
	Loose
	Finger
	Snug
	Partial
	Final
)

var stageNames = [...]string{"out", "slack", "finger tight", "nipped up", "part way", "final"}

// String is the stage in the words a page uses.
func (s Stage) String() string { return stageNames[s] }

// Tension is what a tensioner is doing.
type Tension uint8

// What a tensioner can be doing.
const (
	// Working is as found or as released: the loop is tensioned.
	Working Tension = iota
	// Relieved is slackened off without a pin.
	Relieved
	// Pinned is held retracted by its pin.
	Pinned
	// Set is tensioned and adjusted to its pointer, gauge or length.
	Set
)

var tensionNames = [...]string{"working", "relieved", "pinned", "set"}

// String is the state in plain words.
func (t Tension) String() string { return tensionNames[t] }

// TensionState is one tensioner.
type TensionState struct {
	Now Tension
	// Stop is true once it has been taken to its stop since it was relieved.
	Stop bool
	// Seen is true once it was looked at, since it was last moved and since its loop
	// was last turned a turn over.
	Seen bool
}

// String is what it is doing, in plain words.
func (t TensionState) String() string { return t.Now.String() }

// Doubt is how far a shaft may stand off where it is drawn, either way.
type Doubt struct {
	// Teeth are whole teeth of its own wheel.
	Teeth int
	// Angle is within a tooth, degrees of the shaft.
	Angle float64
}

// None reports whether there is no doubt.
func (d Doubt) None() bool { return d.Teeth == 0 && d.Angle < hair }

// Paint is a mark of the technician's own.
type Paint struct {
	// Wheel is what it is on, Angle the angle of its shaft when it was painted. Loop is
	// set for one across a loop and the wheel.
	Wheel engine.WheelID
	Loop  engine.LoopID
	Angle float64
	// Travel is how far the crank had been turned with that loop on, degrees.
	Travel float64
}

// FluidState is one fluid.
type FluidState struct {
	Out bool
}

// LockState is one lock point.
type LockState struct {
	In bool
	// Met is true once a stop has been come up to.
	Met bool
	// Forced is true for one that did not go in, or that the engine was turned
	// against: it stands in the chart as the author meant, and holds nothing.
	Forced bool
}

// Holds reports whether a lock that is in holds what it is made to hold: a stop
// once it is met.
func (l LockState) Holds(kind engine.LockKind) bool {
	return l.In && !l.Forced && (kind != engine.StopLock || l.Met)
}

// LoopState is one belt or chain.
type LoopState struct {
	On bool
	// Turned is crank travel in degrees, either way, since it was last fitted.
	Turned float64
	// Refitted is true once it has been taken off and fitted again.
	Refitted bool
	// Looked is true once a mark or lock was checked since it was fitted.
	Looked bool
	// SlackAt is the wheel on whose run the slack was left.
	SlackAt engine.WheelID
	// New is true for one that is not the one that came off.
	New bool
	// Copied is true once the marks painted across it were copied to it.
	Copied bool
	// OffAt is the crank angle at which it came off.
	OffAt float64
}

// FastenerState is one fastener or set of equal ones.
type FastenerState struct {
	Stage Stage
	// Loosened is true while it has been slackened or out since it was last
	// tightened to the end.
	Loosened bool
	// Touched is true once it has been loosened.
	Touched bool
	// Fresh is true for a new one that has not been tightened to the end.
	Fresh bool
}

// PartState is one part.
type PartState struct {
	Off     bool
	Touched bool
	Fresh   bool
}

// Sealant is an open joint: on which part, since when and until when, minutes.
type Sealant struct {
	Part         engine.PartID
	Since, Until float64
}

// State is the whole engine at one moment. Its slices run beside the sheet's
// and are shared between states until something in them changes; treat a state
// from a trace as read-only.
type State struct {
	// Crank is the unwrapped crank angle in degrees, 0 at the timing position,
	// positive in running direction.
	Crank  float64
	Shafts []float64
	Locks  []LockState
	Loops  []LoopState
	Free   []bool
	// Away marks, wheel by wheel, a phaser that may be off its home stop.
	Away       []bool
	Fasteners  []FastenerState
	Parts      []PartState
	Tensioners []TensionState
	Sealants   []Sealant
	// Doubts run beside the shafts, Fluids beside the fluids; Paints are in the order
	// they were painted, Resets the parts whose counter was set back.
	Doubts  []Doubt
	Fluids  []FluidState
	Paints  []Paint
	Resets  []engine.PartID
	Minutes float64
	Started bool
	// Found is true once the crank was brought to a mark, a stop or a lock.
	Found bool
}

// StartAngle is where the crank of the virtual engine stands before the first
// step, degrees: before top dead centre of number one firing, at no mark.
const StartAngle = -200

func newState(x *engine.Index) State {
	s := x.Sheet
	st := State{
		Crank:      StartAngle,
		Shafts:     make([]float64, len(s.Shafts)),
		Locks:      make([]LockState, len(s.Locks)),
		Loops:      make([]LoopState, len(s.Loops)),
		Free:       make([]bool, len(s.Wheels)),
		Away:       make([]bool, len(s.Wheels)),
		Fasteners:  make([]FastenerState, len(s.Fasteners)),
		Parts:      make([]PartState, len(s.Parts)),
		Tensioners: make([]TensionState, len(s.Tensioners)),
		Doubts:     make([]Doubt, len(s.Shafts)),
		Fluids:     make([]FluidState, len(s.Fluids)),
	}
	for i := range st.Shafts {
		if d := x.Drive(i); d.Driven {
			st.Shafts[i] = StartAngle * d.Ratio.Float()
		}
	}
	for i := range st.Loops {
		st.Loops[i].On = true
	}
	for i := range st.Fasteners {
		st.Fasteners[i].Stage = Final
	}
	for i := range s.Locks {
		for _, f := range s.Locks[i].Screws {
			if k := x.FastenerAt(f); k >= 0 {
				st.Fasteners[k] = FastenerState{Stage: Out, Loosened: true}
			}
		}
	}
	return st
}

// EventKind says what a step met.
type EventKind uint8

// What a step can meet.
const (
	// UnknownThing: the step names something the sheet does not have.
	UnknownThing EventKind = iota
	// WentIn and WouldNotGoIn: a lock, tried where the shafts stood. Degrees is
	// the furthest shaft's error; WrongStroke is set when one more crank turn
	// would have done.
	WentIn
	WouldNotGoIn
	// AlreadyIn, NotIn: the lock was there already, or was not.
	AlreadyIn
	NotIn
	CameOut
	// AccessShut: a plug or cover still bars the way.
	AccessShut
	// TurnedAgainst: the crank was turned with the lock holding it.
	TurnedAgainst
	// NothingToMeet: turned onto a stop that is not fitted.
	NothingToMeet
	// MetStop: came up to a stop.
	MetStop
	// Backwards: turned against the running direction by Degrees.
	Backwards
	// LooseWheelTurned: turned with a floating wheel free on its shaft.
	LooseWheelTurned
	// Contact: turned with a loop off beyond the safe window of an
	// interference engine.
	Contact
	// LoopOffUnlocked, LoopOnUnlocked: the shafts were not fixed.
	LoopOffUnlocked
	LoopOnUnlocked
	// LoopTight: taken off or fitted with the tensioner working.
	LoopTight
	// AlreadyOff, NotOff: a part or loop that was off, or was not.
	AlreadyOff
	NotOff
	// InTheWay: Part had to come off first.
	InTheWay
	// OldPart: an always-new part or single-use fastener went back used.
	OldPart
	// OldSeal: a plug went back without a new seal.
	OldSeal
	// PinCarriedTorque: bolt torque went into a lock made for position.
	PinCarriedTorque
	// Unheld: nothing held the shaft against the bolt torque.
	Unheld
	// NotFixed: a floating wheel was clamped with its shaft not locked.
	NotFixed
	// ReleasedUnchecked: tension came on before anything was looked at.
	ReleasedUnchecked
	// ReleasedWithoutLoop: a tensioner was let go with its loop off.
	ReleasedWithoutLoop
	// NotPinned: a pin was pulled that was not in.
	NotPinned
	// MarkStood, MarkAway: a mark was looked at; Degrees is how far off.
	MarkStood
	MarkAway
	// LoopMarkMoved: a loop mark was used after turning.
	LoopMarkMoved
	// SealantDry: a joint was closed after its open time.
	SealantDry
	// PhaserAway: a loop went on over a phaser that nobody brought to its home
	// stop.
	PhaserAway
	// StartedWithLock: the first start came with a lock in.
	StartedWithLock
	// SlackAlready: a fastener was slackened that is slack or out. TightAlready:
	// one was tightened to the end that nothing had loosened.
	SlackAlready
	TightAlready
	// PartGone: Part is off, so that its fastener, its tensioner or its lock
	// cannot be worked at.
	PartGone
	// BoltTight: a part came off whose Fastener, one that turns a shaft or is
	// dangerous, had not been slackened.
	BoltTight
	// TensionerClamped: a tensioner was moved with its bolts tight. PinStillIn: it
	// was set with its pin in. NotHeldBack: a loop came off a tensioner that has a
	// pin, slackened but not pinned.
	TensionerClamped
	PinStillIn
	NotHeldBack
	// WrongHold: the hold a step names does not hold what the bolt turns.
	WrongHold
	// MarkHidden: a mark was read with Part before it. NotAMark: a look-alike was
	// taken for a mark.
	MarkHidden
	NotAMark
	// UnderLoop: Part came off under a Loop that is on. WheelMissing: a Loop was
	// laid over a wheel whose Part is off.
	UnderLoop
	WheelMissing
	// HoleShut: Part was closed on a Lock that is in.
	HoleShut
	// SlackTurned: turned on a Loop that its Tensioner does not tension.
	SlackTurned
	// TriedWhileIn: it was checked whether a lock goes in that is in.
	TriedWhileIn
	// TurnedByNothing: turned by a Fastener that is slack, or whose part is off.
	TurnedByNothing
	// NotComeUp: turned onto a stop that was met already, Degrees of travel.
	NotComeUp
	// StartedOpen: the first start came with Part off, Fastener not tight or
	// Tensioner not working.
	StartedOpen
	// RenewedInPlace: a part was renewed that is on the engine.
	RenewedInPlace
	// SlackElsewhere: the slack of a Loop was left on another run than its
	// tensioner’s; Wheel is where.
	SlackElsewhere
	// HoldNotIn: a bolt was held with a lock that has to be fitted, and is not in.
	HoldNotIn
	// RenewedAgain: a part or a fastener was renewed that is new already.
	RenewedAgain
	// LetGoLoose: a tensioner was let go whose own bolts, Fastener, do not hold it
	// yet. TurnedLoose: turned on with a Fastener of a Loop’s wheels not tight.
	LetGoLoose
	TurnedLoose
	// Covered: work at a Loop, or at what it runs over, with a cover on that hides
	// one of its wheels: Part.
	Covered
	// ClampedEarly: a floating Wheel was clamped before its Loop was laid.
	ClampedEarly
	// NoProof: it was tried whether a lock goes in that goes in anywhere.
	NoProof
	// ScrewsLoose: worked at with a Lock in whose own screw, Fastener, is not tight.
	ScrewsLoose
	// SprungOut: a Tensioner that pushes came off, not held back by its pin.
	SprungOut
	// Looked: a shaft was looked at, by Mark or by Lock; every look notes it.
	Looked
	// Inspected, Counted, SealantOn and TensionSeen: a part was inspected, the tools
	// were counted, sealant went on a part, a tensioner was looked at.
	Inspected
	Counted
	SealantOn
	TensionSeen
	// FoundOtherwise: a check looked whether a thing is in its place, or is not,
	// and it is the other way round; Name says how it is found.
	FoundOtherwise
	// ElsewhereMark: a shaft is turned to a Mark, or into a Lock, that is not on it.
	// CamContact: a cam that nothing drives was turned by hand, Degrees, with pistons
	// where its valves can meet them.
	ElsewhereMark
	CamContact
	// StopSkipped: a Tensioner that goes to its stop first was set without that.
	// TensionOrder: it came on before one that comes on first, Name.
	StopSkipped
	TensionOrder
	// ScrewOrder, BoltOrder: a Fastener was tightened before Name, which comes first.
	ScrewOrder
	BoltOrder
	// BeyondLimit: a Shaft was clamped where it may stand Degrees off, more than the
	// code passes.
	BeyondLimit
	// PaintMissing: an own mark was used that nobody painted, or that is not on the
	// new Loop. PaintMoved: one across a loop was used after turning. Painted notes one
	// that was made.
	PaintMissing
	PaintMoved
	Painted
	// Spilled: Part came off with its fluid in, Name. NotDrained, FilledOpen: a fluid was
	// filled that is in, or while Part is off. Reset notes a counter that was set back.
	Spilled
	NotDrained
	FilledOpen
	Reset
	// PointerOff: a mark was read whose pointer is on Part, which is off.
	PointerOff
)

// Event is one thing a step met. Only the fields its kind speaks of are set.
type Event struct {
	Kind        EventKind
	Lock        engine.LockID
	Part        engine.PartID
	Fastener    engine.FastenerID
	Loop        engine.LoopID
	Mark        engine.MarkID
	Shaft       engine.ShaftID
	Wheel       engine.WheelID
	Tensioner   engine.TensionerID
	Name        string
	Degrees     float64
	WrongStroke bool
}

// Act reports whether an event only tells what was done, not that anything was
// amiss.
func (k EventKind) Act() bool {
	switch k {
	case Looked, Inspected, Counted, SealantOn, TensionSeen, Painted, Reset:
		return true
	}
	return false
}
