package pageproof

import (
	"fmt"
	"regexp"
	"slices"
	"strings"

	"inklatch/internal/core/engine"
	"inklatch/internal/core/message"
	"inklatch/internal/core/page/lang"
	"inklatch/internal/core/page/lang/en"
	"inklatch/internal/core/page/procedure"
	"inklatch/internal/core/page/quickline"
	"inklatch/internal/core/page/step"
	"inklatch/internal/core/proof/finding"
	"inklatch/internal/core/unit"
)

var wordRules = finding.Family[*proving]{
	{ID: "wording-drifted", Family: "wording", Severity: finding.Blocks, Reads: finding.Written, Check: wordingDrifted,
		Doc: "a sentence of the author’s own that no longer says what the step does"},
	{ID: "words-differ", Family: "wording", Severity: finding.ShouldFix, Reads: finding.Words, Check: wordsDiffer,
		Doc: "a figure, a tool or a work in a note, a caution or free text that the sheet does not have"},
	{ID: "step-by-number", Family: "wording", Severity: finding.Look, Reads: finding.Words, Check: stepByNumber,
		Doc: "a step named by its number in free text, where the number does not follow"},
	{ID: "reads-as-step", Family: "wording", Severity: finding.Look, Reads: finding.Words, Check: readsAsStep,
		Doc: "work hidden in free text, of which the virtual engine knows nothing"},
	{ID: "not-understood", Family: "wording", Severity: finding.Look, Reads: finding.Words, Check: notUnderstood,
		Doc: "a line the virtual engine cannot follow"},
	{ID: "too-long", Family: "wording", Severity: finding.Look, Reads: finding.Words, Check: tooLong,
		Doc: "an instruction too long to keep in mind with both hands full"},
	{ID: "left-right", Family: "wording", Severity: finding.Look, Reads: finding.Words, Check: leftRight,
		Doc: "left and right mixed: from the driver’s seat, or looking at the engine"},
	{ID: "empty", Family: "wording", Severity: finding.Blocks, Reads: finding.Words, Check: empty,
		Doc: "a step or a procedure with nothing in it"},
}

// wordingDrifted compares an override with the generated sentence: every thing
// and every value of the step must be named, and no other value.
func wordingDrifted(c *proving) {
	for i := range c.Page.Steps {
		s := &c.Page.Steps[i]
		if s.Wording == "" {
			continue
		}
		missing := drift(c.Index, s)
		if missing == "" {
			continue
		}
		n := *s
		n.Wording = ""
		c.find(message.F("The wording of step %d %s", c.no(i), missing), message.F("The step does: “%s”", en.Sentence(c.Index, s.Action)), []int{i}, c.put(message.F("Use the generated sentence"), n))
	}
}

func drift(x *engine.Index, s *step.Step) string {
	own := strings.ToLower(s.Wording)
	row := en.Row(x, s.Action)
	for _, sp := range row.Spans {
		if sp.Kind != lang.ObjectSpan {
			continue
		}
		name := strings.ToLower(strings.Trim(sp.Text, " ,"))
		if !strings.Contains(own, strings.TrimSuffix(name, "s")) {
			return fmt.Sprintf("does not name the %s", name)
		}
	}
	var wanted []unit.Quantity
	for _, m := range unit.Find(en.Sentence(x, s.Action)) {
		wanted = append(wanted, m.Quantity)
	}
	written := unit.Find(s.Wording)
	for _, m := range unit.Find(row.Value) {
		if !anyMatches(m.Quantity, quantities(written)) {
			return fmt.Sprintf("does not give %s", m.Quantity)
		}
	}
	for _, m := range written {
		if !anyMatches(m.Quantity, wanted) {
			return fmt.Sprintf("gives %s, which the step does not", m.Quantity)
		}
	}
	return turnedRound(x, s.Action.Verb(), own, strings.ToLower(en.Sentence(x, s.Action)))
}

// wayWords are the names of the two ways round.
var wayWords = regexp.MustCompile(`\b(counter-?clockwise|anti-?clockwise|clockwise)\b`)

// noWords turn a sentence round.
var noWords = regexp.MustCompile(`\b(not|never|don’t|don't|without|unless|except|no longer)\b`)

func waysIn(s string) (clockwise, counter bool) {
	for _, w := range wayWords.FindAllString(s, -1) {
		if w == "clockwise" {
			clockwise = true
		} else {
			counter = true
		}
	}
	return clockwise, counter
}

// turnedRound says in which way a wording turns its step round: another way,
// a “not”, another verb; empty where it does not.
func turnedRound(x *engine.Index, verb step.Verb, own, sentence string) string {
	c1, a1 := waysIn(own)
	c2, a2 := waysIn(sentence)
	switch {
	case (c2 || a2) && !(c1 || a1):
		return "does not say which way"
	case c1 != c2 || a1 != a2:
		return "says the other way round"
	}
	if w := noWords.FindString(own); w != "" && !noWords.MatchString(sentence) {
		return fmt.Sprintf("says “%s”, which the step does not", w)
	}
	if w := leadsAway(x, own); w != "" && leadsAway(x, sentence) == "" {
		return fmt.Sprintf("says “%s”, which the step does not", w)
	}
	if more := beside(verb, own, sentence); more != "" {
		return fmt.Sprintf("says to %s too, which the step does not", more)
	}
	has := func(v step.Verb) bool {
		spec := step.SpecOf(v)
		return spec != nil && slices.ContainsFunc(spec.Phrases, func(ph string) bool { return strings.Contains(" "+own, " "+ph) })
	}
	if has(verb) || strings.Contains(" "+own, " "+firstWord(sentence)) {
		return ""
	}
	for _, side := range [][]step.Verb{putsOn, takesOff} {
		if slices.Contains(side, verb) {
			continue
		}
		for _, v := range side {
			if has(v) && (slices.Contains(putsOn, verb) || slices.Contains(takesOff, verb)) {
				return fmt.Sprintf("says to %s", step.SpecOf(v).Phrases[0])
			}
		}
	}
	return ""
}

// putsOn and takesOff are the verbs that undo each other's work.
var (
	putsOn   = []step.Verb{"fit", "refit", "lock", "tighten", "pin"}
	takesOff = []step.Verb{"remove", "unlock", "take-off", "slacken", "release"}
)

func firstWord(s string) string { w, _, _ := strings.Cut(s, " "); return w }

// readsAsStep finds free text that is a step: as text the virtual engine does
// nothing of it.
func readsAsStep(c *proving) {
	var lex *quickline.Lexicon
	for i := range c.Page.Steps {
		d, ok := c.Page.Steps[i].Action.(*step.Do)
		if !ok || d.Unread || strings.TrimSpace(d.Text) == "" {
			continue
		}
		if lex == nil {
			lex = quickline.NewLexicon(c.Index)
		}
		r := quickline.Read(lex, d.Text)
		if r.Problem != "" || r.Aside != "" || r.Action == nil || r.Action.Verb() == "do" || step.SpecOf(r.Action.Verb()).Looks() || r.Action.Verb() == "wait" {
			continue
		}
		c.find(message.F("%s is free text, and reads as a step", c.num(i)), message.F("As text the virtual engine does nothing of it: “%s”", en.Sentence(c.Index, r.Action)), []int{i}, c.change(i, message.F("Make it that step"), r.Action))
	}
}

func quantities(ms []unit.Match) []unit.Quantity {
	out := make([]unit.Quantity, len(ms))
	for i, m := range ms {
		out[i] = m.Quantity
	}
	return out
}

func anyMatches(q unit.Quantity, in []unit.Quantity) bool {
	for _, r := range in {
		if q.Kind() == r.Kind() && (unit.Quantity{Value: q.Value, Unit: q.Unit, Also: r.Value, AlsoUnit: r.Unit}).Agrees() {
			return true
		}
	}
	return false
}

// fewUnread is how many lines that were not understood are each asked about; more are asked about
// once.
const fewUnread = 3

func notUnderstood(c *proving) {
	var at []int
	for i := range c.Page.Steps {
		if d, ok := c.Page.Steps[i].Action.(*step.Do); ok && d.Unread {
			at = append(at, i)
		}
	}
	why := message.F("It does nothing on the virtual engine. Write it again, or keep it as an instruction.")
	keep := func(i int) Mend {
		return c.change(i, message.F("Keep it as free text"), &step.Do{Text: c.Page.Steps[i].Action.(*step.Do).Text})
	}
	if len(at) <= fewUnread {
		for _, i := range at {
			c.find(message.F("%s is free text: the line was not understood", c.num(i)), why, []int{i}, keep(i))
		}
		return
	}
	var all []procedure.Edit
	for _, i := range at {
		all = append(all, keep(i).Edits...)
	}
	c.find(message.F("%d lines from step %s on are free text: they were not understood", len(at), c.no(at[0])), message.F("They do nothing on the virtual engine. Write them again, or keep them as instructions."), at, finding.MendOf(message.F("Keep all of them as free text"), all))
}

func tooLong(c *proving) {
	for i := range c.Page.Steps {
		s := &c.Page.Steps[i]
		text := s.Wording
		if d, ok := s.Action.(*step.Do); ok && text == "" {
			text = d.Text
		}
		if n := len(strings.Fields(text)); n > c.house.MaxWords {
			c.find(message.F("%s has %d words", c.num(i), n), message.F("An instruction has at most %d. Split it.", c.house.MaxWords), []int{i})
		}
	}
}

var sides = regexp.MustCompile(`(?i)\b(left|right)\b(?:-hand thread)?`)

func leftRight(c *proving) {
	if c.Index.Sheet.Sides != "" {
		return
	}
	for i := range c.Page.Steps {
		s := &c.Page.Steps[i]
		text := s.Wording + " " + s.Note
		if d, ok := s.Action.(*step.Do); ok {
			text += " " + d.Text
		}
		if m := sides.FindString(text); m != "" && !strings.Contains(m, "-hand") {
			c.find(message.F("%s says “%s” and the sheet does not say from where", c.num(i), strings.ToLower(m)), message.F("Put the sentence that fixes left and right on the engine sheet."), []int{i})
		}
	}
}

func empty(c *proving) {
	if len(c.Page.Steps) == 0 {
		c.find(message.F("There are no steps yet"), message.F("Write the first one in the line at the bottom."), nil)
	}
	for i := range c.Page.Steps {
		d, ok := c.Page.Steps[i].Action.(*step.Do)
		if ok && strings.TrimSpace(d.Text) == "" && strings.TrimSpace(c.Page.Steps[i].Wording) == "" {
			c.find(message.F("%s says nothing", c.num(i)), message.F("An empty step confuses whoever reads it."), []int{i}, c.drop(i))
		}
		if !ok && !speaks(c.Index, &c.Page.Steps[i]) {
			c.find(message.F("%s does not say what it acts on", c.num(i)), message.F("Fill it in, or remove it."), []int{i}, c.drop(i))
		}
	}
}

// speaks reports whether a step names what its verb takes.
func speaks(x *engine.Index, s *step.Step) bool {
	spec := step.SpecOf(s.Action.Verb())
	if spec == nil {
		return true
	}
	if m, ok := s.Action.(*step.Measure); ok && strings.TrimSpace(m.What) == "" && m.Loop == "" && m.Reading == "" {
		return false
	}
	if a, ok := s.Action.(*step.Apply); ok && a.Part == "" && a.Fastener == "" {
		return false
	}
	if spec.Takes == nil {
		return spec.Bare || !step.SameAction(s.Action, spec.New())
	}
	if len(step.Worked(s.Action)) == 0 && len(step.Refs(s.Action)) > 0 {
		return false // it names only what is beside it: what holds, what the wrench goes on
	}
	for _, sp := range en.Row(x, s.Action).Spans {
		if sp.Kind == lang.ObjectSpan && !strings.HasSuffix(sp.Ref, ":") {
			return true
		}
	}
	return false
}
