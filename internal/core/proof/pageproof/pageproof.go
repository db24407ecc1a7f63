// Package pageproof reads findings off a run of the virtual engine. Rules are small
// functions in families, one file each; every rule says what it protects from.
package pageproof

import (
	"fmt"
	"slices"

	"inklatch/internal/core/engine"
	"inklatch/internal/core/message"
	"inklatch/internal/core/page/procedure"
	"inklatch/internal/core/page/step"
	"inklatch/internal/core/virtual"
)

// Severity is what a finding asks for.
type Severity string

// The severities, the gravest first.
const (
	Blocks    Severity = "blocks"
	ShouldFix Severity = "should-fix"
	Look      Severity = "look"
)

func (s Severity) rank() int {
	return slices.Index([]Severity{Blocks, ShouldFix, Look}, s)
}

// Mend is an edit that would settle a finding.
type Mend struct {
	Label string           `json:"label"`
	Edits []procedure.Edit `json:"edits"`
}

// Edition names the rules as they are. Whoever changes what a rule finds changes
// it, so that counts kept with an older one are worked out again.
const Edition = "9"

// Finding is one sentence about a procedure, with the steps it speaks of.
type Finding struct {
	// ID names the finding within one proof: its rule and where it stands.
	ID string `json:"id"`
	// Cause is the ID of the finding it follows from: settled, that one settles
	// this one too. Empty for one that stands by itself.
	Cause    string    `json:"cause,omitzero"`
	Rule     string    `json:"rule"`
	Severity Severity  `json:"severity"`
	Steps    []step.ID `json:"steps"`
	What     string    `json:"what"`
	Why      string    `json:"why"`
	Mends    []Mend    `json:"mends"`
	// Starts are the positions, in turns of the crank before the usual one, from
	// which the page does not come out; only where that is the finding.
	Starts []int64 `json:"starts,omitzero"`
	// Cells are the kinds of engine it holds for, as they are named; none for all.
	Cells []string `json:"cells,omitempty"`
	// Message is what the finding says as ids and what stands in them, for catalogues
	// in other languages; What and Why are it in English.
	Message *Message `json:"message,omitempty"`
	// Accepted is the reason why somebody keeps it, empty for an open finding.
	Accepted string `json:"accepted,omitzero"`
}

// Message is what a finding says and why, apart from the words.
type Message struct {
	What message.Text `json:"what"`
	Why  message.Text `json:"why"`
}

// House is the team's choice among the schools of the trade.
type House struct {
	// MinTurns is the least number of proving turns; default 2.
	MinTurns int `json:"minTurns"`
	// BackOff is how far the crank may be turned backwards, degrees, where the
	// sheet sets no limit; default 5.
	BackOff float64 `json:"backOff"`
	// MaxWords is the longest instruction in words; default 20.
	MaxWords int `json:"maxWords"`
	// AuthorMayEdit lets one person close the author and the editorial latch.
	AuthorMayEdit bool `json:"authorMayEdit"`
	// Severities overrides what a rule asks for.
	Severities map[string]Severity `json:"severities,omitempty"`
	// ReadingPace is how many words a minute somebody reads who weighs each of them;
	// default 150. A step that stood in view for as long counts as read.
	ReadingPace int `json:"readingPace"`
	// LastLatchReleases lets the last latch that is closed release the revision, as
	// nobody else has to be asked; without it a lead does.
	LastLatchReleases bool `json:"lastLatchReleases"`
}

// DefaultHouse is the house before anybody chooses.
func DefaultHouse() House { return House{MinTurns: 2, BackOff: 5, MaxWords: 20, ReadingPace: 150} }

// Rule is one thing the proof looks for.
type Rule struct {
	ID       string
	Family   string
	Severity Severity
	// Protects says what goes wrong on an engine without the rule.
	Protects string
	check    func(*proving)
}

// families in the order they are looked through.
var families = [][]Rule{lockRules, workedRules, owedRules, valueRules, listRules, startRules, partRules, loopRules, torqueRules, turnRules, endRules, toolRules, cautionRules, wordRules, pathRules, caseRules, purposeRules, fluidRules, orderRules, paintRules}

// Rules lists every rule.
func Rules() []Rule { return slices.Concat(families...) }

// proving is one proof under way.
type proving struct {
	// x is the sheet as it holds for the engine that is proved on, raw as it is
	// written, with its cases.
	x, raw *engine.Index
	// p is what is done one after another, at where that stands in the whole page.
	p     *procedure.Procedure
	at    []int
	whole *procedure.Procedure
	// car is the engine that is proved on, nil for any.
	car   *engine.Car
	t     *virtual.Trace
	house House
	rule  *Rule
	out   []Finding
	// met are the events of the run by their kind, once they were asked for.
	met map[virtual.EventKind][]happened
	// elsewhere are the runs from other positions, by the position.
	elsewhere map[int64]gone
	// trying leaves mends out: nobody takes them from a trial.
	trying bool
	// startsFrom are the positions the page does not work from, found by its rule.
	startsFrom []int64
}

// Prove runs the procedure on the virtual engine and gives the findings, the
// gravest first, otherwise in the order of the steps. A mend is offered only
// where a trial run shows that it settles its finding and raises none that
// blocks.
func Prove(x *engine.Index, p *procedure.Procedure, house House) []Finding {
	return Findings(x, p, nil, house)
}

// Findings is Prove for a run of the whole page that has been made already; nil
// for none.
func Findings(x *engine.Index, p *procedure.Procedure, t *virtual.Trace, house House) []Finding {
	fs := find(x, p, t, house, false, families)
	try(x, p, house, fs)
	return fs
}

// look runs rules over a run and puts what they find in order.
func (c *proving) look(rules [][]Rule) []Finding {
	c.run(rules)
	return ordered(c.out, c.whole)
}

func (c *proving) run(rules [][]Rule) {
	for _, f := range rules {
		for i := range f {
			c.rule = &f[i]
			f[i].check(c)
		}
	}
}

// ordered puts findings in the order of the page, the gravest first, and names
// them.
func ordered(out []Finding, p *procedure.Procedure) []Finding {
	first := make(map[step.ID]int, len(p.Steps))
	for i := range p.Steps {
		first[p.Steps[i].ID] = i
	}
	at := func(f *Finding) int {
		if len(f.Steps) == 0 {
			return len(p.Steps)
		}
		return first[f.Steps[0]]
	}
	slices.SortStableFunc(out, func(a, b Finding) int {
		if a.Severity != b.Severity {
			return a.Severity.rank() - b.Severity.rank()
		}
		return at(&a) - at(&b)
	})
	seen := make(map[string]int, len(out))
	for i := range out {
		f := &out[i]
		f.ID = f.Rule
		if len(f.Steps) > 0 {
			f.ID += "@" + string(f.Steps[0])
		}
		if seen[f.ID]++; seen[f.ID] > 1 {
			f.ID += fmt.Sprintf(".%d", seen[f.ID])
		}
	}
	return out
}

// Blocking counts the findings that block release and are not accepted.
func Blocking(fs []Finding) int {
	n := 0
	for i := range fs {
		if fs[i].Severity == Blocks && fs[i].Accepted == "" {
			n++
		}
	}
	return n
}

// findAs is find with a severity of its own.
func (c *proving) findAs(sev Severity, what, why message.Text, steps []int, mends ...Mend) {
	n := len(c.out)
	c.find(what, why, steps, mends...)
	if _, house := c.house.Severities[c.rule.ID]; !house {
		c.out[n].Severity = sev
	}
}

// find adds a finding at steps, the first of which carries acceptances.
func (c *proving) find(what, why message.Text, steps []int, mends ...Mend) {
	ids := []step.ID{}
	for _, i := range steps {
		if i >= 0 && i < len(c.p.Steps) {
			ids = append(ids, c.p.Steps[i].ID)
		}
	}
	var first *step.Step
	if len(ids) > 0 && steps[0] >= 0 {
		first = &c.p.Steps[steps[0]]
	}
	c.add(what, why, ids, first, mends)
}

// findAt is find for steps by their ids, which need not be on the way that is
// gone.
func (c *proving) findAt(what, why message.Text, ids []step.ID, mends ...Mend) {
	var first *step.Step
	if len(ids) > 0 {
		if i := c.whole.At(ids[0]); i >= 0 {
			first = &c.whole.Steps[i]
		}
	}
	c.add(what, why, ids, first, mends)
}

// add adds a finding; first is the step that carries acceptances, nil for none.
func (c *proving) add(what, why message.Text, ids []step.ID, first *step.Step, mends []Mend) {
	f := Finding{Rule: c.rule.ID, Severity: c.rule.Severity, What: what.String(), Why: why.String(), Message: &Message{what, why}, Steps: ids, Mends: slices.DeleteFunc(mends, func(m Mend) bool { return len(m.Edits) == 0 })}
	if s, ok := c.house.Severities[c.rule.ID]; ok {
		f.Severity = s
	}
	f.Starts, c.startsFrom = c.startsFrom, nil
	if f.Mends == nil {
		f.Mends = []Mend{}
	}
	if first != nil {
		for _, a := range first.Accept {
			if a.Rule == f.Rule {
				f.Accepted = a.Reason
			}
		}
	}
	c.out = append(c.out, f)
}

// each calls f for every event of a kind.
func (c *proving) each(kind virtual.EventKind, f func(i int, e *virtual.Event)) {
	if c.met == nil {
		c.met = make(map[virtual.EventKind][]happened, 16)
		for i := range c.t.Steps {
			for k := range c.t.Steps[i].Events {
				e := &c.t.Steps[i].Events[k]
				c.met[e.Kind] = append(c.met[e.Kind], happened{i, e})
			}
		}
	}
	for _, h := range c.met[kind] {
		f(h.step, h.e)
	}
}

// happened is an event at a step.
type happened struct {
	step int
	e    *virtual.Event
}

// Names for sentences.

// num names step i by its number on the page.
func (c *proving) num(i int) string { return fmt.Sprintf("Step %d", c.place(i)+1) }

// place is where step i stands on the whole page.
func (c *proving) place(i int) int { return (&procedure.Path{At: c.at}).Place(i) }

func (c *proving) lock(id engine.LockID) string {
	if l := c.x.Lock(id); l != nil {
		return l.Name
	}
	return string(id)
}

func (c *proving) part(id engine.PartID) string {
	if p := c.x.Part(id); p != nil {
		return p.Name
	}
	return string(id)
}

func (c *proving) fastener(id engine.FastenerID) string {
	f := c.x.Fastener(id)
	if f == nil {
		return string(id)
	}
	return f.Words()
}

func (c *proving) shaft(id engine.ShaftID) string {
	if s := c.x.Shaft(id); s != nil {
		return s.Name
	}
	return string(id)
}

func (c *proving) loop(id engine.LoopID) string {
	if l := c.x.Loop(id); l != nil {
		return l.Name
	}
	return string(id)
}

func (c *proving) tensioner(id engine.TensionerID) string {
	if l := c.x.Tensioner(id); l != nil {
		return l.Name
	}
	return string(id)
}

func (c *proving) mark(id engine.MarkID) string {
	if l := c.x.Mark(id); l != nil {
		return l.Name
	}
	return string(id)
}

// looked is the mark an event is about: one of the sheet, or one of the technician’s
// own at a wheel.
func (c *proving) looked(e *virtual.Event) string {
	if e.Mark == "" && e.Wheel != "" {
		return "paint mark at the " + c.wheelName(e.Wheel)
	}
	return c.mark(e.Mark)
}

// says puts something before what a finding says.
func (f *Finding) says(before message.Text) {
	m := *f.Message
	m.What = before.And(m.What.Lower())
	f.Message, f.What = &m, m.What.String()
}

// does is what the verb of step i does.
func (c *proving) does(i int) *step.Spec { return step.SpecOf(c.p.Steps[i].Action.Verb()) }
