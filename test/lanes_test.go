package test

import (
	"strings"
	"testing"

	"github.com/go-rod/rod/lib/input"
	"github.com/go-rod/rod/lib/proto"
	"github.com/stretchr/testify/assert"
)

// lanesOf holds every lane that is drawn against the rows it is drawn beside: it begins
// in the row of the step it begins with and ends in that of the step it ends with, as the
// trace has it. A lane that ends with a single step is drawn a little round it.
const lanesOf = `(rows) => {
	const list = document.querySelector("ol[aria-label=Changes], ol[aria-label=Steps]");
	const svg = document.querySelector("svg[aria-label^='Latch chart']");
	if (!list || !svg) return "nothing is drawn";
	const top = svg.getBoundingClientRect().top;
	const at = new Map();
	for (const li of list.children) {
		const box = li.getBoundingClientRect();
		const steps = li.dataset.index !== undefined ? [Number(li.dataset.index)] : (li.dataset.now ?? "").split(" ").filter(Boolean).map(Number);
		for (const n of steps) at.set(n, [box.top - top, box.bottom - top]);
	}
	const last = Math.max(...at.keys());
	let held = 0;
	for (const bar of svg.querySelectorAll("[data-span]")) {
		const [from, to] = bar.dataset.span.split(" ").map(Number);
		const [a, b] = bar.dataset.drawn.split(" ").map((v) => v === "" ? undefined : Number(v));
		const one = from === to ? 10 : 1;
		const holds = (y, step) => {
			const row = at.get(step);
			if (y === undefined || row === undefined) return true; // out of sight
			held++;
			return y >= row[0] - one && y <= row[1] + one;
		};
		if (from >= 0 && !holds(a, from)) return "a lane begins at " + a + ", step " + (from + 1) + " stands at " + at.get(from);
		if (to <= last && !holds(b, to)) return "a lane ends at " + b + ", step " + (to + 1) + " stands at " + at.get(to);
	}
	return held > 0 || !svg.querySelector("[data-span]") ? "" : "nothing was held";
}`

// Beside every page, folded and unfolded, at the top, the middle and the end and at every
// width, each lane of the chart stands with the steps it is of.
func TestLanesStandWithTheirSteps(t *testing.T) {
	a := open(t)
	w := a.window("rosalind")
	ids := w.eval(`async () => (await (await fetch("/api/procedures?limit=100")).json()).rows.map((r) => r.revision).join(" ")`)
	revisions := strings.Fields(ids)
	assert.GreaterOrEqual(t, len(revisions), 10)
	hold := func(what, id string, wide int) {
		t.Helper()
		for _, part := range []string{"0", "0.5", "1"} {
			w.eval(`() => { const s = document.querySelector("[data-steps], .scroller"); s.scrollTo(0, s.scrollHeight * ` + part + `); return "" }`)
			w.until(`async () => { await new Promise((r) => requestAnimationFrame(() => requestAnimationFrame(r))); return true }`)
			assert.Empty(t, w.eval(`() => (`+lanesOf+`)()`), "%s of revision %s, %s down, %d wide", what, id, part, wide)
		}
	}
	for _, wide := range []int{1280, 1024, 820} {
		if err := w.p.SetViewport(&proto.EmulationSetDeviceMetricsOverride{Width: wide, Height: 800, DeviceScaleFactor: 1}); err != nil {
			t.Fatal(err)
		}
		for _, id := range revisions {
			w.go_("/revisions/" + id + "/review")
			w.until(`() => document.querySelector("svg[aria-label^='Latch chart']")`)
			hold("the review", id, wide)
			w.keys(input.KeyF)
			hold("the unfolded review", id, wide)
			if wide == 1280 {
				w.go_("/revisions/" + id)
				w.until(`() => document.querySelector("svg[aria-label^='Latch chart']")`)
				hold("the page", id, wide)
			}
		}
	}
}
