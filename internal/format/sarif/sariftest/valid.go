// Package sariftest holds what is written as SARIF against its published schema; for tests alone.
package sariftest

import (
	"bytes"
	_ "embed" // the schema
	"fmt"

	"github.com/santhosh-tekuri/jsonschema/v6"
)

//go:embed sarif-schema-2.1.0.json
var schema []byte

// Valid holds a text against the published schema of SARIF 2.1.0 (OASIS, errata 01); nil where
// it fits.
func Valid(text []byte) error {
	doc, err := jsonschema.UnmarshalJSON(bytes.NewReader(schema))
	if err != nil {
		return fmt.Errorf("reading the schema: %w", err)
	}
	c := jsonschema.NewCompiler()
	const at = "sarif-2.1.0.json"
	if err := c.AddResource(at, doc); err != nil {
		return fmt.Errorf("reading the schema: %w", err)
	}
	s, err := c.Compile(at)
	if err != nil {
		return fmt.Errorf("reading the schema: %w", err)
	}
	v, err := jsonschema.UnmarshalJSON(bytes.NewReader(text))
	if err != nil {
		return fmt.Errorf("reading the text: %w", err)
	}
	return s.Validate(v)
}
