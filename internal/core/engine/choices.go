package engine

import (
	"reflect"
	"sync"
)

// Choice is a type whose values are one of a few words. It says them, in the order
// they are offered; what reads, writes or shows a choice asks it.
type Choice interface{ Choices() []string }

// ChoicesOf are the values of a type that is a choice, nil for one that is not. They
// are not to be written to.
func ChoicesOf(t reflect.Type) []string {
	if known, ok := choices.Load(t); ok {
		return known.([]string)
	}
	var out []string
	if c, ok := reflect.Zero(t).Interface().(Choice); ok {
		out = c.Choices()
	}
	choices.Store(t, out)
	return out
}

// choices are the values of the types that were asked for, by the type.
var choices sync.Map

func words[T ~string](all ...T) []string {
	out := make([]string, len(all))
	for i, w := range all {
		out[i] = string(w)
	}
	return out
}

// Choices are the cycles.
func (Cycle) Choices() []string { return words(FourStroke, TwoStroke) }

// Choices are what may be known.
func (Known) Choices() []string { return words(Yes, No, Unknown) }

// Choices are the two ways round.
func (Way) Choices() []string { return words(Clockwise, Counterclockwise) }

// Choices are the kinds of shaft.
func (ShaftKind) Choices() []string {
	return words(Crankshaft, InletCam, ExhaustCam, Camshaft, Pump, Balance, Pickup, Intermediate)
}

// Choices are the two ends of a phaser's range.
func (PhaserHome) Choices() []string { return words(Retarded, Advanced) }

// Choices are the sides of a loop.
func (Side) Choices() []string { return words(Inside, Back) }

// Choices are the kinds of loop.
func (LoopKind) Choices() []string { return words(Belt, Chain) }

// Choices are the kinds of mark.
func (MarkKind) Choices() []string { return words(TimingMark, LoopMark, LookAlike) }

// Choices are the sides from which a stop is met.
func (Meets) Choices() []string { return words(MeetsRunning, MeetsAgainst) }

// Choices are the kinds of part.
func (PartKind) Choices() []string { return words(Component, Cover, Plug, Seal, LoopPart, Lead) }

// Choices are the policies.
func (Policy) Choices() []string { return words(AlwaysNew, NewIfFoundSo, WhileThere, Reuse) }

// Choices are the mounts, as Mounts has them.
func (Mount) Choices() []string {
	var out []string
	for i := range Mounts {
		out = append(out, string(Mounts[i].Mount))
	}
	return out
}

// Choices are the kinds of lock point, as LockKinds has them.
func (LockKind) Choices() []string {
	var out []string
	for i := range LockKinds {
		out = append(out, string(LockKinds[i].Kind))
	}
	return out
}

// Choices are the methods, as Methods has them.
func (Method) Choices() []string {
	var out []string
	for i := range Methods {
		out = append(out, string(Methods[i].Method))
	}
	return out
}
