package virtual

import (
	"inklatch/internal/core/engine"
	"inklatch/internal/core/unit"
)

// Event is one thing a step met: one of the types below. An identifier that is empty
// was not part of it; angles are degrees of the shaft that is spoken of.
type Event interface{ event() }

type (
	// UnknownThing: the step names something the sheet does not have.
	UnknownThing struct {
		Name string
	}
	// WentIn: a lock was tried where the shafts stood, and went in; Degrees is the furthest
	// shaft’s error.
	WentIn struct {
		Lock    engine.LockID
		Degrees unit.Angle
	}
	// WouldNotGoIn: a lock was tried where the shafts stood, and did not go in: Shaft is
	// Degrees away, and one more turn of the crank would have done where WrongStroke is set.
	WouldNotGoIn struct {
		Lock        engine.LockID
		Shaft       engine.ShaftID
		Degrees     unit.Angle
		WrongStroke bool
	}
	// AlreadyIn: a lock was fitted that was in.
	AlreadyIn struct {
		Lock engine.LockID
	}
	// NotIn: a lock was taken out that was not in.
	NotIn struct {
		Lock engine.LockID
	}
	// CameOut: a lock was taken out.
	CameOut struct {
		Lock engine.LockID
	}
	// AccessShut: a plug or cover still bars the way.
	AccessShut struct {
		Lock     engine.LockID
		Part     engine.PartID
		Fastener engine.FastenerID
	}
	// TurnedAgainst: the crank was turned with the lock holding it.
	TurnedAgainst struct {
		Lock  engine.LockID
		Shaft engine.ShaftID
	}
	// NothingToMeet: turned onto a stop that is not fitted.
	NothingToMeet struct {
		Lock engine.LockID
	}
	// MetStop: came up to a stop.
	MetStop struct {
		Lock engine.LockID
	}
	// Backwards: turned against the running direction by Degrees.
	Backwards struct {
		Degrees unit.Angle
	}
	// LooseWheelTurned: turned with a floating wheel free on its shaft.
	LooseWheelTurned struct {
		Wheel engine.WheelID
	}
	// Contact: turned with a loop off beyond the safe window of an interference engine.
	Contact struct {
		Loop    engine.LoopID
		Gear    engine.GearID
		Shaft   engine.ShaftID
		Degrees unit.Angle
	}
	// LoopOffUnlocked: a loop came off with Shaft not fixed.
	LoopOffUnlocked struct {
		Loop  engine.LoopID
		Shaft engine.ShaftID
	}
	// CamThrown: the springs of a cam turned it by Degrees when its Loop came off.
	CamThrown struct {
		Loop    engine.LoopID
		Shaft   engine.ShaftID
		Degrees unit.Angle
	}
	// LoopOnUnlocked: a loop was laid with Shaft not fixed.
	LoopOnUnlocked struct {
		Loop  engine.LoopID
		Shaft engine.ShaftID
	}
	// LoopTight: taken off or fitted with the tensioner working.
	LoopTight struct {
		Loop      engine.LoopID
		Tensioner engine.TensionerID
	}
	// AlreadyOff: a part or a loop was taken off that was off.
	AlreadyOff struct {
		Part engine.PartID
		Loop engine.LoopID
	}
	// NotOff: a part or a loop went on that was on; Painted is set where only marks were to
	// be copied from one that is not off.
	NotOff struct {
		Part    engine.PartID
		Loop    engine.LoopID
		Painted bool
	}
	// InTheWay: Part had to come off first, or, with Refit, stands before what goes back.
	InTheWay struct {
		Part  engine.PartID
		Refit bool
	}
	// OldPart: an always-new part or single-use fastener went back used.
	OldPart struct {
		Part     engine.PartID
		Fastener engine.FastenerID
		Loop     engine.LoopID
	}
	// OldSeal: a plug went back without a new seal.
	OldSeal struct {
		Part engine.PartID
	}
	// PinCarriedTorque: bolt torque went into a lock made for position.
	PinCarriedTorque struct {
		Lock     engine.LockID
		Fastener engine.FastenerID
		Shaft    engine.ShaftID
	}
	// Unheld: nothing held the shaft against the bolt torque.
	Unheld struct {
		Fastener engine.FastenerID
		Shaft    engine.ShaftID
	}
	// NotFixed: a floating wheel was clamped with its shaft not locked.
	NotFixed struct {
		Fastener engine.FastenerID
		Shaft    engine.ShaftID
	}
	// Unplaced: a Wheel with a place of its own was clamped with the Lock out that holds it
	// there.
	Unplaced struct {
		Wheel    engine.WheelID
		Lock     engine.LockID
		Fastener engine.FastenerID
	}
	// CapsLoose: a Loop was laid over a Shaft whose caps are not tight.
	CapsLoose struct {
		Shaft    engine.ShaftID
		Loop     engine.LoopID
		Fastener engine.FastenerID
	}
	// AfterRun: a Lock was tried, or a Mark read, on an engine that has run since its crank
	// was last brought to anything.
	AfterRun struct {
		Lock    engine.LockID
		Mark    engine.MarkID
		Reading engine.ReadingID
	}
	// Laid: a Loop lies on its wheels, or hangs on them, anew.
	Laid struct {
		Loop engine.LoopID
	}
	// Meshed: a pair of gears came together again.
	Meshed struct {
		Gear engine.GearID
	}
	// ReleasedUnchecked: tension came on before anything was looked at, or, with Shaft,
	// before that one was.
	ReleasedUnchecked struct {
		Loop      engine.LoopID
		Tensioner engine.TensionerID
		Shaft     engine.ShaftID
	}
	// ReleasedWithoutLoop: a tensioner was let go with its loop off.
	ReleasedWithoutLoop struct {
		Loop      engine.LoopID
		Tensioner engine.TensionerID
	}
	// NotPinned: a pin was pulled that was not in.
	NotPinned struct {
		Tensioner engine.TensionerID
	}
	// MarkStood: a mark was looked at and stood, Degrees off within what it shows.
	MarkStood struct {
		Loop    engine.LoopID
		Mark    engine.MarkID
		Shaft   engine.ShaftID
		Wheel   engine.WheelID
		Degrees unit.Angle
	}
	// MarkAway: a mark was looked at and stood Degrees away; NeverTogether is set where
	// marks that are turned to together never stand together.
	MarkAway struct {
		Mark          engine.MarkID
		Shaft         engine.ShaftID
		Wheel         engine.WheelID
		NeverTogether bool
		Degrees       unit.Angle
	}
	// LoopMarkMoved: a loop mark was used after turning, or, with AsFound, on an engine as
	// it is found.
	LoopMarkMoved struct {
		Loop    engine.LoopID
		Mark    engine.MarkID
		AsFound bool
		Degrees unit.Angle
	}
	// SealantDry: a joint was closed Minutes after its sealant went on, past its open time.
	SealantDry struct {
		Part    engine.PartID
		Minutes unit.Minutes
	}
	// PhaserAway: a loop went on over a phaser that nobody brought to its home stop.
	PhaserAway struct {
		Loop  engine.LoopID
		Wheel engine.WheelID
	}
	// StartedWithLock: the first start came with a lock in.
	StartedWithLock struct {
		Lock engine.LockID
	}
	// SlackAlready: a fastener was slackened that is slack or out.
	SlackAlready struct {
		Part     engine.PartID
		Fastener engine.FastenerID
	}
	// TightAlready: a fastener was tightened to the end that nothing had loosened.
	TightAlready struct {
		Fastener engine.FastenerID
	}
	// PartGone: Part is off, so that its fastener, its tensioner or its lock cannot be worked
	// at.
	PartGone struct {
		Part      engine.PartID
		Fastener  engine.FastenerID
		Tensioner engine.TensionerID
	}
	// BoltTight: a part came off whose Fastener, one that turns a shaft or is dangerous, had
	// not been slackened.
	BoltTight struct {
		Part     engine.PartID
		Fastener engine.FastenerID
	}
	// TensionerClamped: a tensioner was moved with its bolts tight.
	TensionerClamped struct {
		Fastener  engine.FastenerID
		Tensioner engine.TensionerID
	}
	// PinStillIn: a tensioner was set with its pin in.
	PinStillIn struct {
		Tensioner engine.TensionerID
	}
	// NotHeldBack: a loop came off a tensioner that has a pin, slackened but not pinned.
	NotHeldBack struct {
		Loop      engine.LoopID
		Tensioner engine.TensionerID
	}
	// WrongHold: the hold a step names does not hold what the bolt turns.
	WrongHold struct {
		Lock     engine.LockID
		Fastener engine.FastenerID
		Shaft    engine.ShaftID
	}
	// Gauged: a reading of the sheet was taken.
	Gauged struct {
		Reading engine.ReadingID
	}
	// ReadingHidden: a reading was taken with Part before it.
	ReadingHidden struct {
		Reading engine.ReadingID
		Part    engine.PartID
	}
	// ReadingOff: a reading does not pass, for Shaft stands off by so many degrees.
	ReadingOff struct {
		Reading engine.ReadingID
		Shaft   engine.ShaftID
		Degrees unit.Angle
	}
	// StillClamped: a wheel was to be broken loose with its Fastener tight.
	StillClamped struct {
		Wheel    engine.WheelID
		Fastener engine.FastenerID
	}
	// StretchedTwice: a bolt was slackened and taken through its angle a second time.
	StretchedTwice struct {
		Fastener engine.FastenerID
	}
	// MarkHidden: a mark was read with Part before it.
	MarkHidden struct {
		Part engine.PartID
		Mark engine.MarkID
	}
	// NotAMark: a look-alike was taken for a mark.
	NotAMark struct {
		Mark engine.MarkID
	}
	// UnderLoop: Part came off under a Loop that is on.
	UnderLoop struct {
		Part engine.PartID
		Loop engine.LoopID
	}
	// WheelMissing: a Loop was tensioned, or turned on, with a wheel of it whose Part is off.
	WheelMissing struct {
		Part engine.PartID
		Loop engine.LoopID
	}
	// HoleShut: Part was closed on a Lock that is in.
	HoleShut struct {
		Lock engine.LockID
		Part engine.PartID
	}
	// SlackTurned: turned on a Loop that its Tensioner does not tension.
	SlackTurned struct {
		Loop      engine.LoopID
		Tensioner engine.TensionerID
	}
	// TriedWhileIn: it was checked whether a lock goes in that is in.
	TriedWhileIn struct {
		Lock      engine.LockID
		Tensioner engine.TensionerID
	}
	// TurnedByNothing: turned by a Fastener that is slack, or whose part is off.
	TurnedByNothing struct {
		Part     engine.PartID
		Fastener engine.FastenerID
	}
	// NotComeUp: turned onto a stop that was met already, Degrees of travel.
	NotComeUp struct {
		Lock    engine.LockID
		Degrees unit.Angle
	}
	// StartedOpen: the first start came with Part off, Fastener not tight, Tensioner not
	// working, or Fluid out.
	StartedOpen struct {
		Tensioner engine.TensionerID
		Part      engine.PartID
		Fastener  engine.FastenerID
		Fluid     engine.FluidID
	}
	// RenewedInPlace: a part was renewed that is on the engine.
	RenewedInPlace struct {
		Part engine.PartID
	}
	// SlackElsewhere: the slack of a Loop was left on another run than its tensioner’s; Wheel
	// is where.
	SlackElsewhere struct {
		Loop      engine.LoopID
		Wheel     engine.WheelID
		Tensioner engine.TensionerID
	}
	// HoldNotIn: a bolt was held with a lock that has to be fitted, and is not in.
	HoldNotIn struct {
		Lock     engine.LockID
		Fastener engine.FastenerID
		Shaft    engine.ShaftID
	}
	// RenewedAgain: a part or a fastener was renewed that is new already.
	RenewedAgain struct {
		Part     engine.PartID
		Fastener engine.FastenerID
	}
	// LetGoLoose: a tensioner was let go whose own bolts, Fastener, do not hold it yet, or,
	// with Part, those of a roller that its loop runs over.
	LetGoLoose struct {
		Part      engine.PartID
		Fastener  engine.FastenerID
		Tensioner engine.TensionerID
	}
	// TurnedLoose: turned on with a Fastener of a Loop’s wheels not tight.
	TurnedLoose struct {
		Fastener engine.FastenerID
		Loop     engine.LoopID
	}
	// Covered: work at a Loop, or at what it runs over, with a cover on that hides one of its
	// wheels: Part.
	Covered struct {
		Part engine.PartID
		Loop engine.LoopID
	}
	// ClampedEarly: a floating Wheel was clamped before its Loop was laid, or, with
	// Tensioner, before that holds it under tension.
	ClampedEarly struct {
		Tensioner engine.TensionerID
		Fastener  engine.FastenerID
		Loop      engine.LoopID
		Wheel     engine.WheelID
	}
	// NoProof: it was tried whether a lock goes in that goes in anywhere.
	NoProof struct {
		Lock engine.LockID
	}
	// ScrewsLoose: worked at with a Lock in whose own screw, Fastener, is not tight.
	ScrewsLoose struct {
		Lock     engine.LockID
		Fastener engine.FastenerID
	}
	// SprungOut: a Tensioner that pushes came off, not held back by its pin.
	SprungOut struct {
		Part      engine.PartID
		Loop      engine.LoopID
		Tensioner engine.TensionerID
	}
	// Looked: a shaft was looked at, by Mark or by Lock; every look notes it.
	Looked struct {
		Lock    engine.LockID
		Mark    engine.MarkID
		Reading engine.ReadingID
		Shaft   engine.ShaftID
		Wheel   engine.WheelID
		Degrees unit.Angle
	}
	// Inspected: a part was inspected.
	Inspected struct {
		Part engine.PartID
	}
	// Counted: the tools were counted.
	Counted struct{}
	// Cleaned: what was on a part is off it.
	Cleaned struct {
		Part engine.PartID
	}
	// SealantOn: sealant went on a part.
	SealantOn struct {
		Part engine.PartID
	}
	// TensionSeen: a tensioner was looked at.
	TensionSeen struct {
		Tensioner engine.TensionerID
	}
	// FoundOtherwise: a check looked whether a thing is in its place, or is not, and it is the
	// other way round: Found.
	FoundOtherwise struct {
		Thing engine.Ref
		Found Finding
	}
	// ElsewhereMark: a shaft is turned to a Mark, or into a Lock, that is not on it.
	ElsewhereMark struct {
		Lock    engine.LockID
		Mark    engine.MarkID
		Reading engine.ReadingID
		Shaft   engine.ShaftID
	}
	// CamContact: a cam that nothing drives was turned by hand, Degrees, with pistons where
	// its valves can meet them.
	CamContact struct {
		Shaft   engine.ShaftID
		Degrees unit.Angle
	}
	// StopSkipped: a Tensioner that goes to its stop first was set without that.
	StopSkipped struct {
		Tensioner engine.TensionerID
	}
	// TensionOrder: a Tensioner came on before another that comes on first: Before.
	TensionOrder struct {
		Loop      engine.LoopID
		Tensioner engine.TensionerID
		Before    engine.TensionerID
	}
	// ScrewOrder: a screw of a Lock was tightened before the one that comes first: After.
	ScrewOrder struct {
		Lock     engine.LockID
		Fastener engine.FastenerID
		After    engine.FastenerID
	}
	// BoltOrder: a Fastener was taken to the end before the one that comes first: After.
	BoltOrder struct {
		Fastener engine.FastenerID
		After    engine.FastenerID
	}
	// BeyondLimit: a Shaft was clamped where it may stand Degrees off, more than the code
	// passes.
	BeyondLimit struct {
		Shaft   engine.ShaftID
		Wheel   engine.WheelID
		Degrees unit.Angle
	}
	// PaintMissing: an own mark was used that nobody painted; with Off, across a loop that
	// is off, with New, on one that was laid new.
	PaintMissing struct {
		Loop  engine.LoopID
		Wheel engine.WheelID
		Off   bool
		New   bool
	}
	// PaintMoved: an own mark across a loop was used after turning.
	PaintMoved struct {
		Loop  engine.LoopID
		Wheel engine.WheelID
	}
	// Painted: an own mark was made.
	Painted struct {
		Loop  engine.LoopID
		Wheel engine.WheelID
	}
	// Spilled: Part came off with its Fluid in.
	Spilled struct {
		Part  engine.PartID
		Fluid engine.FluidID
	}
	// NotDrained: a Fluid was filled in that is in.
	NotDrained struct {
		Fluid engine.FluidID
	}
	// FilledOpen: a Fluid was filled in while Part is off.
	FilledOpen struct {
		Part  engine.PartID
		Fluid engine.FluidID
		// Drained is set for what draining opened, and no step put back.
		Drained bool
	}
	// Reset: a counter was set back.
	Reset struct {
		Part engine.PartID
	}
	// PointerOff: a mark was read whose pointer is on Part, which is off.
	PointerOff struct {
		Part engine.PartID
		Mark engine.MarkID
	}
)

func (UnknownThing) event()        {}
func (WentIn) event()              {}
func (WouldNotGoIn) event()        {}
func (AlreadyIn) event()           {}
func (NotIn) event()               {}
func (CameOut) event()             {}
func (AccessShut) event()          {}
func (TurnedAgainst) event()       {}
func (NothingToMeet) event()       {}
func (MetStop) event()             {}
func (Backwards) event()           {}
func (LooseWheelTurned) event()    {}
func (Contact) event()             {}
func (LoopOffUnlocked) event()     {}
func (CamThrown) event()           {}
func (LoopOnUnlocked) event()      {}
func (LoopTight) event()           {}
func (AlreadyOff) event()          {}
func (NotOff) event()              {}
func (InTheWay) event()            {}
func (OldPart) event()             {}
func (OldSeal) event()             {}
func (PinCarriedTorque) event()    {}
func (Unheld) event()              {}
func (NotFixed) event()            {}
func (Unplaced) event()            {}
func (AfterRun) event()            {}
func (Laid) event()                {}
func (Meshed) event()              {}
func (CapsLoose) event()           {}
func (ReleasedUnchecked) event()   {}
func (ReleasedWithoutLoop) event() {}
func (NotPinned) event()           {}
func (MarkStood) event()           {}
func (MarkAway) event()            {}
func (LoopMarkMoved) event()       {}
func (SealantDry) event()          {}
func (PhaserAway) event()          {}
func (StartedWithLock) event()     {}
func (SlackAlready) event()        {}
func (TightAlready) event()        {}
func (PartGone) event()            {}
func (BoltTight) event()           {}
func (TensionerClamped) event()    {}
func (PinStillIn) event()          {}
func (NotHeldBack) event()         {}
func (WrongHold) event()           {}
func (MarkHidden) event()          {}
func (StretchedTwice) event()      {}
func (StillClamped) event()        {}
func (Gauged) event()              {}
func (ReadingHidden) event()       {}
func (ReadingOff) event()          {}
func (NotAMark) event()            {}
func (UnderLoop) event()           {}
func (WheelMissing) event()        {}
func (HoleShut) event()            {}
func (SlackTurned) event()         {}
func (TriedWhileIn) event()        {}
func (TurnedByNothing) event()     {}
func (NotComeUp) event()           {}
func (StartedOpen) event()         {}
func (RenewedInPlace) event()      {}
func (SlackElsewhere) event()      {}
func (HoldNotIn) event()           {}
func (RenewedAgain) event()        {}
func (LetGoLoose) event()          {}
func (TurnedLoose) event()         {}
func (Covered) event()             {}
func (ClampedEarly) event()        {}
func (NoProof) event()             {}
func (ScrewsLoose) event()         {}
func (SprungOut) event()           {}
func (Looked) event()              {}
func (Inspected) event()           {}
func (Counted) event()             {}
func (Cleaned) event()             {}
func (SealantOn) event()           {}
func (TensionSeen) event()         {}
func (FoundOtherwise) event()      {}
func (ElsewhereMark) event()       {}
func (CamContact) event()          {}
func (StopSkipped) event()         {}
func (TensionOrder) event()        {}
func (ScrewOrder) event()          {}
func (BoltOrder) event()           {}
func (BeyondLimit) event()         {}
func (PaintMissing) event()        {}
func (PaintMoved) event()          {}
func (Painted) event()             {}
func (Spilled) event()             {}
func (NotDrained) event()          {}
func (FilledOpen) event()          {}
func (Reset) event()               {}
func (PointerOff) event()          {}

// Act reports whether an event only tells what was done, not that anything was
// amiss.
func Act(e Event) bool {
	switch e.(type) {
	case Looked, Laid, Meshed, Inspected, Counted, Cleaned, SealantOn, TensionSeen, Painted, Reset:
		return true
	}
	return false
}
