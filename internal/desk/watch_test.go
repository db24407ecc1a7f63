package desk_test

import (
	"fmt"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"inklatch/internal/core/page/procedure"
	"inklatch/internal/desk"
	"inklatch/internal/store"
)

// Five hundred windows come into one room: what servers tell each other of it grows with
// the windows, not with their square, and everybody hears of a version that is saved then.
func TestFiveHundredListen(t *testing.T) {
	h := open(t)
	d := h.another()
	told := make(chan store.Event, 10_000)
	ready := make(chan struct{})
	go h.s.Listen(t.Context(), ready, func(e store.Event) { told <- e })
	<-ready
	const windows = 500
	var lines []<-chan desk.Event
	for i := range windows {
		events, leave, err := d.Watchers.Join(fmt.Sprintf("session-%d", i), int64(1000+i), fmt.Sprintf("Person %d", i), desk.Seat{Room: desk.Room{Revision: draft}, Client: fmt.Sprintf("client-%d", i)})
		require.NoError(t, err)
		defer leave()
		lines = append(lines, events)
	}
	r, err := h.d.Drafts.Save(t.Context(), h.user("ines"), draft, desk.Batch{Name: name(), Client: "aaaa", Base: 99, Edits: []procedure.Edit{wait("s01", 5)}})
	require.NoError(t, err)
	saved := r.Meta.Version
	for i, l := range lines {
		hears(t, l, fmt.Sprintf("line %d: the new version", i), func(e desk.Event) bool { return e.Version == saved })
	}
	// All have been told of before the version was: one line carries both.
	events, people := 0, map[string]bool{}
	end := time.After(20 * time.Second)
	for len(people) < windows {
		select {
		case e := <-told:
			events++
			for _, p := range e.Here {
				people[p.Client] = true
			}
		case <-end:
			t.Fatalf("%d of %d windows told of", len(people), windows)
		}
	}
	assert.Less(t, events, windows/4, "events between servers")
}

// A session and a person hold so many lines; one line has seats in many rooms, and a
// seat that is taken again on another line leaves the first.
func TestLinesAreCounted(t *testing.T) {
	d := open(t).another()
	page, sheet := desk.Room{Revision: draft}, desk.Room{Code: "TQ4-18P"}
	join := func(session string, person int64, seats ...desk.Seat) (<-chan desk.Event, func(), error) {
		return d.Watchers.Join(session, person, "Ines", seats...)
	}
	lines := 0
	var leaves []func()
	for s := range 8 {
		for i := range 9 {
			_, leave, err := join(fmt.Sprint("session-", s), 1, desk.Seat{Room: page, Client: fmt.Sprintf("client-%d-%d", s, i)})
			if err != nil {
				assert.Equal(t, 429, problemOf(t, err).Status)
				continue
			}
			lines++
			leaves = append(leaves, leave)
		}
	}
	assert.Equal(t, 32, lines, "eight of a session, thirty-two of a person")
	_, leave, err := join("session-x", 2, desk.Seat{Room: page, Client: "client-x"})
	require.NoError(t, err, "nobody keeps others away")
	leave()
	for _, leave := range leaves {
		leave()
	}

	first, leaveFirst, err := join("session-a", 1, desk.Seat{Room: page, Client: "aaaa"}, desk.Seat{Room: sheet, Client: "bbbb"})
	require.NoError(t, err)
	defer leaveFirst()
	other, leaveOther, err := join("session-b", 2, desk.Seat{Room: page, Client: "cccc"}, desk.Seat{Room: sheet, Client: "cccc"})
	require.NoError(t, err)
	defer leaveOther()
	hears(t, other, "who is at the page", func(e desk.Event) bool {
		return e.All && e.At == "revisions/4" && len(e.Here) == 2
	})
	hears(t, other, "who is at the sheet", func(e desk.Event) bool { return e.All && e.At == "engines/TQ4-18P" })
	d.Watchers.At(sheet, "bbbb", "session-a", "fasteners")
	hears(t, other, "where she is", there("bbbb", "Ines", "fasteners"))

	second, leaveSecond, err := join("session-a", 1, desk.Seat{Room: sheet, Client: "bbbb"})
	require.NoError(t, err)
	defer leaveSecond()
	hears(t, second, "that she is still where she was", there("bbbb", "Ines", "fasteners"))
	d.Watchers.At(page, "cccc", "session-b", "s07")
	hears(t, first, "what goes on at the page", there("cccc", "Ines", "s07"))
	_, leaveThird, err := join("session-a", 1, desk.Seat{Room: page, Client: "aaaa"})
	require.NoError(t, err)
	defer leaveThird()
	for range first { // a line without a seat ends
	}
	d.Watchers.Stand("session-b", desk.Seat{Room: sheet, Client: "bbbb"})
	d.Watchers.Stand("session-a", desk.Seat{Room: sheet, Client: "bbbb"})
	hears(t, other, "that she has left the sheet", left("bbbb"))

	for _, many := range []int{0, 41} {
		_, _, err = join("session-a", 1, make([]desk.Seat, many)...)
		assert.Equal(t, 422, problemOf(t, err).Status)
	}
}
