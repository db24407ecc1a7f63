package test

import (
	"net/http"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"github.com/go-rod/rod"
	"github.com/go-rod/rod/lib/input"
	"github.com/go-rod/rod/lib/proto"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"inklatch/demo"
)

// A value that changed with a year: a gap is found and mended, and one engine
// gets the case that holds for it. Where a value comes from is signed.
func TestCasesAndSources(t *testing.T) {
	a := open(t)
	w := a.window("ines")
	w.change("TQ3-10W")
	w.tab("Applicability")
	w.sees("Idler bolt")
	e := w.find(`input[aria-label="Years, from–to"]`)
	require.NoError(t, e.SelectAllText())
	w.text("2021-2021")
	w.keys(input.Enter)
	w.sees("No case of the idler bolt is for 2022")
	w.click("Let case 1 run on to 2022")
	w.until(`() => document.querySelector('input[aria-label="Years, from–to"]').value === "2021–2022"`)
	w.until(`() => !document.body.innerText.includes("No case of")`)
	w.sees("case 1, 2021–2022")
	year := w.find(`label:has(.label) input[inputmode=numeric]`)
	require.NoError(t, year.SelectAllText())
	w.text("2024")
	w.sees("case 2, from 2023")
	require.NoError(t, year.SelectAllText())
	w.text("1999")
	w.sees("is outside")

	// Asked for an option, the second case leaves engines without it with none.
	e = w.find(`tr:nth-of-type(2) input[aria-label="With options"]`)
	require.NoError(t, e.Focus())
	w.text("cold pack")
	w.keys(input.Enter)
	w.sees("No case of the idler bolt is for 2023")
	w.eval(`() => { document.activeElement.blur(); return 1 }`)
	w.chord(input.ControlLeft, input.KeyZ)
	w.until(`() => !document.body.innerText.includes("No case of")`)

	w.tab("Limits")
	cell := `[aria-label="Source of the limits"]`
	w.type_(cell, "Measured at the bench, run 12")
	w.sees("Ines Okafor, 20")
	w.tab("Parts")
	w.type_(w.cell("parts/oil-strainer", "Look for"), "crumbs of belt")
	w.atRest()
	w.choose(w.cell("parts/oil-strainer", "Policy"), "always new")
	w.until(`() => document.querySelector('tr[data-ref="parts/oil-strainer"] [aria-label^="Policy"]').value === "always new"`)
	w.p.MustReload()
	w.tab("Parts")
	w.until(`() => document.querySelector('tr[data-ref="parts/oil-strainer"] [aria-label^="Look for"]')?.value === "crumbs of belt"`)
}

// A sheet comes in from a file; one that cannot be read says where, and nothing
// is changed.
func TestASheetFromAFile(t *testing.T) {
	a := open(t)
	raw, err := demo.Files.ReadFile("tq4-18p.engine.json")
	require.NoError(t, err)
	dir := t.TempDir()
	good, bad := filepath.Join(dir, "good.json"), filepath.Join(dir, "bad.json")
	other := strings.Replace(string(raw), `"code": "TQ4-18P"`, `"code": "TQ4-20P"`, 1)
	require.NoError(t, os.WriteFile(good, []byte(other), 0o600))
	require.NoError(t, os.WriteFile(bad, []byte(strings.Replace(other, `"mount": "idle"`, `"mount": "glued"`, 1)), 0o600))
	w := a.window("ines")
	w.go_("/engines")
	w.sees("12 engine codes")
	w.click("New engine code")
	file := w.find(`input[type=file]`)
	require.NoError(t, file.SetFiles([]string{bad}))
	w.sees("nothing was changed")
	w.sees("wheels[1].mount")
	require.NoError(t, file.SetFiles([]string{good}))
	w.until(`() => location.pathname === "/engines/TQ4-20P"`)
	w.sees("Closes;")
}

// With the server gone, what was changed waits; it goes out when it is back.
func TestASheetChangedOffline(t *testing.T) {
	a := open(t)
	w := a.window("ines")
	w.change("TS1-03")
	w.tab("Limits")
	stop := w.p.HijackRequests()
	require.NoError(t, stop.Add("*/edits", "", failing))
	go stop.Run()
	w.type_(`[aria-label="Allowed back-off, degrees"]`, "4")
	w.sees("waiting here")
	require.NoError(t, stop.Stop())
	w.atRest()
	res, err := http.Get(a.url + "/api/health")
	require.NoError(t, err)
	res.Body.Close()
	assert.Equal(t, 200, res.StatusCode)
	w.p.MustReload()
	w.tab("Limits")
	w.until(`() => document.querySelector('[aria-label="Allowed back-off, degrees"]')?.value === "4"`)
}

// failing answers no request.
func failing(h *rod.Hijack) { h.Response.Fail(proto.NetworkErrorReasonConnectionRefused) }

// Boxes of a job sheet are ticked at the engine: they stay while the window does, count,
// and print empty; what reads otherwise has not been done yet.
func TestBoxesOfAJobSheet(t *testing.T) {
	a := open(t)
	w := a.window("pavel")
	w.go_("/revisions/5/sheet")
	w.until(`() => document.querySelectorAll(".job-step .tick").length > 10`)
	w.eval(`() => { const b = document.querySelectorAll(".job-step .tick"); b[0].click(); b[2].click(); return 1 }`)
	w.sees("2 of 21 done")
	w.until(`() => document.querySelectorAll('[data-done="true"]').length === 2`)
	w.p.MustReload()
	w.sees("2 of 21 done")
	assert.Equal(t, "Step 1 is done", w.eval(`() => document.querySelector('.job-step .tick').getAttribute("aria-label")`))
	require.NoError(t, proto.EmulationSetEmulatedMedia{Media: "print"}.Call(w.p))
	assert.Equal(t, "none", w.eval(`() => getComputedStyle(document.querySelector(".job-step .tick:checked"), "::after").content`))
	require.NoError(t, proto.EmulationSetEmulatedMedia{Media: "screen"}.Call(w.p))
	w.click("untick all")
	w.until(`() => document.querySelectorAll(".tick:checked").length === 0`)
	w.until(`() => sessionStorage.getItem("ticks 5") === null`)
	// A tick of other words is none of the step as it reads now.
	w.eval(`() => { sessionStorage.setItem("ticks 5", JSON.stringify(["s01 Do something else."])); return 1 }`)
	w.p.MustReload()
	w.until(`() => document.querySelectorAll(".job-step .tick").length > 10`)
	assert.Equal(t, "0", w.eval(`() => String(document.querySelectorAll(".job-step .tick:checked").length)`))
}
