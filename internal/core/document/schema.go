package document

import (
	"encoding/json"
	"maps"
	"reflect"
	"slices"
	"strings"
)

// object is an object's schema while it is made (JSON Schema, draft 2020-12).
type object struct {
	properties map[string]any
	required   []string
	cases      []any
	only       map[[2]string][]string // a field that is there only where another one has one of some values
	others     any                    // what fields of other names hold; nil: there are none
}

func newObject() *object {
	return &object{properties: map[string]any{}, only: map[[2]string][]string{}}
}

func (s *object) property(name string, must bool, of map[string]any) {
	s.properties[name] = of
	if must {
		s.required = append(s.required, name)
	}
}

func (s *object) end() map[string]any {
	all := map[string]any{"type": "object", "properties": s.properties, "additionalProperties": false}
	if s.others != nil {
		all["additionalProperties"] = s.others
	}
	if len(s.required) > 0 {
		all["required"] = s.required
	}
	if cases := append(s.cases, s.bars()...); len(cases) > 0 {
		all["allOf"] = cases
	}
	return all
}

func (w *when[P]) schema(s *object) {
	inner := newObject()
	w.parts.schema(inner)
	maps.Copy(s.properties, inner.properties)
	if inner.others != nil {
		s.otherwise(inner.others)
	}
	field, value := w.condition[0], w.condition[1]
	s.cases = append(s.cases, map[string]any{"if": map[string]any{"properties": map[string]any{field: map[string]any{"const": value}},
		"required": []string{field}},
		"then": map[string]any{"required": append([]string{}, inner.required...)}})
	for name := range inner.properties {
		s.only[[2]string{name, field}] = append(s.only[[2]string{name, field}], value)
	}
}

// bars says of the fields that an object has only in some cases that they stand in
// no others.
func (s *object) bars() (all []any) {
	for _, key := range slices.SortedFunc(maps.Keys(s.only), func(a, b [2]string) int { return strings.Compare(a[0]+a[1], b[0]+b[1]) }) {
		name, field := key[0], key[1]
		all = append(all, map[string]any{"if": map[string]any{"required": []string{name}},
			"then": map[string]any{"properties": map[string]any{field: map[string]any{"enum": s.only[key]}}}})
	}
	return all
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

// otherwise says what fields of other names hold: one thing, or one of several
// where that hangs on another field.
func (s *object) otherwise(holds any) {
	if s.others == nil {
		s.others = holds
		return
	}
	all := []any{s.others}
	if one, ok := s.others.(map[string]any); ok && one["anyOf"] != nil {
		all = one["anyOf"].([]any)
	}
	if !slices.ContainsFunc(all, func(one any) bool { return reflect.DeepEqual(one, holds) }) {
		s.others = map[string]any{"anyOf": append(all, holds)}
	}
}
