package test

import (
	"fmt"
	"testing"
	"time"

	"github.com/go-rod/rod"
	"github.com/go-rod/rod/lib/input"
	"github.com/go-rod/rod/lib/proto"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"inklatch/demo"
)

// lose ends every session of somebody, as a server does.
func (a app) lose(email string) {
	a.Helper()
	p, err := a.store.Reads(a.Context()).PersonByEmail(email)
	require.NoError(a, err)
	require.NoError(a, a.store.EndSessions(a.Context(), p.ID, ""))
}

// comeBack signs in again where the page asks for it.
func (w window) comeBack() {
	w.Helper()
	w.sees("You are signed out")
	w.focus("#again-password")
	w.text(demo.Password)
	w.keys(input.Enter)
	w.until(`() => !document.body.innerText.includes("You are signed out")`)
}

// noteOf is the note of a step as the server has it.
func (w window) noteOf(id string) string {
	w.Helper()
	return w.eval(fmt.Sprintf(`async () => (await (await fetch("/api/revisions/4")).json()).view.rows.find(r => r.step.id === %q)?.step.note ?? ""`, id))
}

// What is typed while one is signed out goes out after signing in, in a
// procedure and in an engine sheet.
func TestWhatIsTypedSignedOutIsKept(t *testing.T) {
	a := open(t)
	w := a.window("ines")
	w.go_("/revisions/4")
	w.find("#step-s01")
	// The page is not to hear of it before it types: a line of its own is cut, one that all
	// windows share could not be from here.
	_, err := w.p.EvalOnNewDocument("delete window.SharedWorker")
	require.NoError(t, err)
	cut := w.p.HijackRequests()
	require.NoError(t, cut.Add("*/events*", "", func(h *rod.Hijack) { h.Response.Fail(proto.NetworkErrorReasonAborted) }))
	go cut.Run()
	w.go_("/revisions/4")
	w.find("#step-s02")
	a.lose("ines@tarn.example")
	w.note("s02", "typed while signed out")
	w.sees("Signed out, 1 edit waiting here")
	w.sees("From before your last edits")
	w.comeBack()
	w.saved()
	assert.Equal(t, "typed while signed out", w.noteOf("s02"))

	w.change("TQ3-10W")
	w.tab("Drive")
	wheel := `tr[data-ref^="wheels/"] [aria-label^="x, mm"]`
	w.find(wheel)
	a.lose("ines@tarn.example")
	// In the page itself: the question for the password may come at any moment and
	// take the keys.
	w.eval(fmt.Sprintf(`async () => {
		const cell = document.querySelector(%q)
		Object.getOwnPropertyDescriptor(HTMLInputElement.prototype, "value").set.call(cell, "123.5")
		cell.dispatchEvent(new Event("input", {bubbles: true}))
		await new Promise(r => setTimeout(r, 100))
		cell.dispatchEvent(new KeyboardEvent("keydown", {key: "Enter", bubbles: true}))
	}`, wheel))
	w.comeBack()
	w.until(`() => /^Saved/.test(document.querySelector("[role=status]:not(.toast)").textContent)`)
	w.until(`async () => (await (await fetch("/api/engines/TQ3-10W")).json()).sheet.wheels.some(w => w.x === 123.5)`)
	require.NoError(t, cut.Stop())
}

// Only an answer that names its version counts as saved; what is kept survives a
// reload, and a window that is closed before it could send.
func TestWhatIsNotSavedIsKept(t *testing.T) {
	a := open(t)
	w := a.window("ines")
	w.go_("/revisions/4")
	w.find("#step-s02")
	cut := w.p.HijackRequests()
	sent := make(chan struct{}, 100)
	require.NoError(t, cut.Add("*/edits", "", func(h *rod.Hijack) {
		h.Response.SetHeader("Content-Type", "application/json").SetBody("")
		sent <- struct{}{}
	}))
	go cut.Run()
	w.note("s02", "an empty yes")
	w.sees("Offline, 1 edit waiting here")
	for range 3 { // it is sent again and again
		<-sent
	}
	assert.NotEqual(t, "an empty yes", w.noteOf("s02"))
	w.go_("/revisions/4")
	w.find("#step-s02")
	w.sees("1 edit waiting here")
	require.NoError(t, cut.Stop())
	w.saved()
	assert.Equal(t, "an empty yes", w.noteOf("s02"), "after a reload")

	p, err := w.p.Browser().Page(proto.TargetCreateTarget{URL: a.url + "/revisions/4"})
	require.NoError(t, err)
	second := window{a, p.Timeout(3 * time.Minute)}
	second.find("#step-s03")
	cut = second.p.HijackRequests()
	require.NoError(t, cut.Add("*/edits", "", func(h *rod.Hijack) { h.Response.Fail(proto.NetworkErrorReasonInternetDisconnected) }))
	go cut.Run()
	second.note("s03", "from a window that was closed")
	second.sees("1 edit waiting here")
	require.NoError(t, p.Close())
	w.go_("/revisions/4")
	w.until(`async () => (await (await fetch("/api/revisions/4")).json()).view.rows.find(r => r.step.id === "s03")?.step.note === "from a window that was closed"`)
	w.until(`() => !Object.keys(localStorage).some(k => k.startsWith("outbox/"))`)
}

// An edit the server will not take is set aside and shown, and goes when the
// person says so.
func TestAnEditThatIsRefusedIsShown(t *testing.T) {
	a := open(t)
	w := a.window("ines")
	w.go_("/revisions/4")
	w.find("#step-s02")
	w.note("s02", longText())
	w.sees("An edit was not saved and is kept here.")
	w.sees("at most 4000 letters")
	w.note("s03", "this one is fine")
	w.until(`async () => (await (await fetch("/api/revisions/4")).json()).view.rows.find(r => r.step.id === "s03")?.step.note === "this one is fine"`)
	w.click("Remove it")
	w.until(`() => !document.body.innerText.includes("An edit was not saved")`)
}

// fill puts a value into a field and stays in it.
func (w window) fill(selector, value string) {
	w.Helper()
	require.NoError(w, w.find(selector).SelectAllText())
	w.text(value)
}

func longText() string {
	b := make([]byte, 4100)
	for i := range b {
		b[i] = 'x'
	}
	return string(b)
}

// An editor who signs an older version is told what has changed, and signs the
// newer one once that was seen.
func TestALatchOverAnOlderVersion(t *testing.T) {
	a := open(t)
	mirja, ines := a.window("mirja"), a.window("ines")
	mirja.readAll(7)
	mirja.go_("/revisions/7/turns")
	mirja.sees("Renew timing belt, both banks")
	ines.readAll(7)
	ines.go_("/revisions/7")
	ines.find("main")
	ines.eval(`async () => {
		const r = await (await fetch("/api/revisions/7")).json();
		const step = r.view.rows[1].step; step.note = "Mind the clip.";
		const send = (path, body) => fetch("/api/revisions/7" + path, {method: "POST", headers: {"Content-Type": "application/json"}, body: JSON.stringify(body)});
		const saved = await (await send("/edits", {batch: "batch-of-ines", client: "ines", base: r.meta.version, edits: [{op: "set", step}]})).json();
		return (await send("/latches/author", {version: saved.meta.version})).status + "";
	}`)
	mirja.click("Close technical")
	mirja.click("^Close the latch$")
	mirja.sees("The draft has changed since you looked. Nothing was signed.")
	mirja.sees("note changed")
	mirja.click("I have seen this")
	mirja.sees("The technical latch is closed")
}

// An administrator adds somebody, who comes in by the link and is let go again.
func TestSomebodyComesIn(t *testing.T) {
	a := open(t)
	w := a.window("")
	w.signsIn("sunniva")
	w.click("^People$")
	w.click("Add somebody")
	w.fill("#line-name", "Halvard Lien")
	w.fill("#line-email", "halvard@tarn.example")
	require.NoError(t, w.find(`input[name=role][value=author]`).Click(proto.InputMouseButtonLeft, 1))
	w.click("Add and make a link")
	w.sees("The way in for Halvard Lien")
	link := w.eval(`() => document.querySelector("[aria-label=Link]").value`)
	w.click("^Done$")
	w.sees("invited")

	h := a.window("")
	require.NoError(t, h.p.Navigate(link))
	h.sees("Welcome, Halvard Lien")
	assert.Equal(t, "/enter", h.eval(`() => location.pathname + location.hash`), "the secret does not stay in the address")
	h.fill("#line-password", "password1234")
	h.fill("#line-repeat", "password1234")
	h.click("Go in")
	h.sees("tried first")
	h.fill("#line-password", "a lift over the valley")
	h.fill("#line-repeat", "a lift over the hill")
	h.click("Go in")
	h.sees("do not match")
	h.fill("#line-repeat", "a lift over the valley")
	h.click("Go in")
	h.sees("My desk")
	h.go_("/revisions/4")
	h.find("#quick")

	require.NoError(t, w.p.Reload())
	w.sees("Halvard Lien")
	w.until(`() => [...document.querySelectorAll("li, tr")].some(l => l.innerText.includes("Halvard") && l.innerText.includes("●"))`)
	require.NoError(t, w.find(`[aria-label="Look after Halvard Lien"]`).Click(proto.InputMouseButtonLeft, 1))
	w.click("^Lock out$")
	w.sees("locked out")
	h.sees("You are signed out")
}

func TestADraftIsDeletedAndBroughtBack(t *testing.T) {
	a := open(t)
	w := a.window("ines")
	w.go_("/revisions/4")
	w.find("#step-s01")
	w.click("^More$")
	w.click("Delete this draft")
	w.sees("The draft is deleted")
	w.click("^Deleted drafts$")
	w.sees("1 deleted draft")
	w.until(`() => !document.body.innerText.includes("Check valve timing")`)
	w.click("Renew timing belt and tensioner")
	w.click("Bring the draft back")
	w.sees("is a draft again")
	w.until(`() => document.querySelector("#quick")`)
}
