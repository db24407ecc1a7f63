package web_test

import (
	"encoding/json"
	"fmt"
	"net/http"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"inklatch/demo"
	"inklatch/internal/web/api"
)

func (s site) get(c *http.Client, path string) *http.Response {
	s.Helper()
	res, err := c.Get(s.url + path)
	require.NoError(s, err)
	s.Cleanup(func() { res.Body.Close() })
	return res
}

func TestDrawingsAreSVG(t *testing.T) {
	s := open(t)
	c := s.client("ines")
	for _, path := range []string{"/api/engines/TV6-27D/drawing", "/api/engines/TV6-27D/drawing?number=1&labels=false", "/api/revisions/4/drawing", "/api/revisions/4/drawing?step=0", "/api/revisions/4/drawing?step=9&labels=true"} {
		res := s.get(c, path)
		assert.Equal(t, 200, res.StatusCode, path)
		assert.Equal(t, "image/svg+xml", res.Header.Get("Content-Type"), path)
		assert.Contains(t, res.Header.Get("Content-Security-Policy"), "default-src 'none'", "a drawing opened on its own runs nothing")
		assert.Equal(t, "nosniff", res.Header.Get("X-Content-Type-Options"))
	}
	for path, status := range map[string]int{"/api/engines/NONE/drawing": 404, "/api/engines/TV6-27D/drawing?number=9": 404, "/api/revisions/4/drawing?step=999": 404, "/api/revisions/999/drawing": 404, "/api/revisions/4/drawing?step=x": 400} {
		assert.Equal(t, status, s.get(c, path).StatusCode, path)
	}
	assert.Equal(t, 401, s.get(s.client(""), "/api/engines/TV6-27D/drawing").StatusCode)
}

// A sheet from the draft to the use, over the contract.
func TestASheetOverTheContract(t *testing.T) {
	s := open(t)
	ines, mirja := s.client("ines"), s.client("mirja")
	var v struct {
		Meta struct {
			Number, Draft, InUse          int
			Version                       int64
			State, WhyNot                 string
			Editable, MayUndo, MayRelease bool
		}
		Findings []struct{ Rule, On string }
		Sheet    struct{ Limits struct{ BackOff float64 } }
	}
	send := func(c *http.Client, method, path string, body any) int {
		t.Helper()
		status, out := s.do(c, method, path, body)
		v.Findings = nil
		if status < 300 {
			require.NoError(t, json.Unmarshal(out, &v), "%s", out)
		}
		return status
	}
	require.Equal(t, 201, send(ines, "POST", "/api/engines/TS1-03/draft", map[string]any{"reason": "Smaller back-off."}))
	assert.True(t, v.Meta.Editable)
	edit := func(batch string, base int64, edits ...any) int {
		return send(ines, "POST", "/api/engines/TS1-03/edits", map[string]any{"batch": batch, "client": "walk", "base": base, "edits": edits})
	}
	require.Equal(t, 200, edit("batch-one", v.Meta.Version, map[string]any{"path": "limits/backOff", "value": 3}))
	assert.InDelta(t, 3, v.Sheet.Limits.BackOff, 0)
	assert.True(t, v.Meta.MayUndo)
	require.Equal(t, 200, send(ines, "POST", "/api/engines/TS1-03/undo", map[string]any{"client": "walk", "redo": false}))
	assert.InDelta(t, 5, v.Sheet.Limits.BackOff, 0)
	require.Equal(t, 200, send(ines, "POST", "/api/engines/TS1-03/undo", map[string]any{"client": "walk", "redo": true}))
	assert.InDelta(t, 3, v.Sheet.Limits.BackOff, 0)
	require.Equal(t, 200, send(ines, "POST", "/api/engines/TS1-03/look", map[string]any{"edits": []any{map[string]any{"path": "loops/cam-chain/teeth", "value": 90}}}))
	assert.Equal(t, "does-not-close", v.Findings[0].Rule)

	for name, c := range map[string]struct {
		body   map[string]any
		status int
		says   string
	}{
		"no edits":         {map[string]any{"batch": "batch-two", "client": "walk", "base": 1, "edits": []any{}}, 422, "between 1 and 500"},
		"no name":          {map[string]any{"batch": "x", "client": "walk", "base": 1, "edits": []any{map[string]any{"path": "use"}}}, 422, "A batch has a name"},
		"no such wheel":    {map[string]any{"batch": "batch-two", "client": "walk", "base": 99, "edits": []any{map[string]any{"path": "wheels/nothing/x", "value": 1}}}, 422, "among the wheels"},
		"not a mount":      {map[string]any{"batch": "batch-two", "client": "walk", "base": 99, "edits": []any{map[string]any{"path": "wheels/cam-wheel/mount", "value": "welded"}}}, 422, "is none of"},
		"another's client": {map[string]any{"batch": "batch-two", "client": "someone", "base": 1, "edits": []any{map[string]any{"path": "limits/backOff", "value": 4}}}, 409, "changed this value"},
	} {
		status, out := s.do(ines, "POST", "/api/engines/TS1-03/edits", c.body)
		assert.Equal(t, c.status, status, name)
		var p api.Problem
		require.NoError(t, json.Unmarshal(out, &p))
		assert.Contains(t, p.Title, c.says, name)
	}
	many := make([]any, 501)
	for i := range many {
		many[i] = map[string]any{"path": "limits/rest", "value": i}
	}
	assert.Equal(t, 422, edit("batch-many", v.Meta.Version, many...))

	status, out := s.do(mirja, "GET", "/api/engines/TS1-03/touches", nil)
	require.Equal(t, 200, status)
	assert.Contains(t, string(out), "Renew cam chain")
	assert.Equal(t, 409, send(mirja, "POST", "/api/engines/TS1-03/release", map[string]any{"version": v.Meta.Version}), "she has not read what changes")
	status, out = s.do(mirja, "GET", "/api/engines/TS1-03/review", nil)
	require.Equal(t, 200, status)
	var review api.SheetReview
	require.NoError(t, json.Unmarshal(out, &review))
	var things []string
	for _, c := range review.Changes {
		things = append(things, c.Thing)
	}
	require.Equal(t, 200, send(mirja, "POST", "/api/engines/TS1-03/readings", map[string]any{"version": v.Meta.Version, "things": things}))
	require.Equal(t, 200, send(mirja, "POST", "/api/engines/TS1-03/release", map[string]any{"version": v.Meta.Version}))
	assert.Equal(t, 2, v.Meta.InUse)
	assert.Zero(t, v.Meta.Draft)
	status, out = s.do(mirja, "GET", "/api/engines/TS1-03/reproof", nil)
	require.Equal(t, 200, status)
	assert.Contains(t, string(out), `"total":1`)
	status, _ = s.do(mirja, "DELETE", "/api/engines/TS1-03/reproof", nil)
	assert.Equal(t, 204, status)
	require.Equal(t, 200, send(ines, "GET", "/api/engines/TS1-03?number=1", nil))
	assert.Equal(t, "superseded", v.Meta.State)
	assert.False(t, v.Meta.Editable)
}

func TestSheetsFromFiles(t *testing.T) {
	s := open(t)
	c := s.client("ines")
	raw, err := demo.Files.ReadFile("tq4-18p.engine.json")
	require.NoError(t, err)
	other := []byte(strings.Replace(string(raw), `"code": "TQ4-18P"`, `"code": "TQ4-20P"`, 1))
	status, out := s.do(c, "POST", "/api/engines/import", other)
	require.Equal(t, 201, status, "%s", out)
	assert.JSONEq(t, `{"code":"TQ4-20P"}`, string(out))
	status, out = s.do(c, "POST", "/api/engines/import", other)
	assert.Equal(t, 409, status, "%s", out)
	status, out = s.do(c, "POST", "/api/engines/import", []byte(strings.Replace(string(other), `"teeth": 109`, `"teeth": "many"`, 1)))
	assert.Equal(t, 422, status)
	var p api.Problem
	require.NoError(t, json.Unmarshal(out, &p))
	require.NotNil(t, p.Field)
	assert.Equal(t, "loops[0].teeth", *p.Field)
	assert.Contains(t, p.Title, "nothing was changed")
	status, _ = s.do(s.client("aiko"), "POST", "/api/engines/import", other)
	assert.Equal(t, 403, status)
}

func TestArithmeticRefusesNonsense(t *testing.T) {
	s := open(t)
	c := s.client("pavel")
	for path, body := range map[string]map[string]any{
		"rim":   {"diameter": 0, "degrees": 3},
		"tooth": {"teeth": 0, "driver": 0, "count": 0, "playMM": 0, "radius": 0},
		"drops": {"stroke": 80, "rod": 30, "offset": 0, "drop": 5, "before": 0, "after": 0, "dial": 0, "wheel": 0},
		"note":  {"length": 100, "mass": 90, "frequency": 110, "tolerance": 8, "readings": []float64{-1, 2, 3}},
	} {
		status, out := s.do(c, "POST", "/api/arithmetic/"+path, body)
		assert.Equal(t, 422, status, path)
		var p api.Problem
		require.NoError(t, json.Unmarshal(out, &p))
		require.NotNil(t, p.Field, path)
		assert.True(t, strings.HasSuffix(p.Title, "."), p.Title)
	}
	status, _ := s.do(s.client(""), "POST", "/api/arithmetic/rim", map[string]any{"diameter": 100, "degrees": 3})
	assert.Equal(t, 401, status)
}

// The plan of every demo procedure goes over the contract, and to readers where
// the revision is latched.
func TestTurnPlansOverTheContract(t *testing.T) {
	s := open(t)
	pavel, ines := s.client("pavel"), s.client("ines")
	for id := 1; id <= 10; id++ {
		status, out := s.do(ines, "GET", fmt.Sprintf("/api/revisions/%d/turns", id), nil)
		require.Equal(t, 200, status, "%s", out)
		var v struct {
			Meta struct{ State string }
			Plan struct {
				Says   string
				Counts []any
			}
		}
		require.NoError(t, json.Unmarshal(out, &v))
		assert.Contains(t, v.Plan.Says, "Prove at")
		assert.Greater(t, len(v.Plan.Counts), 12)
		status, _ = s.do(pavel, "GET", fmt.Sprintf("/api/revisions/%d/turns", id), nil)
		if v.Meta.State == "latched" || v.Meta.State == "superseded" {
			assert.Equal(t, 200, status, id)
		} else {
			assert.Equal(t, 403, status, id)
		}
	}
}
