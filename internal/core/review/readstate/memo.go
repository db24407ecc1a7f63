package readstate

import (
	"encoding/json"
	"reflect"
	"sync"

	"inklatch/internal/core/engine"
	"inklatch/internal/core/page/step"
)

// Memo remembers what the steps of pages of one engine sheet are as text and what the sheet
// makes of them. Between two versions of a page nearly all steps are the same, and all who
// have it open ask. It is safe for use by many at once; nil remembers nothing.
type Memo struct {
	mu  sync.Mutex
	met map[step.Action]memoed
}

type memoed struct {
	step       step.Step
	text, said string
}

// mostMemoed is how many steps are remembered; with more it begins anew.
const mostMemoed = 8000

// of is a step as text, and the SHA-256 of what the sheet makes of it.
func (m *Memo) of(x *engine.Index, s *step.Step) (text, said string) {
	if m == nil || s.Action == nil || reflect.TypeOf(s.Action).Kind() != reflect.Pointer {
		return textOf(s), saidOf(x, s)
	}
	m.mu.Lock()
	got, ok := m.met[s.Action]
	m.mu.Unlock()
	// The same action is the same step but for what is written beside it, and that is
	// compared at once: what two have in common is not looked into.
	if ok && reflect.DeepEqual(got.step, *s) {
		return got.text, got.said
	}
	got = memoed{*s, textOf(s), saidOf(x, s)}
	m.mu.Lock()
	defer m.mu.Unlock()
	if m.met == nil || len(m.met) >= mostMemoed {
		m.met = map[step.Action]memoed{}
	}
	m.met[s.Action] = got
	return got.text, got.said
}

// UnmarshalJSON reads a step and keeps the text it was read from.
func (s *Step) UnmarshalJSON(b []byte) error {
	var raw struct {
		Step json.RawMessage `json:"step"`
		Said string          `json:"said"`
	}
	if err := json.Unmarshal(b, &raw); err != nil {
		return err
	}
	s.Said, s.text = raw.Said, string(raw.Step)
	return json.Unmarshal(raw.Step, &s.Step)
}
