package chapter

import (
	"context"
	"reflect"

	"coldtap/internal/core/fact"
)

// Sentence finds a sentence of an edition by its key. The error is the context's.
func Sentence(ctx context.Context, in Inputs, key string) (found fact.Fact, ok bool, err error) {
	list, err := Draft(ctx, in)
	if err != nil {
		return fact.Fact{}, false, err
	}
	for _, b := range list {
		Each(b.Body, func(f fact.Fact) {
			if !ok && Key(f) == key {
				found, ok = f, true
			}
		})
	}
	return found, ok, nil
}

// factType is that of sentences.
var factType = reflect.TypeFor[fact.Fact]()

// Each calls a function for each sentence of a block.
func Each(b Body, tell func(fact.Fact)) {
	if t, ok := b.(Task); ok {
		t.each(tell)
		return
	}
	each(reflect.ValueOf(b), tell)
}

// each looks through what the types of this package are made of; parts and effects are no sentences.
func each(v reflect.Value, tell func(fact.Fact)) {
	switch {
	case v.Type() == factType:
		if f := v.Interface().(fact.Fact); !f.IsZero() {
			tell(f)
		}
	case v.Kind() == reflect.Slice:
		for i := range v.Len() {
			each(v.Index(i), tell)
		}
	case v.Kind() == reflect.Struct:
		for i := range v.NumField() {
			if v.Type().Field(i).IsExported() {
				each(v.Field(i), tell)
			}
		}
	}
}

// each calls a function for each sentence of a procedure.
func (t Task) each(tell func(fact.Fact)) {
	all := func(list ...fact.Fact) {
		for _, f := range list {
			if !f.IsZero() {
				tell(f)
			}
		}
	}
	all(t.Why)
	all(t.Wrong...)
	if t.Read == nil {
		return
	}
	all(t.Read.Site...)
	all(t.Read.Hand...)
	all(t.Read.Ranges...)
	all(t.Read.Tags...)
	for i := range t.Read.Steps {
		s := &t.Read.Steps[i]
		all(s.Head, s.Until, s.Who)
		all(s.Pour...)
		all(s.Notes...)
		for _, c := range s.Cautions {
			all(c.Said)
		}
	}
}

// Keys are the keys of all sentences of some blocks.
func Keys(list []Block) (keys []string) {
	for _, b := range list {
		Each(b.Body, func(f fact.Fact) { keys = append(keys, Key(f)) })
	}
	return keys
}
