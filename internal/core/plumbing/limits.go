package plumbing

// How much a model may have: more is told, and not taken. A camper has up to some hundred parts; the
// limits keep every drawing and search within the time that a page has.
const (
	MaxParts   = 800
	MaxLines   = 1200
	MaxOptions = 32

	MaxID   = 80   // letters of an id
	MaxName = 120  // of a name
	MaxKind = 60   // of what a camper is, as travel trailer
	MaxText = 2000 // of any other text

	MaxProse = 20_000 // of a text of somebody's own in a guide

	maxQuantity = 60  // letters of a quantity as it is written
	maxList     = 400 // of any other list
)

// limits gives each text and list of a schema its limit.
func limits(schema object) {
	schema["properties"].(object)["kind"].(object)["maxLength"] = MaxKind
	props := schema["properties"].(object)
	for name, most := range map[string]int{"parts": MaxParts, "lines": MaxLines, "options": MaxOptions} {
		props[name].(object)["maxItems"] = most
	}
	chapter := props["chapter"].(object)["properties"].(object)
	prose := chapter["prose"].(object)["additionalProperties"].(object)["properties"].(object)
	prose["text"].(object)["maxLength"] = MaxProse
	limit("", schema)
}

func limit(name string, v any) {
	switch v := v.(type) {
	case object:
		if _, closed := v["enum"]; v["type"] == "string" && !closed && v["maxLength"] == nil {
			v["maxLength"] = textLimit(name, v)
		}
		if v["type"] == "array" && v["maxItems"] == nil {
			v["maxItems"] = maxList
		}
		for key, x := range v {
			if key == "items" || key == "additionalProperties" {
				key = name
			}
			limit(key, x)
		}
	case []any:
		for _, x := range v {
			limit(name, x)
		}
	}
}

func textLimit(name string, schema object) int {
	switch {
	case schema["pattern"] == idPattern:
		return MaxID
	case schema["pattern"] == portPattern:
		return MaxID + 1 + 20
	case schema["format"] != nil:
		return maxQuantity
	case name == "name" || name == "label":
		return MaxName
	}
	return MaxText
}
