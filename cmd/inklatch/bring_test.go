package main

import (
	"encoding/csv"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"inklatch/internal/format/latchjson"
)

// An old page is brought for a sheet: the page can be read again, and the report has a row for
// every line, with nothing in it that a spreadsheet would work out.
func TestBring(t *testing.T) {
	old := "../../internal/format/oldpage/testdata/"
	sheet := "../../demo/renew-timing-belt-r3.latch.json"
	out, report := filepath.Join(t.TempDir(), "page.latch.json"), filepath.Join(t.TempDir(), "report.csv")
	said, err := call("bring", old+"scanned.txt", old+"torques.csv", "--engine", sheet, "-o", out, "--report", report)
	require.NoError(t, err)
	assert.Contains(t, said, "RENEWING THE TIMING BELT: 21 lines")
	assert.Contains(t, said, "1 agrees, 1 differs")
	b, err := os.ReadFile(out)
	require.NoError(t, err)
	d, err := latchjson.Decode(b)
	require.NoError(t, err)
	assert.Equal(t, "RENEWING THE TIMING BELT", d.Procedure.Title)
	assert.Len(t, d.Procedure.Steps, 9)
	f, err := os.Open(report)
	require.NoError(t, err)
	defer f.Close()
	rows, err := csv.NewReader(f).ReadAll()
	require.NoError(t, err)
	require.Len(t, rows, 22)
	steps := 0
	for _, r := range rows[1:] {
		assert.NotEmpty(t, r[3])
		assert.NotEmpty(t, r[5])
		steps += len(strings.Fields(r[4]))
	}
	assert.GreaterOrEqual(t, steps, 9)

	bad := filepath.Join(t.TempDir(), "sums.txt")
	require.NoError(t, os.WriteFile(bad, []byte("=1+1\n\n1. Fit the crank pin\n"), 0o600))
	_, err = call("bring", bad, "--engine", sheet, "--report", report)
	require.NoError(t, err)
	text, err := os.ReadFile(report)
	require.NoError(t, err)
	assert.Contains(t, string(text), "'=1+1")
	for _, args := range [][]string{{"bring", bad}, {"bring", "nothing.docx", "--engine", sheet}, {"bring", bad, "--engine", "nothing.json"}, {"bring", sheet, "--engine", sheet}} {
		_, err := call(args...)
		assert.Error(t, err, args)
	}
}
