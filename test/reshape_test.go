package test

import (
	"testing"

	"github.com/go-rod/rod/lib/input"
	"github.com/stretchr/testify/require"
)

// A drive started from a layout is mirrored, turned and given balance shafts, each with one
// button and taken back with one key; what the layout brought to be filled is asked for.
func TestReshape(t *testing.T) {
	a := open(t)
	w := a.window("ines")
	w.go_("/engines")
	require.Equal(t, "true", w.eval(`async () => String((await fetch("/api/engines", { method: "POST", headers: { "content-type": "application/json" }, body: JSON.stringify({ code: "TB4-16", archetype: "twin-cam-belt" }) })).ok)`))
	w.go_("/engines/TB4-16")
	w.sees("is a place of the layout that nobody has filled")
	// kept waits until the sheet that is kept has something.
	kept := func(what string) {
		w.Helper()
		w.until(`async () => { const s = (await (await fetch("/api/engines/TB4-16")).json()).sheet; return ` + what + ` }`)
	}
	kept(`s.wheels.find((v) => v.id === "inlet-wheel").x === -66`)
	w.click("^Mirror the drive$")
	kept(`s.wheels.find((v) => v.id === "inlet-wheel").x === 66 && s.running === "counterclockwise"`)
	w.keys(input.Escape)
	w.chord(input.ControlLeft, input.KeyZ)
	kept(`s.wheels.find((v) => v.id === "inlet-wheel").x === -66 && s.running === "clockwise"`) // one undo takes all of it back

	w.click("^Add a balancer pair$")
	kept(`s.shafts.some((v) => v.name === "second balance shaft")`)
	w.click("^See it from the other end$")
	w.sees("Name the other end first")
	w.tab("Engine")
	w.type_(`[aria-label="Other end"]`, "flywheel end")
	kept(`s.otherView === "flywheel end"`)
	w.tab("Drive")
	w.click("^See it from the other end$")
	w.sees("Seen from the flywheel end")
	kept(`s.view === "flywheel end" && s.otherView.startsWith("front")`)

	// Some engines of the code have no cover.
	w.tab("Applicability")
	w.choose(`select[aria-label="Add cases for"]`, "timing cover")
	w.until(`() => document.querySelectorAll('input[aria-label="What holds then"]').length === 2`)
	w.type_(`tr:nth-child(2) input[aria-label="What holds then"]`, "not fitted")
	kept(`s.varies[0].cases[1].unfitted === true`)
}
