package test

import (
	"fmt"
	"testing"

	"github.com/go-rod/rod/lib/input"
	"github.com/stretchr/testify/assert"
)

// words is what a step's row says.
func (w window) words(n int) string {
	return w.eval(fmt.Sprintf(`() => document.querySelectorAll(".step-row:not([data-ghost=true]) .step-words")[%d]?.innerText ?? ""`, n-1))
}

// An author says in the next line what is done when a look fails: it hangs on that
// look, is drawn and printed so, and goes and comes back with it.
func TestWhatIsDoneWhenALookFails(t *testing.T) {
	a := open(t)
	w := a.window("ines")
	w.emptyPage("Look and try again", "TV6-27D")
	w.step("disconnect battery lead", 1)
	w.step("turn crank clockwise to the left cam mark", 2)
	w.step("check that the pump mark stands", 3)
	w.step("if not, turn the crank 2 turns clockwise, and try again, twice at most", 4)
	w.until(`() => document.querySelector(".step-row[data-branch=true]")`)
	w.saved()
	assert.Contains(t, w.words(4), "If not:")
	assert.Contains(t, w.words(4), "then step 3 again, twice at most")
	// The next line goes on behind it, not between the two.
	w.step("fit crank pin", 5)
	w.until(`() => document.querySelectorAll(".step-row[data-branch=true]").length === 1`)
	w.saved()
	assert.NotContains(t, w.words(5), "If not:")

	// How often is chosen in the step that fails.
	w.keys(input.Escape)
	third := `document.querySelectorAll(".step-row")[2]`
	w.eval(`() => { ` + third + `.click() }`)
	w.keys(input.Enter)
	w.until(`() => ` + third + `.innerText.includes("when it fails, then")`)
	w.eval(`() => {
		const often = [...document.querySelectorAll(".chip select")].find((s) => [...s.options].some((o) => o.text === "9 times"));
		Object.getOwnPropertyDescriptor(HTMLSelectElement.prototype, "value").set.call(often, "5");
		often.dispatchEvent(new Event("change", { bubbles: true }));
	}`)
	w.sees("then step 3 again, 5 times at most")
	w.keys(input.Escape)
	w.saved()

	// Taken out, it takes along what is done when it fails; both come back.
	w.eval(`() => { ` + third + `.click() }`)
	w.keys(input.Delete)
	w.until(`() => document.querySelectorAll(".step-row[data-branch=true]").length === 0`)
	w.saved()
	assert.Contains(t, w.words(3), "crank pin")
	w.chord(input.ControlLeft, input.KeyZ)
	w.until(`() => document.querySelectorAll(".step-row[data-branch=true]").length === 1`)
	assert.Contains(t, w.words(4), "5 times at most")

	w.go_(w.eval(`() => location.pathname`) + "/sheet")
	w.sees("If not: turn the crank 2 turns clockwise.")
	w.sees("Then step 3 again, 5 times at most.")
}

// A step and a value are for some engines only: the page is shown for each kind,
// and a finding says for which it holds.
func TestAPageForTwoKindsOfEngine(t *testing.T) {
	a := open(t)
	w := a.window("ines")
	w.emptyPage("Two kinds of engine", "TQ4-18P")
	w.step("from 2022: remove upper timing cover", 1)
	w.step("disconnect battery lead", 2)
	w.step("tighten idler bolt to 40 Nm up to 2021, 39 Nm from 2022", 3)
	w.saved()
	assert.Contains(t, w.words(1), "From 2022:")
	w.sees("Shown for")
	w.until(`() => document.querySelectorAll("fieldset button").length === 2`)
	w.until(`() => document.querySelector(".step-row[data-aside=true]")`)
	w.click("2022–2024")
	w.until(`() => !document.querySelector(".step-row[data-aside=true]")`)
	w.until(`() => document.body.textContent.includes("For engines of 2019–2021: step 3 says 40 N·m")`)
	w.sees("For engines of 2022–2024: the upper timing cover never goes back on")

	// What is typed is read by the server; what it does not understand is kept.
	w.eval(`() => { document.activeElement.blur(); document.querySelectorAll(".step-row")[1].click() }`)
	w.keys(input.Enter)
	w.click("Conditions")
	w.until(`() => [...document.querySelectorAll("label.chip")].some((l) => l.innerText.startsWith("only for"))`)
	field := `[...document.querySelectorAll("label.chip")].find((l) => l.innerText.startsWith("only for")).querySelector("input")`
	w.eval(`() => ` + field + `.focus()`)
	w.text("the red ones")
	w.sees("Write years, builds or options")
	w.eval(`() => ` + field + `.select()`)
	w.text("up to 2020")
	w.until(`() => !document.body.innerText.includes("Write years, builds or options")`)
	w.keys(input.Escape)
	w.saved()
	assert.Contains(t, w.words(2), "Up to 2020:")
}

// A page that opens the drive says how it leaves the engine, leads to the page
// that goes on from it, and says where the two do not meet.
func TestTwoPagesOfOneJob(t *testing.T) {
	a := open(t)
	w := a.window("ines")
	w.go_("/procedures")
	w.click("Open the timing drive for work on the head")
	w.sees("Ends with")
	w.sees("timing belt")
	w.click("Close the timing drive after work on the head")
	w.sees("Begins with")
	w.sees("Goes on from")
	w.go_(w.eval(`() => location.pathname`) + "/sheet")
	w.sees("Begins with.")
	w.sees("in: crank pin, cam bar")

	w.emptyPage("Close it otherwise", "TQ4-18P")
	w.step("take out the cam bar", 1)
	w.click("Title and preparation")
	w.eval(`() => { document.querySelector("[role=dialog] details").open = true }`)
	w.click("As “Open the timing drive")
	w.eval(`() => { document.querySelector("[role=dialog] button[type=submit]").click() }`)
	w.sees("Begins with")
	w.saved()
	w.until(`() => !document.body.innerText.includes("takes out the cam bar, which is not in")`)
}
