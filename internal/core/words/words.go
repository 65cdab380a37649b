// Package words turns typed results into sentences, from a catalogue that has
// one file a language. It comes last: nothing looks into words.
package words

import (
	"bytes"
	"embed"
	"encoding/json"
	"errors"
	"fmt"
	"io/fs"
	"maps"
	"slices"
	"strings"
	"sync"
	"unicode/utf8"

	"golang.org/x/text/cases"
	"golang.org/x/text/feature/plural"
	"golang.org/x/text/language"
	"golang.org/x/text/message"
	"golang.org/x/text/message/catalog"

	"coldtap/internal/core/quantity"
)

//go:embed languages/*.json
var languages embed.FS

// file is a language as its file has it.
type file struct {
	Language string             `json:"language"`
	Names    naming             `json:"names"`
	Messages map[string]pattern `json:"messages"`
}

// naming says how the name of a part, which begins with a capital letter by
// itself, stands in running text.
type naming struct {
	Running string `json:"running"` // with its article: "the %s"
	Lower   bool   `json:"lower"`   // its first letter is small there, unless the name is an abbreviation
}

// pattern is a text with its arguments by number ("%[1]s"), or several to
// choose among by how many its first argument is.
type pattern struct {
	text  string
	forms map[string]string // by plural category: one, few, many, other; or "=1"
}

// UnmarshalJSON reads a text, or an object of plural forms.
func (p *pattern) UnmarshalJSON(b []byte) error {
	if err := json.Unmarshal(b, &p.text); err == nil {
		return nil
	}
	if err := json.Unmarshal(b, &p.forms); err != nil {
		return errors.New("a message is a text, or an object of plural forms")
	}
	if p.forms["other"] == "" {
		return errors.New(`plural forms need one for "other"`)
	}
	return nil
}

// message is the pattern as the text library wants it.
func (p *pattern) message() catalog.Message {
	if p.forms == nil {
		return catalog.String(p.text)
	}
	var selects []any
	for _, form := range slices.Sorted(maps.Keys(p.forms)) {
		if form != "other" {
			selects = append(selects, form, p.forms[form])
		}
	}
	return plural.Selectf(1, "%d", append(selects, "other", p.forms["other"])...)
}

// Printer writes in one language, quantities in a system of units. What its
// language lacks it says in English.
type Printer struct {
	sys   quantity.System
	tag   language.Tag
	names naming
	out   *message.Printer
}

// english is the language that is complete.
var english = sync.OnceValues(func() (*file, error) { return open(languages, "languages/en.json") })

func open(from fs.FS, name string) (*file, error) {
	raw, err := fs.ReadFile(from, name)
	if err != nil {
		return nil, err
	}
	f := new(file)
	if err := json.Unmarshal(raw, f); err != nil {
		return nil, fmt.Errorf("%s: %w", name, err)
	}
	if err := once(json.NewDecoder(bytes.NewReader(raw))); err != nil {
		return nil, fmt.Errorf("%s: %w", name, err)
	}
	return f, nil
}

// once reports a key that an object of a document has twice: of two messages the later would win unseen.
func once(from *json.Decoder) error {
	t, err := from.Token()
	if err != nil {
		return err
	}
	open, ok := t.(json.Delim)
	if !ok {
		return nil
	}
	keys := map[string]bool{}
	for from.More() {
		if open == '{' {
			t, err := from.Token()
			if err != nil {
				return err
			}
			key, _ := t.(string)
			if keys[key] {
				return fmt.Errorf("%q is there twice", key)
			}
			keys[key] = true
		}
		if err := once(from); err != nil {
			return err
		}
	}
	_, err = from.Token() // what ends it
	return err
}

// English writes English.
func English(sys quantity.System) *Printer {
	if sys == quantity.SI {
		return englishSI()
	}
	return englishUS()
}

var (
	englishUS = sync.OnceValue(func() *Printer { return must(quantity.US) })
	englishSI = sync.OnceValue(func() *Printer { return must(quantity.SI) })
)

// must makes the printer of the file that ships with the program; the test
// reads it too.
func must(sys quantity.System) *Printer {
	p, err := From(languages, "languages/en.json", sys)
	if err != nil {
		panic(fmt.Sprintf("words: %v", err))
	}
	return p
}

// From writes the language of a file.
func From(files fs.FS, name string, sys quantity.System) (*Printer, error) {
	base, err := english()
	if err != nil {
		return nil, err
	}
	f, err := open(files, name)
	if err != nil {
		return nil, err
	}
	tag, err := language.Parse(f.Language)
	if err != nil {
		return nil, fmt.Errorf("%s: %w", name, err)
	}
	for key := range f.Messages {
		if _, known := base.Messages[key]; !known {
			return nil, fmt.Errorf("%s: there is no message %q", name, key)
		}
	}
	b := catalog.NewBuilder()
	for key, p := range base.Messages {
		if own, ok := f.Messages[key]; ok {
			p = own
		}
		if err := b.Set(tag, key, p.message()); err != nil {
			return nil, fmt.Errorf("%s: %s: %w", name, key, err)
		}
	}
	names := f.Names
	if names.Running == "" {
		names = base.Names
	}
	return &Printer{sys: sys, tag: tag, names: names, out: message.NewPrinter(tag, message.Catalog(b))}, nil
}

// say writes a message.
func (p *Printer) say(key string, args ...any) string { return p.out.Sprintf(key, args...) }

// Field is what a field of the document is called, by its path: "place.height"
// is the "height". Of fields that are named by a part or a
// position the catalogue has one message for all, whose path ends in a star.
func (p *Printer) Field(path string) string {
	if name := p.say("field." + path); name != "field."+path {
		return name
	}
	if at := strings.LastIndexByte(path, '.'); at > 0 {
		all := "field." + path[:at] + ".*"
		if name := p.say(all, path[at+1:]); !strings.HasPrefix(name, all) {
			return name
		}
	}
	return strings.NewReplacer("_", " ", ".", " ").Replace(path)
}

// running puts a part's name into running text: "Water heater" becomes "the
// water heater".
func (p *Printer) running(name string) string {
	return fmt.Sprintf(p.names.Running, p.bare(name))
}

// bare is running without the article.
func (p *Printer) bare(name string) string {
	first, size := utf8.DecodeRuneInString(name)
	second, _ := utf8.DecodeRuneInString(name[size:])
	if size == 0 || !p.names.Lower || isUpper(second) {
		return name
	}
	return cases.Lower(p.tag).String(string(first)) + name[size:]
}

// begin makes a text the beginning of a sentence.
func (p *Printer) begin(text string) string {
	first, size := utf8.DecodeRuneInString(text)
	if size == 0 {
		return text
	}
	return cases.Upper(p.tag).String(string(first)) + text[size:]
}

func isUpper(r rune) bool {
	return strings.ToUpper(string(r)) == string(r) && strings.ToLower(string(r)) != string(r)
}

// Choice is a value of a set in plain words: "storage-steel" is a storage tank of steel.
func (p *Printer) Choice(value string) string {
	if id := "choice." + value; p.say(id) != id {
		return p.say(id)
	}
	return strings.ReplaceAll(value, "-", " ")
}

// Catalogue is the catalogue of English as it ships with the program.
func Catalogue() ([]byte, error) { return languages.ReadFile("languages/en.json") }
