package test

import (
	"fmt"
	"regexp"
	"strconv"
	"testing"

	"github.com/go-rod/rod/lib/input"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

const oil = "/revisions/18/review"

// A reader goes through what changed with J, gravest first; what it asks a word for
// counts with R, what is plain counts once it has stood in view, and moving on sooner
// reads nothing. U shows what is left, and the latch closes over it once what they
// asked is settled.
func TestAReviewByKeyboard(t *testing.T) {
	a := open(t)
	w := a.window("mirja")
	w.go_("/")
	w.sees("3 things wait for you")
	w.click("Renew timing belt in oil")
	w.until(`() => location.pathname == "` + oil + `"`)
	w.sees("Which letter asks for two minutes?")
	w.sees("You have read 47 of 51 steps as they stand now")
	w.keys(input.KeyU)
	w.until(`() => document.querySelectorAll(".review-row").length == 4`)
	w.go_(oil)
	w.sees("4 steps are not read as they stand now")
	met := func(text string) {
		t.Helper()
		w.until(`() => document.activeElement?.dataset.on === "true" && document.activeElement.innerText.includes("` + text + `")`)
	}
	w.keys(input.KeyJ)
	met("Start the engine") // a value comes before anything else
	w.sees("It counts once you say so: it has changed.")
	for _, next := range []string{"Lay the roller", "Inspect the oil strainer", "Refit the crank pulley"} {
		w.keys(input.KeyJ)
		met(next)
	}
	w.sees("You have read 47 of 51 steps") // walking past reads nothing
	w.keys(input.KeyK)
	met("Inspect the oil strainer")
	w.keys(input.KeyR)
	w.sees("You have read 48 of 51 steps")
	w.sees("Read as it stands now.")
	w.keys(input.KeyR)
	w.sees("You have read 47 of 51 steps")
	w.keys(input.KeyR)
	w.sees("You have read 48 of 51 steps")
	w.keys(input.KeyU)
	w.until(`() => document.querySelectorAll(".review-row").length == 3`)
	w.until(`() => document.querySelector("[data-line=t42]")`)
	w.eval(`() => { document.querySelector("[data-line=t42]").click(); return 1 }`)
	met("Refit the accessory belt")
	w.sees("It counts once it has stood here for 2 s.")
	w.sees("You have read 49 of 51 steps") // it stands, and nobody touches anything
	w.until(`() => document.querySelectorAll(".review-row").length == 2`)
	w.keys(input.KeyJ)
	met("Start the engine")
	w.keys(input.KeyR)
	w.until(`() => document.querySelectorAll(".review-row").length == 1`)
	met("Lay the roller")
	w.keys(input.KeyR)
	w.sees("You have read all of it as it stands now")
	w.keys(input.KeyU)
	w.sees("all of it is read as it stands now")
	w.click("^1 question of yours is open$")
	w.click("^Settled$")
	w.sees("no question of yours is open")
	assert.Equal(t, "0", w.eval(`() => [...document.querySelectorAll("button")].filter(b => b.innerText == "Close the technical latch").length`), "what must be changed is open")

	aiko := a.window("aiko")
	aiko.go_(oil + "?step=t15a")
	aiko.sees("Say where they are laid")
	aiko.click("^Settled$")
	w.sees("no point that must be changed is open") // it arrives without a reload
	w.click("^Close the technical latch$")
	w.sees("The technical latch is closed")
}

// Every latch closed, nothing is released by itself: a lead looks at what it changes
// and what it is to replace, waives what stays open with a reason, and releases it.
func TestAReleaseIsAnAct(t *testing.T) {
	a := open(t)
	w := a.window("rosalind")
	var id string
	for _, who := range []string{"ines", "mirja", "teodor", "aiko"} {
		v := w
		if who != "rosalind" {
			v = a.window(who)
		}
		if id == "" {
			v.go_("/")
			id = v.eval(`async () => {
				const post = async (url, body) => (await fetch(url, {method: "POST", headers: {"Content-Type": "application/json"}, body: JSON.stringify(body)})).json();
				const made = await post("/api/procedures/2/drafts", {reason: "To look at the release."});
				const id = made.id ?? made.revision;
				const r = await (await fetch("/api/revisions/" + id)).json();
				const first = r.view.rows.map((v) => v.step).find((v) => v.verb === "tighten");
				await post("/api/revisions/" + id + "/edits", {batch: "a-note-at-a-bolt", client: "walk", base: r.meta.version, edits: [{op: "set", id: first.id, step: {...first, note: "Mind the snow on the deck."}}]});
				return String(id);
			}`)
			require.Regexp(t, `^\d+$`, id)
		}
		if who == "mirja" {
			v.go_("/revisions/" + id + "/review?step=head")
			v.find("[data-line]")
			v.keys(input.KeyC)
			v.find(`form[aria-label="Ask or say"] textarea`)
			v.text("Is there snow in summer?")
			v.chord(input.ControlLeft, input.Enter)
			v.sees("Is there snow in summer?")
			w.go_("/revisions/" + id + "/review?step=head")
			w.sees("Is there snow in summer?")
			w.click("^Waive it$")
			w.sees("Say why it may stay as it is")
			w.text("It is a note.")
			w.click("^Waive it$")
			w.sees("It is a note.")
		}
		v.readAll(revisionIn(id))
		v.go_("/revisions/" + id + "/review")
		v.click("^Close the [a-z]+ latch$")
		v.sees("latch is closed")
	}
	w.go_("/revisions/" + id + "/review")
	w.sees("Release")
	assert.Contains(t, w.eval(`() => document.body.innerText`), "ready")
	w.click("^Release…$")
	w.find("[role=dialog]")
	w.sees("It takes the place of revision")
	w.click("^Release revision [0-9]+$")
	w.sees("is released")
	ines := a.window("ines")
	ines.go_("/revisions/" + id)
	ines.sees("released")
}

// What one says stands beside the step at once, for everybody who is there; a
// suggestion is proved while it is typed and taken with a key.
func TestWhatIsSaidArrives(t *testing.T) {
	a := open(t)
	ines, teodor := a.window("ines"), a.window("teodor")
	ines.go_(oil + "?step=t45")
	ines.sees("Which letter asks")
	teodor.go_(oil + "?step=t45")
	teodor.sees("Which letter asks")
	jonas := a.window("jonas")
	jonas.go_("/revisions/18?step=t45")
	jonas.until(`() => document.querySelector("#step-t45")?.innerText.includes("1 open remark")`)
	teodor.keys(input.KeyC)
	teodor.find(`form[aria-label="Ask or say"] textarea`)
	teodor.text("Is it still cold then, @In")
	teodor.click("Ines Okafor")
	teodor.until(`() => document.querySelector('form[aria-label="Ask or say"] textarea').value.endsWith("@Ines Okafor ")`)
	teodor.text("or warm?")
	teodor.chord(input.ControlLeft, input.Enter)
	ines.sees("Is it still cold then, @Ines Okafor or warm?")
	jonas.until(`() => document.querySelector("#step-t45").innerText.includes("2 open remarks")`) // where it is written, too

	teodor.keys(input.KeyS)
	teodor.until(`() => document.querySelector('form textarea.font-mono')?.value.startsWith("start the engine")`)
	teodor.chord(input.ControlLeft, input.KeyA)
	teodor.text("start the moon")
	teodor.sees("✕")
	teodor.chord(input.ControlLeft, input.KeyA)
	teodor.text("start the engine, run it for 90 s and listen")
	teodor.sees("proved: nothing new is found")
	teodor.click("^Suggest it$")
	ines.sees("Reads: Start the engine, run it for 90 s and listen.")
	ines.find(`[data-line="t45"]`)
	ines.keys(input.KeyT)
	ines.sees("The suggestion is taken")
	ines.until(`() => document.querySelector('[data-line="t45"]').innerText.includes("90 s")`)
	teodor.until(`() => document.querySelector('[data-line="t45"]').innerText.includes("90 s")`)
}

// A revision is returned with what to mend, and stands on its author's desk so.
func TestAReturnAndAWithdrawal(t *testing.T) {
	a := open(t)
	w := a.window("teodor")
	w.go_("/revisions/7/review")
	w.click("^Return it to its author")
	w.find("#points")
	w.text("Say which bank first.\nThe title is the old one.")
	w.click("^Return it$")
	w.sees("It is returned")
	w.sees("Say which bank first.")
	ines := a.window("ines")
	ines.go_("/")
	ines.sees("2 points that must be changed")

	// A release is withdrawn; whoever has its sheet open sees it at once.
	pavel, mirja := a.window("pavel"), a.window("mirja")
	pavel.go_("/revisions/5/sheet")
	pavel.find(".paper")
	mirja.go_("/revisions/5/sheet")
	mirja.click("^Withdraw")
	mirja.find("#withdrawn-why")
	mirja.text("The stop bolt of 2025 is shorter.")
	mirja.click("^Withdraw it$")
	pavel.sees("Do not work by this sheet: The stop bolt of 2025 is shorter.")
	pavel.until(`() => document.querySelectorAll(".across span").length > 3`)
	assert.Equal(t, "0", pavel.eval(`() => [...document.querySelectorAll("button")].filter(b => b.innerText.startsWith("Withdraw")).length`), "readers withdraw nothing")
}

// On a telephone the line that is met opens under itself, with what was said and
// the buttons that stand for keys.
func TestAReviewOnATelephone(t *testing.T) {
	a := open(t)
	w := a.window("mirja")
	w.size(390, 800)
	w.go_(oil)
	w.sees("5 steps have changed")
	w.click("^Next$")
	w.sees("Which letter asks")
	w.click("^Next$")
	w.until(`() => document.querySelector('[data-line="t15a"] article')?.innerText.includes("Say where they are laid")`)
	w.eval(`() => { [...document.querySelectorAll(".review-bar button")].find((b) => b.innerText === "Read").click(); return 1 }`)
	w.until(`() => document.querySelector('[data-line="t15a"]').innerText.includes("Read as it stands now.")`)
	w.click("^Ask or say$")
	w.find(`[data-line="t15a"] form textarea`)
	w.text("Into which box?")
	w.eval(`() => { document.querySelector("form button[type=submit]").click(); return 1 }`)
	w.until(`() => [...document.querySelectorAll('[data-line="t15a"] article')].some(a => a.innerText.includes("Into which box?"))`)
	assert.Equal(t, "true", w.eval(`() => document.documentElement.scrollWidth <= 390`))
}

// readAll marks all of a revision as read, as somebody would with J and R; how that
// is done by hand TestAReviewByKeyboard shows.
func (w window) readAll(revision int) {
	w.Helper()
	assert.Equal(w, "200", w.eval(fmt.Sprintf(`async () => {
		const r = await (await fetch("/api/revisions/%[1]d/redline")).json();
		const body = {version: r.meta.version, sheet: r.reading.sheet, steps: r.reading.unread.map(u => u.step)};
		return (await fetch("/api/revisions/%[1]d/readings", {method: "POST", headers: {"Content-Type": "application/json"}, body: JSON.stringify(body)})).status + "";
	}`, revision)))
}

// revisionIn is the revision that an address names.
func revisionIn(path string) int {
	n, _ := strconv.Atoi(regexp.MustCompile(`\d+`).FindString(path))
	return n
}

// Two at one engine sheet see where the other is, and what they save.
func TestTwoAtOneSheet(t *testing.T) {
	a := open(t)
	ines, jonas := a.window("ines"), a.window("jonas")
	ines.go_("/engines/TC4-24C?tab=limits")
	ines.find("main:not([aria-busy])")
	jonas.go_("/engines/TC4-24C?tab=fasteners")
	jonas.find("main:not([aria-busy])")
	ines.sees("Jonas Brandvold is at fasteners")
	jonas.sees("Ines Okafor is at limits")
	jonas.eval(`async () => {
		const v = await (await fetch("/api/engines/TC4-24C")).json();
		const r = await fetch("/api/engines/TC4-24C/edits", {method: "POST", headers: {"Content-Type": "application/json"}, body: JSON.stringify({batch: "batch-of-jonas", client: "jonas-1", base: v.meta.version, edits: [{path: "limits/backOff", value: 17}]})});
		return r.status + "";
	}`)
	ines.until(`() => [...document.querySelectorAll("main input")].some(i => i.value.startsWith("17"))`)
}

// The record is read by kind and person, and says what was done to which step.
func TestTheRecord(t *testing.T) {
	a := open(t)
	w := a.window("rosalind")
	w.go_("/record")
	w.sees("asked: Which letter asks for two minutes?")
	w.sees("at: Start the engine, run it for 2 min and listen.")
	w.choose("main label:nth-of-type(2) select", "latches and releases")
	w.until(`() => !document.body.innerText.includes("asked: Which letter") && document.body.innerText.includes("closed the author latch")`)
	w.until(`() => location.search.includes("kind=latches")`)
	assert.Contains(t, w.eval(`async () => (await (await fetch("/api/record/export")).text()).split("\n")[0]`), `"seq":1`)
	pavel := a.window("pavel")
	pavel.go_("/record")
	pavel.sees("The record is for those who work on pages")
}

// Where used finds what is typed, and leads to the step.
func TestWhereUsed(t *testing.T) {
	a := open(t)
	w := a.window("ines")
	w.go_("/where")
	w.focus("input[type=search]")
	w.text("39 N·m")
	w.sees("Tighten the idler bolt")
	w.choose("main label:nth-of-type(2) select", "locks")
	w.sees("It is used nowhere")
	w.choose("main label:nth-of-type(2) select", "torques and angles")
	w.click("Tighten the idler bolt to 39")
	w.until(`() => location.pathname.startsWith("/revisions/") && location.search.includes("step=")`)
}

// A reader says what was wrong at a step, and sees the answer.
func TestAFieldNoteFromTheSheet(t *testing.T) {
	a := open(t)
	pavel, ines := a.window("pavel"), a.window("ines")
	pavel.go_("/revisions/5/sheet")
	pavel.find(".paper .note-button")
	pavel.eval(`() => { document.querySelectorAll(".paper .note-button")[2].click(); return 1 }`)
	pavel.find("#field-note")
	pavel.text("The plug is on the left of 2023.")
	pavel.click("^Send it$")
	pavel.sees("Your field note is with whoever answers for this sheet")
	pavel.sees("at step 3, not answered yet")
	ines.go_("/")
	ines.sees("Pavel Nygaard: The plug is on the left of 2023.")
	ines.go_("/revisions/5/sheet#field-notes")
	ines.find("[data-note] textarea")
	ines.focus("[data-note] textarea")
	ines.text("Only where it was changed; see EL-0433.")
	ines.click("^Answer$")
	pavel.sees("Only where it was changed; see EL-0433.")
	pavel.go_("/desk")
	pavel.sees("Only where it was changed; see EL-0433.")
}
