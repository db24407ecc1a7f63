package turns

import (
	"fmt"
	"slices"
	"strings"

	"inklatch/internal/core/engine"
	"inklatch/internal/core/proof/finding"
)

// schools are the ways of choosing a count (trade practice, no source): two
// turns, four, six then two after a belt was over-tensioned to settle, and the
// house's default, the least count that brings everything home.
func (pl *Plan) schools(house finding.House) {
	for _, s := range []struct {
		name  string
		turns int64
	}{{"Two turns", 2}, {"Four turns", 4}, {"Six, set again, two", 8}, {"The least that brings all home", pl.Best}} {
		if s.turns == 0 {
			continue // nothing brings all home
		}
		v := School{Name: s.name, Turns: s.turns, Home: []string{}, Away: []string{}}
		for _, r := range pl.proved() {
			if r.homeAt(s.turns) {
				v.Home = append(v.Home, r.Name)
			} else {
				v.Away = append(v.Away, r.Name)
			}
		}
		v.Good = len(v.Away) == 0 && s.turns >= int64(house.MinTurns)
		switch {
		case len(v.Home)+len(v.Away) == 0:
			v.Says = "nothing on the sheet to look at"
		case v.Good:
			v.Says = "all home"
		case len(v.Away) == 0:
			v.Says = "all home, but fewer turns than the house asks for"
		default:
			v.Says = fmt.Sprintf("%d of %d away", len(v.Away), len(v.Home)+len(v.Away))
		}
		pl.Schools = append(pl.Schools, v)
	}
}

// returns counts when what is painted on each loop comes round again to the
// wheels it is read at.
func returns(x *engine.Index) []Return {
	out := []Return{}
	for i := range x.Sheet.Loops {
		l := &x.Sheet.Loops[i]
		n, read := int64(1), []string{}
		for k := range x.Sheet.Marks {
			m := &x.Sheet.Marks[k]
			if m.Kind != engine.LoopMark || m.Loop != l.ID {
				continue
			}
			n = engine.LCM(n, x.MarkHomeEvery(m))
			if w := x.Wheel(m.Wheel); w != nil && !slices.Contains(read, w.Name) {
				read = append(read, w.Name)
			}
		}
		d := x.Driver(i)
		if n = engine.LCM(n, x.MarkHomeEvery(&engine.Mark{Kind: engine.LoopMark, Loop: l.ID})); d < 0 || n == 1 && len(read) == 0 {
			continue
		}
		what := "paint marks"
		if l.Kind == engine.Chain {
			what = "coloured links"
		}
		says := fmt.Sprintf("%s are home again at the %s after %s. They are for fitting, not for proof.", what, list(read), plural(n))
		if len(read) == 0 {
			says = fmt.Sprintf("the same tooth meets the same gap of the %s again after %s", x.Sheet.Wheels[d].Name, plural(n))
		}
		out = append(out, Return{string(l.ID), l.Name, n, says})
	}
	return out
}

func list(s []string) string {
	if len(s) < 2 {
		return strings.Join(s, "")
	}
	return strings.Join(s[:len(s)-1], ", ") + " and " + s[len(s)-1]
}

func plural(n int64) string {
	if n == 1 {
		return "1 turn"
	}
	return fmt.Sprintf("%d turns", n)
}
