package engine

import (
	"reflect"
	"strings"
)

// Kind is a kind of thing on an engine sheet, by the word of the trade for one.
type Kind string

// The kinds of thing.
const (
	KindBank      Kind = "bank"
	KindShaft     Kind = "shaft"
	KindLoop      Kind = "loop"
	KindWheel     Kind = "wheel"
	KindGear      Kind = "gear"
	KindTensioner Kind = "tensioner"
	KindFluid     Kind = "fluid"
	KindLock      Kind = "lock"
	KindMark      Kind = "mark"
	KindPart      Kind = "part"
	KindFastener  Kind = "fastener"
	KindTool      Kind = "tool"
	KindReading   Kind = "reading"
	KindSource    Kind = "source"
)

// KindSpec is what there is to know of a kind of thing.
type KindSpec struct {
	Kind Kind
	// List is the member of a sheet that has the things of this kind.
	List string
	// ID is the type of its identifiers: a field of it names one.
	ID reflect.Type
	// called is what the thing at a place of its list is called.
	called func(s *Sheet, i int) string
	// at is the place of an identifier, −1 for none.
	at func(x *Index, id string) int
}

// Kinds are the kinds of thing, each after what it hangs on. All that has to know of
// every kind goes through them.
var Kinds = []KindSpec{
	{KindBank, "banks", reflect.TypeFor[BankID](), func(s *Sheet, i int) string { return s.Banks[i].Name }, func(x *Index, id string) int { return place(x.banks, BankID(id)) }},
	{KindShaft, "shafts", reflect.TypeFor[ShaftID](), func(s *Sheet, i int) string { return s.Shafts[i].Name }, func(x *Index, id string) int { return place(x.shafts, ShaftID(id)) }},
	{KindLoop, "loops", reflect.TypeFor[LoopID](), func(s *Sheet, i int) string { return s.Loops[i].Name }, func(x *Index, id string) int { return place(x.loops, LoopID(id)) }},
	{KindWheel, "wheels", reflect.TypeFor[WheelID](), func(s *Sheet, i int) string { return s.Wheels[i].Name + " wheel" }, func(x *Index, id string) int { return place(x.wheels, WheelID(id)) }},
	{KindGear, "gears", reflect.TypeFor[GearID](), func(s *Sheet, i int) string { return s.Gears[i].Name }, func(x *Index, id string) int { return place(x.gears, GearID(id)) }},
	{KindTensioner, "tensioners", reflect.TypeFor[TensionerID](), func(s *Sheet, i int) string { return s.Tensioners[i].Name }, func(x *Index, id string) int { return place(x.tensioners, TensionerID(id)) }},
	{KindFluid, "fluids", reflect.TypeFor[FluidID](), func(s *Sheet, i int) string { return s.Fluids[i].Name }, func(x *Index, id string) int { return place(x.fluids, FluidID(id)) }},
	{KindLock, "locks", reflect.TypeFor[LockID](), func(s *Sheet, i int) string { return s.Locks[i].Name }, func(x *Index, id string) int { return place(x.locks, LockID(id)) }},
	{KindMark, "marks", reflect.TypeFor[MarkID](), func(s *Sheet, i int) string { return s.Marks[i].Name }, func(x *Index, id string) int { return place(x.marks, MarkID(id)) }},
	{KindPart, "parts", reflect.TypeFor[PartID](), func(s *Sheet, i int) string { return s.Parts[i].Name }, func(x *Index, id string) int { return place(x.parts, PartID(id)) }},
	{KindFastener, "fasteners", reflect.TypeFor[FastenerID](), func(s *Sheet, i int) string { return s.Fasteners[i].Name }, func(x *Index, id string) int { return place(x.fasteners, FastenerID(id)) }},
	{KindTool, "tools", reflect.TypeFor[ToolID](), func(s *Sheet, i int) string { return s.Tools[i].Number + " " + s.Tools[i].Name }, func(x *Index, id string) int { return place(x.tools, ToolID(id)) }},
	{KindReading, "readings", reflect.TypeFor[ReadingID](), func(s *Sheet, i int) string { return s.Readings[i].Name }, func(x *Index, id string) int { return place(x.readings, ReadingID(id)) }},
	{KindSource, "sources", reflect.TypeFor[SourceID](), func(s *Sheet, i int) string { return strings.TrimSpace(s.Sources[i].Words() + " " + s.Sources[i].Name) }, func(x *Index, id string) int { return place(x.sources, SourceID(id)) }},
}

func place[K comparable](of map[K]int, id K) int {
	if i, ok := of[id]; ok {
		return i
	}
	return -1
}

var byKind, byList = func() (map[Kind]*KindSpec, map[string]*KindSpec) {
	kinds, lists := map[Kind]*KindSpec{}, map[string]*KindSpec{}
	for i := range Kinds {
		kinds[Kinds[i].Kind], lists[Kinds[i].List] = &Kinds[i], &Kinds[i]
	}
	return kinds, lists
}()

var byID = func() map[reflect.Type]*KindSpec {
	out := map[reflect.Type]*KindSpec{}
	for i := range Kinds {
		out[Kinds[i].ID] = &Kinds[i]
	}
	return out
}()

// Of is what there is to know of a kind, nil for a word that is none.
func (k Kind) Of() *KindSpec { return byKind[k] }

// List is the list of the things of a kind; empty for a word that is none.
func (k Kind) List() string {
	if s := byKind[k]; s != nil {
		return s.List
	}
	return ""
}

// KindOf is the kind of thing that a type of identifiers names, nil for none.
func KindOf(id reflect.Type) *KindSpec { return byID[id] }

// KindOn is the kind of thing on a list, nil for none.
func KindOn(list string) *KindSpec { return byList[list] }

// listNamed is the list that a type of identifiers names things of, empty for none.
func listNamed(id reflect.Type) string {
	if k := byID[id]; k != nil {
		return k.List
	}
	return ""
}

// Ref names one thing of a sheet.
type Ref struct {
	Kind Kind
	ID   string
}

// Path is where the thing stands on the sheet, as edits write it: "locks/cam-pin".
func (r Ref) Path() string { return r.Kind.List() + "/" + r.ID }

// RefAt is the thing that a path leads to or into; false where it leads to none.
func RefAt(path string) (Ref, bool) {
	list, id := cut(path)
	id, _, _ = strings.Cut(id, "/")
	k := KindOn(list)
	if k == nil || id == "" {
		return Ref{}, false
	}
	return Ref{k.Kind, id}, true
}

// Has reports whether the sheet has a thing.
func (x *Index) Has(r Ref) bool {
	k := r.Kind.Of()
	return k != nil && k.at(x, r.ID) >= 0
}

// Name is what a thing is called; empty for one the sheet does not have.
func (x *Index) Name(r Ref) string {
	k := r.Kind.Of()
	if k == nil {
		return ""
	}
	if i := k.at(x, r.ID); i >= 0 {
		return k.called(x.Sheet, i)
	}
	return ""
}
