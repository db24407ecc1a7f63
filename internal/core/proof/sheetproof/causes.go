package sheetproof

import (
	"slices"
)

// follows are the rules whose findings come from another's, on the same thing or
// anywhere: settled, that one settles these too.
var follows = map[string][]string{
	"not-driven": {"no-crank", "no-size"}, "cam-ratio": {"no-crank", "drives-disagree"}, "stroke-untold": {"no-crank", "not-driven", "cam-ratio"},
	"tooth-unseen": {"no-crank", "not-driven", "cam-ratio"}, "does-not-close": {"no-size", "impossible-route"}, "take-up": {"does-not-close", "impossible-route"},
	"end-of-travel": {"does-not-close", "impossible-route", "take-up"}, "few-teeth": {"impossible-route", "does-not-close"}, "no-room": {"impossible-route"},
	"links": {"does-not-close", "impossible-route", "cannot-be-laid"}, "frequency-run": {"cannot-be-laid", "impossible-route"}, "impossible-route": {"no-size", "cannot-be-laid"},
	"no-tensioner": {"cannot-be-laid"}, "interference-differs": {"meets-in-step"}, "rest-meets": {"meets-in-step"}, "limit-of-contact": {"meets-in-step"},
}

// causes hangs every finding that follows from another under that one.
func causes(fs []Finding) {
	for i := range fs {
		for _, rule := range follows[fs[i].Rule] {
			if k := slices.IndexFunc(fs, func(c Finding) bool { return c.Rule == rule && c.Cause == "" }); k >= 0 && k != i {
				fs[i].Cause = fs[k].ID
				break
			}
		}
	}
}
