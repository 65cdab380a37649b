// Package document has a model, or one thing of it, as the objects and lists of
// its file: what edit changes, merge brings together and compare lists.
package document

import (
	"bytes"
	"encoding/json"
	"fmt"
	"strings"
)

// Object is an object of a document: a model, a part, a line, what they hold.
type Object = map[string]any

// Of is a model or one thing of it as its document has it.
func Of(thing any) (Object, error) {
	raw, err := json.Marshal(thing)
	if err != nil {
		return nil, fmt.Errorf("document: %w", err)
	}
	var o Object
	if err := json.Unmarshal(raw, &o); err != nil {
		return nil, fmt.Errorf("document: %w", err)
	}
	return o, nil
}

// Raw is the text of a document, or of a thing of one.
func Raw(o Object) ([]byte, error) {
	var b bytes.Buffer
	enc := json.NewEncoder(&b)
	enc.SetEscapeHTML(false)
	if err := enc.Encode(o); err != nil {
		return nil, fmt.Errorf("document: %w", err)
	}
	return b.Bytes(), nil
}

// At is the value at a path ("data.capacity"), nil for none.
func At(o Object, path string) any {
	var v any = o
	for key := range strings.SplitSeq(path, ".") {
		inner, ok := v.(Object)
		if !ok {
			return nil
		}
		v = inner[key]
	}
	return v
}

// Put sets the value at a path; nil takes it away. Objects on the way are made,
// and taken away again when they are left empty.
func Put(o Object, path string, v any) {
	key, rest, deeper := strings.Cut(path, ".")
	switch {
	case !deeper && v == nil:
		delete(o, key)
	case !deeper:
		o[key] = v
	default:
		inner, ok := o[key].(Object)
		if !ok {
			inner = Object{}
		}
		Put(inner, rest, v)
		if len(inner) == 0 {
			delete(o, key)
		} else {
			o[key] = inner
		}
	}
}

// List is a list of objects, such as a model's "parts"; none where there is no
// such list.
func List(o Object, key string) []Object {
	items, _ := o[key].([]any)
	list := make([]Object, 0, len(items))
	for _, x := range items {
		if inner, ok := x.(Object); ok {
			list = append(list, inner)
		}
	}
	return list
}

// Texts is every value of a document by its path, items of lists by their
// number from 1.
func Texts(o Object) map[string]string {
	texts := map[string]string{}
	var walk func(path string, v any)
	walk = func(path string, v any) {
		switch v := v.(type) {
		case Object:
			for k, x := range v {
				walk(Path(path, k), x)
			}
		case []any:
			for i, x := range v {
				walk(Path(path, fmt.Sprint(i+1)), x)
			}
		case nil:
		default:
			texts[path] = fmt.Sprint(v)
		}
	}
	walk("", o)
	return texts
}

// Path is the path of a field within another, "" for the thing itself.
func Path(within, field string) string {
	if within == "" {
		return field
	}
	return within + "." + field
}
