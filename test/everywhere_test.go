package test

import (
	"strings"
	"testing"

	"github.com/go-rod/rod/lib/input"
	"github.com/stretchr/testify/assert"
)

// A page is copied to another code: what is proposed is taken, what is not there is
// said, and what has to be asked stands at the steps of the copy.
func TestAPageIsCopiedOnTheScreen(t *testing.T) {
	a := open(t)
	w := a.window("ines")
	w.go_("/revisions/3")
	w.click("^More$")
	w.click("^Copy to another engine code")
	w.sees("choose the code")
	w.choose("main select", "TV6-27D, snow groomer, high-pressure injection")
	w.sees("things are still to be matched")
	assert.Equal(t, "true", w.eval(`() => [...document.querySelectorAll("button")].find(b => b.innerText.startsWith("Copy to")).disabled`))
	w.click("^Take all ")
	w.until(`() => document.querySelectorAll('[aria-label="Proposed"] button').length == 0`)
	// What somebody has said is there after a reload.
	w.reload()
	w.until(`() => document.querySelectorAll('[data-how="said"]').length > 3`)
	w.choose(`select[aria-label="idler roller on TV6-27D"]`, "lower idler")
	w.until(`() => [...document.querySelectorAll("[data-how]")].some(r => r.innerText.includes("It is held by") || r.innerText.includes("It holds the lower idler, as there."))`)
	for range 4 { // what is answered makes more follow
		if w.eval(`() => [...document.querySelectorAll("button")].some(b => b.innerText.startsWith("None of these"))`) == "true" {
			w.click("^None of these ")
		}
		if w.eval(`() => [...document.querySelectorAll("button")].some(b => b.innerText.startsWith("Take all"))`) == "true" {
			w.click("^Take all ")
		}
		w.eval(`() => [...document.querySelectorAll('[data-how="proposed"] button')].forEach(b => b.click())`)
		w.until(`() => ![...document.querySelectorAll("aside")].some(e => e.className.includes("opacity-60"))`)
		if w.eval(`() => document.body.innerText.includes("Everything is matched")`) == "true" {
			break
		}
	}
	w.sees("Everything is matched")
	w.fill("#copy-title", "Renew belt, as on the small engine")
	w.click("^Copy to TV6-27D$")
	w.sees("What has to be asked stands at the steps")
	w.until(`() => /^\/revisions\/\d+$/.test(location.pathname)`)
	w.sees("Renew belt, as on the small engine")
	w.until(`() => document.querySelectorAll('.step-words a[href*="/review?step="]').length > 0`)
	w.eval(`() => document.querySelector('.step-words a[href*="/review?step="]').click()`)
	w.until(`() => document.querySelector("aside article[data-remark]") && document.activeElement?.dataset.on === "true"`)
	w.sees("on TQ4-18P. Is it so on TV6-27D?")
}

// A value is changed everywhere: each place is seen first, one is left out, and each
// page becomes a draft.
func TestAValueIsChangedOnTheScreen(t *testing.T) {
	a := open(t)
	w := a.window("ines")
	w.go_("/where?q=39+N%C2%B7m")
	w.sees("Change it everywhere")
	w.go_("/")
	w.chord(input.ControlLeft, input.KeyK)
	w.find("[cmdk-input]")
	w.text("39 N·m")
	w.sees("Where “39 N·m” is used")
	w.find(`[cmdk-item][data-value="elsewhere: changed"]`).MustClick()
	w.until(`() => location.pathname == "/change" && document.activeElement?.matches("form label:nth-of-type(2) input")`)
	w.text("90°")
	w.keys(input.Enter)
	w.sees("do not measure the same")
	w.focus("form label:nth-of-type(2) input")
	w.fill("form label:nth-of-type(2) input", "45") // in the unit of what stands there
	w.click("^See each place$")
	w.sees("3 places on 2 procedures and 1 engine sheet")
	w.sees("Until the changed sheet is in use")
	w.find(`section[aria-label="TQ4-18P Close the timing drive after work on the head"] ul input`).MustClick()
	w.sees("Change 2 places")
	assert.Equal(t, "true", w.eval(`() => [...document.querySelectorAll("button")].find(b => b.innerText.startsWith("Change 2")).disabled`), "why is asked")
	w.fill(`input[placeholder^="Readers"]`, "Letter EL-0612.")
	w.click("^Change 2 places$")
	w.sees("2 of 3 changed")
	w.sees("sheet 2, draft")
	w.click("^revision 4, draft$")
	w.until(`() => location.pathname == "/revisions/4"`)
	w.until(`() => document.body.innerText.includes("45 N·m")`)
	w.chord(input.ControlLeft, input.KeyZ) // like any edit of one's own
	w.until(`() => document.body.innerText.includes("39 N·m")`)
	assert.False(t, strings.Contains(w.eval(`() => document.querySelector(".step-value")?.innerText ?? ""`), "45"))
}

// The engine stands beside the step that is met, as it was and as it is, and a thing of
// it can be spoken of.
func TestTheEngineIsSpokenOf(t *testing.T) {
	a := open(t)
	ines, mirja := a.window("ines"), a.window("mirja")
	mirja.go_(oil + "?step=t28")
	mirja.sees("The engine after step 31")
	mirja.sees("It stands as it did.")
	ines.go_("/revisions/18")
	ines.find("#step-t06 .step-words").MustClick()
	ines.keys(input.Delete)
	mirja.sees("crank pin: out, was in")
	mirja.until(`() => document.querySelectorAll("figure svg").length == 2`)
	mirja.eval(`() => document.querySelector('figure [data-pick^="wheels/"]').dispatchEvent(new MouseEvent("click", {bubbles: true}))`)
	mirja.sees("on the drawing")
	mirja.find(`form[aria-label="Ask or say"] textarea`)
	mirja.text("Which way does it turn?")
	mirja.chord(input.ControlLeft, input.Enter)
	mirja.until(`() => document.querySelector('figure [data-pick] text')?.textContent == "1"`)
	ines.go_(oil)
	ines.sees("Which way does it turn?")
}
