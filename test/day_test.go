package test

import (
	"fmt"
	"strings"
	"testing"

	"github.com/go-rod/rod/lib/input"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"inklatch/demo"
	"inklatch/internal/core/engine"
	"inklatch/internal/core/page/lang/en"
)

// hands are somebody at the keyboard alone, whose every key and every typed value is
// counted.
type hands struct {
	window
	n int
}

func (h *hands) key(k ...input.Key) {
	h.Helper()
	for range k {
		h.n++
	}
	h.keys(k...)
}

func (h *hands) type_(s string) { h.Helper(); h.n++; h.text(s) }

// pick chooses in a list by typing the first letters of what is chosen, as anybody
// does who has it under the keyboard.
func (h *hands) pick(option string) {
	h.Helper()
	h.n++
	for _, r := range option {
		h.keys(input.Key(r))
	}
}

// do finds something that the screen can do and does it.
func (h *hands) do(what string) {
	h.Helper()
	h.n++
	h.chord(input.ControlLeft, input.KeyK)
	h.find("[cmdk-input]")
	h.type_(what)
	h.until(`() => document.querySelector("[cmdk-item][data-selected=true]")`)
	h.key(input.Enter)
	h.until(`() => !document.querySelector("[cmdk-input]")`)
}

// readSheet reads what a draft of an engine sheet changes, thing by thing.
func (h *hands) readSheet() {
	h.Helper()
	h.find("[data-thing]")
	n := int(h.p.MustEval(`() => document.querySelectorAll("[data-thing]").length`).Int())
	for i := range n {
		h.key(input.KeyJ)
		h.until(fmt.Sprintf(`() => document.activeElement === document.querySelectorAll("[data-thing]")[%d]`, i))
		h.key(input.KeyR)
		h.until(`() => document.activeElement.innerText.includes("Read as it stands now")`)
	}
	h.sees("You have read all of it as it stands now")
}

// on waits until the keyboard is at a field or a button by the beginning of its name.
func (h *hands) on(name string) {
	h.Helper()
	h.until(fmt.Sprintf(`() => (document.activeElement?.getAttribute("aria-label") ?? document.activeElement?.innerText ?? "").startsWith(%q)`, name))
}

// A new engine code from a blank page to a sheet in use, by the keyboard alone.
func TestASheetByTheKeyboard(t *testing.T) {
	a := open(t)
	h := &hands{window: a.window("ines")}
	h.go_("/engines")
	h.sees("12 engine codes")
	h.n = 0
	h.key(input.KeyN)
	h.find("[role=dialog] input")
	h.type_("tx2-10p")
	h.key(input.Enter)
	h.sees("Start at the crank")

	// The crank’s wheel stands at 0, 0; the keyboard is at its name.
	h.key(input.KeyW)
	h.on("Name, crank")
	h.key(input.Tab, input.Tab, input.Tab)
	h.on("Teeth, crank")
	h.type_("20")
	h.key(input.Enter, input.Escape)
	h.atRest()

	// The cam’s wheel, its shaft made from the field that needs it.
	h.key(input.KeyW)
	h.on("x of the wheel")
	h.key(input.Tab)
	h.type_("210.5")
	h.key(input.Enter)
	h.on("Name, wheel 2")
	h.type_("cam")
	h.key(input.Tab)
	h.pick("a")
	h.on("The new shaft")
	h.type_("cam")
	h.key(input.Enter)
	h.on("Shaft, cam")
	h.key(input.Tab)
	h.pick("keyed")
	h.key(input.Tab)
	h.on("Teeth, cam")
	h.type_("40")
	h.key(input.Enter, input.Escape)
	h.atRest()

	h.do("Lead a belt")
	h.until(`() => document.activeElement?.dataset.wheel === "crank-wheel"`)
	h.key(input.Space, input.Tab, input.Space)
	h.sees("2 so far")
	h.key(input.Enter)
	h.on("Name, timing belt")
	h.key(input.Escape)
	h.atRest()
	h.sees("Closes")
	drive := h.n

	// What is open is walked with the full stop: Enter goes to the field, M takes the mend.
	finding := func(what string) {
		t.Helper()
		for range 14 {
			if strings.Contains(h.eval(`() => document.querySelector("section[aria-label=Findings] li[data-on=true]")?.innerText ?? ""`), what) {
				return
			}
			h.key(input.Period)
			h.until(`() => document.querySelector("section[aria-label=Findings] li[data-on=true]")`)
		}
		require.Fail(t, "no finding says it", what)
	}
	field := func(what, name, value string) {
		t.Helper()
		finding(what)
		h.key(input.Enter)
		h.on(name)
		h.type_(value)
		h.key(input.Enter, input.Escape)
		h.atRest()
	}
	finding("It is not said what the cam is for")
	h.key(input.KeyM)
	h.atRest()
	field("firing order names 0", "Firing order", "1-3-4-2")
	finding("No sentence fixes left and right")
	h.key(input.KeyM)
	h.atRest()
	finding("It is not known whether valves meet")
	h.key(input.KeyM)
	h.atRest()
	field("No safe window", "Safe window", "5")
	field("No greatest cam error", "Greatest cam error", "1")
	finding("Nothing tensions the timing belt")
	h.key(input.Enter)
	h.on("Tensioner, timing belt")
	h.pick("a")
	h.on("The new tensioner")
	h.type_("idler")
	h.key(input.Enter)
	h.on("Tensioner, timing belt")
	h.key(input.Escape)

	// A lock on the cam, its tool made from its field.
	h.do("Add a lock")
	h.on("Name, new lock")
	h.type_("cam pin")
	h.key(input.Tab, input.Tab)
	h.on("Holds, cam pin")
	h.key(input.Enter)
	h.until(`() => document.activeElement?.type === "checkbox"`)
	h.key(input.Space, input.Tab, input.Space, input.Escape)
	h.until(`() => /^Holds, cam pin: cam$/.test(document.activeElement?.getAttribute("aria-label"))`)
	h.key(input.Tab, input.Tab)
	h.on("Play, degrees")
	h.type_("0.3")
	h.key(input.Tab, input.Tab, input.Tab)
	h.on("Tool, cam pin")
	h.pick("a")
	h.on("The new tool")
	h.type_("TL-901 cam pin")
	h.key(input.Enter)
	h.on("Tool, cam pin")
	h.until(`() => document.activeElement.selectedOptions[0].text === "TL-901"`)
	h.atRest()
	h.sees("nothing keeps it out of use")

	// Another person puts it into use.
	m := &hands{window: a.window("mirja"), n: h.n}
	m.go_("/engines/TX2-10P")
	m.find("[data-release]")
	m.do("Review this sheet")
	m.sees("The first sheet of this code")
	written := m.n
	m.readSheet()
	m.until(`() => !!document.querySelector("[data-put]")`)
	m.eval(`() => { document.querySelector("[data-put]").focus(); return 1 }`)
	m.key(input.Enter)
	m.sees("Sheet 1 of TX2-10P is in use")
	assert.Less(t, written, 90, "interactions from a blank sheet to one that is whole")
	t.Logf("%d interactions for the drive, %d until the sheet is whole, %d until it is in use", drive, written, m.n)
}

// A page of forty steps from an empty one, written line by line: each line is a step,
// and none stays free text.
func TestFortyStepsInAsManyLines(t *testing.T) {
	a := open(t)
	w := a.window("ines")
	doc := demo.Document("renew-timing-chain-r1.latch.json")
	x := engine.NewIndex(&doc.Engine)
	w.emptyPage("Renew the timing chain again", "TC4-24C")
	lines := 0
	for i := range doc.Procedure.Steps {
		if i == 40 {
			break
		}
		lines++
		w.step(en.Typed(x, doc.Procedure.Steps[i].Action), i+1)
	}
	w.saved()
	assert.Less(t, lines, 50)
	w.keys(input.Escape)
	w.until(`() => document.querySelector("[data-steps] li[aria-setsize='40']")`)
	var free int
	for i := range doc.Procedure.Steps[:40] {
		if doc.Procedure.Steps[i].Action.Verb() == "do" {
			free++
		}
	}
	w.keys(input.Home)
	var stay []string
	for i := range 40 {
		w.until(fmt.Sprintf(`() => document.querySelector("[data-on=true] .step-no")?.textContent === "%d"`, i+1))
		if s := w.eval(`() => document.querySelector("[data-on=true] .step-words:has(.italic)")?.innerText ?? ""`); s != "" {
			stay = append(stay, s)
		}
		w.keys(input.ArrowDown)
	}
	assert.LessOrEqual(t, len(stay), free, "%v: lines that stay free text, beside those the page has as free text itself", stay)
}
