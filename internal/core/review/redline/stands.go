package redline

import (
	"inklatch/internal/core/engine"
	"inklatch/internal/core/page/step"
)

// heads are the parts of a header, in the order they stand on a page.
var heads = []string{
	"title", "purpose", "what it is to do", "engine code", "applicability", "how it begins", "how it ends", "the pages beside it",
	"conditions", "people", "time", "tools", "supplies",
}

// Heading is what stands above the steps of a page, part by part in words.
func Heading(s State) []Said {
	out := []Said{}
	for _, what := range heads {
		if text := headed(s, what); text != "" {
			out = append(out, Said{what, text})
		}
	}
	return out
}

// stand fills in what stands at a step beside its sentence, and which words of it are
// free.
func (r *Row) stand(x *engine.Index, s *step.Step) {
	r.Free = s.Free()
	for _, c := range s.Cautions {
		r.Cautions = append(r.Cautions, c.Text)
	}
	add := func(what, text string) {
		if text != "" {
			r.Beside = append(r.Beside, Said{what, text})
		}
	}
	if t, ok := s.Action.(*step.Tighten); ok {
		add("by case", step.ByText(t.By))
	}
	add("special tools", tools(x, s.Tools))
	add("note", s.Note)
	for _, a := range s.Accept {
		add("accepted", a.Rule+": "+a.Reason)
	}
}
