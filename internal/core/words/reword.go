package words

import (
	"fmt"
	"io"
	"regexp"
	"strconv"
	"unicode/utf8"

	"coldtap/internal/core/fact"
)

// slot stands in a reworded sentence for one of the things that it is about: {2:b} is the second in the form b.
var slot = regexp.MustCompile(`\{(\d{1,2}):([A-Za-z])\}`)

// marked is an argument that writes where it stands, instead of what it is.
type marked int

// Format implements fmt.Formatter.
func (m marked) Format(to fmt.State, verb rune) {
	_, _ = io.WriteString(to, fmt.Sprintf("{%d:%c}", int(m), verb)) // a string builder's state fails at nothing
}

// Pattern is a sentence with slots for what it is about, as somebody rewords it.
func (p *Printer) Pattern(f fact.Fact) string {
	args := make([]any, len(f.Args))
	for i, a := range f.Args {
		switch a := a.(type) {
		case int: // the form is chosen by it
			args[i] = a
		default:
			args[i] = marked(i + 1)
		}
	}
	return p.say(f.ID, args...)
}

// Slots are what can stand in a reworded sentence, with what each is now.
func (p *Printer) Slots(f fact.Fact) (list [][2]string) {
	for _, m := range slot.FindAllStringSubmatch(p.Pattern(f), -1) {
		text, err := p.Fill(m[0], f)
		if err == nil {
			list = append(list, [2]string{m[0], text})
		}
	}
	return list
}

// Fill is a reworded sentence with what it is about in its slots. A slot that stands for nothing is an error.
func (p *Printer) Fill(pattern string, f fact.Fact) (string, error) {
	var wrong error
	text := slot.ReplaceAllStringFunc(pattern, func(s string) string {
		m := slot.FindStringSubmatch(s)
		i, _ := strconv.Atoi(m[1]) // digits, by the expression
		if i < 1 || i > len(f.Args) {
			wrong = fmt.Errorf("%s stands for nothing in this sentence", s)
			return s
		}
		if n, ok := f.Args[i-1].(int); ok {
			return strconv.Itoa(n)
		}
		verb, _ := utf8.DecodeRuneInString(m[2])
		return argument{p, f.Args[i-1]}.text(verb)
	})
	return text, wrong
}
