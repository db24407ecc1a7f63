package turns

import (
	"fmt"
	"slices"

	"inklatch/internal/core/engine"
	"inklatch/internal/core/proof"
)

// schools are the ways of choosing a count (trade practice, no source): two
// turns, four, six then two after a belt was over-tensioned to settle, and the
// house's default, the least count that brings everything home.
func (pl *Plan) schools(house proof.House) {
	for _, s := range []struct {
		name  string
		turns int64
	}{{"Two turns", 2}, {"Four turns", 4}, {"Six, set again, two", 8}, {"The least that brings all home", pl.Best}} {
		v := School{Name: s.name, Turns: s.turns, Home: []string{}, Away: []string{}}
		for _, r := range pl.proved() {
			if s.turns%r.Every == 0 {
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

func returns(x *engine.Index) []Return {
	out := []Return{}
	for i := range x.Sheet.Loops {
		l := &x.Sheet.Loops[i]
		marked := slices.ContainsFunc(x.Sheet.Marks, func(m engine.Mark) bool { return m.Kind == engine.LoopMark && m.Loop == l.ID })
		n := x.MarkHomeEvery(&engine.Mark{Kind: engine.LoopMark, Loop: l.ID})
		if n == 0 {
			continue
		}
		what := "paint marks"
		if l.Kind == engine.Chain {
			what = "coloured links"
		}
		says := fmt.Sprintf("%s are home again after %s. They are for fitting, not for proof.", what, plural(n))
		if !marked {
			says = fmt.Sprintf("the same tooth meets again after %s", plural(n))
		}
		out = append(out, Return{string(l.ID), l.Name, n, says})
	}
	return out
}

func plural(n int64) string {
	if n == 1 {
		return "1 turn"
	}
	return fmt.Sprintf("%d turns", n)
}
