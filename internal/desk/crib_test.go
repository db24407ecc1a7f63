package desk_test

import (
	"encoding/json"
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"inklatch/internal/core/engine"
	"inklatch/internal/desk"
)

// The crib has every tool of every sheet in use once, by kit; where sheets differ about a tool
// both stand there; of a code it shows its own and those of its kits that it does not need.
func TestTheCrib(t *testing.T) {
	h := open(t)
	ines := h.user("ines")
	_, err := h.d.Engines.List(t.Context(), ines) // lists keep cards, and tools with them
	require.NoError(t, err)
	crib := func(q desk.CribQuery) *desk.Crib {
		c, err := h.d.Shelves.Crib(t.Context(), ines, q)
		require.NoError(t, err)
		return c
	}
	all := crib(desk.CribQuery{})
	assert.Equal(t, all.Total, len(all.Rows))
	for _, code := range []string{"TQ4-18P", "TC4-24C"} {
		for _, tool := range h.sheet(ines, code).Sheet.Tools {
			n := 0
			for _, r := range all.Rows {
				if r.Number == tool.Number && r.Kit == tool.Kit {
					n++
				}
			}
			assert.Equal(t, 1, n, "%s of %s", tool.Number, code)
		}
	}
	pin := crib(desk.CribQuery{Filter: "tl-101 crank"})
	require.Len(t, pin.Rows, 1)
	assert.Equal(t, []desk.CribVariant{{Name: "crank pin", Does: "holds crank ±0.2°", Codes: 1, Some: []string{"TQ4-18P"}}}, pin.Rows[0].Variants)
	assert.Positive(t, pin.Rows[0].Pages)
	wrench := crib(desk.CribQuery{Filter: "TL-140"})
	assert.Equal(t, "torques from 28 N·m to 140 N·m", wrench.Rows[0].Variants[0].Does)
	assert.Empty(t, crib(desk.CribQuery{Filter: "no such tool"}).Rows)
	assert.Len(t, crib(desk.CribQuery{Limit: 3, Offset: 2}).Rows, 3)

	// Another code has the number under another name, and its kit, which it needs two tools of.
	require.NoError(t, h.d.Engines.NewSheetDraft(t.Context(), ines, "TC1-06V", "The kit is shared."))
	tools := slices.Clone(h.sheet(ines, "TC1-06V").Sheet.Tools)
	tools = append(tools, engine.Tool{ID: "peg", Number: "TL-101", Name: "crank peg", Kit: "TL-100"}, engine.Tool{ID: "bar", Number: "TL-102", Name: "cam bar", Kit: "TL-100"})
	var edits []engine.Edit
	for _, v := range tools[len(tools)-2:] {
		raw, err := json.Marshal(v)
		require.NoError(t, err)
		edits = append(edits, engine.Edit{Path: "tools/" + string(v.ID), Value: raw})
	}
	_, err = h.edit(ines, "TC1-06V", "window", h.sheet(ines, "TC1-06V").Meta.Version, edits...)
	require.NoError(t, err)
	_, err = h.release(h.user("mirja"), "TC1-06V")
	require.NoError(t, err)
	_, err = h.d.Engines.List(t.Context(), ines)
	require.NoError(t, err)
	pin = crib(desk.CribQuery{Filter: "tl-101"})
	require.Len(t, pin.Rows, 1)
	assert.Len(t, pin.Rows[0].Variants, 2, "sheets differ about it")
	of := crib(desk.CribQuery{Engine: "TC1-06V"})
	var needless []string
	for _, r := range of.Rows {
		if !r.Needed {
			needless = append(needless, r.Number)
		}
	}
	assert.Equal(t, []string{"TL-103", "TL-104", "TL-105"}, needless)
}
