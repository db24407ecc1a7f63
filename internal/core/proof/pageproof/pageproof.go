// Package pageproof reads findings off a run of the virtual engine. Rules are small
// functions in families, one file each; every rule says what it protects from.
package pageproof

import (
	"slices"
	"strconv"

	"inklatch/internal/core/engine"
	"inklatch/internal/core/message"
	"inklatch/internal/core/page/procedure"
	"inklatch/internal/core/page/step"
	"inklatch/internal/core/proof/facts"
	"inklatch/internal/core/proof/finding"
	"inklatch/internal/core/virtual"
)

// Mend is edits of the page that would settle a finding.
type Mend = finding.Mend[procedure.Edit]

// Edition names the rules as they are. Whoever changes what a rule finds changes
// it, so that counts kept with an older one are worked out again.
const Edition = "20"

// Finding is one sentence about a procedure, with the steps it speaks of.
type Finding struct {
	finding.Finding
	// Steps are where it stands, the first of them before all; none for the header.
	Steps []step.ID `json:"steps"`
	Mends []Mend    `json:"mends"`
	// Starts are the positions, in turns of the crank before the usual one, from
	// which the page does not come out; only where that is the finding.
	Starts []int64 `json:"starts,omitzero"`
	// Cells are the kinds of engine it holds for, as they are named; none for all.
	Cells []string `json:"cells,omitempty"`
	// Accepted is the reason why somebody keeps it, empty for an open finding.
	Accepted string `json:"accepted,omitzero"`
}

// place is where a finding stands: the first of its steps.
func (f *Finding) place() string {
	if len(f.Steps) == 0 {
		return ""
	}
	return string(f.Steps[0])
}

// key is what a finding is known by on a page that has changed.
func (f *Finding) key() finding.Key { return finding.Key{Subject: f.Subject(), Place: f.place()} }

// rule is a rule of pages.
type rule = finding.Rule[*proving]

// families in the order they are looked through.
var families = []finding.Family[*proving]{lockRules, workedRules, owedRules, valueRules, listRules, startRules, partRules, loopRules, torqueRules, turnRules, endRules, toolRules, cautionRules, wordRules, pathRules, caseRules, purposeRules, fluidRules, orderRules, paintRules, worldRules, readingRules, conditionRules, boltRules, schoolRules}

// Rules lists every rule.
func Rules() []finding.Rule[*proving] { return slices.Concat(families...) }

// proving is one proof under way.
type proving struct {
	// Facts are the run of what is done one after another, on the engine that is proved
	// on; at is where that stands in the whole page.
	facts.Facts
	at    []int
	whole *procedure.Procedure
	// raw is the sheet as it is written, with its cases.
	raw *engine.Index
	// car is the engine that is proved on, nil for any.
	car   *engine.Car
	house finding.House
	// rules are those it is looked through with; rule is the one that looks now.
	rules []finding.Family[*proving]
	rule  *rule
	out   []Finding
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
func Prove(x *engine.Index, p *procedure.Procedure, house finding.House) []Finding {
	return Findings(x, p, nil, house)
}

// Findings is Prove for a run of the whole page that has been made already; nil
// for none.
func Findings(x *engine.Index, p *procedure.Procedure, t *virtual.Trace, house finding.House) []Finding {
	fs := find(x, p, t, house)
	try(x, p, house, fs)
	return fs
}

// Found is Findings without trying the mends, which takes most of the time: for counts,
// and for what is not to wait. Mends are none, and nothing hangs under anything.
func Found(x *engine.Index, p *procedure.Procedure, t *virtual.Trace, house finding.House) []Finding {
	fs := find(x, p, t, house)
	for i := range fs {
		fs[i].Mends = []Mend{}
	}
	return fs
}

// through looks a run through with every rule that reads one of these.
func (c *proving) through(reads ...finding.Reads) {
	finding.Through(c.rules, func(r *rule) {
		c.rule = r
		r.Check(c)
	}, reads...)
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
	finding.Sort(out, func(f *Finding) *finding.Finding { return &f.Finding }, at, (*Finding).place)
	return out
}

// Blocking counts the findings that block release and are not accepted.
func Blocking(fs []Finding) int {
	n := 0
	for i := range fs {
		if fs[i].Severity == finding.Blocks && fs[i].Accepted == "" {
			n++
		}
	}
	return n
}

// Open are how many findings are kept with no reason.
func Open(fs []Finding) int {
	n := 0
	for i := range fs {
		if fs[i].Accepted == "" {
			n++
		}
	}
	return n
}

// findAs is find with a severity of its own.
func (c *proving) findAs(sev finding.Severity, what, why message.Text, steps []int, mends ...Mend) {
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
		if i >= 0 && i < len(c.Page.Steps) {
			ids = append(ids, c.Page.Steps[i].ID)
		}
	}
	var first *step.Step
	if len(ids) > 0 && steps[0] >= 0 {
		first = &c.Page.Steps[steps[0]]
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
	f := Finding{Finding: finding.New(c.rule, c.house, c.rule.ID, what, why), Steps: ids, Mends: slices.DeleteFunc(mends, func(m Mend) bool { return len(m.Edits) == 0 })}
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

// each calls f for every event of a kind, in the order they were met.
func each[E virtual.Event](c *proving, f func(i int, e E)) { facts.Each(&c.Facts, f) }

// What stands in the places of sentences.

// num is step i, said by its number on the page as “Step 4”; no says the number
// alone.
func (c *proving) num(i int) message.Arg { return c.said(i, "Step ") }
func (c *proving) no(i int) message.Arg  { return c.said(i, "") }

// noWhole says the number of step i of the whole page.
func (c *proving) noWhole(i int) message.Arg {
	return message.StepAt(string(c.whole.Steps[i].ID), strconv.Itoa(i+1))
}

func (c *proving) said(i int, before string) message.Arg {
	id := ""
	if i >= 0 && i < len(c.Page.Steps) {
		id = string(c.Page.Steps[i].ID)
	}
	return message.StepAt(id, before+strconv.Itoa(c.place(i)+1))
}

// place is where step i stands on the whole page.
func (c *proving) place(i int) int { return (&procedure.Path{At: c.at}).Place(i) }

// named is a thing of the sheet, by its id where the sheet does not have it.
func named(kind, id, name string) message.Arg {
	if name == "" {
		name = id
	}
	return message.Named(kind+"/"+id, name)
}

func (c *proving) lock(id engine.LockID) message.Arg {
	return named("locks", string(id), c.Index.NameOf("locks", string(id)))
}

func (c *proving) part(id engine.PartID) message.Arg {
	return named("parts", string(id), c.Index.NameOf("parts", string(id)))
}

func (c *proving) fastener(id engine.FastenerID) message.Arg {
	name := ""
	if f := c.Index.Fastener(id); f != nil {
		name = f.Words()
	}
	return named("fasteners", string(id), name)
}

func (c *proving) shaft(id engine.ShaftID) message.Arg {
	return named("shafts", string(id), c.Index.NameOf("shafts", string(id)))
}

func (c *proving) loop(id engine.LoopID) message.Arg {
	return named("loops", string(id), c.Index.NameOf("loops", string(id)))
}

func (c *proving) tensioner(id engine.TensionerID) message.Arg {
	return named("tensioners", string(id), c.Index.NameOf("tensioners", string(id)))
}

func (c *proving) wheel(id engine.WheelID) message.Arg {
	return named("wheels", string(id), c.Index.Name(engine.Ref{Kind: engine.KindWheel, ID: string(id)}))
}

func (c *proving) fluid(id engine.FluidID) message.Arg {
	return named("fluids", string(id), c.Index.NameOf("fluids", string(id)))
}

func (c *proving) mark(id engine.MarkID) message.Arg {
	return named("marks", string(id), c.Index.NameOf("marks", string(id)))
}

// looked is the mark an event is about: one of the sheet, or one of the technician’s
// own at a wheel.
func (c *proving) looked(e virtual.MarkAway) message.Arg {
	if e.Mark == "" && e.Wheel != "" {
		return message.Named("wheels/"+string(e.Wheel), "paint mark at the "+c.wheelName(e.Wheel))
	}
	return c.mark(e.Mark)
}
