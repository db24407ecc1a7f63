package document_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"inklatch/internal/core/page/document"
)

// blocksOf are the blocks of a type, in their order.
func blocksOf[B document.Block](d *document.Document) (out []B) {
	for _, b := range d.Blocks {
		if v, ok := b.(B); ok {
			out = append(out, v)
		}
	}
	return out
}

// What is known of a revision stands on its page: who closed what, what was kept, what
// changed, what it is signed with; the strip and the safety sentence at both ends.
func TestARevisionIsLaidOutWhole(t *testing.T) {
	x, f, page := laid("renew-timing-belt-r3.latch.json")
	is := &document.Issue{
		Number: 3, State: "latched", Applies: "2019–2024", Reason: "A new idler.", SHA256: "abc", Anchor: "12:9f", Signer: "f07a",
		Latches: []document.Done{{What: "Author latch", By: "Ines Okafor", When: "2 October 2026"}}, Kept: []document.Done{{What: "Step 4", By: "It is so.", When: ""}},
		Since: 2, Changes: []string{"Step 26: 39 N·m becomes 45 N·m"},
	}
	d := document.Lay(x, &f.Procedure, f.Procedure.Trace(x, 0, nil), is, false)
	assert.Equal(t, document.Named{Name: "Revision", Text: "3 released"}, d.Strip.Fields[3])
	strips := blocksOf[document.Strip](d)
	require.Len(t, strips, 2)
	assert.Equal(t, strips[0], d.Blocks[0])
	notices := blocksOf[document.Notice](d)
	assert.Equal(t, []document.Notice{{Grade: document.Care, Text: document.Safety}, {Grade: document.Care, Text: document.Safety}}, notices)
	assert.Equal(t, notices[1], d.Blocks[len(d.Blocks)-1])
	assert.Equal(t, []document.Record{{Rows: append(is.Latches, is.Kept...)}}, blocksOf[document.Record](d))
	assert.Equal(t, []document.List{{Items: is.Changes}}, blocksOf[document.List](d))
	terms := blocksOf[document.Terms](d)
	assert.Equal(t, []document.Named{{"Reason", "A new idler."}, {"SHA-256", "abc"}, {"Record entry", "12:9f"}, {"Signed by key", "f07a"}}, terms[len(terms)-1].Rows)
	assert.Contains(t, d.Blocks, document.Heading{Level: 2, Text: "Changed since revision 2"})
	// Each step once, in order, with the drawing that the printed sheet gives it.
	n, drawn := 0, 0
	for _, w := range blocksOf[document.Work](d) {
		n++
		assert.Equal(t, n, w.Number)
		if w.Picture != nil {
			drawn++
			assert.Equal(t, w.Number-1, w.Picture.Step)
		}
	}
	assert.Equal(t, len(f.Procedure.Steps), n)
	assert.Len(t, document.Pictures(x, &f.Procedure, f.Procedure.Trace(x, 0, nil)), drawn)
	assert.Equal(t, page.Torque, blocksOf[document.TorqueTable](d)[0].Rows)
}

// Every type of block has a record of its kind, with the words it has; the steps are those
// of the page.
func TestFlat(t *testing.T) {
	x, f, _ := laid("renew-timing-belt-r3.latch.json")
	is := &document.Issue{Number: 3, Withdrawn: "By Rosalind.", Since: 2, Changes: []string{"one"}, Latches: []document.Done{{What: "Author latch", By: "Ines Okafor", When: "2026-10-02T10:00:00Z"}}, Reason: "A new idler."}
	d := document.Lay(x, &f.Procedure, f.Procedure.Trace(x, 0, nil), is, false)
	flat := d.Flat()
	require.Len(t, flat, len(d.Blocks))
	seen := map[document.FlatKind]int{}
	for i, b := range flat {
		seen[b.Kind]++
		if w, ok := d.Blocks[i].(document.Work); ok {
			assert.Equal(t, w.ID, b.Step)
		}
		if n, ok := d.Blocks[i].(document.Notice); ok {
			assert.Equal(t, document.Flat{Kind: document.NoticeKind, Grade: n.Grade, Text: n.Text}, b)
		}
	}
	for _, k := range document.FlatKind("").Choices() {
		assert.Positive(t, seen[document.FlatKind(k)], k)
	}
	assert.Equal(t, len(f.Procedure.Steps), seen[document.WorkKind])
	for _, b := range flat {
		if b.Kind == document.RecordKind {
			assert.Equal(t, []document.FlatRow{{Name: "Author latch", Text: "Ines Okafor", When: "2026-10-02T10:00:00Z"}}, b.Rows)
		}
	}
}
