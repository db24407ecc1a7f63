package step

import (
	"strings"

	"inklatch/internal/core/engine"
)

// Typed is an action as a quick line, which reads back as the same action.
func Typed(x *engine.Index, a Action) string {
	if d, ok := a.(*Do); ok {
		return d.Text
	}
	w := &Words{x: x, typed: true}
	a.Say(w)
	var b strings.Builder
	for _, s := range w.spans {
		b.WriteString(s.Text)
	}
	s := strings.TrimSpace(b.String())
	if s == "" {
		return s
	}
	return strings.ToLower(s[:1]) + s[1:]
}
