package test

import (
	"fmt"
	"os"
	"path/filepath"
	"testing"

	"github.com/go-rod/rod/lib/input"
	"github.com/go-rod/rod/lib/proto"
	"github.com/stretchr/testify/require"
)

// A fastener is opened in depth: its angle is tried by key and by hand, another condition stands
// beside it, and what was tried goes on the sheet and back with one key.
func TestABoltInDepth(t *testing.T) {
	a := open(t)
	w := a.window("ines")
	w.change("TQ4-18P")
	w.tab("Fasteners")
	w.type_(w.cell("fasteners/crank-bolt", "Count"), "1")
	depth := `section[aria-label="The crank bolt in depth"]`
	w.find(depth)
	w.sees("The angle takes it past yield, and it is used once")
	w.sees("the angle left out")
	w.sees("TL-140 torque wrench")
	slider := depth + ` [role=slider]`
	require.NoError(t, w.find(slider).Focus())
	w.keys(input.ArrowRight)
	w.keys(input.ArrowRight)
	w.until(`() => document.querySelector('` + depth + ` input').value === "120 N·m + 92 ±5°"`)
	w.sees("Put it on the sheet")
	w.keys(input.Escape)
	w.until(`() => document.querySelector('` + slider + `').getAttribute("aria-valuenow") === "92"`) // Escape belongs to the field
	require.NoError(t, w.find(depth+" input").Focus())
	w.keys(input.Escape)
	w.until(`() => document.querySelector('` + slider + `').getAttribute("aria-valuenow") === "90"`)

	// By hand: the end of the band is drawn to the left until it is past yield at some friction only.
	w.eval(`() => document.querySelector('` + slider + `').scrollIntoView({ block: "center" })`)
	m := w.p.Mouse
	var x, y float64
	_, err := fmt.Sscan(w.eval(`() => { const r = document.querySelector('`+slider+` circle').getBoundingClientRect(); return (r.x + r.width / 2) + " " + (r.y + r.height / 2) }`), &x, &y)
	require.NoError(t, err)
	require.NoError(t, m.MoveTo(proto.NewPoint(x, y)))
	require.NoError(t, m.Down(proto.InputMouseButtonLeft, 1))
	require.NoError(t, m.MoveLinear(proto.NewPoint(x-290, y), 8))
	require.NoError(t, m.Up(proto.InputMouseButtonLeft, 1))
	w.sees("The angle may take it past yield")
	w.until(`() => Number(document.querySelector('` + slider + `').getAttribute("aria-valuenow")) < 30`)
	w.click("^Put it on the sheet$")
	w.until(`async () => { const s = (await (await fetch("/api/engines/TQ4-18P?number=2")).json()).sheet; return s.fasteners.find((f) => f.id === "crank-bolt").spec[1].angle.match(/^[0-9]{1,2} /) }`)
	w.chord(input.ControlLeft, input.KeyZ)
	w.until(`async () => { const s = (await (await fetch("/api/engines/TQ4-18P?number=2")).json()).sheet; return s.fasteners.find((f) => f.id === "crank-bolt").spec[1].angle === "90 ±5°" }`)

	w.choose(depth+" select", "dry")
	w.sees("if dry")
	w.type_(depth+" input", "a lot")
	w.sees("a lot")
	w.until(`() => document.querySelector('` + depth + ` input').getAttribute("aria-invalid") === "true"`)
}

// A tightening step opens with what it does to its bolt, and follows what is typed; the quick line
// says what a torque comes to before it is a step.
func TestATighteningStepShowsItsBolt(t *testing.T) {
	a := open(t)
	w := a.window("ines")
	w.go_("/revisions/4")
	w.find("#quick")
	require.NoError(t, w.find("#quick").Focus())
	w.text("tighten idler bolt 390 Nm")
	w.sees("The bolt breaks · 39 N·m meant?")
	require.NoError(t, w.find("#quick").SelectAllText())
	w.text("tighten idler bolt 39 Nm")
	w.sees("TL-140 torque wrench")
	w.go_("/revisions/4?step=s26")
	w.find("#step-s26")
	w.until(`() => document.querySelector("[data-steps]") && document.activeElement.id !== "quick"`)
	w.keys(input.Enter)
	w.find("#step-s26 .chip")
	panel := `section[aria-label="What this does to the bolt"]`
	w.find(panel)
	w.until(`() => document.querySelector('` + panel + `').innerText.includes("39 N·m = 28.8 lbf·ft")`)
	require.NoError(t, w.find(`.chip input[class*=mono]`).SelectAllText())
	w.text("390 Nm")
	w.until(`() => document.querySelector('` + panel + `').innerText.includes("It breaks before the wrench clicks")`)
}

// The torque table of a code is sorted, grouped, taken out as a file, changed and read back, each
// change shown before it is written; one undo on the sheet takes them back.
func TestTheTorqueTable(t *testing.T) {
	a := open(t)
	w := a.window("ines")
	w.change("TQ4-18P")
	w.tab("Fasteners")
	w.click("^Torque table$")
	w.sees("TQ4-18P, engine sheet 2")
	w.click("^Class")
	w.until(`() => document.querySelector("th[aria-sort]").innerText.startsWith("Class")`)
	w.choose("main select", "wrench")
	w.sees("TL-140 torque wrench")
	require.Equal(t, "true", w.eval(`async () => { const r = await fetch("/api/engines/TQ4-18P/torques/file?format=xlsx"); const b = new Uint8Array(await r.arrayBuffer()); return String(r.ok && b[0] === 0x50 && r.headers.get("content-disposition").includes("TQ4-18P")) }`))

	file := filepath.Join(t.TempDir(), "changed.csv")
	require.NoError(t, os.WriteFile(file, []byte("Fastener,Tightened to,Condition\nidler bolt,41 Nm,oiled\nno such bolt,5 Nm,\n"), 0o600))
	w.find(`input[type=file]`).MustSetFiles(file)
	w.sees("What changed.csv would change")
	w.sees("The sheet has no fastener “no such bolt”")
	w.click("^Write 2 values$")
	w.until(`async () => { const s = (await (await fetch("/api/engines/TQ4-18P")).json()).sheet; const f = s.fasteners.find((v) => v.id === "idler-bolt"); return f.spec[0].torque === "41 N·m" && f.lubricant === "oiled" }`)
	w.until(`() => [...document.querySelectorAll("main tbody tr")].some((r) => r.innerText.includes("idler bolt") && r.innerText.includes("41 N·m"))`)
	w.click("^The engine sheet$")
	w.find("tr[data-ref]")
	w.chord(input.ControlLeft, input.KeyZ)
	w.until(`async () => { const s = (await (await fetch("/api/engines/TQ4-18P")).json()).sheet; const f = s.fasteners.find((v) => v.id === "idler-bolt"); return f.spec[0].torque === "39 N·m" && !f.lubricant }`)

	w.go_("/revisions/4/sheet")
	w.click("^Torques$")
	w.sees("Renew timing belt and tensioner, revision 4")
}

// The crib answers where a tool stands, and leads to replacing it.
func TestTheToolsOfTheHouse(t *testing.T) {
	a := open(t)
	w := a.window("ines")
	w.go_("/tools")
	w.sees("Kit TL-100")
	w.sees("holds inlet cam and exhaust cam ±0.4°")
	w.click("places? on 5 pages")
	w.until(`() => location.pathname === "/where" && location.search.includes("TL-101")`)
	w.go_("/tools?q=no+such")
	w.sees("No engine sheet in use has such a tool.")
	w.go_("/tools?engine=TC4-24C")
	w.sees("Kit TL-400")
	w.until(`() => !document.body.innerText.includes("Kit TL-100")`)
	w.find(`a[aria-label="Replace TL-401"]`).MustClick()
	w.until(`() => location.pathname === "/change" && document.querySelector("main input").value === "TL-401"`)
}

// A letter is listed once, chosen for the values that come from it, and once another replaces it
// every value on it is found, each with its mend.
func TestALetterIsReplaced(t *testing.T) {
	a := open(t)
	w := a.window("ines")
	w.change("TQ4-18P")
	w.tab("Limits")
	w.choose(`select[aria-label="Document of the crank bolt"]`, "letter EL-0418")
	w.find(`[aria-label="Where in it, crank bolt"]`)
	w.type_(`[aria-label="Where in it, crank bolt"]`, "table 1")
	w.click("^Add a document$")
	w.until(`() => document.activeElement.matches('[aria-label^="Number"]')`)
	w.text("EL-0601")
	w.keys(input.Enter)
	w.until(`() => [...document.querySelectorAll('select[aria-label^="Replaced by"] option')].some((o) => o.innerText === "letter EL-0601")`)
	w.choose(`tr[data-ref="sources/el-0418"] select[aria-label^="Replaced by"]`, "letter EL-0601")
	w.sees("The values of the crank bolt rest on letter EL-0418, which letter EL-0601 has replaced")
	w.click("^They stand in letter EL-0601 too$")
	w.until(`async () => { const s = (await (await fetch("/api/engines/TQ4-18P?number=2")).json()).sheet; return Object.values(s.evidence).some((e) => e.source.startsWith("letter EL-0601, table")) }`)
	w.go_("/sources")
	w.sees("EL-0418")
	w.click("^TQ4-18P$")
	w.until(`() => document.querySelector("[role=tab][data-state=active]")?.innerText === "Limits"`)
}
