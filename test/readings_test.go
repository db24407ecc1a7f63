package test

import (
	"testing"

	"github.com/go-rod/rod/lib/input"
	"github.com/stretchr/testify/assert"
)

// What is measured is written on the sheet with what of it passes; a page that asks for
// another value is told so, and its mend puts the sheet's there. Fields that say nothing on
// an engine are not asked for.
func TestReadings(t *testing.T) {
	a := open(t)
	w := a.window("ines")
	w.change("TD4-38G")
	w.tab("Marks and locks")
	w.until(`() => document.querySelector('tr[data-ref="readings/plunger-lift"] input')?.value === "plunger lift"`)
	w.click("^Add a reading$")
	w.find(`tr[data-ref="readings/reading"]`)
	w.type_(w.cell("readings/reading", "Name"), "end play of the camshaft")
	w.type_(w.cell("readings/reading", "Passes at"), "0.08 to 0.18 mm")
	w.until(`() => document.querySelector('tr[data-ref="readings/reading"] [aria-label^="Passes at"]').value === "0.08–0.18 mm"`)
	w.atRest()

	w.emptyPage("Measure the lift", "TD4-38G")
	w.step("measure plunger lift 1.15 ±0.03 mm", 1)
	w.saved()
	w.sees("passes the plunger lift at 1.15 ±0.03 mm; the sheet says 1.05 ±0.03 mm")
	w.click("^Make it 1.05 ±0.03 mm$")
	w.until(`() => !document.body.innerText.includes("the sheet says 1.05")`)
	w.step("turn injection pump until plunger lift reads 1.05 ±0.03 mm", 2)
	w.saved()
	w.sees("until plunger lift reads so")

	w.emptyPage("Turn it", "TQ4-18P")
	w.step("turn crank 2 turns clockwise", 1)
	w.saved()
	w.keys(input.Escape)
	w.keys(input.Enter)
	w.sees("until it goes in")
	assert.NotContains(t, w.eval(`() => document.body.innerText`), "until the reading", "the sheet has none")
}
