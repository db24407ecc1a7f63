// Package virtual is the virtual engine. A Machine starts as a complete, running
// engine with the crank somewhere before top dead centre; the steps of a
// procedure act on it one after another, and the Trace keeps the state before
// and after each and what each one met. Where a step could not be done or would
// do harm, the machine notes an Event and goes on as the author meant, so that
// one mistake does not hide the next.
package virtual

import (
	"inklatch/internal/core/engine"
	"inklatch/internal/core/unit"
)

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
	// Open is true while what was opened to drain it has not gone back.
	Open bool
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
	// Seen are the shafts that were looked at since then, a bit each by their places.
	Seen uint64
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
	// Stretched is true once its angle was put into it, until it is renewed.
	Stretched bool
	// Reached is how many of the sheet's stages are behind one that is part way.
	Reached int
}

// PartState is one part.
type PartState struct {
	Off     bool
	Touched bool
	Fresh   bool
}

// MeshState is one pair of gears.
type MeshState struct {
	// Apart is set while one of the two is out.
	Apart bool
	// Relaid is true once they were apart and brought together again.
	Relaid bool
	// OffAt is the crank angle at which they came apart.
	OffAt float64
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
	// Meshes run beside the pairs of gears.
	Meshes   []MeshState
	Sealants []Sealant
	// Doubts run beside the shafts, Fluids beside the fluids; Paints are in the order
	// they were painted, Resets the parts whose counter was set back.
	Doubts  []Doubt
	Fluids  []FluidState
	Paints  []Paint
	Resets  []engine.PartID
	Minutes unit.Minutes
	Started bool
	// Found is true once the crank was brought to a mark, a stop or a lock.
	Found bool
	// Adrift is true once the engine has run, until the crank is brought to something
	// again: it stands anywhere.
	Adrift bool
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
		Meshes:     make([]MeshState, len(s.Gears)),
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
