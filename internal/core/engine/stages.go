package engine

import (
	"math"

	"inklatch/internal/core/unit"
)

// near is how far a value of a page may lie from the sheet's and still be taken for that
// stage, a share of it: nearer than the steps between stages of one bolt, further than
// a value that is only a little wrong. An assumption of ours.
const near = 0.2

// Reach is how many of a bolt's stages are done once a page has taken it through some,
// with the first done stages behind it: all of them, those that follow, or the first
// ones again. False where what the page gives is none of that.
func Reach(spec []Stage, done int, page []Stage) (int, bool) {
	if len(page) == 0 || len(page) > len(spec) {
		return 0, false
	}
	for _, from := range []int{done, 0} {
		if from+len(page) <= len(spec) && alike(spec[from:from+len(page)], page) {
			return max(from+len(page), done), true
		}
	}
	return 0, false
}

// alike reports whether stages are of the same kind one by one, and near one another.
func alike(spec, page []Stage) bool {
	for i := range page {
		if spec[i].Slacken != page[i].Slacken || !closeTo(spec[i].Torque, page[i].Torque) || !closeTo(spec[i].Angle, page[i].Angle) {
			return false
		}
	}
	return true
}

func closeTo(a, b unit.Quantity) bool {
	if a.IsZero() || b.IsZero() {
		return a.IsZero() == b.IsZero()
	}
	v, err := unit.Convert(b.Nominal(), b.Unit, a.Unit)
	return err == nil && math.Abs(v-a.Nominal()) <= near*math.Abs(a.Nominal())
}
