package step

import (
	"inklatch/internal/core/bench"
	"inklatch/internal/core/engine"
	"inklatch/internal/core/unit"
)

// Start starts the engine for the first time.
type Start struct {
	action
	For  unit.Quantity `json:"for,omitzero"`
	Then string        `json:"then,omitzero"`
}

var startSpec = &Spec{
	Verb: "start", Phrases: []string{"start"},
	Fields:  []Field{{Key: "for", Label: "run for", Kind: QuantityIn, Hint: "30 s"}, {Key: "then", Label: "and", Kind: TextIn, Hint: "listen; no warning lamp stays on"}},
	Example: "start engine 30 s and listen", Phase: "close",
	New: func() Action { return &Start{} },
	Read: func(l *Line) Action {
		l.Word("the engine", "engine", "it")
		a := &Start{}
		a.For, _ = l.Quantity(unit.KindTime)
		l.Word("run for", "for")
		a.Then = l.Remains("and")
		return a
	},
}

// Verb is "start".
func (*Start) Verb() Verb { return "start" }

// Act starts it.
func (a *Start) Act(m *bench.Machine) { m.Start() }

// Say: "Start the engine, run it for 30 s and listen".
func (a *Start) Say(w *Words) {
	w.verb("Start")
	w.text(map[bool]string{true: "the engine", false: "engine"}[w.full])
	w.value("and run it for", textOf(a.For))
	if a.Then != "" {
		w.text("and " + a.Then)
	}
}

func (a *Start) hazards(*engine.Index) []engine.Hazard {
	return []engine.Hazard{engine.HazardLocksOut}
}
