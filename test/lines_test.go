package test

import (
	"encoding/json"
	"strings"
	"sync/atomic"
	"testing"
	"time"

	"github.com/go-rod/rod"
	"github.com/go-rod/rod/lib/input"
	"github.com/go-rod/rod/lib/proto"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// emptyPage starts a page of a code and puts the cursor into the quick line.
func (w window) emptyPage(title, code string) {
	w.Helper()
	w.go_("/procedures")
	w.sees("Check valve timing")
	w.chord(input.ControlLeft, input.KeyK)
	w.find("[cmdk-input]")
	w.text("start a proc")
	w.sees("Start a procedure")
	w.keys(input.Enter)
	w.find("#start-title")
	w.until(`() => document.activeElement?.id === "start-title" && document.querySelectorAll("#start-engine option").length > 0`)
	w.text(title)
	require.NoError(w, w.find("#start-engine").Select([]string{"^" + code}, true, "regex"))
	w.focus("#start-title")
	w.keys(input.Enter)
	w.sees("An empty page")
	w.until(`() => document.activeElement?.id === "quick"`)
}

// steps are the sentences of the page as the server has them.
func (w window) steps() []string {
	w.Helper()
	var out []string
	raw := w.eval(`async () => JSON.stringify((await (await fetch("/api" + location.pathname)).json()).view.rows.map(r => r.sentence))`)
	require.NoError(w, json.Unmarshal([]byte(raw), &out))
	return out
}

// comes waits until the server has a sentence at a step.
func (w window) comes(sentence string, at int) {
	w.Helper()
	b, _ := json.Marshal(sentence)
	w.until(`async () => (await (await fetch("/api" + location.pathname)).json()).view.rows[` + itoa(at) + `]?.sentence === ` + string(b))
}

// paste puts a text into the quick line as the clipboard does.
func (w window) paste(page string) {
	w.Helper()
	b, _ := json.Marshal(page)
	w.eval(`() => { const d = new DataTransfer(); d.setData("text/plain", ` + string(b) + `);
		document.querySelector("#quick").dispatchEvent(new ClipboardEvent("paste", { clipboardData: d, bubbles: true, cancelable: true })); return "" }`)
}

// Lines leave the quick line at once and become steps in the order they were
// typed, each once, however late and in whatever order the server answers; a
// server that is silent is told of, and a reload loses nothing.
func TestLinesKeepTheirOrder(t *testing.T) {
	a := open(t)
	w := a.window("ines")
	w.emptyPage("Lines", "TQ4-18P")
	var silent atomic.Bool
	var reads atomic.Int32
	cut := w.p.HijackRequests()
	require.NoError(t, cut.Add("*/look", "", func(h *rod.Hijack) { h.Response.Fail(proto.NetworkErrorReasonAborted) }))
	require.NoError(t, cut.Add("*/read", "", func(h *rod.Hijack) {
		if silent.Load() {
			h.Response.Fail(proto.NetworkErrorReasonTimedOut)
			return
		}
		// The first answers are the latest.
		time.Sleep(time.Duration(max(0, 600-200*reads.Add(1))) * time.Millisecond)
		h.ContinueRequest(&proto.FetchContinueRequest{})
	}))
	go cut.Run()
	typed := []string{"remove upper timing cover", "fit cam bar", "turn crank 2 turns clockwise", "admire the view"}
	for _, line := range typed {
		w.text(line)
		w.keys(input.Enter)
		w.until(`() => document.querySelector("#quick").value === ""`)
	}
	w.comes("Admire the view.", 3)
	assert.Equal(t, []string{"Remove the upper timing cover.", "Fit the cam bar by hand (TL-102).", "Turn the crank 2 turns clockwise.", "Admire the view."}, w.steps())

	silent.Store(true)
	for _, line := range []string{"take out cam bar", "wait 15 min"} {
		w.text(line)
		w.keys(input.Enter)
	}
	w.text("half a li")
	w.sees("Not saved yet: 2 lines.")
	w.sees("The server does not answer.")
	w.go_(w.eval(`() => location.pathname`))
	w.sees("Not saved yet: 2 lines.")
	assert.Equal(t, "half a li", w.eval(`() => document.querySelector("#quick").value`), "a half typed line stays")
	silent.Store(false)
	w.comes("Wait 15 min.", 5)
	assert.Equal(t, []string{"Take out the cam bar.", "Wait 15 min."}, w.steps()[4:])
	require.NoError(t, cut.Stop())
}

// A line may leave the quick line after the one above it has become a step and
// before that step is drawn: it still goes below it.
func TestALineFasterThanTheScreen(t *testing.T) {
	a := open(t)
	w := a.window("ines")
	w.emptyPage("Faster", "TQ4-18P")
	w.step("remove upper timing cover", 1)
	held := make(chan struct{})
	cut := w.p.HijackRequests()
	require.NoError(t, cut.Add("*/look", "", func(h *rod.Hijack) { h.Response.Fail(proto.NetworkErrorReasonAborted) }))
	require.NoError(t, cut.Add("*/read", "", func(h *rod.Hijack) {
		<-held
		h.ContinueRequest(&proto.FetchContinueRequest{})
	}))
	go cut.Run()
	// Enter comes in the very moment in which the line before stops waiting.
	w.eval(`() => {
		const gone = Storage.prototype.removeItem;
		Storage.prototype.removeItem = function (key) {
			gone.call(this, key);
			if (!key.startsWith("lines-")) return;
			Storage.prototype.removeItem = gone;
			document.querySelector("#quick").dispatchEvent(new KeyboardEvent("keydown", { key: "Enter", bubbles: true, cancelable: true }));
		};
		return "";
	}`)
	w.text("fit cam bar")
	w.keys(input.Enter)
	w.text("fit crank pin")
	close(held)
	w.until(`() => document.querySelector("#quick").value === ""`)
	w.text("wait 15 min")
	w.keys(input.Enter)
	w.until(`async () => (await (await fetch("/api" + location.pathname)).json()).view.rows.length === 4`)
	assert.Equal(t, []string{"Remove the upper timing cover.", "Fit the cam bar by hand (TL-102).", "Fit the crank pin by hand (TL-101).", "Wait 15 min."}, w.steps())
	require.NoError(t, cut.Stop())
}

// A pasted page is shown before anything is written: what reads, what asks and
// what stays text. It is walked and mended from the keyboard, taken with one key
// and undone as one.
func TestAPastedPageIsShownFirst(t *testing.T) {
	a := open(t)
	w := a.window("ines")
	w.emptyPage("Pasted", "TV6-27D")
	w.paste("1. Disconnect the battery\n2. Fit the cam plate\n3. Do not turn the crank\nNote: keep the washers\n4. Admire the view\n5. Turn crank −90°\n6. Tighten the crank bolt to 1,200 Nm\n")
	w.sees("A pasted page: 7 lines")
	w.sees("3 read, 2 ask, 2 stay text")
	w.until(`() => document.activeElement?.getAttribute("aria-label") === "Line 2"`)
	assert.Equal(t, "cam plate", w.eval(`() => document.querySelector("[data-outcome=asks] [data-unread]").textContent.replace(/^the /, "")`), "what is asked about is underlined")
	assert.Empty(t, w.steps(), "nothing is written yet")
	w.keys(input.Tab)
	w.sees("Fit the left cam plate and the right cam plate by hand")
	require.NoError(t, w.p.KeyActions().Press(input.AltLeft).Type(input.ArrowDown).Do())
	w.until(`() => document.activeElement?.getAttribute("aria-label") === "Line 5"`)
	require.NoError(t, w.p.KeyActions().Press(input.ControlLeft).Type(input.Delete).Do())
	w.sees("A pasted page: 6 lines")
	require.NoError(t, w.p.KeyActions().Press(input.ControlLeft).Type(input.Enter).Do())
	w.until(`() => document.querySelectorAll(".step-row:not([data-ghost=true])").length === 5`)
	w.saved()
	w.until(`async () => (await (await fetch("/api" + location.pathname)).json()).view.rows.length === 5`)
	steps := w.steps()
	require.Len(t, steps, 5)
	assert.Equal(t, "Do not turn the crank.", steps[2])
	assert.Equal(t, "Keep the washers.", w.eval(`async () => (await (await fetch("/api" + location.pathname)).json()).view.rows[2].step.note`), "a note belongs to the step above it")
	w.keys(input.Escape)
	w.chord(input.ControlLeft, input.KeyZ)
	w.until(`async () => (await (await fetch("/api" + location.pathname)).json()).view.rows.length === 0`)
	w.sees("An empty page")
}

// A choice made by keyboard in the step editor stays; a bare number takes the
// field's unit; a caution added has the cursor in it; the empty page's examples
// are this engine's own; Backspace takes nothing out.
func TestTheStepEditorByKeyboard(t *testing.T) {
	a := open(t)
	w := a.window("ines")
	w.emptyPage("Editor", "TB2-11H")
	example := w.eval(`() => document.querySelector("p.font-mono").innerText.split("\n").join("|")`)
	assert.Contains(t, example, "crank pin")
	assert.NotContains(t, example, "cam bar", "there is none on this engine")
	w.step(strings.Split(example, "|")[0], 1)
	w.step("wait 5 min", 2)
	w.text("caution: hot parts")
	w.keys(input.Enter)
	w.sees("Hot parts")
	w.until(`async () => (await (await fetch("/api" + location.pathname)).json()).view.rows[1]?.step.cautions?.length === 1`)
	w.keys(input.Escape)
	w.keys(input.Enter)
	field := `input[placeholder="e.g. 15 min"]`
	w.find(field)
	w.focus(field)
	require.NoError(t, w.find(field).SelectAllText())
	w.text("27")
	w.until(`() => document.querySelector('input[placeholder="e.g. 15 min"]').parentElement.innerText.includes("min")`)
	w.keys(input.Escape)
	w.comes("Wait 27 min.", 1)

	w.keys(input.KeyN)
	w.step("admire the view", 3)
	w.comes("Admire the view.", 2)
	w.keys(input.Escape)
	w.keys(input.Enter)
	words := `.chip input[class*=mono]`
	w.find(words)
	w.focus(words)
	require.NoError(t, w.find(words).SelectAllText())
	w.text("turn crank 2 turns ccw")
	w.keys(input.Enter)
	w.comes("Turn the crank 2 turns counterclockwise.", 2)
	w.keys(input.Delete)
	w.until(`async () => (await (await fetch("/api" + location.pathname)).json()).view.rows.length === 2`)
	w.keys(input.KeyN)
	w.step("fit left cam peg", 3)
	w.comes("Fit the left cam peg by hand (TL-502).", 2)
	w.keys(input.Escape)
	w.keys(input.Backspace)
	assert.Len(t, w.steps(), 3, "Backspace takes nothing out")
	w.keys(input.Enter)
	w.find(`button[aria-label^="lock:"]`)
	w.focus(`button[aria-label^="lock:"]`)
	w.keys(input.Enter)
	w.find("[cmdk-input]")
	w.text("right cam")
	w.keys(input.Enter)
	w.until(`() => document.querySelector('button[aria-label^="lock:"]')?.innerText.includes("right cam peg")`)
	w.keys(input.Escape)
	w.comes("Fit the right cam peg by hand (TL-502).", 2)
}

// A line that gives several instructions is offered as that many steps, in the
// quick line and on a pasted page; Tab takes them, in their order.
func TestALineOfSeveralInstructionsComesApart(t *testing.T) {
	a := open(t)
	w := a.window("ines")
	w.emptyPage("Apart", "TQ4-18P")
	w.text("refit the lower timing cover and tighten its bolts to 10 Nm crosswise")
	w.sees("adds it as 2 steps")
	w.keys(input.Tab)
	w.until(`() => document.querySelector("#quick").value === ""`)
	w.comes("Tighten the lower cover bolts to 10 N·m (88.5 lbf·in) crosswise.", 1)
	assert.Equal(t, "Refit the lower timing cover.", w.steps()[0])

	w.paste("Fit the crank pin and turn the crank up to it\nAdmire the view\n")
	w.sees("1 ask, 1 stay text")
	w.sees("2 steps: Fit the crank pin / turn the crank up to the crank pin")
	w.keys(input.Tab)
	w.sees("A pasted page: 3 lines")
	w.sees("2 read, 0 ask, 1 stay text")
	w.until(`() => document.activeElement?.getAttribute("aria-label") === "Line 2"`)
	require.NoError(t, w.p.KeyActions().Press(input.ControlLeft).Type(input.Enter).Do())
	w.comes("Admire the view.", 4)
	assert.Equal(t, []string{"Fit the crank pin by hand (TL-101).", "Turn the crank onto the crank pin."}, w.steps()[2:4])
}
