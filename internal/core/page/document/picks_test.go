package document_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"inklatch/internal/core/engine"
	"inklatch/internal/core/fixture"
	"inklatch/internal/core/page/document"
)

// Every tool of a page is on its pick list once, those of a kit together and single ones last;
// a lock says when it is in and out, and is shown in.
func TestPicks(t *testing.T) {
	for _, name := range fixture.Documents() {
		d := fixture.Document(name)
		x := engine.NewIndex(&d.Engine)
		run := d.Procedure.Trace(x, 0, d.Procedure.First(x.Sheet))
		picks := document.Picks(x, &d.Procedure, run)
		listed := document.Of(x, &d.Procedure).Tools
		require.Len(t, picks, len(listed), name)
		seen, last := map[string]bool{}, ""
		for _, k := range picks {
			require.False(t, seen[k.Kit] && k.Kit != last, "%s: kit %s stands in two places", name, k.Kit)
			seen[k.Kit], last = true, k.Kit
			require.False(t, k.Kit != "" && seen[""], "%s: single tools come last", name)
			if k.At != nil {
				assert.NotEmpty(t, k.At.Wheels)
			}
		}
	}
	d := fixture.Document("renew-timing-belt-r3.latch.json")
	x := engine.NewIndex(&d.Engine)
	for _, k := range document.Picks(x, &d.Procedure, d.Procedure.Trace(x, 0, d.Procedure.First(x.Sheet))) {
		if k.Number == x.Tool(x.Lock("crank-pin").Tool).Number {
			require.Len(t, k.For, 1)
			assert.Regexp(t, `^in at step \d+, out at step \d+`, k.For[0])
			require.NotNil(t, k.At)
			assert.True(t, k.At.State.Locks[x.LockAt("crank-pin")].In)
			return
		}
	}
	t.Fatal("the crank pin is not picked")
}
