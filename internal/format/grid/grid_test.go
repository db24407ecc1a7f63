package grid_test

import (
	"bytes"
	"fmt"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"github.com/xuri/excelize/v2"
	"pgregory.net/rapid"

	"inklatch/internal/format/grid"
)

var sheet = grid.Sheet{Title: "TQ4-18P", Head: []string{"Fastener", "Count", "Tightened to"}, Right: []bool{false, true, false}, Rows: [][]string{
	{"crank bolt", "1", "120 N·m + 90 ±5°"}, {"=cmd|' /C calc'!A0", "6", "-5"}, {"@SUM(A1)", "", "+3 \"a\", b"},
}}

// What is written reads back, in both formats, and nothing in it is a formula for anybody.
func TestThereAndBack(t *testing.T) {
	want := append([][]string{sheet.Head}, sheet.Rows...)
	for name, write := range map[string]func() ([]byte, error){"csv": sheet.CSV, "xlsx": sheet.XLSX} {
		b, err := write()
		require.NoError(t, err)
		got, err := grid.Read(b)
		require.NoError(t, err)
		assert.Equal(t, want, got, name)
	}
	b, err := sheet.CSV()
	require.NoError(t, err)
	for _, line := range strings.Split(strings.TrimPrefix(string(b), "\ufeff"), "\r\n") {
		for _, cell := range strings.Split(line, ",") {
			cell = strings.TrimPrefix(cell, `"`)
			assert.False(t, cell != "" && strings.ContainsAny(cell[:1], "=+-@"), "%q runs in a spreadsheet", cell)
		}
	}
	x, err := sheet.XLSX()
	require.NoError(t, err)
	f, err := excelize.OpenReader(bytes.NewReader(x))
	require.NoError(t, err)
	for _, cell := range []string{"A2", "A3", "C3", "A4", "C4"} {
		v, err := f.GetCellFormula("Sheet1", cell)
		require.NoError(t, err)
		assert.Empty(t, v, cell)
	}
}

func TestAnyTableThereAndBack(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		n := rapid.IntRange(1, 6).Draw(t, "columns")
		cell := rapid.StringMatching(`[a-z0-9 =+@;,"'·°äß\-]{0,12}`)
		s := grid.Sheet{Title: "t"}
		row := func() []string {
			out := make([]string, n)
			for i := range out {
				out[i] = strings.TrimSpace(cell.Draw(t, "cell"))
			}
			return out
		}
		for i := range n {
			s.Head = append(s.Head, fmt.Sprintf("h%d, x", i))
		}
		for range rapid.IntRange(0, 5).Draw(t, "rows") {
			s.Rows = append(s.Rows, append([]string{"r"}, row()[1:]...))
		}
		for name, write := range map[string]func() ([]byte, error){"csv": s.CSV, "xlsx": s.XLSX} {
			b, err := write()
			require.NoError(t, err)
			got, err := grid.Read(b)
			require.NoError(t, err)
			require.Len(t, got, len(s.Rows)+1, name)
			for i, r := range s.Rows {
				have := got[i+1]
				for len(have) < n { // empty cells at the end are not written by every program
					have = append(have, "")
				}
				for c := range r {
					want := r[c]
					if len(want) > 1 && want[0] == '\'' && strings.ContainsAny(want[1:2], "=+-@") {
						want = want[1:] // an apostrophe of one's own before a formula
					}
					assert.Equal(t, want, have[c], "%s", name)
				}
			}
		}
	})
}

func TestWhatIsNotRead(t *testing.T) {
	f := excelize.NewFile()
	require.NoError(t, f.SetCellStr("Sheet1", "A1", "Fastener"))
	require.NoError(t, f.SetCellFormula("Sheet1", "B4", "1+1"))
	with, err := f.WriteToBuffer()
	require.NoError(t, err)
	x, err := sheet.XLSX()
	require.NoError(t, err)
	for says, b := range map[string][]byte{
		"cell B4 is a formula": with.Bytes(), "cut short": x[:len(x)/2], "neither an XLSX": {0xff, 0xfe, 0, 1}, "larger than 8 MB": bytes.Repeat([]byte("a"), grid.MostBytes+1),
		"more than 20000 rows": bytes.Repeat([]byte("a\n"), grid.MostRows+1), "more than 100 columns": bytes.Repeat([]byte("a,"), 200), "longer than 4000": bytes.Repeat([]byte("a"), 5000),
	} {
		_, err := grid.Read(b)
		assert.ErrorContains(t, err, says)
	}
	for _, text := range []string{"a;b\n1;2", "a\tb\n1\t2", "a,b\n1,2\n"} {
		got, err := grid.Read([]byte(text))
		require.NoError(t, err)
		assert.Equal(t, [][]string{{"a", "b"}, {"1", "2"}}, got, "%q", text)
	}
}

func FuzzRead(f *testing.F) {
	x, _ := sheet.XLSX()
	c, _ := sheet.CSV()
	f.Add(x)
	f.Add(c)
	f.Fuzz(func(t *testing.T, b []byte) {
		rows, err := grid.Read(b)
		if err == nil && len(rows) > grid.MostRows {
			t.Fatal("more rows than may be")
		}
	})
}

func BenchmarkXLSX(b *testing.B) {
	s := sheet
	for i := range 400 {
		s.Rows = append(s.Rows, []string{fmt.Sprintf("bolt %d", i), "6", "10 N·m"})
	}
	for b.Loop() {
		if _, err := s.XLSX(); err != nil {
			b.Fatal(err)
		}
	}
}
