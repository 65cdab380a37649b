package plumbing

import (
	"fmt"
	"reflect"
	"slices"
	"strings"
)

// quantityType is what every quantity.Given answers.
type quantityType interface {
	Format() string
	Check(text string) error
}

type object = map[string]any

// Schema is the JSON Schema (draft 2020-12) of the model document, made from
// the document's types and the table of kinds.
func Schema() map[string]any {
	s := documentSchema()
	s["$schema"] = "https://json-schema.org/draft/2020-12/schema"
	s["$id"] = "urn:" + Format
	s["title"] = "Cold Tap model"
	props := s["properties"].(object)
	props["format"] = object{"const": Format}
	props["id"] = object{"type": "string", "pattern": idPattern}
	props["name"] = object{"type": "string", "minLength": 1}
	props["year"] = object{"type": "integer", "minimum": 1950, "maximum": 2200}
	props["units"] = object{"enum": []any{"us", "si"}}
	refinePart(props["parts"].(object)["items"].(object))
	line := props["lines"].(object)["items"].(object)["properties"].(object)
	line["id"] = object{"type": "string", "pattern": idPattern}
	line["side"] = object{"enum": anys(Sides)}
	line["from"] = object{"type": "string", "pattern": portPattern}
	line["to"] = object{"type": "string", "pattern": portPattern}
	used := props["consumables"].(object)["items"].(object)["properties"].(object)
	used["id"] = object{"type": "string", "pattern": idPattern}
	used["what"] = object{"enum": anys(ConsumableKinds)}
	used["form"] = object{"enum": anys(SanitizerForms)}
	used["life_months"] = object{"type": "integer", "minimum": 0, "maximum": 600}
	option := props["options"].(object)["items"].(object)["properties"].(object)
	option["id"] = object{"type": "string", "pattern": idPattern}
	limits(s)
	return s
}

const (
	idPattern   = `^[a-z0-9]+(-[a-z0-9]+)*$`
	portPattern = `^[a-z0-9]+(-[a-z0-9]+)*\.[a-z0-9]+$`
)

// refinePart adds what depends on a part's kind: the data it may and must carry.
func refinePart(part object) {
	props := part["properties"].(object)
	props["id"] = object{"type": "string", "pattern": idPattern}
	props["name"] = object{"type": "string", "minLength": 1}
	props["reading"].(object)["properties"].(object)["handle"] = object{"enum": anys(HandleKinds)}
	props["reading"].(object)["properties"].(object)["pipe"] = object{"enum": []any{"level", "upright"}}
	data := props["data"].(object)["properties"].(object)
	data["closure"] = object{"enum": []any{"valve", "cap", "plug", "toggle"}}
	data["ways"] = object{"type": "integer", "minimum": 1, "maximum": 24}
	var names []any
	var cases []any
	for _, k := range kinds {
		names = append(names, string(k.Kind))
		allowed := object{}
		for _, f := range slices.Concat(k.May, k.Must) {
			allowed[f] = true
		}
		if len(k.Types) > 0 {
			allowed["type"] = object{"enum": anys(k.Types)}
		}
		then := object{"data": object{"properties": allowed, "additionalProperties": false, "required": anys(k.Must)}}
		rule := object{"properties": then}
		var required []any
		if len(k.Must) > 0 {
			required = append(required, "data")
		}
		if k.Kind == Selector {
			required = append(required, "positions")
		} else {
			then["positions"] = false
		}
		if len(k.Positions) > 0 {
			then["normal"] = object{"enum": anys(k.Positions)}
		} else if k.Kind != Selector {
			then["normal"] = false
		}
		if required != nil {
			rule["required"] = required
		}
		cases = append(cases, object{
			"if":   object{"properties": object{"kind": object{"const": string(k.Kind)}}},
			"then": rule,
		})
	}
	props["kind"] = object{"enum": names}
	part["allOf"] = cases
}

// HandleKinds lists how a handle can look.
var HandleKinds = []string{"lever", "tee", "knob", "pointer", "toggle", "cap", "plug", "button", "motor"}

func anys[S ~[]T, T ~string](list S) []any {
	out := make([]any, len(list))
	for i, v := range list {
		out[i] = string(v)
	}
	return out
}

// documentSchema is the schema of the document's types: structs are closed
// objects, and a field without omitempty or omitzero is required.
func documentSchema() object { return schemaOf(reflect.TypeFor[Model]()) }

// schemaOf is the schema of a type: a quantity is a text in a format of its own.
func schemaOf(t reflect.Type) object {
	if q, ok := reflect.Zero(t).Interface().(quantityType); ok {
		return object{"type": "string", "format": q.Format()}
	}
	switch t.Kind() {
	case reflect.Pointer:
		return schemaOf(t.Elem())
	case reflect.Slice:
		return object{"type": "array", "items": schemaOf(t.Elem())}
	case reflect.Map:
		return object{"type": "object", "additionalProperties": schemaOf(t.Elem())}
	case reflect.Bool:
		return object{"type": "boolean"}
	case reflect.Int:
		return object{"type": "integer"}
	case reflect.Float64:
		return object{"type": "number"}
	case reflect.String:
		return object{"type": "string"}
	case reflect.Struct:
		return closed(t)
	}
	panic(fmt.Sprintf("a model document has no %s", t)) // its types are our own
}

// closed is the schema of a struct, in which nothing stands that has no field.
func closed(t reflect.Type) object {
	props := object{}
	var required []any
	for f := range fieldsOf(t) {
		name, options, _ := strings.Cut(f.Tag.Get("json"), ",")
		if name == "-" {
			continue
		}
		props[name] = schemaOf(f.Type)
		if options == "" {
			required = append(required, name)
		}
	}
	s := object{"type": "object", "properties": props, "additionalProperties": false}
	if required != nil {
		s["required"] = required
	}
	return s
}

// IsYesNo reports whether a field of a part's data is yes or no.
func IsYesNo(name string) bool {
	for f := range fields(reflect.TypeFor[Data]()) {
		if f.name == name {
			return f.Type.Kind() == reflect.Bool
		}
	}
	return false
}

type field struct {
	reflect.StructField
	name string // in the document
}

// fields yields a struct's fields as the document names them.
func fields(t reflect.Type) func(func(field) bool) {
	return func(yield func(field) bool) {
		for i := range t.NumField() {
			f := t.Field(i)
			name, _, _ := strings.Cut(f.Tag.Get("json"), ",")
			if !yield(field{f, name}) {
				return
			}
		}
	}
}
