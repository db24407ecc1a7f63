package web_test

import (
	"bytes"
	"compress/gzip"
	"io"
	"net/http"
	"os"
	"path/filepath"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// Scripts and styles come as the build compressed them, to those who read that, and are
// what they are without.
func TestScriptsComeCompressedFromTheBuild(t *testing.T) {
	s := open(t)
	files, err := filepath.Glob("dist/assets/*.js")
	require.NoError(t, err)
	require.NotEmpty(t, files, "the screens are not built: make build")
	c := &http.Client{Transport: &http.Transport{DisableCompression: true}}
	get := func(name, accept string) (*http.Response, []byte) {
		r, err := http.NewRequestWithContext(t.Context(), "GET", s.url+"/assets/"+name, nil)
		require.NoError(t, err)
		r.Header.Set("Accept-Encoding", accept)
		res, err := c.Do(r)
		require.NoError(t, err)
		defer res.Body.Close()
		b, err := io.ReadAll(res.Body)
		require.NoError(t, err)
		require.Equal(t, 200, res.StatusCode)
		return res, b
	}
	for _, file := range files {
		want, err := os.ReadFile(file)
		require.NoError(t, err)
		if len(want) < 1024 {
			continue
		}
		name := filepath.Base(file)
		for accept, coding := range map[string]string{"": "", "br;q=0, identity": "", "gzip, deflate": "gzip", "gzip;q=0.5, deflate, br": "br", "br;q=0, gzip": "gzip"} {
			res, got := get(name, accept)
			assert.Equal(t, coding, res.Header.Get("Content-Encoding"), "%s to %q", name, accept)
			assert.Contains(t, res.Header.Get("Content-Type"), "javascript")
			assert.Equal(t, "Accept-Encoding", res.Header.Get("Vary"))
			switch coding {
			case "":
				assert.Equal(t, want, got)
			case "gzip":
				z, err := gzip.NewReader(bytes.NewReader(got))
				require.NoError(t, err)
				plain, err := io.ReadAll(z)
				require.NoError(t, err)
				assert.Equal(t, want, plain)
			case "br":
				packed, err := os.ReadFile(file + ".br")
				require.NoError(t, err)
				assert.Equal(t, packed, got)
				assert.Less(t, len(got), len(want))
			}
		}
	}
}
