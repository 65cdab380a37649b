package plumbing

import (
	"unicode"
	"unicode/utf8"

	"golang.org/x/text/cases"
	"golang.org/x/text/language"
)

// Lower puts a name into running text, in any script: "Water heater" becomes
// "the water heater", "USB pump" stays "the USB pump".
func Lower(name string) string { return "the " + NoArticle(name) }

// NoArticle is Lower without its article.
func NoArticle(name string) string {
	first, size := utf8.DecodeRuneInString(name)
	if size == 0 {
		return ""
	}
	if second, _ := utf8.DecodeRuneInString(name[size:]); unicode.IsUpper(second) {
		return name
	}
	return cases.Lower(language.Und).String(string(first)) + name[size:]
}

// Upper begins a sentence with a text.
func Upper(text string) string {
	first, size := utf8.DecodeRuneInString(text)
	if size == 0 {
		return text
	}
	return cases.Upper(language.Und).String(string(first)) + text[size:]
}
