package pageproof_test

import (
	"encoding/json"
	"fmt"
	"testing"

	"github.com/stretchr/testify/assert"

	"inklatch/internal/core/engine"
	"inklatch/internal/core/fixture"
	"inklatch/internal/core/proof/finding"
	"inklatch/internal/core/proof/pageproof"
	"inklatch/internal/core/proof/sheetproof"
)

// lacking calls f with a file from which one thing was taken, for every field and element
// of the sheet.
func lacking(of any, path string, root map[string]any, f func(path string)) {
	switch v := of.(type) {
	case map[string]any:
		for k, was := range v {
			delete(v, k)
			f(path + "/" + k)
			v[k] = was
			lacking(was, path+"/"+k, root, f)
		}
	case []any:
		for i := range v {
			if i < 3 { // what stands further down is like what stands above
				lacking(v[i], fmt.Sprint(path, "/", i), root, f)
			}
		}
	}
}

// A sheet that lacks anything at all is proved, and so is a page on it: what is missing is
// found or not needed, and nothing comes down.
func TestNothingMissingBringsTheProofDown(t *testing.T) {
	for _, name := range []string{"renew-timing-belt-r3.latch.json", "renew-chain-two-actuators-r1.latch.json", "renew-cam-chain-r1.latch.json"} {
		var doc map[string]any
		fixture.Read(name, &doc)
		n := 0
		lacking(doc["engine"], "", doc, func(path string) {
			b, err := json.Marshal(doc)
			if err != nil {
				t.Fatal(err)
			}
			var file fixture.File
			if json.Unmarshal(b, &file) != nil {
				return // the door refuses it
			}
			n++
			assert.NotPanics(t, func() {
				x := engine.NewIndex(&file.Engine)
				sheetproof.Prove(x, finding.DefaultHouse())
				pageproof.Found(x, &file.Procedure, nil, finding.DefaultHouse())
			}, "%s without %s", name, path)
		})
		assert.Greater(t, n, 150, name)
		lacking(doc["procedure"], "", doc, func(path string) {
			b, err := json.Marshal(doc)
			if err != nil {
				t.Fatal(err)
			}
			var file fixture.File
			if json.Unmarshal(b, &file) == nil {
				assert.NotPanics(t, func() {
					pageproof.Found(engine.NewIndex(&file.Engine), &file.Procedure, nil, finding.DefaultHouse())
				}, "%s without %s", name, path)
			}
		})
	}
}
