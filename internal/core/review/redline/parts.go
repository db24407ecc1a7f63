package redline

import (
	"encoding/json"
	"fmt"
	"reflect"
	"slices"
	"strconv"
	"strings"

	"inklatch/internal/core/engine"
	"inklatch/internal/core/page/lang/en"
	"inklatch/internal/core/page/procedure"
	"inklatch/internal/core/page/step"
	"inklatch/internal/core/review/latch"
)

// places say where a step stood and stands: what it is done after, with the phase
// where that is another.
func places(before State, was int, after State, now int) (string, string) {
	a, b := place(before, was), place(after, now)
	if p, q := before.Procedure.Steps[was].Phase, after.Procedure.Steps[now].Phase; p != q {
		return phaseName(p) + ", " + a, phaseName(q) + ", " + b
	}
	return a, b
}

func place(s State, at int) string {
	if at == 0 {
		return "first of all"
	}
	return "after “" + strings.TrimSuffix(en.Full(s.Index, &s.Procedure.Steps[at-1]), ".") + "”"
}

// phaseName is what a phase is called on a page.
func phaseName(p step.Phase) string {
	for _, q := range step.Phases {
		if q.Phase == p {
			return q.Name
		}
	}
	return string(p)
}

// partOf says one change of a step in words.
func partOf(c latch.Change, b, a *step.Step, before, after string) Part {
	p := of(c.What, c.Weight, "", "")
	switch c.What {
	case "what it does":
		p.Before, p.After = before, after
	case "wording":
		p.Before, p.After = b.Wording, a.Wording
	case "note":
		p.Before, p.After = b.Note, a.Note
	case "caution":
		p.Before, p.After = cautions(b), cautions(a)
	default:
		p.Before, p.After = words(field(b, c.What)), words(field(a, c.What))
	}
	return p
}

func cautions(s *step.Step) string {
	out := ""
	for i, c := range s.Cautions {
		if i > 0 {
			out += " "
		}
		out += c.Text
	}
	return out
}

// field is the value of a step that a change is about.
func field(s *step.Step, what string) any {
	switch what {
	case "what is accepted":
		return s.Accept
	case "which engines it is for":
		return s.When.Said()
	case "when it is done":
		return map[bool]string{true: "only when the step above fails", false: "always"}[s.IfNot]
	case "where to go on":
		return s.Again
	case "picture":
		return string(s.Picture)
	case "pair of pictures":
		return s.Pair
	}
	return nil
}

// headed is the value of a header that a change is about, in words.
func headed(st State, what string) string {
	h := &st.Procedure.Header
	switch what {
	case "engine code":
		return h.Engine
	case "applicability":
		return applies(&h.Applies)
	case "tools":
		return tools(st.Index, h.Prelims.Tools)
	case "conditions":
		return words(h.Prelims.Conditions)
	case "how it begins":
		return h.Begins.Says(st.Index.NameOf)
	case "how it ends":
		return h.Ends.Says(st.Index.NameOf)
	case "the pages beside it":
		return beside(h.After, h.Before)
	case "supplies":
		return words(h.Prelims.Supplies)
	case "title":
		return h.Title
	case "purpose":
		return h.Purpose
	case "what it is to do":
		return task(st.Index, &h.Task)
	case "people":
		return h.Prelims.People
	case "time":
		if h.Prelims.Time.IsZero() {
			return ""
		}
		return h.Prelims.Time.String()
	}
	return ""
}

// applies says for which years a page is; nothing for all of the sheet's.
func applies(a *procedure.Applies) string {
	out := ""
	switch y := a.Years; {
	case y.From != 0 && y.To == y.From:
		out = strconv.Itoa(y.From)
	case y.From != 0 && y.To != 0:
		out = fmt.Sprintf("%d–%d", y.From, y.To)
	case y.From != 0:
		out = fmt.Sprintf("from %d", y.From)
	case y.To != 0:
		out = fmt.Sprintf("until %d", y.To)
	}
	return joined(", ", out, a.Note)
}

// beside names the pages before and after one.
func beside(after, before string) string {
	if after != "" {
		after = "goes on from “" + after + "”"
	}
	if before != "" {
		before = "“" + before + "” goes on from it"
	}
	return joined("; ", after, before)
}

// task says what a page is for.
func task(x *engine.Index, t *procedure.Task) string {
	var renews, sets, homes []string
	for _, id := range t.Renews {
		renews = append(renews, named(id, x.NameOf("parts", string(id)), x.NameOf("loops", string(id))))
	}
	for _, id := range t.Sets {
		sets = append(sets, named(id, x.NameOf("tensioners", string(id))))
	}
	for _, id := range t.Homes {
		homes = append(homes, named(id, x.NameOf("wheels", string(id))))
	}
	say := func(verb string, names []string) string {
		if len(names) == 0 {
			return ""
		}
		return verb + " " + strings.Join(names, ", ")
	}
	only := ""
	if t.Checks {
		only = "only looks at the timing"
	}
	return joined("; ", say("renews", renews), say("sets", sets), say("brings home", homes), only)
}

// named is the first of some names, or the id where there is none.
func named[T ~string](id T, names ...string) string {
	for _, n := range names {
		if n != "" {
			return n
		}
	}
	return string(id)
}

// joined joins what is not empty.
func joined(by string, parts ...string) string {
	return strings.Join(slices.DeleteFunc(parts, func(p string) bool { return p == "" }), by)
}

// tools are special tools by their numbers.
func tools(x *engine.Index, ids []engine.ToolID) string {
	var out []string
	for _, id := range ids {
		if t := x.Tool(id); t != nil {
			out = append(out, t.Number)
		} else {
			out = append(out, string(id))
		}
	}
	return strings.Join(out, ", ")
}

// words writes a value as people can read it: text as it is, a list with commas,
// anything else as its JSON.
func words(v any) string {
	if v == nil || reflect.ValueOf(v).IsZero() {
		return ""
	}
	if s, ok := v.(string); ok {
		return s
	}
	if rv := reflect.ValueOf(v); rv.Kind() == reflect.Slice && rv.Type().Elem().Kind() == reflect.String {
		out := ""
		for i := range rv.Len() {
			if i > 0 {
				out += ", "
			}
			out += rv.Index(i).String()
		}
		return out
	}
	b, err := json.Marshal(v)
	if err != nil {
		return ""
	}
	return string(b)
}
