package adapt

import (
	"encoding/json"
	"fmt"
	"slices"
	"strings"

	"inklatch/internal/core/engine"
	"inklatch/internal/core/page/lang/en"
	"inklatch/internal/core/page/procedure"
	"inklatch/internal/core/page/step"
	"inklatch/internal/core/unit"
)

// Copy is a page as it was taken over.
type Copy struct {
	Procedure *procedure.Procedure `json:"-"`
	// Left are the steps that were left out, by their places on the first page.
	Left []Note `json:"left"`
	// Taken are values that come from the other sheet, and what stood there before.
	Taken []Note `json:"taken"`
	// Asks are what stands as it was said of the first engine, or lost something that it
	// named: somebody has to say whether it is so on the other one.
	Asks []Note `json:"asks"`
}

// Note is something said of a step of a copy.
type Note struct {
	// Step is the step, empty for what stands above the steps; Number its place on the
	// first page, from 1.
	Step   step.ID `json:"step,omitzero"`
	Number int     `json:"number,omitzero"`
	Says   string  `json:"says"`
	// Why is the reason a step was left out.
	Why string `json:"why,omitzero"`
}

// Over writes a page anew for another engine. pairs are those of Match with an answer
// each; a thing that has none counts as not being there. The page that is given is not
// changed. It is an error when the page cannot be copied at all.
func Over(from, to *engine.Index, p *procedure.Procedure, pairs []Pair) (*Copy, error) {
	b, err := json.Marshal(p)
	if err != nil {
		return nil, fmt.Errorf("copying the page: %w", err)
	}
	n := &procedure.Procedure{}
	if err := json.Unmarshal(b, n); err != nil {
		return nil, fmt.Errorf("copying the page: %w", err)
	}
	c := &copying{from: from, to: to, m: Matched{}, was: p, out: &Copy{Procedure: n, Left: []Note{}, Taken: []Note{}, Asks: []Note{}}}
	for i := range pairs {
		c.m[pairs[i].Ref()] = &pairs[i]
	}
	c.header()
	gone := map[step.ID]string{}
	for i := range n.Steps {
		if why := c.step(i); why != "" {
			gone[n.Steps[i].ID] = why
		}
	}
	c.leave(gone)
	if len(p.Prelims.Tools) > 0 { // those that the steps need there
		for _, t := range used(to, n) {
			if !slices.Contains(n.Prelims.Tools, t) {
				n.Prelims.Tools = append(n.Prelims.Tools, t)
			}
		}
	}
	return c.out, nil
}

type copying struct {
	from, to *engine.Index
	m        Matched
	was      *procedure.Procedure
	out      *Copy
}

func (c *copying) note(list *[]Note, i int, says string) {
	n := Note{Says: says}
	if i >= 0 {
		n.Step, n.Number = c.was.Steps[i].ID, i+1
	}
	*list = append(*list, n)
}

func (c *copying) ask(i int, says string, args ...any) {
	c.note(&c.out.Asks, i, fmt.Sprintf(says, args...))
}

func (c *copying) took(i int, what, was, is string) {
	if was != is {
		c.note(&c.out.Taken, i, fmt.Sprintf("%s: %s there, %s here", what, orNone(was), orNone(is)))
	}
}

func orNone(s string) string {
	if s == "" {
		return "nothing"
	}
	return s
}

// rename is what a thing is called on the other sheet; what is lost is added to lost.
func (c *copying) rename(lost *[]string) func(list, id string) string {
	return func(list, id string) string {
		to := c.m.to(list, id)
		if to == "" {
			name := nameOn(c.from, list, id)
			if name == "" {
				name = id
			}
			*lost = append(*lost, name)
		}
		return to
	}
}

// header takes over what stands above the steps.
func (c *copying) header() {
	h := &c.out.Procedure.Header
	var lost []string
	h.Prelims.Tools = unused(c.from, c.was)
	engine.Rename(h, c.rename(&lost))
	for _, name := range lost {
		c.ask(-1, "The page named the %s above its steps, which %s does not have.", name, c.to.Sheet.Code)
	}
	h.Engine = c.to.Sheet.Code
	if h.Applies.Years != (engine.Years{}) {
		c.took(-1, "applicability", engine.When{Years: h.Applies.Years}.String(), engine.When{Years: c.to.Sheet.Years}.String())
	}
	h.Applies.Years = c.to.Sheet.Years
	for _, t := range []struct{ what, says string }{{"title", h.Title}, {"purpose", h.Purpose}, {"note on applicability", h.Applies.Note}, {"people", h.Prelims.People}} {
		c.words(-1, t.what, t.says)
	}
	if all := slices.Concat(h.Prelims.Conditions, h.Prelims.Supplies); len(all) > 0 {
		c.ask(-1, "Conditions and supplies were those of %s: %s. Are they so on %s?", c.from.Sheet.Code, strings.Join(all, "; "), c.to.Sheet.Code)
	}
	if !h.Prelims.Time.IsZero() {
		c.ask(-1, "The page takes %s on %s. How long does it take on %s?", h.Prelims.Time, c.from.Sheet.Code, c.to.Sheet.Code)
	}
	for _, title := range []string{h.After, h.Before} {
		if title != "" {
			c.ask(-1, "The page is one of several of a job, beside “%s”. Is there such a page of %s?", title, c.to.Sheet.Code)
		}
	}
}

// step takes one step over; it gives why the step has to be left out, or nothing.
func (c *copying) step(i int) string {
	s, was := &c.out.Procedure.Steps[i], &c.was.Steps[i]
	before := len(step.Worked(s.Action))
	var lost []string
	step.Rename(s.Action, c.rename(&lost))
	if before > 0 && len(step.Worked(s.Action)) == 0 {
		return fmt.Sprintf("%s does not have the %s.", c.to.Sheet.Code, join(lost))
	}
	var tools []string
	engine.Rename(s, c.rename(&tools)) // beside the action, a step names tools
	if why := c.whens(i, s); why != "" {
		return why
	}
	for _, name := range slices.Concat(lost, tools) {
		c.ask(i, "The step named the %s as well, which %s does not have.", name, c.to.Sheet.Code)
	}
	c.values(i, s, was)
	c.words(i, "note", s.Note)
	if s.Wording != "" {
		c.ask(i, "The step is worded by hand: “%s” Is that so on %s?", ended(s.Wording), c.to.Sheet.Code)
	}
	for _, k := range s.Cautions {
		if k.Hazard == "" || k.Text != step.CautionFor(k.Hazard).Text {
			c.words(i, "caution", k.Text)
		}
	}
	for _, t := range step.FreeTexts(s.Action) {
		c.words(i, "text", t)
	}
	s.Pair = "" // it names things of the other engine
	if len(s.Accept) > 0 {
		s.Accept = nil
		c.note(&c.out.Taken, i, "What was accepted here was accepted for "+c.from.Sheet.Code+", and is open again")
	}
	return ""
}

// whens takes over for which engines a step and its values are.
func (c *copying) whens(i int, s *step.Step) string {
	w := s.When
	for _, list := range []*[]string{&w.With, &w.Without} {
		var kept []string
		for _, o := range *list {
			if to := c.m.to("options", o); to != "" {
				kept = append(kept, to)
			} else if list == &w.With {
				return fmt.Sprintf("It is for engines with %s, and %s does not have that.", o, c.to.Sheet.Code)
			}
		}
		*list = kept
	}
	s.When = w
	if w.Years != (engine.Years{}) || w.Builds != (engine.Builds{}) {
		c.ask(i, "The step is for some engines of %s only: %s. For which of %s is it?", c.from.Sheet.Code, w.Said(), c.to.Sheet.Code)
	}
	return ""
}

// leave takes steps out, with what is done when they fail, and says so.
func (c *copying) leave(gone map[step.ID]string) {
	p := c.out.Procedure
	p.Steps = slices.Clone(p.Steps)
	out := map[step.ID]string{}
	for i := range p.Steps {
		id := p.Steps[i].ID
		if why, ok := gone[id]; ok && out[id] == "" {
			out[id] = why
		}
		if out[id] == "" {
			continue
		}
		for _, k := range p.Branch(i) {
			out[p.Steps[k].ID] = fmt.Sprintf("It is for when step %d fails, which is left out.", i+1)
		}
	}
	for i := range c.was.Steps {
		if why := out[c.was.Steps[i].ID]; why != "" {
			c.out.Left = append(c.out.Left, Note{Step: c.was.Steps[i].ID, Number: i + 1, Says: en.Full(c.from, &c.was.Steps[i]), Why: why})
		}
	}
	p.Steps = slices.DeleteFunc(p.Steps, func(s step.Step) bool { return out[s.ID] != "" })
	drop := func(n Note) bool { return n.Step != "" && out[n.Step] != "" }
	c.out.Asks, c.out.Taken = slices.DeleteFunc(c.out.Asks, drop), slices.DeleteFunc(c.out.Taken, drop)
	for i := range p.Steps {
		a := p.Steps[i].Again
		if a != nil && a.From != "" && p.At(a.From) < 0 {
			p.Steps[i].Again = &step.Again{Times: a.Times}
			c.ask(c.was.At(p.Steps[i].ID), "When it failed, one went on from a step that is left out. From which step does one go on now?")
		}
		if a != nil && len(p.Branch(i)) == 0 {
			p.Steps[i].Again = nil // nothing is done any more when it fails
		}
	}
}

// words asks about a text that speaks of the first engine: by its code, by a figure,
// or by a name or number that is another one on the second.
func (c *copying) words(i int, what, said string) {
	if said == "" {
		return
	}
	var of []string
	has := func(name string) bool { return mentions(said, name) }
	for _, name := range []string{c.from.Sheet.Code, c.from.Sheet.Family} {
		if name != "" && has(name) {
			of = append(of, name)
		}
	}
	if c.from.Sheet.Running != c.to.Sheet.Running {
		for _, w := range step.WordsOf(said) {
			if strings.HasSuffix(w, "clockwise") {
				of = append(of, w)
			}
		}
	}
	for _, m := range unit.Find(said) {
		of = append(of, strings.TrimSpace(said[m.Start:m.End]))
	}
	for _, list := range lists[1:] {
		for _, id := range idsOf(c.from, list) {
			to, name := c.m.to(list, id), nameOn(c.from, list, id)
			if list == "tools" {
				name = c.from.Tool(engine.ToolID(id)).Number
			}
			same := to != "" && plain(nameOn(c.to, list, to)) == plain(nameOn(c.from, list, id))
			same = same || slices.ContainsFunc(idsOf(c.to, list), func(o string) bool { return nameOn(c.to, list, o) == nameOn(c.from, list, id) })
			if !same && has(name) && !slices.Contains(of, name) {
				of = append(of, name)
			}
		}
	}
	if len(of) > 0 {
		c.ask(i, "The %s speaks of %s: “%s” Is that so on %s?", what, join(of), ended(said), c.to.Sheet.Code)
	}
}

// mentions reports whether a text has a name in it as whole words.
func mentions(text, name string) bool {
	if name == "" {
		return false
	}
	field := func(s string) string { return " " + strings.Join(step.WordsOf(s), " ") + " " }
	in, of := field(text), field(name)
	return strings.Contains(in, of) || strings.Contains(in, strings.TrimSuffix(of, " ")+"s ")
}

// ended is a text with its full stop.
func ended(s string) string {
	if strings.HasSuffix(s, ".") || strings.HasSuffix(s, "!") || strings.HasSuffix(s, "?") {
		return s
	}
	return s + "."
}

func join(names []string) string {
	if n := len(names); n > 1 {
		return strings.Join(names[:n-1], ", ") + " and " + names[n-1]
	}
	return strings.Join(names, "")
}
