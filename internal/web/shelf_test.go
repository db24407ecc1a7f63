package web_test

import (
	"bytes"
	"image"
	"image/png"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// A torque table goes out as XLSX and comes back as it went, and files of tools and documents
// go in and out: none of them is text.
func TestFilesThatAreNoText(t *testing.T) {
	s := open(t)
	ines := s.client("ines")
	status, _ := s.do(ines, "POST", "/api/engines/TQ4-18P/draft", map[string]any{"reason": "A new letter."})
	require.Contains(t, []int{200, 201}, status)
	status, book := s.do(ines, "GET", "/api/engines/TQ4-18P/torques/file?format=xlsx", nil)
	require.Equal(t, 200, status)
	status, out := s.do(ines, "POST", "/api/engines/TQ4-18P/torques", book)
	assert.Equal(t, 200, status, "%s", out)
	assert.Contains(t, string(out), `"changes":[]`)

	status, _ = s.do(ines, "GET", "/api/engines?q=TQ4", nil) // lists keep cards, and tools with them
	require.Equal(t, 200, status)
	var picture bytes.Buffer
	require.NoError(t, png.Encode(&picture, image.NewRGBA(image.Rect(0, 0, 40, 30))))
	paper := append([]byte("%PDF-1.4\n"), 0xff, 0xfe, 0)
	for at, b := range map[string][]byte{"kind=tool&number=TL-101&name=pin.png": picture.Bytes(), "kind=source&number=EL-0418&name=letter.pdf": paper} {
		status, out = s.do(ines, "PUT", "/api/shelf/file?"+at, b)
		require.Equal(t, 204, status, "%s", out)
	}
	status, out = s.do(s.client("pavel"), "GET", "/api/shelf/file?kind=source&number=el-0418", nil)
	assert.Equal(t, 200, status)
	assert.Equal(t, paper, out)
	status, out = s.do(ines, "PUT", "/api/shelf/file?kind=source&number=EL-0418&name=large.pdf", append(paper, make([]byte, 10<<20)...))
	assert.Equal(t, 413, status, "%s", out)
	status, _ = s.do(ines, "PUT", "/api/shelf/file?kind=person&number=1", paper)
	assert.Contains(t, []int{400, 404, 422}, status)
}
