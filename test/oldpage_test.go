package test

import (
	"path/filepath"
	"testing"

	"github.com/go-rod/rod/lib/input"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// A page that was written elsewhere is brought from its file: what differs from the engine sheet
// and what becomes no step is said, it can be left and gone on with, its cautions stand before
// their steps, and it is taken and undone as one.
func TestAnOldPageIsBroughtFromItsFile(t *testing.T) {
	a := open(t)
	w := a.window("ines")
	w.emptyPage("Brought", "TQ4-18P")
	file := func(name string) string {
		path, err := filepath.Abs("../internal/format/oldpage/testdata/" + name)
		require.NoError(t, err)
		return path
	}
	bring := func(name string) {
		require.NoError(t, w.p.MustElement(`input[aria-label="An old page"]`).SetFiles([]string{file(name)}))
	}
	w.sees("Bring an old page")
	bring("page.html")
	w.sees("page.html: 6 lines")
	w.sees("1 torque is not as the engine sheet has it")
	w.sees("The engine sheet says 20 ±3 N·m for the tensioner bolt.")
	w.sees("6 lines become no step")
	assert.Empty(t, w.steps(), "nothing is written yet")
	w.keys(input.Escape)
	w.sees("page.html: 6 lines wait to be taken")
	w.reload()
	w.sees("page.html: 6 lines wait to be taken")
	w.click("Go on")
	w.sees("6 read, 0 ask, 0 stay text")
	w.until(`() => document.activeElement?.getAttribute("aria-label") === "Line 1"`)
	require.NoError(t, w.p.KeyActions().Press(input.ControlLeft).Type(input.Enter).Do())
	w.until(`async () => (await (await fetch("/api" + location.pathname)).json()).view.rows.length === 5`)
	assert.Equal(t, []string{"Remove the upper timing cover.", "Turn the crank clockwise to the inlet cam mark.", "Fit the crank pin by hand (TL-101).", "Turn the crank clockwise onto the crank pin.", "Fit the cam bar by hand (TL-102)."}, w.steps())
	assert.Equal(t, "The cams are thrown by their springs.", w.eval(`async () => (await (await fetch("/api" + location.pathname)).json()).view.rows[4].step.cautions[0].text`))
	w.keys(input.Escape)
	w.chord(input.ControlLeft, input.KeyZ)
	w.until(`async () => (await (await fetch("/api" + location.pathname)).json()).view.rows.length === 0`)
	bring("../oldpage.go")
	w.sees("are not read")
}
