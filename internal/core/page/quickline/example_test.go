package quickline_test

import (
	"fmt"

	"inklatch/internal/core/engine"
	"inklatch/internal/core/fixture"
	"inklatch/internal/core/page/lang/en"
	"inklatch/internal/core/page/quickline"
)

// A line becomes a step where every word of it was understood; where one was not, it
// stays text, and says why.
func ExampleRead() {
	x := engine.NewIndex(&fixture.Document("renew-timing-belt-r3.latch.json").Engine)
	lex := quickline.NewLexicon(x)
	for _, line := range []string{
		"turn crank 2 turns cw",
		"tighten idler bolt 42 Nm",
		"tighten idler bolt 42 Nm unless it is new",
	} {
		r := quickline.Read(lex, line)
		if r.Problem != "" {
			fmt.Printf("%s: text, for %s\n", line, r.Problem)
			continue
		}
		fmt.Printf("%s: %s\n", line, en.Sentence(x, r.Action))
	}
	// Output:
	// turn crank 2 turns cw: Turn the crank 2 turns clockwise.
	// tighten idler bolt 42 Nm: Tighten the idler bolt to 42 N·m (31 lbf·ft).
	// tighten idler bolt 42 Nm unless it is new: text, for “new” is not on this engine’s sheet and no part of “tighten …”
}
