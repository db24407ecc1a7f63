// Package turns works out the turn plan of a procedure: at which counts of
// crank turns every mark and lock of the engine stands home, what the procedure
// as written does, what to do after an overshoot, and what each school of
// proving would see. Counts are exact; nothing here is floating point until it
// is drawn.
package turns

import (
	"fmt"
	"math"
	"slices"

	"inklatch/internal/core/bench"
	"inklatch/internal/core/engine"
	"inklatch/internal/core/procedure"
	"inklatch/internal/core/proof"
	"inklatch/internal/core/step"
)

// Plan is a turn plan.
type Plan struct {
	Rows []Row `json:"rows"`
	// Every is the number of turns between two counts at which everything the
	// procedure looks at is home together; Best the least such count the house
	// allows, Next those after it.
	Every int64   `json:"every"`
	Best  int64   `json:"best"`
	Next  []int64 `json:"next"`
	// Horizon is the last count worth drawing.
	Horizon int64 `json:"horizon"`
	// Chosen is set where the procedure itself looks at something; otherwise the
	// plan is made for everything on the sheet.
	Chosen bool  `json:"chosen"`
	Legs   []Leg `json:"legs"`
	// Ends is where the crank stands at the first look after the last turn, in
	// turns from where the loop was fitted.
	Ends float64 `json:"ends"`
	Home bool    `json:"home"`
	// Says is the plan in a sentence, Advice what to do after an overshoot.
	Says     string       `json:"says"`
	Advice   string       `json:"advice"`
	Mends    []proof.Mend `json:"mends"`
	Counts   []Count      `json:"counts"`
	Schools  []School     `json:"schools"`
	Returns  []Return     `json:"returns"`
	Settling []Settling   `json:"settling"`
}

// Row is a lock or mark along the counts.
type Row struct {
	Ref  string `json:"ref"`
	Name string `json:"name"`
	Kind string `json:"kind"`
	// Under says what the row comes from: "42 : 21 teeth".
	Under string `json:"under"`
	// Every is the whole count between two homes with the crank at the timing
	// position, Meets the travel between two meetings wherever the crank stands,
	// an exact number of turns.
	Every int64  `json:"every"`
	Meets string `json:"meets"`
	// Travel is Meets as a number, for drawing.
	Travel float64 `json:"travel"`
	Stroke bool    `json:"stroke"`
	// Steps are the numbers of the steps that look at it after the loop went on.
	Steps []int `json:"steps"`
}

// Leg is one turning step after the loop went on.
type Leg struct {
	Step   step.ID `json:"step"`
	Number int     `json:"number"`
	From   float64 `json:"from"`
	To     float64 `json:"to"`
	Says   string  `json:"says"`
}

// Count is one whole count of turns: where each shaft stands and what is home.
type Count struct {
	N      int64     `json:"n"`
	Shafts []ShaftAt `json:"shafts"`
	Home   []string  `json:"home"`
	All    bool      `json:"all"`
}

// ShaftAt is a shaft's exact place: Turn of its own turn ("1/3") and degrees.
type ShaftAt struct {
	ID      string  `json:"id"`
	Name    string  `json:"name"`
	Turn    string  `json:"turn"`
	Degrees float64 `json:"degrees"`
}

// School is a way of proving and what it would see on this engine.
type School struct {
	Name  string `json:"name"`
	Turns int64  `json:"turns"`
	// Home and Away are rows by name.
	Home []string `json:"home"`
	Away []string `json:"away"`
	Says string   `json:"says"`
	Good bool     `json:"good"`
}

// Return is when the marks of a loop come back.
type Return struct {
	Loop  string `json:"loop"`
	Name  string `json:"name"`
	Every int64  `json:"every"`
	Says  string `json:"says"`
}

// Settling is what a tensioner asks for and what the procedure gives.
type Settling struct {
	Name   string  `json:"name"`
	Turns  int     `json:"turns"`
	Wait   string  `json:"wait,omitzero"`
	Turned float64 `json:"turned"`
	Waited float64 `json:"waited"`
	Enough bool    `json:"enough"`
}

// Of is the plan of a procedure.
func Of(x *engine.Index, p *procedure.Procedure, house proof.House) *Plan {
	t := bench.Run(x, p)
	pl := &Plan{Rows: rows(x), Next: []int64{}, Legs: []Leg{}, Mends: []proof.Mend{}, Counts: []Count{}, Schools: []School{}, Returns: returns(x), Settling: []Settling{}}
	fit := lastFit(x, p)
	pl.looks(x, p, fit)
	pl.legs(x, p, t, fit)
	least := int64(max(house.MinTurns, 1))
	pl.Every = pl.together()
	pl.Best = (least + pl.Every - 1) / pl.Every * pl.Every
	pl.Next = append(pl.Next, pl.Best+pl.Every, pl.Best+2*pl.Every)
	pl.Horizon = pl.horizon()
	pl.counts(x)
	pl.schools(house)
	pl.settling(x, p, t, fit)
	pl.words(x, p)
	return pl
}

// lastFit is the last step that lays a loop on, −1 for none.
func lastFit(x *engine.Index, p *procedure.Procedure) int {
	for i := len(p.Steps) - 1; i >= 0; i-- {
		if f, ok := p.Steps[i].Action.(*step.Fit); ok && x.LoopAt(f.Loop) >= 0 {
			return i
		}
	}
	return -1
}

// rows are the locks for position and the marks of the sheet.
func rows(x *engine.Index) []Row {
	out := []Row{}
	s := x.Sheet
	for i := range s.Locks {
		l := &s.Locks[i]
		n := x.LockHomeEvery(l)
		if n == 0 {
			continue
		}
		m := engine.Ratio{Num: 1, Den: 1}
		first := true
		for _, id := range l.Holds {
			if v, ok := x.Meets(x.ShaftAt(id), l.Repeats); ok {
				if first {
					m, first = v, false
				} else {
					m = commonMultiple(m, v)
				}
			}
		}
		out = append(out, Row{"lock:" + string(l.ID), l.Name, "lock", under(x, l.Holds[0], l.Repeats), n, m.String(), m.Float(), s.TellsStroke(n), []int{}})
	}
	for i := range s.Marks {
		m := &s.Marks[i]
		w := x.Wheel(m.Wheel)
		if m.Kind != engine.TimingMark || w == nil {
			continue
		}
		if v, ok := x.Meets(x.ShaftAt(w.Shaft), 1); ok {
			n := x.MarkHomeEvery(m)
			out = append(out, Row{"mark:" + string(m.ID), m.Name, "mark", under(x, w.Shaft, 1), n, v.String(), v.Float(), s.TellsStroke(n), []int{}})
		}
	}
	slices.SortStableFunc(out, func(a, b Row) int { return int(a.Every - b.Every) })
	return out
}

// commonMultiple is the least travel that is a whole number of both.
func commonMultiple(a, b engine.Ratio) engine.Ratio {
	return engine.NewRatio(engine.LCM(a.Num*b.Den, b.Num*a.Den), a.Den*b.Den)
}

// under says by which teeth a shaft hangs on the crank.
func under(x *engine.Index, id engine.ShaftID, repeats int) string {
	i := x.ShaftAt(id)
	if id == engine.CrankID {
		return "on the crank, every turn"
	}
	d := x.Drive(i)
	if len(d.Wheels) != 2 {
		return fmt.Sprintf("%s of a crank turn, by %d pairs", d.Ratio.Abs(), len(d.Wheels)/2)
	}
	says := fmt.Sprintf("%d : %d teeth", x.Sheet.Wheels[d.Wheels[1]].Teeth, x.Sheet.Wheels[d.Wheels[0]].Teeth)
	if repeats > 1 {
		says += fmt.Sprintf(", %d times a turn", repeats)
	}
	return says
}

// looks notes which steps look at which rows after the loop went on; in a
// procedure that fits no loop, anywhere.
func (pl *Plan) looks(x *engine.Index, p *procedure.Procedure, fit int) {
	see := func(ref string, number int) {
		for i := range pl.Rows {
			if pl.Rows[i].Ref == ref && !slices.Contains(pl.Rows[i].Steps, number) {
				pl.Rows[i].Steps = append(pl.Rows[i].Steps, number)
				pl.Chosen = true
			}
		}
	}
	for i := fit + 1; i < len(p.Steps); i++ {
		switch a := p.Steps[i].Action.(type) {
		case *step.Lock:
			for _, id := range a.All() {
				see("lock:"+string(id), i+1)
			}
		case *step.Check:
			locks, marks := a.Proves()
			for _, id := range locks {
				see("lock:"+string(id), i+1)
			}
			for _, id := range marks {
				see("mark:"+string(id), i+1)
			}
		case *step.Turn:
			if a.Onto != "" {
				see("lock:"+string(a.Onto), i+1)
			}
		}
	}
}

// proved are the rows the plan is made for.
func (pl *Plan) proved() []*Row {
	var out []*Row
	for i := range pl.Rows {
		if !pl.Chosen || len(pl.Rows[i].Steps) > 0 {
			out = append(out, &pl.Rows[i])
		}
	}
	return out
}

func (pl *Plan) together() int64 {
	n := int64(1)
	for _, r := range pl.proved() {
		n = engine.LCM(n, r.Every)
	}
	return n
}

// legs follows the crank from where the loop went on.
func (pl *Plan) legs(x *engine.Index, p *procedure.Procedure, t *bench.Trace, fit int) {
	if fit < 0 {
		return
	}
	start := t.Steps[fit].After.Crank / 360
	start = math.Round(start) // the fit is made at the timing position
	whole := -1
	for i := fit + 1; i < len(p.Steps); i++ {
		from, to := t.Before(i).Crank/360-start, t.Steps[i].After.Crank/360-start
		if math.Abs(to-from) < 1e-6 {
			continue
		}
		pl.Legs = append(pl.Legs, Leg{p.Steps[i].ID, i + 1, from, to, fmt.Sprintf("Step %d: %s", i+1, lower(step.Sentence(x, p.Steps[i].Action)))})
		if pl.Ends = to; to-from > 0.95 {
			whole = i
		}
	}
	if k := firstLook(x, p, whole); whole >= 0 && k >= 0 {
		pl.Ends = t.Steps[k].After.Crank/360 - start
	}
	n := math.Round(pl.Ends)
	pl.Home = n > 0 && math.Abs(pl.Ends-n) < 0.02
	for _, r := range pl.proved() {
		pl.Home = pl.Home && int64(n)%r.Every == 0
	}
}

// firstLook is the first step after i that looks whether the timing came home;
// a stop that is only fitted is looked at when the crank comes up to it.
func firstLook(x *engine.Index, p *procedure.Procedure, i int) int {
	for k := i + 1; k < len(p.Steps); k++ {
		switch a := p.Steps[k].Action.(type) {
		case *step.Check:
			if locks, marks := a.Proves(); len(locks)+len(marks) > 0 {
				return k
			}
		case *step.Lock:
			for _, id := range a.All() {
				if l := x.Lock(id); l != nil && l.Kind.ForPosition() && l.Kind != engine.StopLock {
					return k
				}
			}
		case *step.Turn:
			if a.Onto != "" {
				return k
			}
		}
	}
	return -1
}

func lower(s string) string {
	if s == "" {
		return s
	}
	return string(s[0]|0x20) + s[1:]
}

// mostDrawn keeps the picture readable; an engine that needs more says so in
// words.
const mostDrawn = 24

func (pl *Plan) horizon() int64 {
	h := max(pl.Best+pl.Every, 12, int64(math.Ceil(pl.Ends))+1)
	if h > mostDrawn {
		h = max(mostDrawn, min(pl.Best, 60))
	}
	return h
}

func (pl *Plan) counts(x *engine.Index) {
	for n := int64(0); n <= pl.Horizon; n++ {
		c := Count{N: n, Shafts: []ShaftAt{}, Home: []string{}, All: n > 0 && n%pl.Every == 0}
		for i := range x.Sheet.Shafts {
			if x.Drive(i).Driven {
				at := x.At(i, engine.Ratio{Num: n, Den: 1})
				c.Shafts = append(c.Shafts, ShaftAt{string(x.Sheet.Shafts[i].ID), x.Sheet.Shafts[i].Name, at.String(), math.Round(at.Float()*36000) / 100})
			}
		}
		for _, r := range pl.Rows {
			if n%r.Every == 0 {
				c.Home = append(c.Home, r.Ref)
			}
		}
		pl.Counts = append(pl.Counts, c)
	}
}
