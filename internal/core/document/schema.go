package document

import (
	"encoding/json"
	"maps"
)

// object is an object's schema while it is made (JSON Schema, draft 2020-12).
type object struct {
	properties map[string]any
	required   []string
	cases      []any
}

func newObject() *object { return &object{properties: map[string]any{}} }

func (s *object) property(name string, must bool, of map[string]any) {
	s.properties[name] = of
	if must {
		s.required = append(s.required, name)
	}
}

func (s *object) end() map[string]any {
	all := map[string]any{"type": "object", "properties": s.properties, "additionalProperties": false}
	if len(s.required) > 0 {
		all["required"] = s.required
	}
	if len(s.cases) > 0 {
		all["allOf"] = s.cases
	}
	return all
}

func (w *when[P]) schema(s *object) {
	inner := newObject()
	w.parts.schema(inner)
	maps.Copy(s.properties, inner.properties)
	var barred = map[string]any{}
	for name := range inner.properties {
		barred[name] = false
	}
	s.cases = append(s.cases, map[string]any{
		"if":   map[string]any{"properties": map[string]any{w.condition[0]: map[string]any{"const": w.condition[1]}}, "required": []string{w.condition[0]}},
		"then": map[string]any{"required": append([]string{}, inner.required...)},
		"else": map[string]any{"properties": barred},
	})
}

var names = map[Shape]string{IsBool: "boolean", IsNumber: "number", IsText: "string", IsList: "array", IsObject: "object"}

// describe is the schema of a value.
func (n Notation[V]) describe() map[string]any {
	of := map[string]any{"type": names[n.As], "description": n.Want}
	if n.Also != IsNull {
		of["type"] = []string{names[n.As], names[n.Also]}
	}
	if n.Input.Longest > 0 && n.As == IsText && n.Also == IsNull {
		of["maxLength"] = n.Input.Longest
	}
	maps.Copy(of, n.Schema)
	return of
}

// Schema returns the published schema of the document's files.
func (t *Table[P]) Schema() []byte {
	s := newObject()
	s.property("format", true, map[string]any{"const": t.Format})
	t.Parts.schema(s)
	all := s.end()
	all["$schema"], all["title"] = "https://json-schema.org/draft/2020-12/schema", t.Title
	data, err := json.MarshalIndent(all, "", "  ")
	if err != nil {
		panic(err) // maps of texts and numbers are always written
	}
	return append(data, '\n')
}
