// Package engine holds the engine sheet: everything an author writes down once
// about one engine code, and what follows from it by arithmetic alone: the
// ratio of every shaft to the crank and the counts at which a mark or a lock
// comes home. Angles are degrees of the shaft in its own running direction from
// the timing position; lengths are millimetres seen from the stated view, x to
// the right and y up.
package engine

import (
	"fmt"
	"slices"
	"strings"
	"unicode"

	"inklatch/internal/core/unit"
)

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
	BankID      string
	GearID      string
	FluidID     string
	ReadingID   string
)

// CrankID is the shaft every ratio is measured against.
const CrankID ShaftID = "crank"

// Sheet describes one engine code.
type Sheet struct {
	Code   string `json:"code"`
	Family string `json:"family,omitzero"`
	// Archetype is the layout the sheet was started from, whose measures are nobody's
	// until the sheet names where its own come from; see package layout.
	Archetype   string `json:"archetype,omitzero"`
	Maker       string `json:"maker"`
	Use         string `json:"use,omitzero"`
	Years       Years  `json:"years"`
	Cylinders   int    `json:"cylinders"`
	Cycle       Cycle  `json:"cycle"`
	FiringOrder []int  `json:"firingOrder,omitzero"`
	// FiringAngles are the crank angles at which the cylinders fire, in that order, degrees
	// from the first: for an engine that does not fire evenly.
	FiringAngles []float64     `json:"firingAngles,omitzero"`
	Bore         unit.Quantity `json:"bore,omitzero"`
	Stroke       unit.Quantity `json:"stroke,omitzero"`
	Rod          unit.Quantity `json:"rod,omitzero"`
	Interference Known         `json:"interference"`
	Running      Way           `json:"running"`
	View         string        `json:"view"`
	// OtherView is what the other end is called, from where a step may say its way round.
	OtherView  string           `json:"otherView,omitzero"`
	Sides      string           `json:"sides,omitzero"`
	Banks      []Bank           `json:"banks,omitzero"`
	Options    []string         `json:"options,omitzero"`
	Shafts     []Shaft          `json:"shafts"`
	Wheels     []Wheel          `json:"wheels"`
	Loops      []Loop           `json:"loops"`
	Gears      []Gear           `json:"gears,omitzero"`
	Marks      []Mark           `json:"marks,omitzero"`
	Locks      []Lock           `json:"locks,omitzero"`
	Tensioners []Tensioner      `json:"tensioners,omitzero"`
	Readings   []Reading        `json:"readings,omitzero"`
	Fasteners  []Fastener       `json:"fasteners,omitzero"`
	Parts      []Part           `json:"parts,omitzero"`
	Tools      []Tool           `json:"tools,omitzero"`
	Fluids     []Fluid          `json:"fluids,omitzero"`
	Limits     Limits           `json:"limits"`
	Varies     []Variation      `json:"varies,omitzero"`
	Names      []OwnName        `json:"names,omitzero"`
	Sources    []Source         `json:"sources,omitzero"`
	Evidence   map[string]Proof `json:"evidence,omitzero"`
}

// OwnName is another name that the people of this code have for one of its
// things; a line may use it.
type OwnName struct {
	ID string `json:"id"`
	// Say is the name, Of the thing it stands for, as "parts/battery-lead".
	Say string `json:"say"`
	Of  string `json:"of"`
}

// Said are the years in words: all, from 2019, 2022, 2019–2024.
func (y Years) Said() string {
	switch {
	case y.From == 0:
		return "all"
	case y.To == 0:
		return fmt.Sprintf("from %d", y.From)
	case y.To == y.From:
		return fmt.Sprint(y.From)
	}
	return fmt.Sprintf("%d–%d", y.From, y.To)
}

// Bank is a named row of cylinders.
type Bank struct {
	ID        BankID `json:"id"`
	Name      string `json:"name"`
	Cylinders []int  `json:"cylinders,omitzero"`
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
func (c Cycle) Degrees() unit.Angle {
	if c == TwoStroke {
		return 360
	}
	return 720
}

// Fires is the crank angle from the first firing to firing k of a cycle, degrees: as the
// sheet has it, even where it does not say.
func (s *Sheet) Fires(k int) unit.Angle {
	n := max(s.Cylinders, 1)
	if len(s.FiringAngles) == n && k < n {
		return unit.Angle(s.FiringAngles[k])
	}
	return s.Cycle.Degrees() * unit.Angle(k) / unit.Angle(n)
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
	Bank BankID    `json:"bank,omitzero"`
	// Part is the shaft itself where it can be taken out and laid in; the bolts that are
	// held to that part are those of its caps.
	Part PartID `json:"part,omitzero"`
	// Rests are the angles of a cam, degrees of the cam, at which its springs leave
	// it standing when nothing drives it.
	Rests []float64 `json:"rests,omitzero"`
	// Lobes is how many lobes each of its valves has on a cam that turns the slower for
	// it; 0 for one.
	Lobes int `json:"lobes,omitzero"`
	// Contact is how far a cam may be out of step, degrees of the cam either way,
	// before its valves meet the pistons; Valves lets it be worked out instead.
	Contact float64 `json:"contact,omitzero"`
	Valves  *Valves `json:"valves,omitzero"`
}

// Valves are what a cam opens, for where they can meet the pistons. Angles are
// degrees of the crank from the top dead centre of the gas exchange, negative
// before it.
type Valves struct {
	// Opens and Closes are where the valve leaves its seat and is back on it.
	Opens  float64 `json:"opens"`
	Closes float64 `json:"closes"`
	// Lift is the greatest lift.
	Lift unit.Quantity `json:"lift"`
	// Clear is the gap between the closed valve and the piston at top dead centre,
	// along the way of the piston.
	Clear unit.Quantity `json:"clear"`
}

// ShaftKind says what a shaft is for.
type ShaftKind string

// The kinds of shaft.
const (
	Crankshaft ShaftKind = "crank"
	InletCam   ShaftKind = "inlet cam"
	ExhaustCam ShaftKind = "exhaust cam"
	// Camshaft works both inlet and exhaust valves.
	Camshaft ShaftKind = "cam"
	Pump     ShaftKind = "pump"
	Balance  ShaftKind = "balance"
	Pickup   ShaftKind = "pickup"
	// Intermediate shafts only carry the drive on: idler gears, jackshafts.
	Intermediate ShaftKind = "intermediate"
)

// IsCam reports whether valves hang on the shaft.
func (k ShaftKind) IsCam() bool { return k == InletCam || k == ExhaustCam || k == Camshaft }

// KindCalled is the kind of shaft that a name plainly tells of, by its own words;
// empty where it tells of none, or of two.
func KindCalled(name string) ShaftKind {
	var out ShaftKind
	for _, w := range strings.FieldsFunc(strings.ToLower(name), func(r rune) bool { return !unicode.IsLetter(r) }) {
		var k ShaftKind
		switch w {
		case "inlet", "intake":
			k = InletCam
		case "exhaust":
			k = ExhaustCam
		case "cam", "camshaft":
			if k = Camshaft; out == InletCam || out == ExhaustCam {
				k = out
			}
		case "pump":
			k = Pump
		case "balance", "balancer":
			k = Balance
		case "pickup":
			k = Pickup
		case "intermediate":
			k = Intermediate
		default:
			continue
		}
		if out != "" && out != k {
			return ""
		}
		out = k
	}
	return out
}

// Mount says how a wheel sits on its shaft.
type Mount string

// The mounts.
const (
	// Keyed wheels cannot move on their shaft.
	Keyed Mount = "keyed"
	// Dowelled wheels sit on a pin in their shaft and cannot move on it either.
	Dowelled Mount = "dowelled"
	// Floating wheels sit on a taper, clamped by bolts.
	Floating Mount = "floating"
	// Slotted wheels turn on their shaft within their slots until they are clamped.
	Slotted Mount = "slotted"
	// Friction wheels are held by the clamping of their bolt alone, on a plain seat.
	Friction Mount = "friction"
	// Phaser wheels turn on their shaft between stops while the engine runs and
	// rest at a spring home stop.
	Phaser Mount = "phaser"
	// Idle wheels turn on their own bearing and carry no shaft.
	Idle Mount = "idle"
	// Rail is a curved guide the loop slides over; it does not turn.
	Rail Mount = "rail"
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
	// Taper is set for a wheel that sits fast on a taper once its bolts are slack, until it
	// is broken loose; Puller is the tool that does it.
	Taper  bool   `json:"taper,omitzero"`
	Puller ToolID `json:"puller,omitzero"`
	// Seat is how a phaser sits on its shaft, where it is known.
	Seat Mount `json:"seat,omitzero"`
	// Lip is set for a wheel with a lip or flange that a loop has to be led over: it comes
	// before the others.
	Lip bool `json:"lip,omitzero"`
	// Range is how far a phaser can turn on its shaft, degrees of the shaft.
	Range float64 `json:"range,omitzero"`
	// Home is the end of the range where its spring leaves it.
	Home PhaserHome `json:"home,omitzero"`
}

// PhaserHome is the end of its range at which a phaser rests.
type PhaserHome string

// The two ends.
const (
	Retarded PhaserHome = "retarded"
	Advanced PhaserHome = "advanced"
)

// Gear is two wheels in mesh: toothed wheels that need not be on any loop. The
// driven shaft turns the other way, unless an idle gear lies between.
type Gear struct {
	ID     GearID  `json:"id"`
	Name   string  `json:"name"`
	Driver WheelID `json:"driver"`
	Driven WheelID `json:"driven"`
	// Idlers is the number of idle gears between the two.
	Idlers int `json:"idlers,omitzero"`
	// Module is pitch diameter over teeth, mm (ISO 54); 0 where it is unknown.
	Module float64 `json:"module,omitzero"`
	// Inside is set for a pair inside a casing, which is not drawn and whose
	// centres are not held against the module.
	Inside bool `json:"inside,omitzero"`
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
	Thickness float64 `json:"thickness,omitzero"`
	Width     float64 `json:"width,omitzero"`
	// Mass is the mass of a metre, g/m.
	Mass float64 `json:"mass,omitzero"`
	// Standard names the pitch series: "ISO 9010", "ISO 606".
	Standard  string      `json:"standard,omitzero"`
	Route     []Stop      `json:"route"`
	Tensioner TensionerID `json:"tensioner,omitzero"`
	// Then are further tensioners of it, in the order they come on.
	Then []TensionerID `json:"then,omitzero"`
	Part PartID        `json:"part,omitzero"`
	// Starts is the wheel it is laid on first; a page then owes the order, and where the
	// slack is left.
	Starts WheelID `json:"starts,omitzero"`
	// Half is set for a chain with one cranked half link, which may have an odd
	// number of links.
	Half bool `json:"half,omitzero"`
}

// Tensioners are all of a loop, in the order they come on.
func (l *Loop) Tensioners() []TensionerID {
	if l.Tensioner == "" {
		return l.Then
	}
	if len(l.Then) == 0 {
		return []TensionerID{l.Tensioner}
	}
	return append([]TensionerID{l.Tensioner}, l.Then...)
}

// Tensions reports whether a tensioner is one of the loop's.
func (l *Loop) Tensions(id TensionerID) bool {
	return id != "" && (l.Tensioner == id || slices.Contains(l.Then, id))
}

// Fluid is something in the engine that runs out when it is opened.
type Fluid struct {
	ID   FluidID `json:"id"`
	Name string  `json:"name"`
	// Amount is what goes in, Grade what it has to be.
	Amount unit.Quantity `json:"amount,omitzero"`
	Grade  string        `json:"grade,omitzero"`
	// Drain is what is opened to let it out.
	Drain PartID `json:"drain,omitzero"`
}

// Length is pitch × teeth in mm.
func (l *Loop) Length() unit.Length { return unit.Length(l.Pitch * float64(l.Teeth)) }
