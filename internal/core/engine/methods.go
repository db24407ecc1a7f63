package engine

import (
	"strings"

	"inklatch/internal/core/unit"
)

// MethodSpec is what there is to know of a way to tension a loop. A method is added
// here and nowhere else.
type MethodSpec struct {
	Method Method
	// ByBolts is set where it is moved with its bolts slack and stays where they clamp
	// it; without it spring or oil moves it, and its bolts hold its body.
	ByBolts bool
	// SetOwed is set where it stands anywhere once it is let go: it has to be set.
	SetOwed bool
	// BySpring is set where a spring moves it as soon as its bolts are slack: pushed back,
	// it has to be clamped there, and slackened again for the spring to set it.
	BySpring bool
	// Plunger is set for one that tilts when it is let go with its bolts not tight.
	Plunger bool
	// StopFirst is set where it is taken to its stop before it is set.
	StopFirst bool
	// ByNote is set where its setting is heard on a run, while the engine is turned on.
	ByNote bool
	// Shows is what a look at it afterwards can go by, besides a pointer.
	Shows func(t *Tensioner) bool
	// Owes is what the sheet has to give of one.
	Owes []MethodOwes
}

// MethodOwes is a value a method cannot do without: what it is without it, and what to
// give.
type MethodOwes struct {
	Field     string
	What, Why string
	Missing   func(t *Tensioner) bool
}

// What several methods owe.
var (
	owesPlace = MethodOwes{"pointer", "has a pointer and no place for it", "Say where the pointer belongs, by temperature where that matters.", func(t *Tensioner) bool { return len(t.Pointer) == 0 }}
	owesWay   = MethodOwes{"turn", "is turned, and the sheet does not say which way", "Turned the wrong way it winds the belt the wrong way round.", func(t *Tensioner) bool { return t.Turn == "" }}
)

// Methods are the ways to tension a loop, in the order they are offered.
var Methods = []MethodSpec{
	{Method: Eccentric, ByBolts: true, SetOwed: true, Owes: []MethodOwes{owesPlace, owesWay}},
	{Method: OverTension, ByBolts: true, SetOwed: true, StopFirst: true, Owes: []MethodOwes{owesPlace, owesWay}},
	{Method: Hydraulic, Plunger: true, Shows: func(t *Tensioner) bool { return t.Pin != "" }, Owes: []MethodOwes{
		{"pin", "is held by a pin the sheet does not name", "The pin is the check afterwards too.", func(t *Tensioner) bool { return t.Pin == "" }},
		{"settle", "is checked after turns and a wait the sheet does not give", "Commonly four to six turns and 15 to 20 minutes.", func(t *Tensioner) bool { return t.Settle == 0 || t.Wait.IsZero() }},
	}},
	{Method: SpringArm},
	{Method: SpringSet, ByBolts: true, BySpring: true, Owes: []MethodOwes{
		{"bolts", "is clamped by bolts the sheet does not name", "Its spring sets it while they are slack, and they keep it there.", func(t *Tensioner) bool { return len(t.Bolts) == 0 }},
	}},
	{Method: Ratchet, Plunger: true},
	{Method: ByFrequency, ByBolts: true, SetOwed: true, ByNote: true, Shows: func(*Tensioner) bool { return true }, Owes: []MethodOwes{
		{"frequency", "is set by a tone the sheet does not give", "Give the run, the tone and its tolerance.", func(t *Tensioner) bool { return t.Frequency == nil }},
	}},
	{Method: PreLoad, ByBolts: true, SetOwed: true, Owes: []MethodOwes{
		{"hold", "is held with a torque the sheet does not give", "Give it in N·m.", func(t *Tensioner) bool { return t.Hold.Kind() != unit.KindTorque }},
	}},
	{Method: Fixed},
}

// Of is what there is to know of a method; of one that is none, nothing holds.
func (m Method) Of() *MethodSpec {
	for i := range Methods {
		if Methods[i].Method == m {
			return &Methods[i]
		}
	}
	return &MethodSpec{Method: m}
}

// OneNotch reports whether its pointer has one place, a notch, at every temperature; or
// none that the sheet says.
func (t *Tensioner) OneNotch() bool {
	if len(t.Pointer) != 1 {
		return len(t.Pointer) == 0
	}
	place := strings.TrimPrefix(strings.ToLower(strings.TrimSpace(t.Pointer[0].Place)), "pointer ")
	return place == "in the notch" || place == "in notch" || place == "in its notch"
}

// Seen reports whether a look can tell how the tensioner stands.
func (t *Tensioner) Seen() bool {
	s := t.Method.Of()
	return len(t.Pointer) > 0 || s.Shows != nil && s.Shows(t)
}

// MountSpec is what there is to know of how a wheel sits on its shaft.
type MountSpec struct {
	Mount Mount
	// Fixed wheels cannot move on their shaft; Floats is set for those that find their
	// place on it until their bolts clamp them.
	Fixed, Floats bool
	// Alike is the word for it among the mounts that one wheel may have in place of
	// another and still be the same wheel.
	Alike string
}

// Mounts are the mounts, in the order they are offered.
var Mounts = []MountSpec{
	{Mount: Keyed, Fixed: true, Alike: "fixed"},
	{Mount: Dowelled, Fixed: true, Alike: "fixed"},
	{Mount: Floating, Floats: true, Alike: "floating"},
	{Mount: Slotted, Floats: true, Alike: "floating"},
	{Mount: Friction, Floats: true, Alike: "floating"},
	{Mount: Phaser, Alike: "phaser"},
	{Mount: Idle, Alike: "idle"},
	{Mount: Rail, Alike: "rail"},
}

// Of is what there is to know of a mount; of one that is none, nothing holds.
func (m Mount) Of() *MountSpec {
	for i := range Mounts {
		if Mounts[i].Mount == m {
			return &Mounts[i]
		}
	}
	return &MountSpec{Mount: m, Alike: "fixed"}
}

// Fast reports whether a wheel cannot move on its shaft, bolts or no bolts: by its mount,
// or, for a phaser, by what it sits on its shaft by.
func (w *Wheel) Fast() bool {
	if w.Mount == Phaser && w.Seat != "" {
		return w.Seat.Fixed()
	}
	return w.Mount.Fixed()
}

// Fixed reports whether a wheel of this mount cannot move on its shaft.
func (m Mount) Fixed() bool { return m.Of().Fixed }

// Floats reports whether a wheel of this mount finds its place on its shaft until
// its bolts clamp it.
func (m Mount) Floats() bool { return m.Of().Floats }

// LockKindSpec is what there is to know of a kind of lock point.
type LockKindSpec struct {
	Kind LockKind
	// ForPosition is set where it fixes a timing position; the others hold against
	// torque, at any angle.
	ForPosition bool
}

// LockKinds are the kinds of lock point, in the order they are offered.
var LockKinds = []LockKindSpec{
	{StopLock, true}, {PinLock, true}, {BarLock, true}, {FlywheelLock, false}, {Holder, false},
}

// ForPosition reports whether the lock fixes a timing position.
func (k LockKind) ForPosition() bool {
	for i := range LockKinds {
		if LockKinds[i].Kind == k {
			return LockKinds[i].ForPosition
		}
	}
	return false
}
