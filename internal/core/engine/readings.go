package engine

import "inklatch/internal/core/unit"

// Reading is something that is measured on an engine and bounds what may pass: a
// backlash, an end play, the lift of a plunger, the deflection or the twist of a run.
type Reading struct {
	ID   ReadingID `json:"id"`
	Name string    `json:"name"`
	// Value is what passes, with its tolerance or as a range.
	Value unit.Quantity `json:"value,omitzero"`
	// Place is where it is measured, Readings how often.
	Place    string `json:"place,omitzero"`
	Readings int    `json:"readings,omitzero"`
	// Shaft is the shaft whose place it shows: the value is read where the shaft stands
	// at At, degrees of it, and tells an error of Shows degrees or more.
	Shaft ShaftID `json:"shaft,omitzero"`
	At    float64 `json:"at,omitzero"`
	Shows float64 `json:"shows,omitzero"`
	// Gear, Loop and Part are what else it may tell of: a mesh, a tension, a seat. It is
	// owed once that was disturbed.
	Gear GearID `json:"gear,omitzero"`
	Loop LoopID `json:"loop,omitzero"`
	Part PartID `json:"part,omitzero"`
	// Behind is a part that bars the way to it; Tool what it is measured with.
	Behind PartID `json:"behind,omitzero"`
	Tool   ToolID `json:"tool,omitzero"`
}

// ReadingAt is the place of a reading in Sheet.Readings.
func (x *Index) ReadingAt(id ReadingID) int { i, ok := x.readings[id]; return at(i, ok) }

// Reading is the reading of that id, nil for none.
func (x *Index) Reading(id ReadingID) *Reading { return pick(x.Sheet.Readings, x.ReadingAt(id)) }

// Tells is the smallest error of its shaft that a reading tells, degrees of the shaft: 1
// where the sheet does not say, an assumption of ours.
func (r *Reading) Tells() unit.Angle {
	if r.Shows == 0 {
		return 1
	}
	return unit.Angle(r.Shows)
}
