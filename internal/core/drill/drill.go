// Package drill runs a page with the mistakes the trade makes on it: each is made at its step
// on the virtual engine, and the rest of the page is done as it is written. What it finds is
// which looks of the page would show the mistake, how late, and what it does to the engine if
// nobody notices.
package drill

import (
	"context"
	"fmt"
	"math"
	"slices"
	"strings"

	"inklatch/internal/core/engine"
	"inklatch/internal/core/engine/piston"
	"inklatch/internal/core/message"
	"inklatch/internal/core/page/lang/en"
	"inklatch/internal/core/page/procedure"
	"inklatch/internal/core/page/step"
	"inklatch/internal/core/virtual"
)

// Outcome is what comes of a mistake.
type Outcome string

// The outcomes, the best first.
const (
	// Caught is one that a look shows: a mark, a lock that is tried, a count.
	Caught Outcome = "caught"
	// Stopped is one with which a later step cannot be done.
	Stopped Outcome = "stopped"
	// Absorbed is one that leaves the engine as it should be, or inside what its sheet passes.
	Absorbed Outcome = "absorbed"
	// Late is one that shows only behind a cover that went on since, or at the first start.
	Late Outcome = "late"
	// ByForce is one that shows only by what it breaks.
	ByForce Outcome = "by force"
	// NotCaught is one that nothing on the page is sure to show.
	NotCaught Outcome = "not caught"
)

// Choices are the outcomes, the best first.
func (Outcome) Choices() []string {
	return []string{string(Caught), string(Stopped), string(Absorbed), string(Late), string(ByForce), string(NotCaught)}
}

// Good reports whether an engine comes to no harm by it.
func (o Outcome) Good() bool { return o == Caught || o == Stopped || o == Absorbed }

// Look is a step of the page at which a mistake shows.
type Look struct {
	// Step is the step, Place where it stands in the whole page, from 0.
	Step  step.ID
	Place int
	// Says is what is seen there.
	Says message.Text
	// Sure is false where the error is no more than twice what the look shows.
	Sure bool
}

// Mistake is one mistake and what comes of it.
type Mistake struct {
	// ID is its family, what it is done to and at which step: it stays the same while that
	// step does.
	ID     string
	Family *Family
	What   message.Text
	// Size is how large it is, in degrees or units; empty where it has no size.
	Size string
	// MadeAt is the step at which it is made, Place where that stands, from 0.
	MadeAt step.ID
	Place  int

	Outcome Outcome
	// Seen are the looks that show it, in order; those of a step count once.
	Seen []Look
	// Why says why one was absorbed.
	Why message.Text
	// On says where it comes to that, where it does not everywhere: on some engines of the code,
	// or on one that is found elsewhere in its cycle.
	On message.Text
	// Comes is what it does to the engine if nobody notices, Severity how bad that is, from 1
	// to 10.
	Comes    message.Text
	Severity int
	// Accepted is the reason why somebody keeps it, written at the step it is made at; empty
	// for none.
	Accepted string

	// short is set where the page catches less of its family than the house asks.
	short  bool
	at     int // the step of the way through the page
	change change
	world  world
}

// Detection is how late it is noticed, from 1, at once, to 10, never: the scale of a failure
// mode and effects analysis (IEC 60812, from memory; the grades are ours).
func (m *Mistake) Detection() int {
	switch m.Outcome {
	case Stopped, Absorbed:
		return 1
	case Caught:
		return 2
	case Late:
		return 7
	case ByForce:
		return 8
	}
	if len(m.Seen) > 0 {
		return 5
	}
	return 10
}

// Risk is severity × occurrence × detection, 1 to 1000 (IEC 60812, from memory).
func (m *Mistake) Risk() int { return m.Severity * m.Family.Occurrence * m.Detection() }

// Rules are what a step accepts to keep a mistake that is made at it, in place of the rule of a
// finding: that one, or all of its family at that step.
func (m *Mistake) Rules() (one, family string) {
	of, _, _ := strings.Cut(m.ID, "@")
	return AcceptPrefix + of, AcceptPrefix + m.Family.ID
}

// AcceptPrefix is how what a step accepts begins where it is a mistake.
const AcceptPrefix = "drill/"

// Missed reports whether it gets through, nobody keeps it, and the page catches less of its
// family than it needs to.
func (m *Mistake) Missed() bool {
	return m.short && !m.Outcome.Good() && m.Accepted == ""
}

// keep reads from the step it is made at whether somebody keeps it.
func (m *Mistake) keep(p *procedure.Procedure) {
	if m.Outcome.Good() {
		return
	}
	one, family := m.Rules()
	for _, a := range p.Steps[m.Place].Accept {
		if a.Rule == one || a.Rule == family {
			m.Accepted = a.Reason
			return
		}
	}
}

// Edition names what a drill does: it changes whenever an outcome may. What is kept of an older
// one is worked out again.
const Edition = "4"

// Report is a page with all its mistakes.
type Report struct {
	Mistakes []Mistake
	// Caught are those that come to no harm, Of how many there are.
	Caught, Of int
	// Missed are those of families a page needs to catch and does not, Accepted those of all
	// that get through and are kept with a reason: they are not missed.
	Missed, Accepted int
	// Whole is false where it was stopped before all were made.
	Whole bool
}

// Options bound a drill.
type Options struct {
	// Only is the families that are drilled, by their ids; none for all.
	Only []string
	// Each is called after every mistake with how many are done, and of how many; nil for no
	// one.
	Each func(done, of int)
	// House says which families are drilled, how large and how much of them a page has to
	// catch; nil for ours.
	House House
}

// Run drills a page on the engine of an index: as it is found and on the first kind of engine
// that it is for, and then on the others, on one that is found a turn further on, as far as
// the page goes otherwise there, and with the tools that may stand in for those of the sheet.
// Of a mistake the worst outcome holds. It stops when ctx ends, with what it has.
func Run(ctx context.Context, x *engine.Index, p *procedure.Procedure, o Options) *Report {
	gens := worlds(x, p)
	families := o.House.Families()
	all := 0
	for _, g := range gens {
		g.make(families, o.Only)
		all += len(g.out)
	}
	r := &Report{Whole: true}
	done := 0
	at := map[string]int{}
	for n, g := range gens {
		for i := range g.out {
			if ctx.Err() != nil {
				r.Whole = false
				break
			}
			m := &g.out[i]
			k, known := at[m.ID]
			if known && g.world.with.Tool != "" && !g.shownBy(&r.Mistakes[k]) {
				done++
				continue // that tool has no part in it
			}
			g.drill(m)
			switch {
			case !known:
				at[m.ID] = len(r.Mistakes)
				if n > 0 {
					m.On = g.world.says
				}
				r.Mistakes = append(r.Mistakes, *m)
			case m.Outcome.rank() > r.Mistakes[k].Outcome.rank():
				m.On = g.world.says
				r.Mistakes[k] = *m
			}
			if done++; o.Each != nil {
				o.Each(done, all)
			}
		}
	}
	slices.SortStableFunc(r.Mistakes, func(a, b Mistake) int { return a.Place - b.Place })
	r.count(p)
	return r
}

// count says what is caught, kept and missed: a family falls short where less of it than the
// house asks is caught or kept with a reason.
func (r *Report) count(p *procedure.Procedure) {
	r.Of = len(r.Mistakes)
	of, settled := map[string]int{}, map[string]int{}
	for i := range r.Mistakes {
		m := &r.Mistakes[i]
		m.keep(p)
		of[m.Family.ID]++
		switch {
		case m.Outcome.Good():
			r.Caught++
			settled[m.Family.ID]++
		case m.Accepted != "":
			r.Accepted++
			settled[m.Family.ID]++
		}
	}
	for i := range r.Mistakes {
		m := &r.Mistakes[i]
		m.short = 100*settled[m.Family.ID] < m.Family.Least*of[m.Family.ID]
		if m.Missed() {
			r.Missed++
		}
	}
}

// rank is how bad an outcome is.
func (o Outcome) rank() int { return slices.Index(o.Choices(), string(o)) }

// make makes the mistakes of some families, of all where none is named, in the order of the
// steps.
func (g *gen) make(families []Family, only []string) {
	for i := range families {
		f := &families[i]
		if len(only) == 0 || slices.Contains(only, f.ID) {
			g.family = f
			f.makes(g)
		}
	}
	slices.SortStableFunc(g.out, func(a, b Mistake) int { return a.at - b.at })
}

// world is an engine that the page is drilled on: a kind of engine, nil for any, found so many
// turns of the crank earlier in its cycle, with a tool in place of one of the sheet's.
type world struct {
	car   *engine.Car
	start int64
	with  engine.StandIn
	says  message.Text
}

// key tells a world from others.
func (w world) key() string {
	car := ""
	if w.car != nil {
		car = w.car.String()
	}
	return fmt.Sprint(car, "/", w.start, "/", w.with)
}

// mostWorlds bounds the engines that a page is drilled on.
const mostWorlds = 9

// worlds are the page on every engine on which it goes otherwise than on those before.
func worlds(x *engine.Index, p *procedure.Procedure) []*gen {
	out := []*gen{made(x, p, world{car: p.First(x.Sheet)})}
	more := []world{{car: out[0].world.car, start: 1, says: message.F("found a turn further in its cycle")}}
	if out[0].world.car != nil {
		cells, _ := p.Cells(x.Sheet)
		for i := range cells[1:] {
			more = append(more, world{car: &cells[i+1], says: message.F("on an engine of %s", message.As(cells[i+1].String()))})
		}
	}
	for _, w := range more[:min(len(more), mostWorlds)] {
		if g := made(x, p, w); !slices.ContainsFunc(out, func(o *gen) bool { return sameRun(o, g) }) {
			out = append(out, g)
		}
	}
	first := out[0]
	for _, in := range first.x.StandIns(first.tools()) {
		says := message.F("with %s in place of %s", in.Number, first.x.Tool(in.Tool).Number)
		out = append(out, made(x, p, world{car: first.world.car, with: in, says: says}))
	}
	return out
}

// tools are the special tools that the way through the page uses.
func (g *gen) tools() []engine.ToolID {
	var out []engine.ToolID
	for k := range g.way.Steps {
		out = append(out, g.way.Steps[k].ToolsUsed(g.x)...)
	}
	return out
}

// shownBy reports whether a mistake shows at a step that uses the tool of this world which
// stands in for another, or came to nothing.
func (g *gen) shownBy(m *Mistake) bool {
	return slices.ContainsFunc(m.Seen, func(l Look) bool {
		return slices.Contains(g.whole.Steps[l.Place].ToolsUsed(g.x), g.world.with.Tool)
	}) || m.Outcome == Absorbed
}

// sameRun reports whether a page goes the same on two engines: the same steps, which meet the
// same and leave the engine alike, but for whole cycles of the crank.
func sameRun(a, b *gen) bool {
	if len(a.way.Steps) != len(b.way.Steps) || a.world.car != b.world.car {
		return false
	}
	for k := range a.way.Steps {
		if a.way.Place(k) != b.way.Place(k) || !slices.Equal(a.clean.Steps[k].Events, b.clean.Steps[k].Events) {
			return false
		}
	}
	n := len(a.way.Steps)
	if n == 0 {
		return true
	}
	p, q := *a.after(n - 1), *b.after(n - 1)
	if math.Abs(engine.Wrap(p.Crank-q.Crank, 720)) > hair {
		return false
	}
	p.Crank = q.Crank
	return alike(&p, &q)
}

// gen makes the mistakes of a page.
type gen struct {
	x      *engine.Index
	world  world
	whole  *procedure.Procedure
	way    *procedure.Path
	clean  *virtual.Trace
	family *Family
	out    []Mistake
	ids    map[string]bool
	trains map[int]*piston.Train
}

func made(x *engine.Index, p *procedure.Procedure, on world) *gen {
	if on.car != nil {
		if v, err := x.For(*on.car); err == nil {
			x = v
		}
	}
	if on.with.Tool != "" {
		x = x.With(on.with)
	}
	w, t := p.Go(x, on.start, on.car)
	return &gen{world: on, x: x, whole: p, way: w, clean: t, ids: map[string]bool{}, trains: map[int]*piston.Train{}}
}

// each calls f for every step of the way whose verb has the type A.
func each[A step.Action](g *gen, f func(k int, a A)) {
	for k := range g.way.Steps {
		if a, ok := g.way.Steps[k].Action.(A); ok {
			f(k, a)
		}
	}
}

// before is the clean engine before step k, after behind it.
func (g *gen) before(k int) *virtual.State { return g.clean.Before(k) }
func (g *gen) after(k int) *virtual.State  { return &g.clean.Steps[k].After }

// put adds a mistake, once: of is what it is done to and how, beside the step; why is why it
// comes to nothing, if it does.
func (g *gen) put(k int, of, size string, what message.Text, c change, why ...message.Text) {
	s := &g.way.Steps[k]
	id := g.family.ID + "/" + of + "@" + string(s.ID)
	if g.ids[id] {
		return // a step that is come back to
	}
	g.ids[id] = true
	m := Mistake{ID: id, Family: g.family, What: what, Size: size, MadeAt: s.ID, Place: g.way.Place(k), at: k, change: c, world: g.world}
	if len(why) > 0 {
		m.Why = why[0]
	}
	g.out = append(g.out, m)
}

func (g *gen) named(kind engine.Kind, id string) message.Arg {
	r := engine.Ref{Kind: kind, ID: id}
	return message.Named(r.Path(), g.x.Name(r))
}

// sentence is step k of the way as it is written.
func (g *gen) sentence(k int) string { return en.Sentence(g.x, g.way.Steps[k].Action) }
