package test

import (
	"fmt"
	"strings"
	"testing"

	"github.com/go-rod/rod/lib/input"
	"github.com/go-rod/rod/lib/proto"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// change starts a draft of a code's sheet.
func (w window) change(code string) {
	w.Helper()
	w.go_("/engines/" + code)
	w.click("Change this sheet")
	w.find("[role=dialog] input")
	w.text("A new drawing came.")
	w.keys(input.Enter)
	w.until(`() => document.body.innerText.includes("draft") && !document.querySelector("[role=dialog]") && document.querySelector("input[aria-label^=Name]")`)
}

func (w window) tab(name string) {
	w.Helper()
	e, err := w.p.ElementR("[role=tab]", "^"+name+"$")
	require.NoError(w, err)
	require.NoError(w, e.Click(proto.InputMouseButtonLeft, 1))
	w.until(fmt.Sprintf(`() => document.querySelector("[role=tab][data-state=active]").innerText === %q`, name))
}

// place is the middle of a wheel on the screen.
func (w window) place(wheel string) proto.Point {
	w.Helper()
	w.find(`[data-wheel="` + wheel + `"]`)
	var x, y float64
	_, err := fmt.Sscan(w.eval(`() => { const r = document.querySelector('[data-wheel="`+wheel+`"]').getBoundingClientRect(); return (r.x + r.width / 2) + " " + (r.y + r.height / 2) }`), &x, &y)
	require.NoError(w, err)
	return proto.NewPoint(x, y)
}

func (w window) cell(ref, label string) string {
	return `tr[data-ref="` + ref + `"] [aria-label^="` + label + `"]`
}

// type_ puts a value into a cell and leaves it.
func (w window) type_(selector, value string) {
	w.Helper()
	e := w.find(selector)
	require.NoError(w, e.SelectAllText())
	w.text(value)
	w.keys(input.Enter)
}

func (w window) choose(selector, option string) {
	w.Helper()
	require.NoError(w, w.find(selector).Select([]string{"^" + option + "$"}, true, "regex"))
}

func (w window) atRest() {
	w.Helper()
	w.until(`() => /^Saved/.test(document.querySelector("[role=status]:not(.toast)")?.textContent ?? "")`)
}

// An author describes a code from a blank page: the crank, a shaft, wheels from
// the drawing and from the table, a belt led over them, its length from a mend.
func TestAnEngineFromABlankPage(t *testing.T) {
	a := open(t)
	w := a.window("ines")
	w.go_("/engines")
	w.sees("12 engine codes")
	w.keys(input.KeyN)
	w.find("[role=dialog] input")
	w.text("tx2-10p")
	w.keys(input.Enter)
	w.sees("Start at the crank")
	w.click("Place the crank wheel")
	w.find(w.cell("wheels/crank-wheel", "Teeth")) // it stands at 0, 0 without a click
	w.type_(w.cell("wheels/crank-wheel", "Teeth"), "20")
	w.atRest()

	w.click("Add a shaft")
	w.type_(w.cell("shafts/shaft", "Name"), "cam")
	w.choose(w.cell("shafts/shaft", "Kind"), "cam")
	w.sees("Nothing drives the cam")
	w.keys(input.Escape)
	w.eval(`() => { document.activeElement.blur(); return 1 }`)
	w.keys(input.KeyW)
	w.sees("The wheel’s centre, mm")
	c := w.place("crank-wheel")
	require.NoError(t, w.p.Mouse.MoveTo(proto.NewPoint(c.X, c.Y-150)))
	require.NoError(t, w.p.Mouse.Click(proto.InputMouseButtonLeft, 1))
	w.find(w.cell("wheels/wheel-2", "Teeth"))
	for label, v := range map[string]string{"Name": "cam", "Teeth": "40", "x, mm": "0", "y, mm": "210"} {
		w.type_(w.cell("wheels/wheel-2", label), v)
		w.atRest()
	}
	w.choose(w.cell("wheels/wheel-2", "Shaft"), "cam")
	w.choose(w.cell("wheels/wheel-2", "Mount"), "keyed")
	w.atRest()

	w.click("Lead a belt")
	for _, id := range []string{"crank-wheel", "wheel-2"} {
		require.NoError(t, w.p.Mouse.MoveTo(w.place(id)))
		require.NoError(t, w.p.Mouse.Click(proto.InputMouseButtonLeft, 1))
	}
	w.sees("2 so far")
	w.keys(input.Enter)
	// 20 and 40 teeth of 8 mm on 210 mm: the open-belt closed form gives 663 mm,
	// 83 teeth of 8 mm are 664, and that is what a new belt gets.
	w.until(`() => document.querySelector("[aria-label^=Teeth][value='83']")`)
	w.until(`() => !document.body.innerText.includes("Nothing drives the cam") && [...document.querySelectorAll(".derived")].some(e => e.textContent === "1/2")`)
	w.chord(input.ControlLeft, input.KeyZ)
	w.until(`() => !document.querySelector("[aria-label^=Teeth][value='83']")`)
}

func TestTheDrawingIsTheEditor(t *testing.T) {
	a := open(t)
	w := a.window("ines")
	w.change("TQ4-18P")
	w.sees("Closes;")

	// Dragged, the belt follows and says at once that it does not close.
	from := w.place("pump-wheel")
	require.NoError(t, w.p.Mouse.MoveTo(from))
	require.NoError(t, w.p.Mouse.Down(proto.InputMouseButtonLeft, 1))
	for i := 1; i <= 6; i++ {
		require.NoError(t, w.p.Mouse.MoveTo(proto.NewPoint(from.X+float64(i)*6, from.Y)))
		w.frames()
	}
	w.sees("The timing belt does not close")
	require.NoError(t, w.p.Mouse.Up(proto.InputMouseButtonLeft, 1))
	w.atRest()
	x := w.find(w.cell("wheels/pump-wheel", "x, mm")).MustProperty("value").String()
	assert.NotEqual(t, "−74", x)
	assert.Contains(t, w.find(`tr[data-ref="wheels/pump-wheel"]`).MustProperty("outerHTML").String(), `data-on="true"`, "the row beside it is met too")
	w.chord(input.ControlLeft, input.KeyZ)
	w.until(`() => document.querySelector('tr[data-ref="wheels/pump-wheel"] [aria-label^="x, mm"]').value === "−74"`)
	w.sees("Closes;")

	// Nudged by keys, saved when they rest.
	require.NoError(t, w.find(`[data-wheel="idler-wheel"]`).Focus())
	w.keys(input.ArrowRight, input.ArrowRight, input.ArrowUp)
	w.until(`() => document.querySelector('tr[data-ref="wheels/idler-wheel"] [aria-label^="x, mm"]').value === "71"`)
	w.chord(input.ShiftLeft, input.ArrowLeft)
	w.until(`() => document.querySelector('tr[data-ref="wheels/idler-wheel"] [aria-label^="x, mm"]').value === "61"`)
	w.until(`async () => (await (await fetch("/api/engines/TQ4-18P")).json()).sheet.wheels.some(w => w.id === "idler-wheel" && w.x === 61 && w.y === 113)`)
	w.atRest()
	w.p.MustReload()
	w.until(`() => document.querySelector('tr[data-ref="wheels/idler-wheel"] [aria-label^="y, mm"]')?.value === "113"`)

	// Typed: a comma will do; nonsense stays in the cell, in red, and is not saved.
	w.type_(w.cell("wheels/idler-wheel", "x, mm"), "69,5")
	w.until(`() => document.querySelector('tr[data-ref="wheels/idler-wheel"] [aria-label^="x, mm"]').value === "69.5"`)
	w.type_(w.cell("wheels/idler-wheel", "x, mm"), "wide")
	w.until(`() => document.querySelector('tr[data-ref="wheels/idler-wheel"] [aria-label^="x, mm"][aria-invalid=true]')?.value === "wide"`)

	// A cam with the wrong teeth is red where it stands, and a key mends it.
	w.type_(w.cell("wheels/inlet-wheel", "Teeth"), "40")
	w.sees("The inlet cam turns 21/40 of a crank turn")
	w.until(`() => document.querySelector('.cell-bad [aria-label^=Teeth]')?.value === "40"`)
	w.eval(`() => { document.activeElement.blur(); return 1 }`)
	w.keys(input.Period)
	w.until(`() => document.querySelector("section[aria-label=Findings] li[data-on=true]")`)
	for range 6 {
		if strings.Contains(w.eval(`() => document.querySelector("section[aria-label=Findings] li[data-on=true]").innerText`), "21/40") {
			break
		}
		w.keys(input.Period)
	}
	w.keys(input.KeyM)
	w.until(`() => document.querySelector('tr[data-ref="wheels/inlet-wheel"] [aria-label^=Teeth]').value === "42"`)

	// A mark goes round its wheel by keys.
	w.tab("Marks and locks")
	require.NoError(t, w.find(`[aria-label^="inlet cam mark,"]`).Focus())
	w.keys(input.ArrowRight, input.ArrowRight, input.ArrowRight)
	w.until(`() => document.querySelector('tr[data-ref="marks/inlet-mark"] [aria-label^="Pointer"]').value === "3"`)

	// A mark and a lock are placed on the wheel that is met.
	meet := func(wheel string) {
		p := w.place(wheel)
		require.NoError(t, w.p.Mouse.MoveTo(proto.NewPoint(p.X+30, p.Y+30)))
		require.NoError(t, w.p.Mouse.Click(proto.InputMouseButtonLeft, 1))
	}
	meet("exhaust-wheel")
	w.click("Add a mark on the exhaust wheel")
	w.until(`() => document.querySelector('tr[data-ref="marks/mark"] [aria-label^="Wheel"]')?.value === "exhaust-wheel"`)
	meet("exhaust-wheel")
	w.click("Add a lock on the exhaust cam")
	w.until(`() => /exhaust cam/.test(document.querySelector('tr[data-ref="locks/lock"] [aria-label^="Holds"]')?.textContent)`)
	w.atRest()

	// Taken out, a wheel is taken out of the route too; undone, it is back.
	w.tab("Drive")
	w.find(`[data-wheel="idler-wheel"]`)
	w.frames()
	require.NoError(t, w.find(`[data-wheel="idler-wheel"]`).Focus())
	w.keys(input.Delete)
	w.until(`() => !document.querySelector('[data-wheel="idler-wheel"]')`)
	w.atRest()
	w.chord(input.ControlLeft, input.KeyZ)
	w.until(`() => document.querySelector('[data-wheel="idler-wheel"]')`)
}

func TestASheetGoesIntoUseAndItsProceduresAreProvedAgain(t *testing.T) {
	a := open(t)
	w := a.window("ines")
	w.change("TQ4-18P")
	w.tab("Fasteners")
	w.type_(w.cell("fasteners/idler-bolt", "Tightened to"), "60 Nm")
	w.until(`() => document.querySelector('tr[data-ref="fasteners/idler-bolt"] [aria-label^="Tightened to"]').value === "60 N·m"`)
	w.type_(w.cell("fasteners/crank-bolt", "Tightened to"), "a lot")
	w.sees("not a value with a unit")
	w.atRest()
	w.click("^Review$")
	w.sees("1 thing changed since sheet 1")
	w.sees("Touches 4 pages")
	w.sees("Not yet")
	w.click("^Ask for it to be looked at$")
	w.sees("to be looked at")

	m := &hands{window: a.window("mirja")}
	m.go_("/")
	m.sees("Ines Okafor asks for it to be looked at")
	m.click("^Engine sheet 2")
	m.sees("1 thing changed since sheet 1")
	m.keys(input.KeyJ, input.KeyC)
	m.n = 0
	m.find(`form[aria-label="Ask or say"] textarea`)
	m.text("Which letter says 60?")
	m.chord(input.ControlLeft, input.Enter)
	m.sees("Which letter says 60?")
	m.eval(`() => { document.querySelector("[data-thing]").focus(); return 1 }`)
	m.readSheet()
	m.sees("Not yet: 1 question or point is open")
	w.go_("/engines/TQ4-18P/review")
	w.click("idler bolt")
	w.click("^Answer…$")
	w.text("EL-0911.")
	w.click("^Answer$")
	m.sees("EL-0911.")
	m.click("^Settled$")
	m.click("Put sheet 2 into use")
	m.sees("5 procedures proved against this sheet")
	m.sees("Step 26 says 39 N·m for the idler bolt; the sheet says 60 N·m.")
	m.sees("3 now blocked")
	w.go_("/revisions/4")
	w.sees("the sheet says 60 N·m")
}

func TestTheTurnPlanMendsTheCount(t *testing.T) {
	a := open(t)
	w := a.window("ines")
	w.go_("/revisions/4")
	w.find("#step-s01")
	status := w.eval(`async () => {
		const rev = await (await fetch("/api/revisions/4")).json();
		const step = rev.view.rows.find((r) => r.step.id === "s33").step;
		const r = await fetch("/api/revisions/4/edits", {method: "POST", headers: {"Content-Type": "application/json"}, body: JSON.stringify({batch: "make-it-three", client: "walk", base: rev.meta.version, edits: [{op: "set", id: "s33", step: {...step, turns: 3}}]})});
		return String(r.status);
	}`)
	require.Equal(t, "200", status)
	w.go_("/revisions/4/turns")
	w.sees("As written it ends at 3 turns, where not all is home")
	w.sees("After 3 turns, not all home")
	w.keys(input.ArrowRight)
	w.sees("After 4 turns, all home")
	w.keys(input.ArrowLeft, input.ArrowLeft)
	w.sees("After 2 turns, all home")
	w.keys(input.KeyM)
	w.until(`() => !document.body.innerText.includes("As written it ends")`)
	n := w.eval(`async () => String((await (await fetch("/api/revisions/4")).json()).view.rows.find((r) => r.step.id === "s33").step.turns)`)
	assert.Equal(t, "2", n)

	// The V6 needs six; a reader may look at a latched plan.
	w.go_("/revisions/7/turns")
	w.sees("Prove at 6 turns. Past it, go on to 12.")
	w.sees("1 of 4 away")
	w.sees("asks for 6 turns and 12 min; the procedure gives 6 and 12 min")
	p := a.window("pavel")
	p.go_("/revisions/8/turns")
	p.sees("Prove at 2 turns")
}

func TestBenchArithmetic(t *testing.T) {
	a := open(t)
	w := a.window("aiko")
	w.go_("/arithmetic")
	field := func(section, name string) string {
		return `section[aria-label="` + section + `"] label:has(.label) input` + name
	}
	put := func(section string, n int, value string) {
		w.eval(fmt.Sprintf(`() => { const e = document.querySelectorAll(%q)[%d]; e.focus(); e.select(); return 1 }`, field(section, ""), n))
		w.text(value)
	}
	const rim = "Degrees and millimetres on a rim"
	w.sees("39.79 mm")
	put(rim, 2, "20")
	w.sees("20.00 mm")
	w.until(`() => document.querySelectorAll('section[aria-label="Degrees and millimetres on a rim"] input')[1].value === "12.06"`)
	put(rim, 0, "-4")
	w.sees("A rim has a diameter between 0 and 5000 mm.")

	const tooth = "A tooth out, and whether the tool sees it"
	put(tooth, 3, "2")
	w.sees("The tool cannot see it")
	put(tooth, 3, "1,2")
	w.sees("The tool may see it")

	const drops = "Top dead centre from two equal drops"
	w.sees("TDC 0.80° ±0.41°")
	put(drops, 5, "45")
	w.sees("further apart than this stroke and rod give")

	const note = "The tone of a free run"
	w.sees("✓ Accept")
	put(note, 4, "114 109 104 99 95 92")
	w.sees("Still settling")
	put(note, 4, "110 x")
	w.sees("Type figures only")

	const clamp = "What a torque does to a bolt"
	w.until(`() => document.querySelector('section[aria-label="What a torque does to a bolt"]').innerText.includes("17.2 to 27.9 kN")`)
	put(clamp, 1, "390 Nm")
	w.sees("The bolt breaks, whatever is on its thread. 39 N·m")
	put(clamp, 0, "M10×2")
	w.sees("the nearest is M10")

	const wrench = "What the wrench is set to"
	w.until(`() => document.querySelector('section[aria-label="What the wrench is set to"]').innerText.includes("108 N·m")`)
	put(wrench, 4, "5")
	w.sees("This wrench does not do it: it is used from 28 N·m on")

	const joint = "What an angle does to a bolt in its joint"
	w.sees("The angle takes it past yield: it is never used again")
	put(joint, 1, "50 Nm + 20°")
	w.sees("It stays a spring through the angle")
	put(joint, 2, "")
	w.sees("The clamped length is missing")

	const convert = "A value in other units"
	put(convert, 0, "25.4 mm")
	w.until(`() => document.querySelector('section[aria-label="A value in other units"]').innerText.includes("1 in")`)
	put(convert, 0, "a lot")
	w.until(`() => document.querySelector('section[aria-label="A value in other units"] input').getAttribute("aria-invalid") === "true"`)

	// The sheet's own run opens here with its figures.
	w.go_("/engines/TB2-11H")
	w.click("Judge readings of it")
	w.until(`() => location.pathname === "/arithmetic" && [...document.querySelectorAll("input")].some(e => e.value === "123.4")`)
}
