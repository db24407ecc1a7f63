package test

import (
	"testing"

	"github.com/go-rod/rod/lib/input"
	"github.com/go-rod/rod/lib/proto"
	"github.com/stretchr/testify/require"
)

// reload loads the page again, as a browser does.
func (w window) reload() {
	w.Helper()
	require.NoError(w, w.p.Reload())
	require.NoError(w, w.p.WaitLoad())
	w.find("main")
}

// size gives the window another size.
func (w window) size(width, height int) {
	w.Helper()
	require.NoError(w, w.p.SetViewport(&proto.EmulationSetDeviceMetricsOverride{Width: width, Height: height, DeviceScaleFactor: 1}))
}

// touch makes the window one of a device without a mouse.
func (w window) touch(width, height int) {
	w.Helper()
	require.NoError(w, w.p.SetViewport(&proto.EmulationSetDeviceMetricsOverride{Width: width, Height: height, DeviceScaleFactor: 1, Mobile: true}))
	require.NoError(w, proto.EmulationSetTouchEmulationEnabled{Enabled: true}.Call(w.p))
}

// Loaded again, come back to, or sent on as a link, a page is where its author
// was: the step, what is in sight, the tab, the filter, the count.
func TestAPageIsWhereItWas(t *testing.T) {
	a := open(t)
	w := a.window("ines")
	w.go_("/revisions/3")
	w.find("[data-on=true].step-row")
	w.eval(`() => { document.querySelector("[data-steps]").focus(); return 1 }`)
	w.keys(input.PageDown)
	w.keys(input.PageDown)
	w.until(`() => /[?&]step=/.test(location.search)`)
	w.until(`() => /[?&]from=/.test(location.search)`)
	at := w.eval(`() => document.querySelector("[data-on=true].step-row").id`)
	top := w.eval(`() => String(document.querySelector("[data-steps]").scrollTop > 100)`)
	require.Equal(t, "true", top)
	link := w.eval(`() => location.pathname + location.search`)
	w.reload()
	w.until(`() => document.querySelector("[data-on=true].step-row")?.id === "` + at + `"`)
	w.until(`() => document.querySelector("[data-steps]").scrollTop > 100`)

	w.go_("/procedures")
	w.until(`() => document.activeElement?.matches("main input")`)
	w.text("TV6")
	w.sees("both banks")
	w.until(`() => !document.body.innerText.includes("TS1-03") && /[?&]q=TV6/.test(location.search)`)
	w.reload()
	w.until(`() => document.querySelector("main input")?.value === "TV6" && !document.body.innerText.includes("TS1-03")`)

	w.go_("/engines/TQ4-18P")
	w.tab("Fasteners")
	w.until(`() => /[?&]tab=fasteners/.test(location.search)`)
	w.reload()
	w.until(`() => document.querySelector("[role=tab][data-state=active]")?.innerText === "Fasteners"`)

	w.go_("/revisions/3/turns")
	w.sees("Prove at 2 turns")
	w.keys(input.ArrowRight)
	w.keys(input.ArrowRight)
	w.sees("After 4 turns")
	w.until(`() => /[?&]n=4/.test(location.search)`)
	w.reload()
	w.sees("After 4 turns")

	v := a.window("jonas")
	v.go_(link)
	v.until(`() => document.querySelector("[data-on=true].step-row")?.id === "` + at + `"`)
}

// A caution is never cut off, however narrow the window is, and the chart still
// stands at its steps.
func TestCautionsWrap(t *testing.T) {
	a := open(t)
	w := a.window("ines")
	w.go_("/revisions/3")
	w.find(".caution")
	for _, width := range []int{1280, 820, 640} {
		w.size(width, 640)
		w.until(`() => [...document.querySelectorAll(".caution")].length > 0 && [...document.querySelectorAll(".caution")].every(c => c.scrollWidth <= c.clientWidth + 1 && c.scrollHeight <= c.clientHeight + 1)`)
		w.until(`() => [...document.querySelectorAll("li[data-index]")].every(li => { const next = li.nextElementSibling; return !next || next.getBoundingClientRect().top >= li.getBoundingClientRect().bottom - 1 })`)
	}
	require.Equal(t, "true", w.eval(`() => String(document.querySelector(".caution").clientHeight > 30)`), "on 640 pixels it takes two lines")
}

// What a table has no column for stands under the row that is worked at, and is
// typed there like anything else.
func TestEveryValueOfAThingCanBeTyped(t *testing.T) {
	a := open(t)
	w := a.window("ines")
	w.change("TQ4-18P")
	w.find(`[data-ref="tensioners/tensioner"]`)
	w.eval(`() => { document.querySelector('[data-ref="tensioners/tensioner"] td').click(); return 1 }`)
	w.find("[data-details]")
	place := `[data-details] input[aria-label^="Pointer by temperature"]`
	require.Contains(t, w.eval(`() => document.querySelector('`+place+`').value`), "pointer in the notch")
	w.type_(place, "when it is warm")
	w.sees("is no place by temperature")
	w.until(`() => document.querySelector('` + place + `').getAttribute("aria-invalid") === "true"`)
	w.type_(place, "5: low of the notch; 25 °C: in the notch")
	w.until(`() => document.querySelector('` + place + `').value.startsWith("5 °C: low of the notch")`)
	w.tab("Drive")
	w.eval(`() => { document.querySelector('[data-ref="wheels/inlet-wheel"] td').click(); return 1 }`)
	w.until(`() => document.querySelector('[data-details] [aria-label^="Clamped by"]')?.innerText.includes("inlet sprocket bolt")`)
}

// A page that works from some positions only says so, shows one that fails, and
// is mended with a key.
func TestAPageThatWorksFromSomePositions(t *testing.T) {
	a := open(t)
	w := a.window("ines")
	w.go_("/procedures")
	w.click("both banks")
	w.find(".step-row")
	w.until(`async () => {
		const id = location.pathname.split("/")[2];
		const r = await (await fetch("/api/revisions/" + id)).json();
		const look = r.view.rows.find((row) => row.step.id === "v13a");
		if (!look) return true;
		const a = await fetch("/api/revisions/" + id + "/edits", { method: "POST", headers: { "Content-Type": "application/json" }, body: JSON.stringify({ batch: "positions-1", client: "positions", base: r.view.version, edits: [{ op: "remove", id: look.step.id }] }) });
		return a.status === 200;
	}`)
	w.reload()
	w.sees("works from 2 of 6 positions")
	w.keys(input.Period)
	w.until(`() => document.querySelector("button[aria-pressed=true]")?.innerText === "where it works"`)
	w.eval(`() => { [...document.querySelectorAll("button[aria-pressed]")].find(b => b.innerText.startsWith("2 turns")).click(); return 1 }`)
	w.until(`() => document.querySelectorAll(".clash-mark").length > 0`)
	w.keys(input.KeyM)
	w.until(`() => document.body.innerText.includes("No findings")`)
	w.sees("and pump mark")
}
