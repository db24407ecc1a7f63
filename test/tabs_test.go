package test

import (
	"fmt"
	"testing"
	"time"

	"github.com/go-rod/rod/lib/proto"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// streams is how many lines are open to the site.
func (a app) streams() float64 {
	all, err := a.figures.Gather()
	require.NoError(a, err)
	for _, f := range all {
		if f.GetName() == "inklatch_streams" {
			return f.GetMetric()[0].GetGauge().GetValue()
		}
	}
	a.Fatal("streams are not counted")
	return 0
}

// Nine windows of one browser hold one line between them, each hears of its own page, and
// the last of them loads as the first did: a browser has six connections for a server.
func TestNineWindowsShareOneLine(t *testing.T) {
	a := open(t)
	first := a.window("ines")
	first.go_("/revisions/4")
	first.find("#step-s01")
	var all []window
	for i := range 8 {
		p, err := first.p.Browser().Page(proto.TargetCreateTarget{URL: a.url + fmt.Sprintf("/revisions/%d", 4+3*(i%2))})
		require.NoError(t, err)
		w := window{a, p}
		w.until(`() => !!document.querySelector("[id^=step-]")`)
		all = append(all, w)
	}
	all[7].until(`async () => (await fetch("/api/session")).status === 200`)
	require.Eventually(t, func() bool { return a.streams() == 1 }, 20*time.Second, 100*time.Millisecond, "one line")

	jonas := a.window("jonas")
	jonas.go_("/revisions/4")
	jonas.find("#step-s01")
	jonas.note("s01", "heard in every window")
	for _, w := range []window{first, all[0], all[2], all[6]} {
		w.sees("heard in every window")
	}
	for _, w := range all {
		require.NoError(t, w.p.Close())
	}
	jonas.note("s02", "heard still")
	first.sees("heard still")
	assert.LessOrEqual(t, a.streams(), 2.0, "one for each of two browsers")
}
