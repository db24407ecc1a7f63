package document

import (
	"fmt"
	"slices"
	"strconv"
	"strings"

	"inklatch/internal/core/engine"
	"inklatch/internal/core/page/procedure"
	"inklatch/internal/core/virtual"
)

// Pick is a tool as it is fetched before the work begins: what it is for, where it goes, and
// when it is needed.
type Pick struct {
	Tool
	// For says what it does on this page: "crank pin: in at step 5, out at step 21". Sets are
	// the torques that it is set to, each once.
	For  []string `json:"for"`
	Sets []string `json:"sets,omitempty"`
	// Picture is the drive where it sits, close up, as SVG, and Shows says what it shows;
	// empty where it sits on nothing that is drawn.
	Picture string `json:"picture,omitzero"`
	Shows   string `json:"shows,omitzero"`
	// At is what the picture shows, nil for none.
	At *Picture `json:"-"`
	// File is the house’s own picture of it, 0 for none.
	File int64 `json:"file,omitzero"`
}

// Picks are the tools of a page in the order of their kits, those without one last: what a
// technician fetches in one go.
func Picks(x *engine.Index, p *procedure.Procedure, t *virtual.Trace) []Pick {
	out := []Pick{}
	for _, v := range tools(x, p) {
		k := Pick{Tool: v, For: []string{}}
		for i := range x.Sheet.Locks {
			l := &x.Sheet.Locks[i]
			if tool := x.Tool(l.Tool); tool != nil && tool.Number == v.Number {
				k.lock(x, p, t, i)
			}
		}
		k.sets(x, p)
		out = append(out, k)
	}
	slices.SortStableFunc(out, func(a, b Pick) int {
		switch {
		case (a.Kit == "") != (b.Kit == ""):
			if a.Kit == "" {
				return 1
			}
			return -1
		}
		return strings.Compare(a.Kit, b.Kit)
	})
	return out
}

// lock says when lock i, which is done with the tool, is in, and shows it there.
func (k *Pick) lock(x *engine.Index, p *procedure.Procedure, t *virtual.Trace, i int) {
	l := &x.Sheet.Locks[i]
	var when, holds []string
	for s := range t.Steps {
		before, after := t.Before(s).Locks[i].In, t.Steps[s].After.Locks[i].In
		switch {
		case !before && after:
			when = append(when, fmt.Sprintf("in at step %d", s+1))
			if k.At == nil {
				v := Picture{Step: s, State: &t.Steps[s].After, Says: l.Name}
				for _, shaft := range l.Holds {
					if w := x.TimedBy(shaft); w != nil {
						v.show(w.ID)
					}
				}
				if l.Wheel != "" {
					v.show(l.Wheel)
				}
				if len(v.Wheels) > 0 {
					k.At = &v
				}
			}
		case before && !after:
			when = append(when, fmt.Sprintf("out at step %d", s+1))
		case !before && p.Steps[s].HoldsWith() == l.ID:
			holds = append(holds, strconv.Itoa(s+1))
		}
	}
	switch len(holds) {
	case 0:
	case 1:
		when = append(when, "holds at step "+holds[0])
	default:
		when = append(when, "holds at steps "+strings.Join(holds, ", "))
	}
	says := strings.Join(when, ", ")
	switch {
	case says == "":
		says = l.Name
	case !strings.EqualFold(l.Name, k.Name):
		says = l.Name + ": " + says
	}
	k.For = append(k.For, says)
}

// sets are what a torque tool is set to on the page.
func (k *Pick) sets(x *engine.Index, p *procedure.Procedure) {
	for i := range p.Steps {
		s := &p.Steps[i]
		for _, id := range s.ToolsUsed(x) {
			tool := x.Tool(id)
			if tool == nil || tool.Number != k.Number || !tool.IsWrench() {
				continue
			}
			for _, v := range s.Torques() {
				for _, st := range v.Stages {
					if q, err := x.WrenchingWith(s.Tools).Setting(st.Torque); err == nil && !st.Torque.IsZero() && !slices.Contains(k.Sets, q.String()) {
						k.Sets = append(k.Sets, q.String())
					}
				}
			}
		}
	}
}
