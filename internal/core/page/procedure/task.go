package procedure

import "inklatch/internal/core/engine"

// Task is what a page is for, as data: what it owes beyond putting right what it
// undid. A page without one owes what its title says and what it undid.
type Task struct {
	// Renews are the parts, belts and chains among them, that are new at the end.
	Renews []engine.PartID `json:"renews,omitempty"`
	// Sets are tensioners that the page is to set.
	Sets []engine.TensionerID `json:"sets,omitempty"`
	// Homes are phasers that the page is to bring to their home stop.
	Homes []engine.WheelID `json:"homes,omitempty"`
	// Checks is set for a page that looks at the timing and undoes nothing of it.
	Checks bool `json:"checks,omitzero"`
}

// None reports whether a page says nothing of what it is for.
func (t *Task) None() bool {
	return len(t.Renews)+len(t.Sets)+len(t.Homes) == 0 && !t.Checks
}
