package test

import (
	"testing"

	"github.com/stretchr/testify/assert"
)

// A lead chooses another school, sees what it does to every page, takes a change back, saves it
// with its reason, and finds it on an author's desk; who does not lead may look and not touch.
func TestHouseRulesOnTheScreen(t *testing.T) {
	a := open(t)
	w := a.window("rosalind")
	w.go_("/house")
	w.sees("The program’s own: nobody has changed them")
	choose := func(school string) {
		w.eval("() => [...document.querySelectorAll('.house-choice')].find((e) => e.querySelector('b').textContent === '" + school + "').querySelector('input').click()")
	}
	choose("always renew")
	w.sees("Old tensioners and rollers: as the sheet says → always renew")
	choose("floating")
	w.sees("as the page says → floating")
	w.click("^Take the last back")
	w.until(`() => !document.querySelector(".house-side").textContent.includes("floating")`)
	w.eval(`() => [...document.querySelectorAll(".house-family summary")].forEach(e => e.click())`)
	w.eval(`() => [...document.querySelectorAll(".house-weight")].find(e => e.textContent.includes("rollers-stay")).querySelector("input").click()`)
	w.sees("should fix → blocks")

	// What is thought of stays in the window.
	w.go_("/procedures")
	w.go_("/house")
	w.sees("should fix → blocks")
	w.click("^See what it does")
	w.sees("pages were held against it.")
	w.sees("Newly blocked")
	w.fill("#house-why", "They are as old as the belt.")
	w.click("^Save: they hold")
	w.sees("Version 1, Rosalind Achebe")
	w.sees("Nothing yet.")

	ines := a.window("ines")
	ines.go_("/")
	ines.sees("house rules 1: ")
	ines.go_("/house")
	ines.sees("A lead changes them.")
	assert.Equal(t, "true", ines.eval(`() => String([...document.querySelectorAll(".house-body input:not([type=search])")].every((e) => e.disabled))`))
	assert.Equal(t, "false", ines.eval(`() => String(document.body.textContent.includes("From a file…"))`))
	ines.go_("/revisions/4")
	ines.sees("House rule: tensioners and rollers are always renewed with it.")
}
