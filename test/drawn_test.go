package test

import (
	"testing"

	"github.com/go-rod/rod/lib/input"
	"github.com/stretchr/testify/assert"
)

// What goes wrong on the engine is drawn where it happens: valves on pistons with the
// belt off, a tooth that may have jumped on a slack one, wheels behind their covers.
func TestMishapsAreDrawn(t *testing.T) {
	a := open(t)
	w := a.window("ines")
	w.emptyPage("Everything goes wrong", "TQ4-18P")
	w.step("disconnect battery lead", 1)
	w.until(`() => document.querySelectorAll("[data-covered]").length === 3`)
	w.sees("covered")
	w.step("remove upper timing cover", 2)
	w.until(`() => document.querySelectorAll("[data-covered]").length === 1`)
	w.step("pin tensioner", 3)
	w.step("turn crank 1 turn clockwise", 4)
	w.until(`() => document.querySelectorAll("[data-jumped]").length === 2`)
	w.sees("±1 tooth")
	w.step("take off timing belt", 5)
	w.step("turn crank 1 turn clockwise", 6)
	w.until(`() => document.querySelectorAll("[data-met]").length === 2`)
	w.sees("valves meet pistons")
	w.saved()
	// One step back the belt is on, and nothing has met yet.
	w.keys(input.Escape)
	w.eval(`() => { document.activeElement.blur(); document.querySelectorAll(".step-row")[4].click() }`)
	w.until(`() => !document.querySelector("[data-met]")`)
}

// A page says what it is to do; until it does, that is a finding.
func TestWhatAPageIsFor(t *testing.T) {
	a := open(t)
	w := a.window("ines")
	w.emptyPage("Look after the drive", "TQ4-18P")
	w.step("disconnect battery lead", 1)
	w.saved()
	w.keys(input.Escape)
	w.click("Title and preparation")
	w.eval(`() => [...document.querySelectorAll("fieldset button")].find((b) => b.innerText.startsWith("renew")).click()`)
	w.until(`() => document.querySelector("[cmdk-item]")`)
	w.eval(`() => [...document.querySelectorAll("[cmdk-item]")].find((i) => i.innerText.startsWith("idler roller")).click()`)
	w.keys(input.Escape)
	w.until(`() => [...document.querySelectorAll("fieldset button")].some((b) => b.innerText.includes("idler roller"))`)
	w.eval(`() => document.querySelector("[role=dialog] button[type=submit]").click()`)
	w.saved()
	w.sees("The page is to renew the idler roller, and does not")
}

// Bolts are drawn where they sit, numbered in the order of tightening, on the engine’s
// page and on the job sheet; the thread condition stands with the step.
func TestTheOrderOfBoltsIsDrawn(t *testing.T) {
	a := open(t)
	w := a.window("ines")
	w.go_("/procedures")
	w.click("Renew timing chain, guides and tensioner")
	w.until(`() => location.pathname.startsWith("/revisions/")`)
	w.go_(w.eval(`() => location.pathname`) + "/sheet")
	w.sees("Thread oiled.")
	w.until(`() => document.querySelector("[data-figure] svg")`)
	assert.Equal(t, "16", w.eval(`() => document.querySelectorAll("[data-figure] circle").length`))
	w.go_("/engines/TC4-24C")
	w.click("Fasteners")
	w.until(`() => document.querySelector("[data-ref='fasteners/cover-bolt']")`)
	w.eval(`() => document.querySelector("[data-ref='fasteners/cover-bolt'] td").click()`)
	w.until(`() => document.querySelector("[data-details] svg")`)
	assert.Equal(t, "16", w.eval(`() => document.querySelectorAll("[data-details] svg text").length`))
}

// A fluid is written on the engine's page, with every value a page can ask for, and
// what stands behind a part is shown on the drawing.
func TestFluidsAndCoversOnTheEngine(t *testing.T) {
	a := open(t)
	w := a.window("ines")
	w.go_("/engines/TQ3-10W")
	w.click("Parts")
	w.sees("engine oil")
	w.eval(`() => document.querySelector("[data-ref='parts/timing-cover'] td").click()`)
	w.until(`() => document.querySelector("[data-covered]")`)
	w.sees("Lets out")
}
