package test

import (
	"testing"

	"github.com/go-rod/rod/lib/input"
	"github.com/stretchr/testify/assert"
)

// The drill shows what gets through first; one that a page needs to catch is walked to with the
// arrows, its mend put in with M, and it is caught; Undo in Write takes the look out again.
func TestTheMistakeDrill(t *testing.T) {
	a := open(t)
	w := a.window("ines")
	w.go_("/revisions/4/drill")
	w.sees("mistakes come to no harm")
	w.sees("2 get through that a page needs to catch")
	w.until(`() => document.querySelector('[role=option][aria-selected="true"]')?.innerText.includes("The cam bar is not fitted")`)
	w.keys(input.ArrowDown)
	w.until(`() => document.querySelector('[role=option][aria-selected="true"]')?.innerText.includes("The flywheel lock is left in")`)
	w.sees("the engine is turned against the flywheel lock")
	w.keys(input.ArrowUp)
	w.sees("Look whether it is in, after step 11")
	w.keys('m')
	w.sees("1 gets through that a page needs to catch")
	w.until(`() => ![...document.querySelectorAll('[role=option]')].some((r) => r.innerText.includes("The cam bar is not fitted"))`)

	w.sees("One look that is added catches it.")

	w.click("^Caught")
	w.until(`() => document.querySelector('.drill-cell[data-first="true"]')`)
	w.click("^All")
	w.until(`() => [...document.querySelectorAll('[role=option]')].some((r) => r.innerText.includes("other stroke"))`)
	w.eval(`() => [...document.querySelectorAll("[role=option]")].find((r) => r.innerText.includes("other stroke")).click()`)
	w.sees("the cam bar does not go in: it is the other stroke")

	w.click("^Write$")
	w.sees("Disconnect the battery lead")
	looks := `async () => (JSON.stringify(await (await fetch("/api/revisions/4")).json()).match(/"found":"in place"/g) ?? []).length`
	w.until(`async () => await (` + looks + `)() === 1`)
	w.chord(input.ControlLeft, input.KeyZ)
	w.until(`async () => await (` + looks + `)() === 0`)

	// A reader reads what comes of it, and changes nothing.
	p := a.window("pavel")
	p.go_("/revisions/3/drill")
	p.sees("All that a page needs to catch is caught: locked on the other stroke; ")
	p.until(`() => document.querySelector('figure[aria-label="The mistake on the drawing"] svg')`)
	assert.Equal(t, "0", p.eval(`() => String([...document.querySelectorAll("button")].filter((b) => b.innerText.includes("Accept with")).length)`))
	assert.Equal(t, "0", p.eval(`() => String([...document.querySelectorAll("button")].filter((b) => b.innerText.includes("Put that in")).length)`))
}

// A mistake is played on the drawing, step by step, and kept with a reason: then it is open no
// more, and the title block counts it while the page is written.
func TestAMistakeIsPlayedAndKept(t *testing.T) {
	a := open(t)
	w := a.window("ines")
	w.go_("/revisions/4")
	w.sees("Mistakes caught")
	w.until(`() => /^\d+ of \d+$/.test([...document.querySelectorAll(".head-cell")].find((c) => c.innerText.includes("Mistakes caught"))?.querySelector("a")?.innerText ?? "")`)
	w.go_("/revisions/4/drill")
	w.sees("2 get through that a page needs to catch")
	w.keys(input.ArrowDown)
	w.until(`() => document.querySelector('[role=option][aria-selected="true"]')?.innerText.includes("The flywheel lock is left in")`)
	w.until(`() => document.querySelector('figure[aria-label="The mistake on the drawing"] svg')`)
	shown := `() => document.querySelector('input[aria-label="Step of the film"]').getAttribute("aria-valuetext")`
	w.focus(`input[aria-label="Step of the film"]`)
	w.keys(input.End)
	w.sees("The engine is turned against the flywheel lock")
	last := w.eval(shown)
	w.keys(input.ArrowLeft) // on the slider
	w.until(`() => document.querySelector('input[aria-label="Step of the film"]').getAttribute("aria-valuetext") !== ` + "`" + last + "`")

	w.click("^Accept with a reason")
	w.focus("#drill-reason")
	w.text("The starter cover does not go on over it.")
	w.click("^Accept$")
	w.sees("1 gets through that a page needs to catch")
	w.click("^Accepted")
	w.sees("The starter cover does not go on over it.")
	w.click("Accept it no more")
	w.sees("2 get through that a page needs to catch")
}

// The look that tells a mistake is shown as it should be and as it is then; its author has both
// printed beside the step, and takes them off again. A reader sees them, and changes nothing.
func TestAPairIsPrintedBesideItsStep(t *testing.T) {
	a := open(t)
	w := a.window("ines")
	tells := func() {
		w.go_("/revisions/4/drill")
		w.sees("mistakes come to no harm")
		w.click("^All")
		w.until(`() => [...document.querySelectorAll('[role=option]')].some((r) => r.innerText.includes("one turn to"))`)
		w.eval(`() => [...document.querySelectorAll("[role=option]")].find((r) => r.innerText.includes("one turn to")).click()`)
		w.sees("What tells it, at step 11")
	}
	tells()
	w.until(`() => document.querySelectorAll(".drill-pair svg").length === 2`)
	w.eval(`() => [...document.querySelectorAll("label")].find((l) => l.innerText.includes("Print both beside step 11")).click()`)
	w.sees("Both are printed beside step 11")
	w.go_("/revisions/4/sheet")
	w.until(`() => document.querySelectorAll("[data-pair] figure svg").length === 2`)
	w.sees("So it looks right")
	w.sees("The cam bar does not go in: it is the other stroke.")
	tells()
	w.until(`() => [...document.querySelectorAll("label")].find((l) => l.innerText.includes("Print both"))?.querySelector("input").checked`)
	w.eval(`() => [...document.querySelectorAll("label")].find((l) => l.innerText.includes("Print both")).click()`)
	w.sees("They are printed no more")
	w.go_("/revisions/4/sheet")
	w.sees("Fit the cam bar by hand")
	w.until(`() => !document.querySelector("[data-pair]")`)
}
