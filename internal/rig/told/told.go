// Package told says facts in English, for tests that look at what is said.
package told

import (
	"strings"

	"coldtap/internal/core/fact"
	"coldtap/internal/core/quantity"
	"coldtap/internal/core/words"
)

// Fact is a fact in English.
func Fact(f fact.Fact) string { return words.English(quantity.US).Tell(f) }

// All are some facts in English, one after the other.
func All(list []fact.Fact) string { return strings.Join(words.English(quantity.US).TellAll(list), " ") }
