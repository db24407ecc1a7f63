package turns

import (
	"fmt"
	"math"
	"slices"

	"inklatch/internal/core/engine"
	"inklatch/internal/core/message"
	"inklatch/internal/core/page/procedure"
	"inklatch/internal/core/page/step"
	"inklatch/internal/core/proof/finding"
	"inklatch/internal/core/proof/pageproof"
	"inklatch/internal/core/virtual"
)

// settling compares what each tensioner asks for with what the procedure gives
// after it is released or set for the last time.
func (pl *Plan) settling(x *engine.Index, p *procedure.Procedure, t *virtual.Trace, fit int) {
	for i := range x.Sheet.Tensioners {
		v := &x.Sheet.Tensioners[i]
		wait, _ := v.Wait.Minutes()
		if v.Settle == 0 && wait == 0 {
			continue
		}
		s := Settling{Name: v.Name, Turns: v.Settle}
		if !v.Wait.IsZero() {
			s.Wait = v.Wait.String()
		}
		at := -1
		for k := fit + 1; k < len(p.Steps) && fit >= 0; k++ {
			switch a := p.Steps[k].Action.(type) {
			case *step.Release:
				if slices.Contains(a.All(), v.ID) && at < 0 {
					at = k
				}
			case *step.Set:
				if slices.Contains(a.All(), v.ID) && at < 0 {
					at = k
				}
			}
		}
		if at >= 0 {
			s.Turned = round(math.Abs(t.Last().Crank-t.Steps[at].After.Crank) / 360)
			for k := at + 1; k < len(p.Steps); k++ {
				if w, ok := p.Steps[k].Action.(*step.Wait); ok {
					m, _ := w.For.Minutes()
					s.Waited += float64(m)
				}
			}
		}
		s.Enough = s.Turned+0.05 >= float64(v.Settle) && s.Waited >= float64(wait)
		pl.Settling = append(pl.Settling, s)
	}
}

func round(v float64) float64 { return math.Round(v*100) / 100 }

// words puts the plan into sentences and finds the edit that mends it.
func (pl *Plan) words(x *engine.Index, p *procedure.Procedure, house finding.House) {
	if len(pl.Rows) == 0 {
		pl.Says = "The sheet has no lock or mark to prove by."
		return
	}
	if pl.Every == 0 {
		pl.Says = "What the procedure looks at never stands home together at a whole count. Look at it where the crank brings each round."
		return
	}
	next := pl.Next[0]
	pl.Says = fmt.Sprintf("Prove at %s. Past it, go on to %d.", plural(pl.Best), next)
	pl.Advice = pl.overshoot(x)
	if pl.Home || len(pl.Legs) == 0 {
		return
	}
	if m, ok := pl.mend(p); ok && settles(x, p, house, m) {
		pl.Mends = append(pl.Mends, m)
	}
}

// settles reports whether the plan is home once a mend is made.
func settles(x *engine.Index, p *procedure.Procedure, house finding.House, m pageproof.Mend) bool {
	q, _, err := procedure.Apply(p, m.Edits)
	if err != nil {
		return false
	}
	x, q, t := asItShouldGo(x, q)
	fit := lastFit(t)
	after := &Plan{Rows: rows(x, stood(t, fit))}
	after.looks(x, q, fit)
	after.together(int64(max(house.MinTurns, 1)))
	after.legs(x, q, t, fit)
	return after.Home
}

// overshoot says what to do when a count went by.
func (pl *Plan) overshoot(x *engine.Index) string {
	stop, from := "", pl.Best
	if pl.Home {
		from = max(from, int64(math.Round(pl.Ends)))
	}
	next := engine.NextHome(pl.Every, from)
	for i := range x.Sheet.Locks {
		if l := &x.Sheet.Locks[i]; l.Kind == engine.StopLock {
			stop = l.Name
		}
	}
	back := x.Sheet.Limits.BackOff
	says := fmt.Sprintf("Overshot: go on in running direction to %d, the next count at which everything looked at is home.", next)
	if back > 0 {
		says += fmt.Sprintf(" Up to %g° may be turned back to seat a tool, no more: slack moves to the wrong run.", back)
	}
	if stop != "" {
		says += fmt.Sprintf(" Stop short, fit the %s, and come up to it.", stop)
	}
	return says
}

// mend changes the last step that turns a turn or more, so that the crank ends
// at the first good count.
func (pl *Plan) mend(p *procedure.Procedure) (pageproof.Mend, bool) {
	for i := len(pl.Legs) - 1; i >= 0; i-- {
		g := pl.Legs[i]
		k := slices.IndexFunc(p.Steps, func(s step.Step) bool { return s.ID == g.Step })
		if k < 0 {
			continue
		}
		before := int64(math.Round(g.From))
		want := pl.Best
		for want-before < 1 {
			want += pl.Every // above zero, or there is no plan to mend by
		}
		s := p.Steps[k]
		switch a := s.Action.(type) {
		case *step.Turn:
			if a.Turns < 1 || !a.Crank() {
				continue
			}
			n := *a
			n.Turns = float64(want - before)
			s.Action = &n
		case *step.Settle:
			n := *a
			n.Turns = float64(want - before)
			s.Action = &n
		default:
			continue
		}
		return finding.MendOf(message.F("Make step %d %s", g.Number, plural(want-before)), []procedure.Edit{{Op: procedure.Replace, ID: s.ID, Step: &s}}), true
	}
	return pageproof.Mend{}, false
}
