package test

import (
	"fmt"
	"strings"
	"testing"

	"github.com/go-rod/rod/lib/input"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// Every screen has a name of its own in the browser’s tab, one place that is current,
// and a way past the menu.
func TestEveryScreenHasItsName(t *testing.T) {
	a := open(t)
	w := a.window("ines")
	names := map[string]string{}
	for _, p := range []string{"/", "/procedures", "/engines", "/engines/TQ4-18P", "/engines/TC4-24C", "/tools", "/sources", "/engines/TQ4-18P/torques", "/engines/TQ4-18P?tab=fasteners&on=fasteners/crank-bolt", "/arithmetic", "/house", "/revisions/4", "/revisions/4/turns", "/revisions/4/drill", "/revisions/4/review", "/revisions/4/versions", "/revisions/4/sheet", "/revisions/7", "/account", "/revisions/999", "/where", "/record", "/change", "/revisions/3/copy?to=TV6-27D"} {
		w.go_(p)
		w.find("main:not([aria-busy])")
		w.until(`() => document.title !== "Ink Latch"`)
		title := w.eval(`() => document.title`)
		assert.Empty(t, names[title], "%s is called as %s is", p, names[title])
		names[title] = p
		assert.LessOrEqual(t, w.eval(`() => document.querySelectorAll("[aria-current=page]").length`), "1", p)
		w.until(`() => document.querySelectorAll("main").length === 1`) // the one that said that it comes is gone
	}
	w.go_("/engines")
	w.sees("12 engine codes")
	w.keys(input.Tab)
	w.until(`() => document.activeElement.innerText === "Skip to the page"`)
	w.keys(input.Enter)
	w.until(`() => document.activeElement.tagName === "MAIN"`)
}

// Where the program takes the keyboard, it brings it back: a thing that is made has
// it, what is removed hands it on, and what was begun and cancelled gives it back.
func TestTheKeyboardComesBack(t *testing.T) {
	a := open(t)
	w := a.window("ines")
	w.go_("/engines/TC4-24C") // its draft
	w.sees("Place a wheel")
	at := func(name string) {
		t.Helper()
		w.until(fmt.Sprintf(`() => (document.activeElement?.getAttribute("aria-label") ?? document.activeElement?.innerText ?? "").startsWith(%q)`, name))
	}
	w.click("^Place a wheel$")
	at("x of the wheel")
	w.keys(input.Escape)
	at("Place a wheel")
	w.click("^Lead a chain$")
	w.until(`() => !!document.activeElement?.dataset.wheel`)
	w.keys(input.Escape)
	at("Lead a chain")

	w.tab("Marks and locks")
	w.click("^Add a lock$")
	at("Name, new lock")
	w.atRest()
	// Removed, the next row has it; Ctrl Z brings the row back.
	rows := w.eval(`() => document.querySelectorAll("tr[data-ref^='locks/']").length`)
	w.eval(`() => { document.querySelector("tr[data-ref='locks/lock'] [data-out]").focus(); return 1 }`)
	w.keys(input.Enter)
	w.until(`() => !document.querySelector("tr[data-ref='locks/lock']")`)
	at("Remove the ")
	w.chord(input.ControlLeft, input.KeyZ)
	w.until(`() => document.querySelectorAll("tr[data-ref^='locks/']").length == ` + rows)

	// A finding leads to the field where it is typed.
	w.tab("Engine")
	w.eval(`() => { document.querySelector("section[aria-label=Findings] li button").click(); return 1 }`)
	w.until(`() => document.querySelector("[role=tab][data-state=active]").innerText === "Marks and locks"`)
	w.until(`() => document.activeElement?.dataset.path?.startsWith("marks/inlet-link")`)

	// Cells are named with their row, and say what is wrong with them.
	w.tab("Drive")
	cell := w.cell("wheels/inlet-wheel", "Teeth, inlet")
	w.type_(cell, "40")
	w.until(`() => { const e = document.querySelector('tr[data-ref="wheels/inlet-wheel"] [aria-label^="Teeth"]'); return e.getAttribute("aria-invalid") === "true" && document.getElementById(e.getAttribute("aria-describedby"))?.innerText.includes("crank turn") }`)

	// Alt and an arrow is the browser’s own.
	require.NoError(t, w.find(`[data-wheel="first-balance"], [data-wheel="balance-a-wheel"]`).Focus())
	x := w.eval(`() => document.querySelector('tr[data-ref="wheels/balance-a-wheel"] [aria-label^="x, mm"]').value`)
	w.eval(`() => { const e = new KeyboardEvent("keydown", {key: "ArrowLeft", altKey: true, bubbles: true, cancelable: true}); window.__let = document.activeElement.dispatchEvent(e); return 1 }`)
	assert.Equal(t, "true", w.eval(`() => String(window.__let)`), "nobody stops Alt ←")
	w.frames()
	assert.Equal(t, x, w.eval(`() => document.querySelector('tr[data-ref="wheels/balance-a-wheel"] [aria-label^="x, mm"]').value`))
}

// The list of steps says the place of each among all, its phases are headings, and
// what the proof finds and what a line becomes are said aloud.
func TestWhatIsHeardOfAPage(t *testing.T) {
	a := open(t)
	w := a.window("ines")
	w.go_("/revisions/4?step=s33")
	w.find("#step-s33")
	n := w.eval(`() => document.querySelector("[data-steps] li").getAttribute("aria-setsize")`)
	assert.Equal(t, "59", n)
	assert.NotEqual(t, "0", w.eval(`() => document.querySelectorAll("[data-steps] h2").length`))
	w.until(`() => [...document.querySelectorAll("[role=status]")].some((e) => /findings?, (\d+ block|one blocks) release/.test(e.textContent))`)
	w.keys(input.KeyN)
	w.text("hum a tune over it")
	w.until(`() => [...document.querySelectorAll("[role=status]")].some((e) => e.textContent.startsWith("Stays free text"))`)
	w.keys(input.Escape)
	w.text("remove ")
	w.until(`() => document.querySelectorAll("#quick-offers [role=option]").length > 1`)
	w.keys(input.ArrowDown)
	w.until(`() => document.getElementById(document.querySelector("#quick").getAttribute("aria-activedescendant"))?.getAttribute("aria-selected") === "true"`)
}

// Keys of a single letter can be switched off, and stay off.
func TestSingleKeysCanBeSwitchedOff(t *testing.T) {
	a := open(t)
	w := a.window("ines")
	w.go_("/engines")
	w.sees("12 engine codes")
	w.keys(input.KeyN)
	w.find("[role=dialog]")
	w.keys(input.Escape)
	w.go_("/account")
	w.sees("Keys of a single letter")
	w.click("^Switched off$")
	w.go_("/engines")
	w.sees("12 engine codes")
	w.keys(input.KeyN)
	w.frames()
	assert.Equal(t, "0", w.eval(`() => document.querySelectorAll("[role=dialog]").length`))
	w.go_("/revisions/4")
	w.find("#step-s01")
	w.keys(input.KeyN)
	w.frames()
	assert.NotEqual(t, "quick", w.eval(`() => document.activeElement.id`))
	w.keys(input.ArrowDown)
	w.until(`() => document.querySelector("#step-s02").dataset.on === "true"`)
}

// In a small window, at twice and four times the size, and with letters set wide,
// nothing is cut off or lies over the menu, cautions wrap, latches can be reached, and
// the steps keep most of the height.
func TestSmallWindows(t *testing.T) {
	a := open(t)
	w := a.window("ines")
	for _, s := range [][2]int{{1280, 800}, {820, 700}, {640, 400}, {320, 640}} {
		w.size(s[0], s[1])
		for _, p := range []string{"/", "/procedures", "/engines", "/engines/TV6-27D", "/revisions/4", "/revisions/4/turns", "/revisions/4/drill", "/revisions/4/review", "/revisions/4/versions", "/revisions/4/sheet", "/tools", "/sources", "/engines/TQ4-18P/torques", "/engines/TQ4-18P?tab=fasteners&on=fasteners/crank-bolt", "/arithmetic", "/house", "/account", "/where?q=crank+pin", "/record", "/change?from=42+N%C2%B7m&to=45+N%C2%B7m", "/revisions/3/copy?to=TV6-27D", "/revisions/18/review?step=t28"} {
			w.go_(p)
			w.find("main:not([aria-busy])")
			assert.Equal(t, "0", w.eval(`() => document.documentElement.scrollWidth - innerWidth > 1 ? document.documentElement.scrollWidth : 0`), "%s at %v is wider than its window", p, s)
			assert.Empty(t, w.eval(`() => { const h = document.querySelector("header").getBoundingClientRect(); const m = document.querySelector("main").getBoundingClientRect(); return m.top < h.bottom - 1 ? "the page begins under the menu" : "" }`), "%s at %v", p, s)
			assert.Empty(t, w.eval(`() => [...document.querySelectorAll("header button, header a")].filter((e) => e.offsetParent).map((e) => e.getBoundingClientRect()).filter((r) => r.right > innerWidth + 1 || r.left < 0 && r.bottom > 0 && r.top > 0).length || ""`), "the menu at %v", s)
		}
		w.go_("/revisions/4?step=s33")
		w.find("#step-s33 .caution")
		assert.Empty(t, w.eval(`() => [...document.querySelectorAll(".caution")].filter((e) => e.scrollWidth > e.clientWidth + 1 || [...e.children].some((c) => c.getBoundingClientRect().right > e.getBoundingClientRect().right + 1)).map((e) => e.innerText).join("; ")`), "cautions at %v", s)
		if s[0] >= 640 {
			assert.Empty(t, w.eval(`() => [...document.querySelectorAll("button")].filter((e) => /latch/.test(e.getAttribute("aria-label") ?? "") || /^Close (author|bench)/.test(e.innerText)).filter((e) => { const r = e.getBoundingClientRect(); return r.right > innerWidth + 1 || r.bottom > innerHeight }).length || ""`), "latches at %v", s)
		}
		if s[1] <= 700 {
			share := w.eval(`() => document.querySelector("[data-steps]").clientHeight / innerHeight > (innerWidth < 640 ? 0.3 : 0.5)`)
			assert.Equal(t, "true", share, "the steps at %v", s)
			assert.Equal(t, "true", w.eval(`() => document.querySelector("aside").dataset.folded`))
			w.click("Show the engine and the findings")
			w.until(`() => document.querySelector("aside").dataset.folded === "false" && document.querySelector("aside ul")`)
		}
	}
	// Letters as wide as WCAG 1.4.12 asks for.
	w.size(1280, 800)
	w.go_("/revisions/4?step=s33")
	w.find("#step-s33 .caution")
	w.eval(`() => { const s = new CSSStyleSheet(); s.replaceSync("* { line-height: 1.5 !important; letter-spacing: 0.12em !important; word-spacing: 0.16em !important }"); document.adoptedStyleSheets = [...document.adoptedStyleSheets, s]; return 1 }`)
	w.frames()
	assert.Empty(t, w.eval(`() => [...document.querySelectorAll(".caution, .step-words")].filter((e) => e.scrollWidth > e.clientWidth + 1).map((e) => e.innerText).join("; ")`))
	rows := w.eval(`() => { const r = [...document.querySelectorAll(".step-row")].map((e) => e.getBoundingClientRect()).sort((a, b) => a.top - b.top); return r.some((a, i) => r[i + 1] && a.bottom > r[i + 1].top + 1) }`)
	assert.Equal(t, "false", rows, "rows lie over one another")
	assert.False(t, strings.Contains(w.eval(`() => document.body.innerText`), "undefined"))
}

// A step is opened whole, at the lower edge too.
func TestAnOpenedStepIsSeenWhole(t *testing.T) {
	a := open(t)
	w := a.window("ines")
	for _, id := range []string{"s14", "s33", "s37"} {
		w.go_("/revisions/4?step=" + id)
		w.find("#step-" + id)
		w.keys(input.Enter)
		w.find("#step-" + id + " .chip")
		w.until(`() => { const e = document.querySelector("#step-` + id + `").getBoundingClientRect(), b = document.querySelector("[data-steps]").getBoundingClientRect(); return e.top >= b.top - 1 && e.bottom <= b.bottom + 1 }`)
		w.keys(input.Escape)
	}
}
