package pageproof

import (
	"fmt"
	"regexp"
	"slices"
	"strconv"
	"strings"
	"unicode"

	"inklatch/internal/core/engine"
	"inklatch/internal/core/message"
	"inklatch/internal/core/page/lang/en"
	"inklatch/internal/core/page/quickline"
	"inklatch/internal/core/page/step"
	"inklatch/internal/core/unit"
)

// beside is work that a sentence of the author's own tells to do beside what its step
// does; empty for none. What the generated sentence tells too, and other words
// for the same work, are not counted.
func beside(verb step.Verb, own, sentence string) string {
	said := quickline.Others(verb, sentence)
	for _, w := range quickline.Others(verb, own) {
		v := step.Phrased(w)
		if v != nil && (v.Weighs() || v.Works()) && !slices.Contains(said, w) && !strings.Contains(" "+sentence, " "+w) {
			return w
		}
	}
	return ""
}

// Words that send a reader past work of the page do so by what they are said of: a step,
// or a tool, bolt or tensioner of the sheet. "Ignore the old paint mark" and "a torque
// wrench instead of an impact gun" send nobody anywhere.
var (
	passesBy  = regexp.MustCompile(`\b(skip|omit|ignore|disregard|bypass)\b([^.;:!?]*)`)
	instead   = regexp.MustCompile(`\b(instead of|in place of)\b([^.;:!?,]*)`)
	needless  = regexp.MustCompile(`[^.;!?]*\b(no need to|not needed|not necessary|may be left|can be left)\b[^.;!?]*`)
	jumps     = regexp.MustCompile(`\b(?:jump|go|go on|continue)(?: to| with| at) step\b`)
	pageWords = regexp.MustCompile(`\b(?:steps?|pages?|sections?|procedure|instructions?)\b`)
	this      = regexp.MustCompile(`^\s+(?:this|that|it|them|(?:the )?(?:next|following|rest|remaining|turns|checks?|wait))\b`)
)

// leadsAway is the first of an author's own words that sends its reader past what the
// page says, "skip the next four steps", "instead of the cam bar"; empty for none.
func leadsAway(x *engine.Index, text string) string {
	own := strings.ToLower(text)
	if w := jumps.FindString(own); w != "" {
		return w
	}
	for _, m := range passesBy.FindAllStringSubmatch(own, -1) {
		looks := m[1] == "ignore" || m[1] == "disregard" // what is looked at, and not what is done
		if pageWords.MatchString(m[2]) || !looks && (this.MatchString(m[2]) || namesWork(x, m[2])) {
			return m[1]
		}
	}
	for _, m := range instead.FindAllStringSubmatch(own, -1) {
		if namesWork(x, m[2]) {
			return m[1]
		}
	}
	for _, m := range needless.FindAllStringSubmatch(own, -1) {
		if pageWords.MatchString(m[0]) || namesLock(x, m[0]) {
			return m[1]
		}
	}
	return ""
}

// namesWork reports whether words in small letters name a tool that locks, a fastener or
// a tensioner of the sheet.
func namesWork(x *engine.Index, words string) bool {
	fs, ts := namedIn(x, words)
	return len(fs)+len(ts) > 0 || namesLock(x, words)
}

// namesLock reports whether words in small letters name a lock, if only by what it is:
// "the pin".
func namesLock(x *engine.Index, words string) bool {
	in := strings.FieldsFunc(words, func(r rune) bool { return !unicode.IsLetter(r) })
	return slices.ContainsFunc(x.Sheet.Locks, func(l engine.Lock) bool {
		name := strings.Fields(strings.ToLower(l.Name))
		return len(name) > 0 && (slices.Contains(in, name[len(name)-1]) || slices.Contains(in, name[len(name)-1]+"s"))
	})
}

// freeTexts are the words of a step that the virtual engine knows nothing of, with
// what each is called.
func freeTexts(s *step.Step) []struct{ what, text string } {
	var out []struct{ what, text string }
	add := func(what, text string) {
		if strings.TrimSpace(text) != "" {
			out = append(out, struct{ what, text string }{what, text})
		}
	}
	add("note", s.Note)
	for _, c := range s.Cautions {
		add("caution", c.Text)
	}
	if d, ok := s.Action.(*step.Do); ok && !d.Unread {
		add("free text", d.Text)
	}
	return out
}

// wordsDiffer holds notes, cautions and free text against the sheet: a torque, an angle
// of a bolt or a tone that is none of what they speak of, a tool number the sheet does
// not have, and words that send their reader past the page.
func wordsDiffer(c *proving) {
	for i := range c.Page.Steps {
		s := &c.Page.Steps[i]
		for _, t := range freeTexts(s) {
			for _, m := range unit.Find(t.text) {
				if of, want := c.spokenOf(s, t.text, m.Quantity); want != "" {
					c.find(message.F("The %s of step %d gives %s for the %s", t.what, c.no(i), m.Quantity, of), message.F("The sheet says %s. A figure in free text is typed twice, and one of the two is wrong.", want), []int{i})
				}
			}
			if n := c.foreignTool(t.text); n != "" {
				c.find(message.F("The %s of step %d names %s, a tool the sheet does not have", t.what, c.no(i), n), message.F("Put it on the engine sheet, or name the right one."), []int{i})
			}
			if w := leadsAway(c.Index, t.text); w != "" && t.what != "caution" {
				c.find(message.F("The %s of step %d says “%s”: it sends its reader past the page", t.what, c.no(i), w), message.F("The virtual engine does every step. Say for which engines a step is, or take it off the page."), []int{i})
			}
		}
		if d, ok := s.Action.(*step.Do); ok && !d.Unread {
			for _, w := range quickline.Others("do", d.Text) {
				if v := step.Phrased(w); v != nil && v.Weighs() {
					c.find(message.F("The free text of step %d says to %s", c.no(i), w), message.F("The virtual engine does nothing of it. Write it as a step of its own."), []int{i})
					break
				}
			}
		}
	}
}

var byNumber = regexp.MustCompile(`(?i)\bsteps?\s+(\d{1,4})(?:\s*(?:to|and|or|,|–|-)\s*(\d{1,4}))?\b`)

// stepByNumber tells of steps that free text names by their numbers: those stay as they
// were typed when steps are added, moved or taken out. A way back that is a value of its
// step follows, and is not free text.
func stepByNumber(c *proving) {
	for i := range c.Page.Steps {
		s := &c.Page.Steps[i]
		texts := freeTexts(s)
		if s.Wording != "" {
			texts = append(texts, struct{ what, text string }{"wording", s.Wording})
		}
		if d, ok := s.Action.(*step.Do); ok && d.Unread {
			texts = append(texts, struct{ what, text string }{"free text", d.Text})
		}
		for _, t := range texts {
			m := byNumber.FindStringSubmatch(t.text)
			if m == nil {
				continue
			}
			var now []string
			gone := ""
			for _, digits := range m[1:] {
				n, err := strconv.Atoi(digits)
				if err != nil {
					continue // there is no second number
				}
				if at := c.stepAt(n); at >= 0 {
					now = append(now, fmt.Sprintf("step %d is “%s”", n, en.Sentence(c.Index, c.Page.Steps[at].Action)))
				} else {
					gone = digits
				}
			}
			what := message.F("The %s of step %d names a step by its number: “%s”", t.what, c.no(i), m[0])
			if gone != "" {
				c.find(what, message.F("The page has no step %s.", gone), []int{i})
				continue
			}
			c.find(what, message.F("Now %s. A number in free text does not follow when steps are added or moved.", strings.Join(now, ", ")), []int{i})
		}
	}
}

// stepAt is the index of the step that has a number on the page, −1 for none.
func (c *proving) stepAt(n int) int {
	for i := range c.Page.Steps {
		if c.place(i)+1 == n {
			return i
		}
	}
	return -1
}

// spokenOf is the thing a figure in some text is of, with what the sheet says for it;
// both empty where the figure is among that, or where nothing of the sheet is spoken of.
func (c *proving) spokenOf(s *step.Step, text string, q unit.Quantity) (string, string) {
	if q.Kind() != unit.KindTorque && q.Kind() != unit.KindFrequency {
		return "", ""
	}
	fs, ts := namedIn(c.Index, text)
	if len(fs)+len(ts) == 0 {
		fs, ts = c.ActedOn(s)
	}
	var names, says []string
	var have []unit.Quantity
	for _, f := range fs {
		got := valuesIn(f.Spec, q.Kind())
		for _, id := range c.raw.Sheet.Fasteners { // a case's value is a value of it too
			if id.ID == f.ID {
				got = append(got, valuesIn(id.Spec, q.Kind())...)
			}
		}
		if len(got) > 0 {
			names, says, have = append(names, f.Words()), append(says, engine.StagesText(f.Spec)), append(have, got...)
		}
	}
	for _, t := range ts {
		for _, v := range c.ValuesOf(t) {
			if v.Kind() == q.Kind() {
				names, says, have = append(names, t.Name), append(says, v.String()), append(have, v)
			}
		}
	}
	for _, v := range s.Torques() {
		have = append(have, valuesIn(v.Stages, q.Kind())...)
	}
	if len(names) == 0 || slices.ContainsFunc(have, func(h unit.Quantity) bool { return near(q, h) }) {
		return "", ""
	}
	return names[0], says[0]
}

// near reports whether a figure lies within a value of the sheet, its tolerance along.
func near(q, of unit.Quantity) bool {
	if amount(q, of) || anyMatches(q, []unit.Quantity{of}) {
		return true
	}
	lo, hi := of.Bounds()
	v, err := unit.Convert(q.Nominal(), q.Unit, of.Unit)
	return err == nil && v >= lo-1e-9 && v <= hi+1e-9
}

func valuesIn(stages []engine.Stage, k unit.Kind) []unit.Quantity {
	var out []unit.Quantity
	for _, s := range stages {
		for _, q := range []unit.Quantity{s.Torque, s.Angle} {
			if !q.IsZero() && q.Kind() == k {
				out = append(out, q)
			}
		}
	}
	return out
}

// namedIn are the fasteners and tensioners that some text names by their names.
func namedIn(x *engine.Index, text string) ([]*engine.Fastener, []*engine.Tensioner) {
	own := strings.ToLower(text)
	var fs []*engine.Fastener
	for k := range x.Sheet.Fasteners {
		if f := &x.Sheet.Fasteners[k]; f.Name != "" && strings.Contains(own, strings.ToLower(strings.TrimSuffix(f.Name, "s"))) {
			fs = append(fs, f)
		}
	}
	var ts []*engine.Tensioner
	for k := range x.Sheet.Tensioners {
		if t := &x.Sheet.Tensioners[k]; t.Name != "" && strings.Contains(own, strings.ToLower(t.Name)) {
			ts = append(ts, t)
		}
	}
	return fs, ts
}

// toolShape is the number of a tool: letters, a hyphen, figures.
var toolShape = regexp.MustCompile(`\b([A-Z]{1,5})-\d{2,6}[A-Z]?\b`)

// foreignTool is a number in some text of the shape the sheet's tools have, which none
// of them has; empty for none.
func (c *proving) foreignTool(text string) string {
	for _, m := range toolShape.FindAllStringSubmatch(text, -1) {
		alike, has := false, false
		for k := range c.Index.Sheet.Tools {
			n := c.Index.Sheet.Tools[k].Number
			alike = alike || strings.HasPrefix(n, m[1]+"-")
			has = has || strings.EqualFold(n, m[0]) || slices.Contains(strings.Fields(fmt.Sprint(c.Index.Sheet.Tools[k].Equivalents)), m[0])
		}
		if alike && !has {
			return m[0]
		}
	}
	return ""
}
