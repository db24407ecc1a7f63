package drill

import (
	"fmt"
	"math"
	"slices"
)

// House is what a house says of families, by their ids; those it says nothing of are ours.
type House map[string]HouseFamily

// HouseFamily is what a house says of one family.
type HouseFamily struct {
	// Off leaves the family out.
	Off bool `json:"off,omitzero"`
	// Least is which share of them a page has to catch, percent, 0 to 100.
	Least int `json:"least"`
	// Occurrence is how often it is made, 1 to 10.
	Occurrence int `json:"occurrence"`
	// Sizes are how large it is made, in the unit of the family; none for ours.
	Sizes []float64 `json:"sizes,omitempty"`
}

// The most sizes of a family, and how large one may be, in degrees, teeth and steps.
const (
	mostSizes   = 6
	mostDegrees = 30
	mostTeeth   = 6
	mostOfOne   = 1
	mostSteps   = 40
)

// Families are all families as the house has them, without those it leaves out.
func (h House) Families() []Family {
	if len(h) == 0 {
		return Families
	}
	out := make([]Family, 0, len(Families))
	for i := range Families {
		f := Families[i]
		v, ok := h[f.ID]
		if v.Off {
			continue
		}
		if ok {
			f.Least, f.Occurrence = v.Least, v.Occurrence
			if len(f.Sizes) > 0 && len(v.Sizes) > 0 {
				f.Sizes = v.Sizes
			}
		}
		out = append(out, f)
	}
	return out
}

// Check says what is wrong with what a house says of families, in sentences; by the id of the
// family.
func (h House) Check() map[string]string {
	out := map[string]string{}
	for id, v := range h {
		f := FamilyOf(id)
		switch {
		case f == nil:
			out[id] = "There is no such kind of mistake."
		case v.Least < 0 || v.Least > 100:
			out[id] = "A share is from 0 to 100 percent."
		case v.Occurrence < 1 || v.Occurrence > 10:
			out[id] = "Occurrence is from 1, hardly ever, to 10, all the time."
		case len(v.Sizes) > 0 && len(f.Sizes) == 0:
			out[id] = "This kind of mistake has no sizes of its own."
		case len(v.Sizes) > mostSizes:
			out[id] = fmt.Sprintf("At most %d sizes.", mostSizes)
		default:
			if says := f.sized(v.Sizes); says != "" {
				out[id] = says
			}
		}
	}
	return out
}

// sized says what is wrong with sizes, empty for nothing.
func (f *Family) sized(sizes []float64) string {
	most := float64(mostDegrees)
	switch f.Unit {
	case "teeth":
		most = mostTeeth
	case "of a tooth":
		most = mostOfOne
	case "steps":
		most = mostSteps
	}
	for i, n := range sizes {
		switch {
		case !(n > 0 && n <= most):
			return fmt.Sprintf("A size is above 0 and at most %g %s.", most, f.Unit)
		case (f.Unit == "teeth" || f.Unit == "steps") && n != math.Trunc(n):
			return "A size is whole " + f.Unit + "."
		case slices.Contains(sizes[:i], n):
			return fmt.Sprintf("%g stands there twice.", n)
		}
	}
	return ""
}
