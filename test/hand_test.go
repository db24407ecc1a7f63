package test

import (
	"fmt"
	"testing"

	"github.com/go-rod/rod/lib/input"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// A first visit has the cursor in the address and logs no error; a new page takes every
// key from the first, and after a paste the next line can be typed at once.
func TestTheCursorIsWhereOneTypes(t *testing.T) {
	a := open(t)
	w := a.window("")
	w.go_("/sign-in")
	w.until(`() => document.activeElement?.id === "email"`)
	assert.Equal(t, "204", w.eval(`async () => String((await fetch("/api/session")).status)`), "nobody is signed in, and that is no error")

	w = a.window("ines")
	w.go_("/procedures")
	w.sees("Check valve timing")
	w.chord(input.ControlLeft, input.KeyK)
	w.find("[cmdk-input]")
	w.text("start a proc")
	w.sees("Start a procedure")
	w.keys(input.Enter)
	w.until(`() => document.activeElement?.id === "start-title" && document.querySelectorAll("#start-engine option").length > 0`)
	w.text("Keys from the first")
	require.NoError(t, w.find("#start-engine").Select([]string{"^TQ4-18P"}, true, "regex"))
	w.focus("#start-title")
	w.keys(input.Enter)
	for _, r := range "remove upper timing cover" { // before the page is there
		w.keys(input.Key(r))
	}
	w.until(`() => document.querySelector("#quick")?.value === "remove upper timing cover"`)
	w.keys(input.Enter)
	w.comes("Remove the upper timing cover.", 0)

	w.paste("take out block plug\nfit crank pin")
	w.find(`[role=dialog]`)
	w.chord(input.ControlLeft, input.Enter)
	w.until(`() => document.activeElement?.id === "quick"`)
	w.text("fit cam bar")
	w.keys(input.Enter)
	w.comes("Fit the cam bar by hand (TL-102).", 3)
}

// Two people in one step: what the second typed stays, what the first saved is told and
// shown, and one of them says which stays.
func TestTwoPeopleInOneStep(t *testing.T) {
	a := open(t)
	ines, jonas := a.window("ines"), a.window("jonas")
	ines.go_("/revisions/4?step=s26")
	ines.find("#step-s26")
	ines.keys(input.Enter)
	ines.find("#step-s26 .chip input")
	ines.focus("#step-s26 .chip input")
	ines.chord(input.ControlLeft, input.KeyA)
	ines.text("a lot") // is no torque, so it is not saved and stays
	jonas.go_("/revisions/4?step=s26")
	jonas.find("#step-s26")
	assert.Equal(t, "200", jonas.eval(`async () => {
		const r = await (await fetch("/api/revisions/4")).json();
		const step = r.view.rows.find((v) => v.step.id === "s26").step;
		return String((await fetch("/api/revisions/4/edits", {method: "POST", headers: {"Content-Type": "application/json"}, body: JSON.stringify({batch: "jonas-at-the-idler", client: "jonas-1", base: r.meta.version, edits: [{op: "set", id: "s26", step: {...step, note: "Jonas was here first."}}]})})).status);
	}`))
	ines.sees("Somebody else changed this step while you were in it.")
	assert.Equal(t, "a lot", ines.eval(`() => document.querySelector("#step-s26 .chip input").value`), "what is typed is still there")
	ines.focus("#step-s26 .chip input")
	ines.chord(input.ControlLeft, input.KeyA)
	ines.text("43 N·m")
	ines.keys(input.Enter)
	ines.sees("Two people changed the same step")
	said := ines.eval(`() => document.querySelector("[role=dialog]").innerText`)
	assert.Contains(t, said, "43 N·m")
	assert.Contains(t, said, "Jonas was here first.")
	assert.NotContains(t, jonas.eval(`() => document.querySelector("#step-s26").innerText`), "43 N·m", "nothing was written over")
	ines.click("^Keep mine$")
	ines.saved()
	ines.until(`() => document.querySelector("#step-s26").innerText.includes("43 N·m")`)
}

// A value that the sheet refuses stays in its field with its reason, whatever else is
// saved, and is sent again only once it was typed again.
func TestARefusedValueStaysInItsField(t *testing.T) {
	a := open(t)
	w := a.window("ines")
	w.change("TQ4-18P")
	w.tab("Drive")
	w.find(`tr[data-ref="tensioners/tensioner"]`)
	w.focus(`tr[data-ref="tensioners/tensioner"] input`)
	cell := `[data-path="tensioners/tensioner/pointer"]`
	w.find(cell)
	w.focus(cell)
	w.chord(input.ControlLeft, input.KeyA)
	w.text("low of the notch when it is cold")
	w.keys(input.Tab)
	kept := fmt.Sprintf(`() => { const e = document.querySelector(%q); return e?.value === "low of the notch when it is cold" && e.getAttribute("aria-invalid") === "true" }`, cell)
	w.until(kept)
	w.type_(`tr[data-ref="tensioners/tensioner"] [aria-label^="Turns to settle"]`, "2")
	w.atRest()
	w.until(kept)
	w.focus(cell)
	w.keys(input.Escape)
	w.until(fmt.Sprintf(`() => document.querySelector(%q)?.getAttribute("aria-invalid") !== "true"`, cell))
}

// By touch what the keys do has a button: a step is opened, moved, removed and that is
// undone; in Review one walks, reads and asks, and what was said stands in view.
func TestByTouchOnATablet(t *testing.T) {
	a := open(t)
	w := a.window("ines")
	w.touch(820, 1180)
	w.go_("/revisions/4?step=s05")
	w.find("#step-s05")
	first := `() => [...document.querySelectorAll(".step-row")].slice(0, 6).map((e) => e.id).join()`
	was := w.eval(first)
	w.click("^↓ Down$")
	w.until(fmt.Sprintf(`() => (%s)() !== %q`, first, was))
	w.click("^Undo$")
	w.until(fmt.Sprintf(`() => (%s)() === %q`, first, was))
	w.click("^Open 5$")
	w.find("#step-s05 .chip")
	w.click("^Fold away$")
	w.until(`() => !document.querySelector("#step-s05 .chip")`)

	m := a.window("mirja")
	m.touch(820, 1180)
	m.go_(oil)
	m.sees("5 steps have changed")
	m.click("^Next$")
	m.sees("Which letter asks")
	m.until(`() => { const r = document.querySelector("aside").getBoundingClientRect(); return r.top < innerHeight * 0.7 && r.bottom <= innerHeight + 1 }`)
	m.until(`() => { const r = document.querySelector("[data-on=true]").getBoundingClientRect(); return r.top >= 0 && r.bottom <= document.querySelector("aside").getBoundingClientRect().top + 1 }`)
	m.eval(`() => { [...document.querySelectorAll(".review-bar button")].find((b) => b.innerText === "Read").click(); return 1 }`)
	m.sees("You have read 48 of 51 steps")
	for _, s := range []string{"/procedures", "/revisions/18", oil, "/engines/TQ4-18P?tab=fasteners"} {
		m.go_(s)
		m.find("main:not([aria-busy])")
		assert.Equal(t, "0", m.eval(`() => [...document.querySelectorAll("h1:not(.sr-only)")].filter((e) => e.scrollWidth > e.clientWidth + 1).length`), "the title at %s", s)
	}
}
