package main

import (
	"bytes"
	"encoding/json"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// A page goes in line by line, and an object comes out for each, whatever bytes
// are in it.
func TestReadAPage(t *testing.T) {
	page := "1. Disconnect the battery\n\nFit both cam plates\nFit the cam plate\nDo not turn the crank\nCheck that the crank pin is removed\n\xff\xfe odd bytes\r\n" + strings.Repeat("a", 3000) + "\nNote: keep the washers\n"
	s, err := readSheet(folder + "renew-belt-both-banks-r1.latch.json")
	require.NoError(t, err)
	var out bytes.Buffer
	require.NoError(t, readPage(s, strings.NewReader(page), &out, true))
	type line struct {
		Line, Verb, Sentence, Text, Why string
		Read                            bool
		Step                            map[string]any
		Unread, Choices                 []string
	}
	var got []line
	dec := json.NewDecoder(&out)
	for dec.More() {
		var l line
		require.NoError(t, dec.Decode(&l))
		got = append(got, l)
	}
	require.Len(t, got, 8)
	assert.True(t, got[0].Read)
	assert.Equal(t, "Disconnect the battery lead.", got[0].Sentence)
	assert.Equal(t, "remove", got[0].Verb)
	assert.Empty(t, got[0].Text)
	assert.Equal(t, "left-plate", got[1].Step["lock"])
	assert.Equal(t, []any{"right-plate"}, got[1].Step["also"])
	assert.False(t, got[2].Read)
	assert.Equal(t, "Fit the cam plate", got[2].Text)
	assert.Equal(t, []string{"the cam plate"}, got[2].Unread)
	assert.Len(t, got[2].Choices, 3)
	assert.Equal(t, "Do not turn the crank", got[3].Text, "kept to the letter")
	assert.Equal(t, "out", got[4].Step["found"])
	assert.False(t, got[5].Read)
	assert.False(t, got[6].Read)
	assert.Equal(t, "Keep the washers", got[7].Text)

	out.Reset()
	require.NoError(t, readPage(s, strings.NewReader(page), &out, false))
	assert.Contains(t, out.String(), "stays free text: “the cam plate”: the sheet has the left cam plate and right cam plate")
	assert.Contains(t, out.String(), "meant? fit left cam plate and right cam plate")
}
