package test

import (
	"encoding/json"
	"os"
	"testing"

	"github.com/go-rod/rod/lib/input"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// axe-core finds nothing serious or critical on any screen, by day or in the
// bench theme.
func TestScreensAreAccessible(t *testing.T) {
	axe, err := os.ReadFile("../web/node_modules/axe-core/axe.min.js")
	require.NoError(t, err, "make build has not been run")
	a := open(t)
	look := func(w window, name string) {
		t.Helper()
		_, err := w.p.Eval(`(src) => { if (!window.axe) (0, eval)(src); return 1 }`, string(axe))
		if err != nil { // the content policy forbids eval; the debugger may still add a script
			_, err = w.p.EvalOnNewDocument(string(axe))
			require.NoError(t, err)
			require.NoError(t, w.p.Reload())
			require.NoError(t, w.p.WaitLoad())
			w.until(`() => window.axe && document.querySelector("main")`)
			w.until(`() => !document.body.innerText.includes("Reading…")`)
		}
		out := w.eval(`async () => JSON.stringify((await axe.run(document, {resultTypes: ["violations"]})).violations.filter(v => v.impact === "serious" || v.impact === "critical").map(v => ({id: v.id, help: v.help, nodes: v.nodes.slice(0, 4).map(n => n.html.slice(0, 160) + " " + (n.any[0]?.message ?? ""))})))`)
		var found []any
		require.NoError(t, json.Unmarshal([]byte(out), &found))
		assert.Empty(t, found, "%s: %s", name, out)
	}
	w := a.window("")
	w.find("#email")
	look(w, "sign-in")
	w = a.window("ines")
	for _, p := range []string{"/", "/procedures", "/engines", "/engines/TQ4-18P", "/engines/TV6-27D", "/arithmetic", "/revisions/4", "/revisions/4/turns", "/revisions/7/turns", "/revisions/4/sheet", "/revisions/3", "/revisions/999"} {
		w.go_(p)
		w.find("main")
		w.until(`() => !document.body.innerText.includes("Reading…")`)
		look(w, p)
	}
	w.change("TQ3-10W")
	for _, tab := range []string{"Drive", "Marks and locks", "Fasteners", "Parts", "Limits", "Applicability"} {
		w.tab(tab)
		look(w, "changing a sheet, "+tab)
	}
	w.go_("/revisions/4")
	w.find("#step-s01")
	w.keys(input.Enter)
	w.find("#step-s01 .chip")
	look(w, "a step open")
	w.go_("/account")
	w.sees("Where you are signed in")
	look(w, "account")
	w.click("^Bench, dark$")
	w.until(`() => document.documentElement.classList.contains("bench")`)
	w.go_("/revisions/4")
	w.find("#step-s01")
	look(w, "bench theme")
	w = a.window("sunniva")
	w.go_("/people")
	w.sees("Pavel Nygaard")
	look(w, "people")
	w.click("Add somebody")
	w.find("#line-name")
	look(w, "adding somebody")
}
