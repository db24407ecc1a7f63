package contract_test

import (
	"fmt"
	"os"
	"testing"

	"github.com/pb33f/libopenapi"
	validator "github.com/pb33f/libopenapi-validator"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"gopkg.in/yaml.v2"
)

// The contract is held against the OpenAPI specification by a second reader, which knows
// nothing of the one that makes our handlers, and allows nothing that is not in it.
func TestTheContractIsValid(t *testing.T) {
	raw, err := os.ReadFile("../../../api/openapi.yaml")
	require.NoError(t, err)
	doc, err := libopenapi.NewDocument(raw)
	require.NoError(t, err)
	_, err = doc.BuildV3Model()
	require.NoError(t, err)
	v, errs := validator.NewValidator(doc)
	require.Empty(t, errs)
	ok, troubles := v.ValidateDocument()
	for _, e := range troubles {
		t.Error(e.Message, e.Reason)
		for _, s := range e.SchemaValidationErrors {
			t.Error(s.Line, s.Reason)
		}
	}
	assert.True(t, ok)
}

// A reader of YAML 1.1 takes on, off, yes, no, y and n for truths (YAML 1.1, bool): no word
// of the contract is one to it, wherever names and words stand.
func TestTheContractIsTheSameToOlderReaders(t *testing.T) {
	raw, err := os.ReadFile("../../../api/openapi.yaml")
	require.NoError(t, err)
	var doc map[string]any
	require.NoError(t, yaml.Unmarshal(raw, &doc))
	words := 0
	var walk func(v any, at string)
	walk = func(v any, at string) {
		switch v := v.(type) {
		case map[any]any:
			for k, w := range v {
				_, isWord := k.(string)
				assert.True(t, isWord, "%s has the name %v", at, k)
				words++
				walk(w, fmt.Sprintf("%s/%v", at, k))
			}
		case map[string]any:
			for k, w := range v {
				walk(w, at+"/"+k)
			}
		case []any:
			for i, w := range v {
				_, truth := w.(bool)
				assert.False(t, truth, "%s has %v in it", at, w)
				words++
				walk(w, fmt.Sprintf("%s/%d", at, i))
			}
		}
	}
	walk(doc, "")
	assert.Greater(t, words, 5000)
	for _, bad := range []string{"a: {on: 1}", "a: [no]", "a: [y]"} {
		var d map[string]any
		require.NoError(t, yaml.Unmarshal([]byte(bad), &d))
		assert.NotEqual(t, map[string]any{"a": []any{"no"}}, d)
	}
}
