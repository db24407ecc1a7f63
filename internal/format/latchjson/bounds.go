package latchjson

import (
	"encoding/json"
	"fmt"
	"strings"

	"inklatch/internal/core/engine"
)

// bound is what a number of a sheet may be. The bounds are far outside of any engine that
// is built and no check of what is right: they keep a slip of the finger or of a program
// from being worked with for hours.
type bound struct{ least, most float64 }

var (
	angle  = bound{-3600, 3600}     // degrees
	length = bound{0, 5000}         // mm
	away   = bound{-5000, 5000}     // mm from the crank
	year   = bound{0, 9999}         // 0 for one that is open
	build  = bound{0, 999_999_9999} // build numbers run to ten figures
)

// mostCylinders is the longest row of cylinders that is taken in; the longest engines that
// are built have 20 (value from memory).
const mostCylinders = 64

// bounds are those of every number of a sheet, by its path: a star stands for a thing or
// an entry of a list.
var bounds = map[string]bound{
	"cylinders": {0, mostCylinders}, "firingOrder/*": {0, mostCylinders}, "firingAngles/*": {0, 720}, "banks/*/cylinders/*": {0, mostCylinders},
	"years/from": year, "years/to": year,
	"shafts/*/rests/*": angle, "shafts/*/contact": angle, "shafts/*/lobes": {0, 12}, "shafts/*/valves/opens": angle, "shafts/*/valves/closes": angle,
	"wheels/*/teeth": {0, 1000}, "wheels/*/diameter": {0, 2 * 5000}, "wheels/*/x": away, "wheels/*/y": away, "wheels/*/range": angle,
	"loops/*/pitch": {0, 100}, "loops/*/teeth": {0, 5000}, "loops/*/thickness": length, "loops/*/width": length, "loops/*/mass": {0, 100_000},
	"gears/*/idlers": {0, 20}, "gears/*/module": {0, 100},
	"readings/*/at": angle, "readings/*/shows": angle, "readings/*/readings": {0, 100},
	"marks/*/at": angle, "marks/*/clock": angle, "marks/*/link": {0, 5000}, "marks/*/shows": angle,
	"locks/*/at": angle, "locks/*/repeats": {0, 360}, "locks/*/play": angle, "locks/*/playMM": length, "locks/*/radius": length,
	"tensioners/*/travel": length, "tensioners/*/moves": angle, "tensioners/*/settle": {0, 100},
	"tensioners/*/frequency/at": angle, "tensioners/*/frequency/readings": {0, 100},
	"fasteners/*/count": {0, 500}, "fasteners/*/across": length, "fasteners/*/grip": length, "fasteners/*/plain": length, "fasteners/*/engaged": length, "fasteners/*/ring": length, "fasteners/*/places/*/x": away, "fasteners/*/places/*/y": away,
	"tools/*/equivalents/*/play": angle, "tools/*/lever": length, "tools/*/reach": length, "tools/*/bend": angle, "tools/*/ratio": {0, 500}, "tools/*/efficiency": {0, 1},
	"limits/camError": angle, "limits/safeWindow": angle, "limits/rest": angle, "limits/backOff": angle, "limits/tdc": angle,
	"varies/*/cases/*/when/years/from": year, "varies/*/cases/*/when/years/to": year,
	"varies/*/cases/*/when/builds/from": build, "varies/*/cases/*/when/builds/to": build,
}

// The longest lists of a sheet: of things, and of entries of one thing.
const (
	mostThings  = 300
	mostEntries = 200
)

// lists are those of things that many others are worked out from.
var lists = map[string]int{"shafts": 40, "wheels": 120, "loops": 20, "gears": 60, "locks": 60, "marks": 200, "varies": 100}

// casesWithin holds what the cases of a sheet put in its place against the bounds there.
func casesWithin(s *engine.Sheet, at string) error {
	for i := range s.Varies {
		v := &s.Varies[i]
		list, _, _ := strings.Cut(v.Of, "/")
		for k := range v.Cases {
			for key, raw := range v.Cases[k].Set {
				path := v.Of + "/" + key
				if strings.Contains(v.Of, "/") {
					path = list + "/*/" + key
				}
				if err := patchInBounds(raw, path, fmt.Sprintf("%svaries[%d].cases[%d].set.%s", at, i, k, key)); err != nil {
					return err
				}
			}
		}
	}
	return nil
}

func (b bound) holds(f float64, at string) error {
	if f >= b.least && f <= b.most {
		return nil
	}
	return &Error{at, fmt.Sprintf("%.10g cannot be: this is between %.10g and %.10g", f, b.least, b.most)}
}

// patchInBounds holds a value that is only known as JSON against the bounds of its place.
func patchInBounds(raw json.RawMessage, path, at string) error {
	var v any
	if err := json.Unmarshal(raw, &v); err != nil {
		return &Error{at, "this is not JSON"}
	}
	return valueInBounds(v, path, at)
}

func valueInBounds(v any, path, at string) error {
	switch v := v.(type) {
	case float64:
		if b, ok := bounds[path]; ok {
			return b.holds(v, at)
		}
	case []any:
		if most := longest(path); len(v) > most {
			return &Error{at, fmt.Sprintf("this list is too long: at most %d", most)}
		}
		for i := range v {
			if err := valueInBounds(v[i], path+"/*", fmt.Sprintf("%s[%d]", at, i)); err != nil {
				return err
			}
		}
	case map[string]any:
		for k := range v {
			if err := valueInBounds(v[k], path+"/"+k, at+"."+k); err != nil {
				return err
			}
		}
	}
	return nil
}
