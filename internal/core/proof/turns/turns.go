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
	"strings"

	"inklatch/internal/core/engine"
	"inklatch/internal/core/page/lang/en"
	"inklatch/internal/core/page/procedure"
	"inklatch/internal/core/page/step"
	"inklatch/internal/core/proof/finding"
	"inklatch/internal/core/proof/pageproof"
	"inklatch/internal/core/virtual"
)

// Plan is a turn plan.
type Plan struct {
	Rows []Row `json:"rows"`
	// Every is the number of turns between two counts at which everything the
	// procedure looks at is home together, 0 when that never happens at a whole
	// count; Best the least such count the house allows, Next those after it.
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
	Says     string           `json:"says"`
	Advice   string           `json:"advice"`
	Mends    []pageproof.Mend `json:"mends"`
	Counts   []Count          `json:"counts"`
	Schools  []School         `json:"schools"`
	Returns  []Return         `json:"returns"`
	Settling []Settling       `json:"settling"`
}

// Row is a lock, a mark or a reading of a shaft's place along the counts.
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
	// Homes are the whole counts up to the horizon at which it stands home: none
	// for a mark away from the timing position that no whole count brings round.
	Homes []int64 `json:"homes"`
	// Elsewhere are the travels up to the horizon, turns, at which it meets its
	// place between whole counts or while the crank stands elsewhere.
	Elsewhere []float64 `json:"elsewhere"`
	Stroke    bool      `json:"stroke"`
	// Steps are the numbers of the steps that look at it after the loop went on.
	Steps []int `json:"steps"`

	// meets is Meets, first the travel to the first meeting, turns from the count
	// 0, in [0, meets).
	meets engine.Ratio
	first float64
	// never is set where its shafts stand together nowhere, as they stood at the count 0.
	never bool
}

// near is how close, in turns of the crank, a count must bring a row to its
// place: a third of a degree.
const near = 1e-3

// homeAt reports whether the row stands in its place after n whole turns.
func (r *Row) homeAt(n int64) bool {
	return !r.never && math.Abs(math.Remainder(float64(n)-r.first, r.meets.Float())) < near
}

// comesHome reports whether any whole count brings the row home.
func (r *Row) comesHome() bool {
	for n := range r.Every {
		if r.homeAt(n) {
			return true
		}
	}
	return false
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
func Of(x *engine.Index, p *procedure.Procedure, house finding.House) *Plan {
	whole := p
	x, p, t := asItShouldGo(x, p)
	fit := lastFit(t)
	pl := &Plan{Rows: rows(x, stood(t, fit)), Next: []int64{}, Legs: []Leg{}, Mends: []pageproof.Mend{}, Counts: []Count{}, Schools: []School{}, Returns: returns(x), Settling: []Settling{}}
	pl.looks(x, p, fit)
	pl.together(int64(max(house.MinTurns, 1)))
	pl.legs(x, p, t, fit)
	pl.Horizon = pl.horizon()
	for i := range pl.Rows {
		pl.Rows[i].along(pl.Horizon)
	}
	pl.counts(x, stood(t, fit))
	pl.schools(house)
	pl.settling(x, p, t, fit)
	pl.number(whole, p)
	pl.words(x, p, house)
	return pl
}

// number gives steps the numbers they have on the whole page.
func (pl *Plan) number(whole, gone *procedure.Procedure) {
	for i := range pl.Rows {
		for k, n := range pl.Rows[i].Steps {
			pl.Rows[i].Steps[k] = whole.At(gone.Steps[n-1].ID) + 1
		}
	}
	for i := range pl.Legs {
		pl.Legs[i].Number = whole.At(pl.Legs[i].Step) + 1
		_, says, _ := strings.Cut(pl.Legs[i].Says, ": ")
		pl.Legs[i].Says = fmt.Sprintf("Step %d: %s", pl.Legs[i].Number, says)
	}
}

// asItShouldGo is the way through a procedure, and its run, on the first of the
// engines it is for.
func asItShouldGo(x *engine.Index, p *procedure.Procedure) (*engine.Index, *procedure.Procedure, *virtual.Trace) {
	car := p.First(x.Sheet)
	if car != nil {
		if s, err := x.Sheet.For(*car); err == nil {
			x = engine.NewIndex(s)
		}
	}
	w, t := p.Go(x, 0, car)
	return x, w.Procedure, t
}

// stood is how the engine stands at the count 0: when the loop went on, or the gears came
// together. Nil for a page that lays none: it is then at its timing position.
func stood(t *virtual.Trace, fit int) *virtual.State {
	if fit < 0 {
		return nil
	}
	return &t.Steps[fit].After
}

// lastFit is the last step that lays a loop on, or brings gears together; on a page that
// does neither the last that clamps a wheel that was loose. −1 for none.
func lastFit(t *virtual.Trace) int {
	clamped := -1
	for i := range t.Steps {
		for w, free := range t.Before(i).Free {
			if free && !t.Steps[i].After.Free[w] {
				clamped = i
			}
		}
	}
	for i := len(t.Steps) - 1; i >= 0; i-- {
		for _, e := range t.Steps[i].Events {
			switch e.(type) {
			case virtual.Laid, virtual.Meshed:
				return i
			}
		}
	}
	return clamped
}

// rows are the locks for position, the marks and the readings of a shaft's place of the sheet; st is how the engine stands
// at the count 0, nil for its timing position.
func rows(x *engine.Index, st *virtual.State) []Row {
	out := []Row{}
	s := x.Sheet
	for i := range s.Locks {
		l := &s.Locks[i]
		n := x.LockHomeEvery(l)
		if n == 0 {
			continue
		}
		r := Row{Ref: "lock:" + string(l.ID), Name: l.Name, Kind: "lock", Under: under(x, l.Holds[0], l.Repeats), Every: n, Stroke: s.TellsStroke(n), Steps: []int{}}
		for _, id := range l.Holds {
			if v, ok := x.Meets(x.ShaftAt(id), l.Repeats); ok {
				r.join(v, travelTo(x, st, id, l.At, v))
			}
		}
		out = append(out, r.settled())
	}
	for i := range s.Marks {
		m := &s.Marks[i]
		shaft := x.MarkShaft(m)
		if m.Kind != engine.TimingMark || shaft == "" {
			continue
		}
		if v, ok := x.Meets(x.ShaftAt(shaft), 1); ok {
			n := x.MarkHomeEvery(m)
			r := Row{Ref: "mark:" + string(m.ID), Name: m.Name, Kind: "mark", Under: under(x, shaft, 1), Every: n, Stroke: s.TellsStroke(n), Steps: []int{}}
			r.join(v, travelTo(x, st, shaft, m.At, v))
			out = append(out, r.settled())
		}
	}
	for i := range s.Readings {
		r := &s.Readings[i]
		if v, ok := x.Meets(x.ShaftAt(r.Shaft), 1); ok && r.Shaft != "" {
			n := x.ShaftHomeEvery(r.Shaft, 1)
			row := Row{Ref: "reading:" + string(r.ID), Name: r.Name, Kind: "reading", Under: under(x, r.Shaft, 1), Every: n, Stroke: s.TellsStroke(n), Steps: []int{}}
			row.join(v, travelTo(x, st, r.Shaft, r.At, v))
			out = append(out, row.settled())
		}
	}
	slices.SortStableFunc(out, func(a, b Row) int { return int(a.Every - b.Every) })
	return out
}

// travelTo is a crank travel, turns from the count 0, after which a shaft stands at an
// angle; every is the travel to the next.
func travelTo(x *engine.Index, st *virtual.State, id engine.ShaftID, at float64, every engine.Ratio) float64 {
	i := x.ShaftAt(id)
	if st != nil {
		at -= st.Shafts[i]
	}
	return math.Mod(at/360/x.Drive(i).Ratio.Float(), every.Float())
}

// join brings one more shaft into a row: it stands where all of them do.
func (r *Row) join(every engine.Ratio, first float64) {
	if r.meets.Num == 0 {
		r.meets, r.first = every, first
		return
	}
	both := commonMultiple(r.meets, every)
	for k := 0.0; k*r.meets.Float() < both.Float()-near; k++ {
		at := r.first + k*r.meets.Float()
		if math.Abs(math.Remainder(at-first, every.Float())) < near {
			r.meets, r.first = both, at
			return
		}
	}
	r.meets, r.never = both, true
}

// settled brings first into [0, meets) and writes meets out.
func (r Row) settled() Row {
	m := r.meets.Float()
	r.first = math.Mod(r.first, m)
	if r.first < -near {
		r.first += m
	}
	if r.first > m-near {
		r.first = 0
	}
	r.first = max(r.first, 0)
	r.Meets = r.meets.String()
	return r
}

// mostMet keeps a picture readable: what meets its place oftener is drawn at
// its homes only.
const mostMet = 120

// along lists where the row stands up to a horizon.
func (r *Row) along(horizon int64) {
	r.Homes, r.Elsewhere = []int64{}, []float64{}
	for n := int64(0); n <= horizon; n++ {
		if r.homeAt(n) {
			r.Homes = append(r.Homes, n)
		}
	}
	every := r.meets.Float()
	if r.never || float64(horizon)/every > mostMet {
		return
	}
	for k := 0.0; r.first+k*every <= float64(horizon)+near; k++ {
		at := r.first + k*every
		if n := math.Round(at); math.Abs(at-n) > near || !r.homeAt(int64(n)) {
			r.Elsewhere = append(r.Elsewhere, math.Round(at*1e4)/1e4)
		}
	}
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
		for _, ref := range looked(x, p.Steps[i].Action) {
			see(ref, i+1)
		}
		if a, ok := p.Steps[i].Action.(*step.Lock); ok { // a stop that is fitted is met later
			for _, id := range a.All() {
				see("lock:"+string(id), i+1)
			}
		}
	}
}

// looked are the rows that a step looks at: locks that go in where the crank stands,
// marks that are read, a stop that is come up to.
func looked(x *engine.Index, a step.Action) []string {
	var out []string
	switch a := a.(type) {
	case *step.Lock:
		for _, id := range a.All() {
			if l := x.Lock(id); l != nil && l.Kind != engine.StopLock {
				out = append(out, "lock:"+string(id))
			}
		}
	case *step.Check:
		locks, marks := a.Proves()
		for _, id := range locks {
			out = append(out, "lock:"+string(id))
		}
		for _, id := range marks {
			out = append(out, "mark:"+string(id))
		}
	case *step.Turn:
		if a.Onto != "" {
			out = append(out, "lock:"+string(a.Onto))
		}
		if a.Until != "" {
			out = append(out, "reading:"+string(a.Until))
		}
	case *step.Measure:
		if a.Reading != "" {
			out = append(out, "reading:"+string(a.Reading))
		}
	}
	return out
}

// proved are the rows the plan is made for. A row that no whole count brings
// home stands between the counts, and is looked at there.
func (pl *Plan) proved() []*Row {
	var out []*Row
	for i := range pl.Rows {
		if (!pl.Chosen || len(pl.Rows[i].Steps) > 0) && pl.Rows[i].comesHome() {
			out = append(out, &pl.Rows[i])
		}
	}
	return out
}

// together finds the counts at which everything that is proved stands home at
// once, the first of them at least so many turns.
func (pl *Plan) together(least int64) {
	rows := pl.proved()
	period := int64(1)
	for _, r := range rows {
		period = engine.LCM(period, r.Every)
	}
	for n := least; n < least+period; n++ {
		if !slices.ContainsFunc(rows, func(r *Row) bool { return !r.homeAt(n) }) {
			pl.Every, pl.Best = period, n
			pl.Next = append(pl.Next, n+period, n+2*period)
			return
		}
	}
}

// homeAt reports whether all that is proved stands home after n whole turns.
func (pl *Plan) homeAt(n int64) bool {
	return !slices.ContainsFunc(pl.proved(), func(r *Row) bool { return !r.homeAt(n) })
}

// legs follows the crank from where the loop went on.
func (pl *Plan) legs(x *engine.Index, p *procedure.Procedure, t *virtual.Trace, fit int) {
	if fit < 0 {
		return
	}
	start := t.Steps[fit].After.Crank / 360
	whole := -1
	for i := fit + 1; i < len(p.Steps); i++ {
		from, to := t.Before(i).Crank/360-start, t.Steps[i].After.Crank/360-start
		if math.Abs(to-from) < 1e-6 {
			continue
		}
		pl.Legs = append(pl.Legs, Leg{p.Steps[i].ID, i + 1, from, to, fmt.Sprintf("Step %d: %s", i+1, lower(en.Sentence(x, p.Steps[i].Action)))})
		if pl.Ends = to; to-from > 0.95 {
			whole = i
		}
	}
	if k := firstLook(x, p, whole); whole >= 0 && k >= 0 {
		pl.Ends = t.Steps[k].After.Crank/360 - start
	}
	n := math.Round(pl.Ends)
	pl.Home = n > 0 && math.Abs(pl.Ends-n) < 0.02 && pl.homeAt(int64(n)) || whole >= 0 && pl.standsAtLooks(x, p, t, whole, start)
}

// standsAtLooks reports whether all that is looked at after the last whole turn stands
// where it is looked at: not every mark stands at a whole count, as that of the spark.
func (pl *Plan) standsAtLooks(x *engine.Index, p *procedure.Procedure, t *virtual.Trace, whole int, start float64) bool {
	any := false
	for i := whole + 1; i < len(p.Steps); i++ {
		at := t.Steps[i].After.Crank/360 - start
		for _, ref := range looked(x, p.Steps[i].Action) {
			for k := range pl.Rows {
				if r := &pl.Rows[k]; r.Ref == ref {
					if r.never || math.Abs(math.Remainder(at-r.first, r.meets.Float())) > standing {
						return false
					}
					any = true
				}
			}
		}
	}
	return any
}

// standing is how near its place a row stands, turns of the crank, that is looked at.
const standing = 0.02

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
			if a.Onto != "" || a.Until != "" {
				return k
			}
		case *step.Measure:
			if r := x.Reading(a.Reading); r != nil && r.Shaft != "" {
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

// parts is how finely a place is told, parts of a turn: a fourteenth of a degree, of which
// halves, thirds, quarters and fifths are whole numbers.
const parts = 5040

func (pl *Plan) counts(x *engine.Index, st *virtual.State) {
	for n := int64(0); n <= pl.Horizon; n++ {
		c := Count{N: n, Shafts: []ShaftAt{}, Home: []string{}, All: n > 0 && pl.Every > 0 && pl.homeAt(n)}
		for i := range x.Sheet.Shafts {
			if x.Drive(i).Driven {
				at := x.At(i, engine.Ratio{Num: n, Den: 1})
				if st != nil { // from where it stood, in the finest parts of a turn that anybody counts
					at = x.Drive(i).Ratio.Mul(engine.Ratio{Num: n, Den: 1}).Add(engine.NewRatio(int64(math.Round(st.Shafts[i]/360*parts)), parts)).Part()
				}
				c.Shafts = append(c.Shafts, ShaftAt{string(x.Sheet.Shafts[i].ID), x.Sheet.Shafts[i].Name, at.String(), math.Round(at.Float()*36000) / 100})
			}
		}
		for _, r := range pl.Rows {
			if r.homeAt(n) {
				c.Home = append(c.Home, r.Ref)
			}
		}
		pl.Counts = append(pl.Counts, c)
	}
}
