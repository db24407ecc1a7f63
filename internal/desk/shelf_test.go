package desk_test

import (
	"bytes"
	"image"
	"image/png"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"inklatch/internal/desk"
	"inklatch/internal/store"
)

// Whoever writes puts a picture to a tool and a file to a document; everybody signed in sees
// it; another takes its place, and nothing is kept of what no sheet names. The record says so.
func TestWhatTheHouseKeeps(t *testing.T) {
	h := open(t)
	ines, pavel := h.user("ines"), h.user("pavel")
	_, err := h.d.Engines.List(t.Context(), ines)
	require.NoError(t, err)
	keep := func(u *desk.User, kind, number, name string, b []byte) error {
		return h.d.Shelves.KeepFile(t.Context(), u, desk.ShelfKey{Kind: kind, Number: number}, name, b)
	}
	var picture bytes.Buffer
	require.NoError(t, png.Encode(&picture, image.NewRGBA(image.Rect(0, 0, 40, 30))))
	paper := append([]byte("%PDF-1.4\n"), bytes.Repeat([]byte("x"), 200)...)

	require.NoError(t, keep(ines, "tool", "tl-101", `C:\pictures\pin.png`, picture.Bytes()))
	require.NoError(t, keep(ines, "source", "EL-0418", "letter.pdf", paper))
	for what, err := range map[string]error{
		"a reader":                  keep(pavel, "tool", "TL-101", "a.png", picture.Bytes()),
		"no such tool":              keep(ines, "tool", "TL-9999", "a.png", picture.Bytes()),
		"a tool as a document":      keep(ines, "source", "TL-101", "a.png", picture.Bytes()),
		"no picture":                keep(ines, "tool", "TL-101", "a.png", []byte("hello")),
		"a document for a tool":     keep(ines, "tool", "TL-101", "a.pdf", paper),
		"too large":                 keep(ines, "source", "EL-0418", "a.pdf", append(paper, make([]byte, 11<<20)...)),
		"no kind there is":          keep(ines, "person", "1", "a.pdf", paper),
		"a name of control letters": keep(ines, "tool", "TL-101", "a\x00b.png", picture.Bytes()),
	} {
		assert.Error(t, err, what)
	}
	row := func() *desk.CribRow {
		c, err := h.d.Shelves.Crib(t.Context(), pavel, desk.CribQuery{Filter: "TL-101"})
		require.NoError(t, err)
		require.Len(t, c.Rows, 1)
		return &c.Rows[0]
	}
	require.NotNil(t, row().Picture)
	assert.Equal(t, []string{"pin.png", "image/jpeg", "Ines Okafor"}, []string{row().Picture.Name, row().Picture.Type, row().Picture.By})
	f, err := h.d.Shelves.File(t.Context(), pavel, desk.ShelfKey{Kind: "tool", Number: "TL-101"})
	require.NoError(t, err)
	_, kind, err := image.DecodeConfig(bytes.NewReader(f.Body))
	require.NoError(t, err)
	assert.Equal(t, "jpeg", kind)
	l, err := h.d.Shelves.Sources(t.Context(), ines, desk.CribQuery{Filter: "EL-0418"})
	require.NoError(t, err)
	assert.Equal(t, "letter.pdf", l.Rows[0].File.Name)

	first := row().Picture.ID
	require.NoError(t, keep(ines, "tool", "TL-101", "pin again.png", picture.Bytes()))
	assert.NotEqual(t, first, row().Picture.ID)
	require.NoError(t, h.d.Shelves.TakeFileOff(t.Context(), ines, desk.ShelfKey{Kind: "tool", Number: "TL-101"}))
	assert.Nil(t, row().Picture)
	assert.Error(t, h.d.Shelves.TakeFileOff(t.Context(), ines, desk.ShelfKey{Kind: "tool", Number: "TL-101"}), "it is off already")
	_, err = h.d.Shelves.File(t.Context(), ines, desk.ShelfKey{Kind: "tool", Number: "TL-101"})
	assert.Error(t, err)

	lines, err := h.d.Review.RecordOf(t.Context(), ines, desk.RecordAsk{Kind: "tools and documents", Limit: 4})
	require.NoError(t, err)
	require.Len(t, lines, 4)
	assert.Equal(t, []string{"took pin again.png off TL-101", "Ines Okafor"}, []string{lines[0].Says, lines[0].By})
	h.intact()
}

// A calibration holds for so many months, to the day, and is over the day after.
func TestCalibration(t *testing.T) {
	h := open(t)
	ines := h.user("ines")
	_, err := h.d.Engines.List(t.Context(), ines)
	require.NoError(t, err)
	note := func(done string, months int) error {
		return h.d.Shelves.Calibrate(t.Context(), ines, "TL-140", desk.Calibration{Done: done, Months: months})
	}
	held := func() *desk.Calibration {
		c, err := h.d.Shelves.Crib(t.Context(), ines, desk.CribQuery{Filter: "TL-140"})
		require.NoError(t, err)
		return c.Rows[0].Calibrated
	}
	today := store.Now().UTC()
	day := func(years, days int) string { return today.AddDate(years, 0, days).Format(time.DateOnly) }
	require.NoError(t, note(day(-1, -1), 12))
	assert.True(t, held().Over)
	require.NoError(t, note(day(-1, 1), 12))
	assert.False(t, held().Over)
	require.NoError(t, note("2024-01-31", 1))
	assert.Equal(t, []any{"2024-03-02", true}, []any{held().Due, held().Over})
	require.NoError(t, note("2024-01-31", 0))
	assert.Equal(t, []any{"", false}, []any{held().Due, held().Over})
	for _, v := range []struct {
		done   string
		months int
	}{{"31.1.2024", 12}, {day(0, 2), 12}, {"2024-01-31", -1}, {"2024-01-31", 5000}} {
		assert.Error(t, note(v.done, v.months), "%v", v)
	}
	require.NoError(t, note("", 0))
	assert.Nil(t, held())
	assert.Error(t, h.d.Shelves.Calibrate(t.Context(), h.user("pavel"), "TL-140", desk.Calibration{Done: "2024-01-31", Months: 1}))
}
