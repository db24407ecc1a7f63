package quickline

import (
	"regexp"
	"slices"
	"strconv"
	"strings"

	"inklatch/internal/core/engine"
	"inklatch/internal/core/message"
	"inklatch/internal/core/page/lang/en"
	"inklatch/internal/core/page/step"
)

// Words that make a step one for when the step above it fails. But for the bare
// "if not", a comma or a colon ends them: "if it does not turn …" is no such
// lead. Common practice, no source.
var (
	ifNotLead = regexp.MustCompile(`(?i)^(?:if not\s*[,:]?|otherwise\s*[,:]|failing that\s*[,:]|if (?:it|they|this|these|one|any|either)(?: (?:of (?:them|these)))? (?:does not|doesn['’]t|do not|don['’]t|will not|won['’]t|cannot|can['’]t|is not|isn['’]t|are not|aren['’]t)(?: (?:go in|go in by hand|fit|engage|enter|drop in|seat|slide in|stand|line up|align|go home|stand so|so))?\s*[,:])\s+`)
	thenLead  = regexp.MustCompile(`(?i)^(?:then|please)\s+`)
	again     = regexp.MustCompile(`(?i)(?:\s*[,;]\s*|\s+)(?:and|then|and then)\s+(?:(?:try|check|look|measure)(?: (?:it|them|this))? again|repeat(?: (?:it|the check|this step|the step))?)(?:\s*,?\s*(once|twice|(?:at most |up to |no more than )(?:once|twice|\d times|\d×)|\d times|\d×)(?: at most)?)?$`)
	whenLead  = regexp.MustCompile(`(?i)^(?:only )?(?:for |on )?(?:engines? )?(?:of )?([^:]{3,80}?)(?: only)?\s*:\s+`)
)

// lead is what stands before a step on its line.
type lead struct {
	ifNot bool
	times int
	when  engine.When
}

// leadOf parts a line into what stands before its step and the step; false for a
// line without such words. at is where the step begins.
func (lex *Lexicon) leadOf(line string) (l lead, at, end int, ok bool) {
	end = len(line)
	if m := whenLead.FindStringSubmatchIndex(line); m != nil {
		said, not := strings.CutSuffix(strings.ToLower(line[m[2]:m[3]]), ", if not")
		if w, good := engine.ReadWhen(said, lex.x.Sheet.Options); good {
			l.when, l.ifNot, at, ok = w, not, m[1], true
		}
	}
	if m := ifNotLead.FindStringIndex(line[at:]); m != nil && !l.ifNot {
		l.ifNot, ok = true, true
		at += m[1]
	}
	if l.ifNot {
		if t := thenLead.FindStringIndex(line[at:]); t != nil {
			at += t[1]
		}
		if m := again.FindStringSubmatchIndex(line[at:]); m != nil {
			l.times, end = 1, at+m[0]
			if m[2] >= 0 {
				l.times = timesIn(line[at+m[2] : at+m[3]])
			}
		}
	}
	return l, at, end, ok && at < end
}

func timesIn(words string) int {
	for w := range strings.FieldsSeq(strings.ToLower(words)) {
		switch n, err := strconv.Atoi(strings.TrimRight(w, "×")); {
		case w == "twice":
			return 2
		case err == nil:
			return min(max(n, 1), step.MostTimes)
		}
	}
	return 1
}

// led reads a line whose step stands behind other words.
func (lex *Lexicon) led(line string) (Reading, bool) {
	l, at, end, ok := lex.leadOf(line)
	if !ok {
		return Reading{}, false
	}
	r := Read(lex, line[at:end])
	if r.Aside != "" {
		return Reading{}, false
	}
	r.When = l.when
	if l.ifNot {
		r.IfNot, r.Times = true, l.times
	}
	if r.Read() {
		r.Line = line
		if d, ok := r.Action.(*step.Do); ok {
			d.Text = message.Capital(d.Text)
		}
		return r, true
	}
	// What the step lacks is shown in the whole line, which stays as it was typed.
	shift := at + strings.Index(line[at:], r.Line)
	for i := range r.Unread {
		r.Unread[i][0] += shift
		r.Unread[i][1] += shift
	}
	for i := range r.Choices {
		r.Choices[i] = line[:at] + r.Choices[i] + line[end:]
	}
	if l.ifNot {
		r.Parts = slices.Clone(r.Parts)
		for i := range r.Parts {
			r.Parts[i] = line[:at] + r.Parts[i]
			if i == len(r.Parts)-1 {
				r.Parts[i] += line[end:]
			}
		}
	} else {
		for i := range r.Parts {
			r.Parts[i] = line[:at] + r.Parts[i]
		}
	}
	return Reading{Action: &step.Do{Text: line, Unread: true}, Line: line, Problem: r.Problem, Unread: r.Unread, Choices: r.Choices, Parts: r.Parts}, true
}

// Sentence is what became of a line, in full words.
func (r *Reading) Sentence(x *engine.Index) string {
	s := r.Step("line", "")
	text := en.Full(x, &s)
	if r.Note != "" {
		text += " Note: " + r.Note
	}
	if r.Times > 0 {
		text = strings.TrimSuffix(text, ".") + "; then try again, " + en.Often(r.Times) + "."
	}
	return text
}
