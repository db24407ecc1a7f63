package torques_test

import (
	"fmt"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"inklatch/internal/core/engine"
	"inklatch/internal/core/fixture"
	"inklatch/internal/core/page/torques"
)

func sheet(t *testing.T) *engine.Index {
	t.Helper()
	return engine.NewIndex(&fixture.Document("renew-timing-belt-r3.latch.json").Engine)
}

// texts is a table as a file has it: its head, then its rows.
func texts(t *torques.Table) [][]string {
	head := make([]string, len(t.Columns))
	for i := range t.Columns {
		head[i] = t.Columns[i].Name
	}
	out := [][]string{head}
	for _, r := range t.Rows {
		out = append(out, slices.Clone(r))
	}
	return out
}

// cell is the place of a column in the row of a fastener.
func cell(t *testing.T, table [][]string, fastener, column string) *string {
	t.Helper()
	c := slices.Index(table[0], column)
	require.GreaterOrEqual(t, c, 0, column)
	for _, r := range table[1:] {
		if r[0] == fastener {
			return &r[c]
		}
	}
	require.Fail(t, fastener)
	return nil
}

func TestTheTableOfACode(t *testing.T) {
	table := texts(torques.OfSheet(sheet(t)))
	assert.Equal(t, "120 N·m + 90 ±5°", *cell(t, table, "crank bolt", "Tightened to"))
	assert.Equal(t, "88.5 lbf·ft + 90 ±5°", *cell(t, table, "crank bolt", "In other units"))
	assert.Equal(t, "renew", *cell(t, table, "crank bolt", "Re-use"))
	assert.Equal(t, "88.5 lbf·in", *cell(t, table, "upper cover bolt", "In other units"), "NIST SP 811: 10 N·m are 88.507 lbf·in")
	assert.Equal(t, "TL-140 torque wrench", *cell(t, table, "idler bolt", "Wrench"))
	assert.Equal(t, "TL-120 torque wrench, small", *cell(t, table, "upper cover bolt", "Wrench"))
	assert.Empty(t, *cell(t, table, "idler bolt", "Clamp load, kN"), "nobody says whether it goes in dry")
	assert.NotContains(t, table[0], "Steps")
}

// Every tightening of a page stands in its table, with its step and its own value.
func TestTheTableOfAPage(t *testing.T) {
	for _, f := range fixture.Documents() {
		d := fixture.Document(f)
		x := engine.NewIndex(&d.Engine)
		table := torques.OfPage(x, &d.Procedure)
		said := map[string]bool{}
		all := texts(table)
		for i := range table.Rows {
			for _, n := range strings.Split(all[i+1][slices.Index(all[0], "Steps")], ", ") {
				said[n+string(table.IDs[i])] = true
			}
		}
		for i := range d.Procedure.Steps {
			for _, v := range d.Procedure.Steps[i].Torques() {
				for _, id := range v.Fasteners {
					assert.True(t, said[fmt.Sprint(i+1)+string(id)], "%s: step %d tightens the %s", f, i+1, id)
				}
			}
		}
	}
}

// A table that comes back as it went out changes nothing, on every sheet of the demo.
func TestUnchangedChangesNothing(t *testing.T) {
	for _, f := range fixture.Documents() {
		x := engine.NewIndex(&fixture.Document(f).Engine)
		changes, troubles := torques.Changes(x, texts(torques.OfSheet(x)))
		assert.Empty(t, changes, f)
		assert.Empty(t, troubles, f)
	}
}

func TestWhatATableChanges(t *testing.T) {
	x := sheet(t)
	table := texts(torques.OfSheet(x))
	*cell(t, table, "idler bolt", "Tightened to") = "41 Nm"
	*cell(t, table, "idler bolt", "Condition") = "oiled"
	*cell(t, table, "crank bolt", "Used once") = "no"
	*cell(t, table, "crank bolt", "Clamped, mm") = "48,5"
	*cell(t, table, "inlet sprocket bolt", "Held with") = "Flywheel Lock"
	*cell(t, table, "crank bolt", "Tightened to") = "" // stays
	changes, troubles := torques.Changes(x, table)
	assert.Empty(t, troubles)
	var says []string
	var edits []engine.Edit
	for _, c := range changes {
		says = append(says, fmt.Sprintf("%d %s: %s %s → %s", c.Row, c.Name, c.Column, c.Was, c.Now))
		edits = append(edits, c.Edit)
	}
	assert.Equal(t, []string{
		"2 crank bolt: Used once yes → ", "2 crank bolt: Clamped, mm 52 → 48.5", "3 inlet sprocket bolt: Held with sprocket holder → flywheel lock",
		"6 idler bolt: Tightened to 39 N·m → 41 N·m", "6 idler bolt: Condition  → oiled",
	}, says)
	s, err := engine.Apply(x.Sheet, edits)
	require.NoError(t, err)
	again, troubles := torques.Changes(engine.NewIndex(s), table)
	assert.Empty(t, again, "written, it says what the sheet says")
	assert.Empty(t, troubles)
}

// What is not understood is said, where it stands, and nothing of it is taken.
func TestWhatATableCannot(t *testing.T) {
	x := sheet(t)
	for says, table := range map[string][][]string{
		"The table is empty.":            nil,
		"No column is called “Fastener”": {{"Bolt", "Torque"}, {"crank bolt", "120 Nm"}},
		"called “Torqe”":                 {{"Fastener", "Torqe"}, {"crank bolt", "120 Nm"}},
		"two columns “count”":            {{"Fastener", "Count", "count"}, {"crank bolt", "1", "2"}},
		"has no fastener “crank blot”":   {{"Fastener", "Count"}, {"crank blot", "1"}},
		"names no fastener":              {{"Fastener", "Count"}, {"", "1"}},
		"stands in row 2 already":        {{"Fastener", "Count"}, {"crank bolt", "1"}, {"Crank Bolt", "1"}},
		"no count between 1 and 500":     {{"Fastener", "Count"}, {"crank bolt", "-3"}},
		"neither yes nor no":             {{"Fastener", "Used once"}, {"crank bolt", "perhaps"}},
		"has no lock “thumb”":            {{"Fastener", "Held with"}, {"crank bolt", "thumb"}},
		"no length between 0 and 10 000": {{"Fastener", "Clamped, mm"}, {"crank bolt", "1e9"}},
		"12 blows":                       {{"Fastener", "Tightened to"}, {"crank bolt", "12 blows"}},
		"is passed by":                   {{"Fastener", "=SUM(A1)"}, {"crank bolt", "1"}},
	} {
		changes, troubles := torques.Changes(x, table)
		assert.Empty(t, changes, says)
		if assert.NotEmpty(t, troubles, says) {
			assert.Contains(t, troubles[0].Says, says)
		}
	}
	// Values of some engines only are changed among the cases, and rows that are short are read.
	changes, troubles := torques.Changes(x, [][]string{{"Fastener", "On engines", "Count"}, {"crank bolt", "from 2020", "3"}, {"idler bolt"}, {}})
	assert.Empty(t, changes)
	assert.Empty(t, troubles)
}

func FuzzChanges(f *testing.F) {
	x := engine.NewIndex(&fixture.Document("renew-timing-belt-r3.latch.json").Engine)
	f.Add("Fastener", "Tightened to", "crank bolt", "120 Nm + 90°")
	f.Fuzz(func(t *testing.T, a, b, c, d string) {
		changes, _ := torques.Changes(x, [][]string{{a, b}, {c, d}})
		for _, ch := range changes {
			if _, err := engine.Apply(x.Sheet, []engine.Edit{ch.Edit}); err != nil {
				t.Fatalf("%s: %v", ch.Edit.Path, err)
			}
		}
	})
}

// BenchmarkEveryCell changes every cell of a sheet of 300 fasteners.
func BenchmarkEveryCell(b *testing.B) {
	s := fixture.Document("renew-timing-belt-r3.latch.json").Engine
	like := s.Fasteners[0]
	s.Fasteners = nil
	table := [][]string{{"Fastener", "Count", "Thread", "Class", "Tightened to", "Condition", "Order", "Clamped, mm", "In the part, mm"}}
	for i := range 300 {
		f := like
		f.ID, f.Name = engine.FastenerID(fmt.Sprintf("f%d", i)), fmt.Sprintf("bolt %d", i)
		s.Fasteners = append(s.Fasteners, f)
		table = append(table, []string{f.Name, "7", "M9", "9.9", "61 Nm + 45°", "wet", "as one likes", "71", "72"})
	}
	x := engine.NewIndex(&s)
	for b.Loop() {
		if changes, _ := torques.Changes(x, table); len(changes) != 300*8 {
			b.Fatal(len(changes))
		}
	}
}

func BenchmarkChanges(b *testing.B) {
	x := engine.NewIndex(&fixture.Document("renew-timing-belt-r3.latch.json").Engine)
	table := [][]string{{"Fastener", "Count"}}
	for i := range 5000 {
		table = append(table, []string{fmt.Sprintf("bolt %d", i), "6"})
	}
	for b.Loop() {
		torques.Changes(x, table)
	}
}
