package test

import (
	"encoding/json"
	"os"
	"testing"

	"github.com/go-rod/rod/lib/input"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// axe-core finds nothing, by any of its rules, on any screen, by day and in the
// bench theme.
func TestScreensAreAccessible(t *testing.T) {
	axe, err := os.ReadFile("../web/node_modules/axe-core/axe.min.js")
	require.NoError(t, err, "make build has not been run")
	a := open(t)
	only := "" // the rules that are looked through, all where empty
	look := func(w window, name string) {
		t.Helper()
		_, err := w.p.Eval(`(src) => { if (!window.axe) (0, eval)(src); return 1 }`, string(axe))
		if err != nil { // the content policy forbids eval; the debugger may still add a script
			_, err = w.p.EvalOnNewDocument(string(axe))
			require.NoError(t, err)
			require.NoError(t, w.p.Reload())
			require.NoError(t, w.p.WaitLoad())
			w.until(`() => window.axe && document.querySelector("main:not([aria-busy])")`)
		}
		w.until(`() => !document.querySelector("main[aria-busy]")`)
		out := w.eval(`async () => JSON.stringify((await axe.run(document, {resultTypes: ["violations"]` + only + `})).violations.map(v => ({id: v.id, impact: v.impact, help: v.help, nodes: v.nodes.slice(0, 4).map(n => n.html.slice(0, 200) + " " + (n.any[0]?.message ?? n.all[0]?.message ?? ""))})))`)
		var found []any
		require.NoError(t, json.Unmarshal([]byte(out), &found))
		assert.Empty(t, found, "%s: %s", name, out)
	}
	w := a.window("")
	w.find("#email")
	look(w, "sign-in")
	w = a.window("ines")
	screens := func(theme string) {
		t.Helper()
		for _, p := range []string{"/", "/procedures", "/procedures?deleted=true", "/engines", "/engines/TQ4-18P", "/engines/TV6-27D?tab=marks", "/tools", "/sources", "/engines/TQ4-18P/torques", "/revisions/4/torques?group=wrench", "/engines/TQ4-18P?tab=fasteners&on=fasteners/crank-bolt", "/arithmetic", "/revisions/4", "/revisions/7", "/revisions/4/turns", "/revisions/4/drill", "/revisions/4/drill?show=all", "/house", "/revisions/7/turns", "/revisions/4/review", "/revisions/7/review", "/revisions/4/versions", "/revisions/4/sheet", "/revisions/3", "/revisions/999", "/account", "/where", "/where?q=crank+pin", "/record", "/change", "/change?from=42+N%C2%B7m&to=45+N%C2%B7m", "/revisions/3/copy", "/revisions/3/copy?to=TV6-27D", "/revisions/18/review?step=t28"} {
			w.go_(p)
			w.find("main:not([aria-busy])")
			look(w, theme+" "+p)
		}
	}
	screens("day")
	w.go_("/engines")
	w.find("main:not([aria-busy])")
	w.keys(input.KeyN)
	w.find("[role=dialog] .layout svg")
	look(w, "a new engine code")
	w.go_("/procedures")
	w.click("^Start a procedure$")
	w.find("#start-engine option:nth-child(2)")
	look(w, "starting a procedure")
	w.change("TQ3-10W")
	for _, tab := range []string{"Engine", "Drive", "Marks and locks", "Fasteners", "Parts", "Limits", "Applicability"} {
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
	w.click("^Bench, dark$")
	w.until(`() => document.documentElement.classList.contains("bench")`)
	only = `, runOnly: ["color-contrast"]` // what a theme can change
	screens("bench")
	only = ""
	w = a.window("sunniva")
	w.go_("/people")
	w.sees("Pavel Nygaard")
	look(w, "people")
	w.click("Add somebody")
	w.find("#line-name")
	look(w, "adding somebody")
}
