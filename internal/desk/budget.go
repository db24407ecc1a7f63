package desk

import (
	"fmt"
	"runtime/debug"
	"time"
)

// The time that the work on one page or sheet may take before whoever waits for it hears
// so. What passes the door takes a small part of it, also on a busy machine.
const budget = 20 * time.Second

// errSpent is what is said then.
var errSpent = &Problem{Status: 503, Title: "This takes longer to work out than one page may take. Nothing was changed. If nobody else is at work here now, the page or its engine sheet has something in it that multiplies: many cases, options or parts."}

// worked does work on one document and gives it up after the budget: whoever asked goes
// on, and holds nothing up.
func worked[T any](f func() (T, error)) (T, error) { return workedWithin(budget, f) }

func workedWithin[T any](most time.Duration, f func() (T, error)) (T, error) {
	type result struct {
		v   T
		err error
	}
	done := make(chan result, 1)
	go func() {
		var r result
		defer func() {
			if p := recover(); p != nil {
				r.err = fmt.Errorf("%v\n%s", p, debug.Stack())
			}
			done <- r
		}()
		r.v, r.err = f()
	}()
	end := time.NewTimer(most)
	defer end.Stop()
	select {
	case r := <-done:
		return r.v, r.err
	case <-end.C:
		var none T
		return none, errSpent
	}
}
