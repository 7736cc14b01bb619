// Package judge has what tests are judged by that is not ours: a validator of JSON Schema
// (draft 2020-12, santhosh-tekuri/jsonschema).
package judge

import (
	"bytes"
	"encoding/json"
	"testing"

	"github.com/santhosh-tekuri/jsonschema/v6"
)

// Schema is a JSON Schema, ready to judge.
type Schema struct{ s *jsonschema.Schema }

// NewSchema makes one of a tree of JSON, or of its text as raw JSON.
func NewSchema(t testing.TB, tree any) Schema {
	t.Helper()
	b, err := json.Marshal(tree)
	if err != nil {
		t.Fatal(err)
	}
	doc, err := jsonschema.UnmarshalJSON(bytes.NewReader(b))
	if err != nil {
		t.Fatal(err)
	}
	c := jsonschema.NewCompiler()
	if err := c.AddResource("schema.json", doc); err != nil {
		t.Fatal(err)
	}
	s, err := c.Compile("schema.json")
	if err != nil {
		t.Fatal(err)
	}
	return Schema{s}
}

// Fits says what does not fit.
func (s Schema) Fits(b []byte) error {
	doc, err := jsonschema.UnmarshalJSON(bytes.NewReader(b))
	if err != nil {
		return err
	}
	return s.s.Validate(doc)
}
