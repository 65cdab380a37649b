package plumbing

import (
	"bytes"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"reflect"
	"regexp"
	"slices"
	"strconv"
	"strings"
	"sync"

	"github.com/santhosh-tekuri/jsonschema/v6"
	"github.com/santhosh-tekuri/jsonschema/v6/kind"
	"golang.org/x/text/language"
	"golang.org/x/text/message"
)

// MaxFileBytes is the largest model document that Read takes.
const MaxFileBytes = 4 << 20

// Fault is one thing wrong with a model document.
type Fault struct {
	Path string // where: a JSON pointer with the part's or line's id beside it
	Why  string // what is wrong and what would be right
}

func (f Fault) String() string {
	if f.Path == "" {
		return f.Why
	}
	return f.Path + ": " + f.Why
}

// ReadError lists everything that kept a document from being read.
type ReadError struct{ Faults []Fault }

func (e *ReadError) Error() string {
	lines := make([]string, len(e.Faults))
	for i, f := range e.Faults {
		lines[i] = f.String()
	}
	return "the model can't be read:\n  " + strings.Join(lines, "\n  ")
}

// Read reads a model document strictly. Unknown fields, unreadable quantities,
// missing ports and bad references are refused with a *ReadError that gives
// the place of each.
func Read(r io.Reader) (*Model, error) {
	raw, err := io.ReadAll(io.LimitReader(r, MaxFileBytes+1))
	if err != nil {
		return nil, fmt.Errorf("read model: %w", err)
	}
	if len(raw) > MaxFileBytes {
		return nil, &ReadError{[]Fault{{Why: fmt.Sprintf("the file is larger than %d MiB", MaxFileBytes>>20)}}}
	}
	raw = renewed(raw)
	doc, err := jsonschema.UnmarshalJSON(bytes.NewReader(raw))
	if err != nil {
		return nil, &ReadError{[]Fault{{Path: place(raw, err), Why: "this is not JSON: " + err.Error()}}}
	}
	schema, err := compiled()
	if err != nil {
		return nil, fmt.Errorf("compile the model schema: %w", err)
	}
	if err := schema.Validate(doc); err != nil {
		var ve *jsonschema.ValidationError
		if !errors.As(err, &ve) {
			return nil, fmt.Errorf("validate model: %w", err)
		}
		return nil, &ReadError{faultsOf(doc, ve)}
	}
	return decode(raw)
}

// CheckJoined looks how the head, the parts and the lines of a model go together that were each read
// before, in documents of one model. Read tells what is wrong in its words.
func (m *Model) CheckJoined() error {
	if len(m.Parts) > MaxParts || len(m.Lines) > MaxLines {
		return errors.New("too many parts or lines")
	}
	if faults := m.check(); len(faults) > 0 {
		return &ReadError{faults}
	}
	return nil
}

func decode(raw []byte) (*Model, error) {
	m := new(Model)
	if err := strictly(raw, m); err != nil {
		return nil, &ReadError{[]Fault{{Why: err.Error()}}}
	}
	if faults := m.check(); len(faults) > 0 {
		return nil, &ReadError{faults}
	}
	return m, nil
}

// olderNames are fields as files of before called them, and as they are called
// now. Between the quotes of a text of somebody's own no such key can stand.
var olderNames = []struct {
	key *regexp.Regexp
	now string
}{
	{regexp.MustCompile(`"breaks_on_little"(\s*:)`), `"frost_sensitive"$1`},
}

// renewed is a document with the fields of older files called as they are now.
func renewed(raw []byte) []byte {
	for _, n := range olderNames {
		raw = n.key.ReplaceAll(raw, []byte(n.now))
	}
	return raw
}

// ReadChanged is Read of a document that was read before and in which nothing
// has changed since but one of its "parts" or "lines": that is read as it is now,
// and the rest is left as it was.
func ReadChanged(m *Model, list string, index int, item []byte) (*Model, error) {
	doc, err := jsonschema.UnmarshalJSON(bytes.NewReader(item))
	if err != nil {
		return nil, fmt.Errorf("read a changed model: %w", err)
	}
	schemas, err := compiledItems()
	if err != nil {
		return nil, fmt.Errorf("compile the model schema: %w", err)
	}
	var ve *jsonschema.ValidationError
	if err := schemas[list].Validate(doc); errors.As(err, &ve) {
		return nil, &ReadError{itemFaults(list, index, doc, ve)}
	} else if err != nil {
		return nil, fmt.Errorf("validate model: %w", err)
	}
	changed := *m
	switch list {
	case "parts":
		changed.Parts = slices.Clone(m.Parts)
		changed.Parts[index] = Part{}
		err = strictly(item, &changed.Parts[index])
	case "lines":
		changed.Lines = slices.Clone(m.Lines)
		changed.Lines[index] = Line{}
		err = strictly(item, &changed.Lines[index])
	}
	if err != nil {
		return nil, &ReadError{[]Fault{{Why: err.Error()}}}
	}
	if faults := changed.check(); len(faults) > 0 {
		return nil, &ReadError{faults}
	}
	return &changed, nil
}

// strictly decodes what has no field that is not known.
func strictly(raw []byte, to any) error {
	dec := json.NewDecoder(bytes.NewReader(raw))
	dec.DisallowUnknownFields()
	return dec.Decode(to)
}

// itemFaults are the faults of one part or line, with their places in the
// document.
func itemFaults(list string, index int, item any, ve *jsonschema.ValidationError) []Fault {
	whole := make([]any, index+1)
	whole[index] = item
	at := []string{list, strconv.Itoa(index)}
	var place func(e *jsonschema.ValidationError)
	place = func(e *jsonschema.ValidationError) {
		e.InstanceLocation = append(slices.Clone(at), e.InstanceLocation...)
		for _, c := range e.Causes {
			place(c)
		}
	}
	place(ve)
	return faultsOf(map[string]any{list: whole}, ve)
}

// ReadKept reads a document that Read has read before it was kept. It does not
// look for faults anew.
func ReadKept(text string) (*Model, error) {
	m := new(Model)
	if err := json.Unmarshal(renewed([]byte(text)), m); err != nil {
		return nil, fmt.Errorf("a model that was kept can't be read: %w", err)
	}
	return m, nil
}

// Write writes the document; what it writes reads back the same.
func Write(w io.Writer, m *Model) error {
	b, err := json.MarshalIndent(m, "", "  ")
	if err != nil {
		return fmt.Errorf("write model: %w", err)
	}
	_, err = w.Write(append(b, '\n'))
	return err
}

// place turns a JSON syntax error's offset into a line and column.
func place(raw []byte, err error) string {
	var se *json.SyntaxError
	if !errors.As(err, &se) {
		return ""
	}
	before := raw[:min(int(se.Offset), len(raw))]
	row := bytes.Count(before, []byte("\n")) + 1
	col := len(before) - bytes.LastIndexByte(before, '\n') - 1
	return fmt.Sprintf("line %d, column %d", row, col)
}

// compiled is the schema, made ready once.
var compiled = sync.OnceValues(func() (*jsonschema.Schema, error) { return compile("") })

// compiledItems are the schemas of one part and of one line.
var compiledItems = sync.OnceValues(func() (map[string]*jsonschema.Schema, error) {
	schemas := map[string]*jsonschema.Schema{}
	for _, list := range []string{"parts", "lines"} {
		s, err := compile("#/properties/" + list + "/items")
		if err != nil {
			return nil, err
		}
		schemas[list] = s
	}
	return schemas, nil
})

func compile(fragment string) (*jsonschema.Schema, error) {
	c := jsonschema.NewCompiler()
	c.AssertFormat()
	for t := range formats() {
		c.RegisterFormat(&jsonschema.Format{Name: t.Format(), Validate: func(v any) error {
			if text, ok := v.(string); ok {
				return t.Check(text)
			}
			return nil
		}})
	}
	// The compiler wants the document as it decodes one.
	b, err := json.Marshal(Schema())
	if err != nil {
		return nil, err
	}
	doc, err := jsonschema.UnmarshalJSON(bytes.NewReader(b))
	if err != nil {
		return nil, err
	}
	if err := c.AddResource("urn:"+Format, doc); err != nil {
		return nil, err
	}
	return c.Compile("urn:" + Format + fragment)
}

// formats yields a value of each quantity type of the document.
func formats() func(func(quantityType) bool) {
	return func(yield func(quantityType) bool) {
		for _, t := range []reflect.Type{reflect.TypeFor[Model](), reflect.TypeFor[Data](), reflect.TypeFor[Body](),
			reflect.TypeFor[Place](), reflect.TypeFor[Consumable]()} {
			for f := range fields(t) {
				if q, ok := reflect.Zero(f.Type).Interface().(quantityType); ok && !yield(q) {
					return
				}
			}
		}
	}
}

// faultsOf gathers the leaves of a validation error in document order.
func faultsOf(doc any, ve *jsonschema.ValidationError) []Fault {
	var list []Fault
	var walk func(e *jsonschema.ValidationError)
	walk = func(e *jsonschema.ValidationError) {
		if len(e.Causes) > 0 {
			for _, c := range e.Causes {
				walk(c)
			}
			return
		}
		list = append(list, Fault{Path: pathWords(doc, e.InstanceLocation), Why: plain(e.ErrorKind)})
	}
	walk(ve)
	slices.SortStableFunc(list, func(a, b Fault) int { return strings.Compare(a.Path+a.Why, b.Path+b.Why) })
	return slices.Compact(list)
}

// pathWords writes a JSON pointer and names the part or line it is in.
func pathWords(doc any, loc []string) string {
	path := ""
	for i, step := range loc {
		path += "/" + step
		switch v := doc.(type) {
		case map[string]any:
			doc = v[step]
		case []any:
			if n, err := strconv.Atoi(step); err == nil && n < len(v) {
				doc = v[n]
			}
			if m, ok := doc.(map[string]any); ok && i == 1 {
				if id, ok := m["id"].(string); ok {
					path += fmt.Sprintf(" (%s %q)", strings.TrimSuffix(loc[0], "s"), id)
				}
			}
		}
	}
	return path
}

func plain(k jsonschema.ErrorKind) string {
	switch k := k.(type) {
	case *kind.AdditionalProperties:
		return "unknown field " + quoted(slices.Sorted(slices.Values(k.Properties))) +
			"; check the spelling, or whether this kind of part carries it"
	case *kind.Required:
		return "missing " + quoted(k.Missing)
	case *kind.Format:
		return k.Err.Error()
	case *kind.Enum:
		return fmt.Sprintf("%q is not possible here; write one of %s", fmt.Sprint(k.Got), quotedAny(k.Want))
	case *kind.Const:
		return fmt.Sprintf("%q is not possible here; write %q", fmt.Sprint(k.Got), fmt.Sprint(k.Want))
	case *kind.Type:
		return fmt.Sprintf("this is %s where %s belongs", article(k.Got), article(strings.Join(k.Want, " or ")))
	case *kind.Pattern:
		if k.Want == portPattern {
			return fmt.Sprintf("%q is not a port; write part.port, like \"pump.out\"", k.Got)
		}
		return fmt.Sprintf("%q is not an id; write small letters, digits and single hyphens", k.Got)
	case *kind.MaxLength:
		return fmt.Sprintf("this has %d letters; at most %d are taken", k.Got, k.Want)
	case *kind.MaxItems:
		return fmt.Sprintf("there are %d; at most %d are taken", k.Got, k.Want)
	case *kind.FalseSchema:
		return "this kind of part does not carry this field"
	default:
		return k.LocalizedString(message.NewPrinter(language.English))
	}
}

func article(word string) string {
	if word == "" {
		return "nothing"
	}
	if strings.ContainsRune("aeiou", rune(word[0])) {
		return "an " + word
	}
	return "a " + word
}

func quoted(words []string) string {
	q := make([]string, len(words))
	for i, w := range words {
		q[i] = strconv.Quote(w)
	}
	return strings.Join(q, ", ")
}

func quotedAny(words []any) string {
	q := make([]string, len(words))
	for i, w := range words {
		q[i] = fmt.Sprint(w)
	}
	return quoted(q)
}
