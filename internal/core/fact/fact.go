// Package fact has what is known and wants saying, before there are words for
// it: a message by its id, and the parts, amounts and facts that it is about.
package fact

import (
	"fmt"
	"reflect"
	"strings"
)

// Fact is something to say. The zero value says nothing.
type Fact struct {
	ID   string // of a message in the catalogue of every language
	Args []any  // what it is about, in the order in which the catalogue numbers them
}

// Of is a fact of a message with what it is about: parts, lines, quantities in
// their own types, counts, texts as they stand on the unit, other facts, and
// lists of these.
func Of(id string, about ...any) Fact { return Fact{id, about} }

// If is a fact where a condition holds, and nothing to say otherwise.
func If(holds bool, f Fact) Fact {
	if !holds {
		return Fact{}
	}
	return f
}

// IsZero reports whether there is nothing to say.
func (f Fact) IsZero() bool { return f.ID == "" }

// Key is the same for two facts that say the same.
func (f Fact) Key() string {
	var b strings.Builder
	b.WriteString(f.ID)
	for _, a := range f.Args {
		b.WriteByte('\t')
		b.WriteString(key(a))
	}
	return b.String()
}

// key is what tells one argument from another.
func key(a any) string {
	switch a := a.(type) {
	case Fact:
		return "(" + a.Key() + ")"
	case interface{ Ref() string }:
		return a.Ref()
	}
	list := reflect.ValueOf(a)
	if list.Kind() != reflect.Slice {
		return fmt.Sprint(a)
	}
	var all []string
	for _, x := range list.Seq2() {
		all = append(all, key(x.Interface()))
	}
	return "[" + strings.Join(all, "\n") + "]"
}

// Name is how a part or another thing is called: a name that begins with a
// capital letter by itself, and has an article in running text.
type Name string

// Word is one word of a set that the catalogue has by their ids: "side.hot".
type Word string

// Field is the path of a field of the document, like "place.height".
type Field string
