package test

import (
	"strconv"
	"strings"
	"testing"

	"github.com/go-rod/rod/lib/input"
	"github.com/go-rod/rod/lib/proto"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// A sheet starts from a layout that closes as it is drawn, is pulled into shape with
// the counts that close, and stays out of use until it says whose measures they are.
func TestAnEngineFromALayout(t *testing.T) {
	a := open(t)
	w := a.window("ines")
	w.go_("/engines")
	w.sees("12 engine codes")
	w.keys(input.KeyN)
	w.find("[role=dialog] .layout svg circle")
	w.text("tx4-12c")
	require.NoError(t, w.find(`input[value="twin-cam-belt"]`).Click(proto.InputMouseButtonLeft, 1))
	w.click("Start the sheet")
	w.find(w.cell("wheels/inlet-wheel", "Teeth"))
	w.sees("Closes;")
	w.sees("The measures of the drive are not this engine’s yet")

	// The idler moved away, the belt no longer closes: the counts that would are offered.
	w.type_(w.cell("wheels/idler-wheel", "x, mm"), "90")
	w.until(`() => document.querySelector("[data-closings]")?.innerText.includes("Closes with")`)
	offered := w.eval(`() => document.querySelector("[data-closings] button").innerText`)
	assert.Regexp(t, `^\d+ teeth`, offered)
	w.eval(`() => document.querySelector("[data-closings] button").click()`)
	w.sees("Closes;")
	w.atRest()

	w.tab("Limits")
	w.type_(`[aria-label="Source of the measures of the drive"]`, "measured at the bench, 3 May")
	w.until(`() => !document.body.innerText.includes("are not this engine’s yet")`)
	w.sees("as in the layout it was started from")

	// A procedure begins on the code that is in front, and nowhere on the first there is.
	w.go_("/engines/TQ3-10W")
	w.click("^Start a procedure$")
	w.until(`() => document.querySelector("#start-engine")?.value === "TQ3-10W"`)
	w.keys(input.Escape)
	w.go_("/procedures")
	w.click("^Start a procedure$")
	w.until(`() => document.querySelectorAll("#start-engine option").length > 3`)
	assert.Empty(t, w.eval(`() => document.querySelector("#start-engine").value`))
}

// Locks are drawn as what they are, those that are in at a step too; the drawing is
// looked at nearer and drawn along, with its lines and letters as they were.
func TestTheDrawingIsLookedAtNearer(t *testing.T) {
	a := open(t)
	w := a.window("ines")
	w.go_("/engines/TV6-27D?tab=marks")
	w.find("[data-kind=bar]")
	for _, kind := range []string{"pin", "bar", "flywheel lock", "holder"} {
		assert.NotEqual(t, "0", w.eval(`() => document.querySelectorAll("[data-kind='`+kind+`']").length`), kind)
	}
	frame := func() string { return w.eval(`() => document.querySelector("svg[data-mode]").getAttribute("viewBox")`) }
	letters := func() string {
		return w.eval(`() => Math.round(document.querySelector("svg[data-mode] text").getBoundingClientRect().height)`)
	}
	whole, size := frame(), letters()
	w.eval(`() => document.querySelector("[aria-label=Larger]").click()`)
	w.until(`() => document.querySelector("svg[data-mode]").getAttribute("viewBox") !== "` + whole + `"`)
	w.eval(`() => document.querySelector("[aria-label=Larger]").click()`)
	assert.Equal(t, size, letters(), "letters keep their size")
	near := frame()
	p := w.place("valley-wheel")
	require.NoError(t, w.p.Mouse.MoveTo(proto.NewPoint(p.X-90, p.Y+60)))
	require.NoError(t, w.p.Mouse.Down(proto.InputMouseButtonLeft, 1))
	require.NoError(t, w.p.Mouse.MoveTo(proto.NewPoint(p.X-30, p.Y+100)))
	require.NoError(t, w.p.Mouse.Up(proto.InputMouseButtonLeft, 1))
	w.until(`() => document.querySelector("svg[data-mode]").getAttribute("viewBox") !== "` + near + `"`)
	w.click("Show all")
	w.until(`() => document.querySelector("svg[data-mode]").getAttribute("viewBox") === "` + whole + `"`)

	w.go_("/revisions/4?step=s20")
	w.find("#step-s20")
	w.until(`() => document.querySelectorAll("aside [data-kind]").length >= 2`)
	w.go_("/revisions/4?step=s01")
	w.find("#step-s01")
	w.until(`() => document.querySelectorAll("aside [data-kind]").length === 0`)
}

// The job sheet draws the engine at the steps that lock, lay, leave slack or read a
// mark, as its author wants it; headings stand with their first step, the foot with the
// record, and the dark theme prints black on white.
func TestAJobSheetWorthPrinting(t *testing.T) {
	a := open(t)
	w := a.window("ines")
	w.go_("/revisions/4/sheet")
	w.find("[data-picture] svg")
	n := w.eval(`() => document.querySelectorAll("[data-picture]").length`)
	assert.Equal(t, "", w.eval(`() => [...document.querySelectorAll(".paper section > .keep:first-child")].filter((k) => k.querySelector("h3") && !k.querySelector("h3 ~ .keep") && /^(Prepare|Strip|Fit|Lock)/.test(k.innerText)).map((k) => k.innerText.slice(0, 20)).join()`), "a heading without its first step")
	assert.Equal(t, "true", w.eval(`() => [...document.querySelectorAll(".paper section.keep")].some((k) => k.innerText.startsWith("Record") && k.innerText.includes("does not replace"))`))
	assert.Equal(t, "", w.eval(`() => [...document.querySelectorAll(".paper [data-branch] .grid > div, .paper [data-branch] .grid > div > span")].map((e) => e.innerText.trim()).filter((s) => /^[a-z]/.test(s)).join()`), "free text begins with a capital")

	w.go_("/revisions/4?step=s08")
	w.find("#step-s08")
	w.keys(input.Enter)
	w.find("#step-s08 .chip")
	w.click("Wording, note")
	w.choose("#own-picture", "never on the sheet")
	w.keys(input.Escape)
	w.saved()
	w.go_("/revisions/4/sheet")
	w.until(`() => document.querySelector("[data-picture] svg") && document.querySelectorAll("[data-picture]").length == ` + n + ` - 1`)

	w.go_("/account")
	w.click("^Bench, dark$")
	w.until(`() => document.documentElement.classList.contains("bench")`)
	w.go_("/revisions/4/sheet")
	w.find("[data-picture] svg")
	require.NoError(t, proto.EmulationSetEmulatedMedia{Media: "print"}.Call(w.p))
	w.until(`() => matchMedia("print").matches`)
	assert.Equal(t, "rgb(255, 255, 255)", w.eval(`() => getComputedStyle(document.body).backgroundColor`))
	assert.Equal(t, "rgb(19, 28, 38)", w.eval(`() => getComputedStyle(document.querySelector(".paper h2")).color`))
	assert.True(t, strings.HasPrefix(w.eval(`() => document.title`), "TQ4-18P Renew timing belt and tensioner, revision 4"))
}

// What is said in passing covers nothing of the page it speaks of, and what is
// pressed looks pressed, what cannot be does not.
func TestNothingIsCovered(t *testing.T) {
	a := open(t)
	w := a.window("ines")
	w.go_("/revisions/4?step=s05")
	w.find("#step-s05")
	w.keys(input.Delete)
	w.sees("is removed. Ctrl Z brings it back")
	assert.Equal(t, "true", w.eval(`() => { const t = [...document.querySelectorAll("[role=status]")].find((e) => e.innerText.includes("is removed")).getBoundingClientRect(); return t.bottom <= document.querySelector("main").getBoundingClientRect().top + 1 }`))
	w.chord(input.ControlLeft, input.KeyZ)
	w.find("#step-s05")

	// The name of a button stands on its ground, met or not.
	w.go_("/procedures")
	w.find(".button.solid")
	require.NoError(t, w.find(".button.solid").Hover())
	assert.Equal(t, "true", w.eval(`() => { const s = getComputedStyle(document.querySelector(".button.solid:hover")); return s.color !== s.backgroundColor && s.backgroundColor === "rgb(35, 64, 154)" }`))
	w.go_("/engines")
	w.sees("12 engine codes")
	w.keys(input.KeyN)
	w.find("[role=dialog] .button.solid:disabled")
	assert.NotEqual(t, "rgb(35, 64, 154)", w.eval(`() => getComputedStyle(document.querySelector("[role=dialog] .button.solid:disabled")).backgroundColor`))

	// The latches of a list are quieter than its titles.
	w.keys(input.Escape)
	w.go_("/procedures")
	w.find("[role=row] .row-link")
	assert.Equal(t, "true", w.eval(`() => { const row = document.querySelectorAll("[role=row]")[1]; return Number(getComputedStyle(row.querySelector(".row-link")).fontWeight) > Number(getComputedStyle(row.querySelector("[role=cell]:nth-of-type(5)")).fontWeight) }`))
	require.NoError(t, w.p.Navigate(a.url+"/"))
	w.find("main table")
	cols := w.eval(`() => JSON.stringify([...document.querySelectorAll("main table")].map((t) => [...t.rows[0].cells].map((c) => Math.round(c.getBoundingClientRect().left))))`)
	parts := strings.Split(strings.Trim(cols, "[]"), "],[")
	for _, p := range parts {
		assert.Equal(t, parts[0], p, "columns of the desk stand where the others do")
	}
}

// What a page takes until it can be used, over the wire, for the desk and for the
// screen one writes in.
func TestTheFirstLoadIsSmall(t *testing.T) {
	a := open(t)
	w := a.window("ines")
	for _, p := range []string{"/", "/revisions/4"} {
		w.go_(p)
		w.find("main:not([aria-busy])")
		n := w.eval(`() => Math.round(performance.getEntriesByType("resource").filter((e) => /\.(js|css)$/.test(new URL(e.name).pathname)).reduce((n, e) => n + e.encodedBodySize, 0) / 1000)`)
		kB, err := strconv.Atoi(n)
		require.NoError(t, err)
		assert.Positive(t, kB)
		assert.Less(t, kB, 250, p)
		t.Log(p, kB, "kB")
	}
}

// An editor sees at once what changed since the last release, walks it with J and K,
// and goes from a change to its step.
func TestTheRedline(t *testing.T) {
	a := open(t)
	w := a.window("mirja")
	w.go_("/revisions/4")
	w.find("#step-s01")
	w.click("^Review")
	w.sees("steps have changed")
	w.sees("Step 33 turns the crank with the crank pin and cam bar fitted")
	assert.NotEqual(t, "0", w.eval(`() => document.querySelectorAll("[data-kind=gone] del").length`))
	assert.Equal(t, "true", w.eval(`() => { const d = getComputedStyle(document.querySelector("del")), i = getComputedStyle(document.querySelector("ins")); return d.textDecorationLine.includes("line-through") && i.textDecorationLine.includes("underline") }`), "never colour alone")
	w.go_("/revisions/4/review?step=s14")
	w.sees("steps have changed")
	slack := w.eval(`() => [...document.querySelectorAll(".review-row")].find(r => r.innerText.includes("Slacken the crank bolt")).dataset.line`)
	w.go_("/revisions/4/review?step=" + slack)
	w.until(`() => document.querySelector(".review-row[data-on=true]")?.innerText.includes("Slacken the crank bolt")`)
	w.keys(input.KeyJ, input.KeyK)
	w.until(`() => document.activeElement?.innerText.includes("Slacken the crank bolt")`)
	n := w.eval(`() => document.querySelectorAll(".review-row").length`)
	w.keys(input.KeyF)
	w.until(`() => document.querySelectorAll(".review-row").length > 50`)
	w.keys(input.KeyF)
	w.until(`() => document.querySelectorAll(".review-row").length == ` + n)
	w.keys(input.Enter)
	w.until(`() => location.search.includes("step=")`)
	w.until(`() => document.querySelector("[data-steps] [data-on=true]")?.innerText.includes("Slacken")`)

	w.go_("/revisions/7/review")
	w.sees("The first revision")
}

// The timeline of a procedure: what held on a day, and from a release to its redline.
func TestTheVersions(t *testing.T) {
	a := open(t)
	w := a.window("ines")
	w.go_("/revisions/4")
	w.find("#step-s01")
	w.click("^Versions$")
	w.sees("3 releases, 1 being written")
	w.sees("holds since")
	assert.Equal(t, "4", w.eval(`() => document.querySelectorAll(".version").length`))
	w.eval(`() => { const i = document.querySelector("input[type=date]"); i.focus(); return 1 }`)
	w.eval(`() => { const i = document.querySelector("input[type=date]"), set = Object.getOwnPropertyDescriptor(HTMLInputElement.prototype, "value").set; set.call(i, "2001-01-01"); i.dispatchEvent(new Event("input", {bubbles: true})); return 1 }`)
	w.sees("No revision held on that day")
	w.click("since revision 2")
	w.until(`() => location.pathname.endsWith("/review")`)
	w.until(`() => document.querySelector("select.field")?.selectedOptions[0].text.startsWith("revision 2")`)
}
