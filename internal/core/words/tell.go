package words

import (
	"fmt"
	"io"
	"strings"
	"time"

	"coldtap/internal/core/fact"
	"coldtap/internal/core/flow"
	"coldtap/internal/core/plumbing"
	"coldtap/internal/core/quantity"
	"coldtap/internal/core/state"
)

// Tell says a fact; nothing for none.
func (p *Printer) Tell(f fact.Fact) string {
	if f.IsZero() {
		return ""
	}
	args := make([]any, len(f.Args))
	for i, a := range f.Args {
		switch a.(type) {
		case int: // plural forms are chosen by it
			args[i] = a
		default:
			args[i] = argument{p, a}
		}
	}
	return p.say(f.ID, args...)
}

// TellAll says some facts, each by itself.
func (p *Printer) TellAll(list []fact.Fact) []string {
	var words []string
	for _, f := range list {
		words = append(words, p.Tell(f))
	}
	return words
}

// argument is something that a fact is about. The catalogue picks its form by
// the verb:
//
//	%s  a name as it stands by itself, an amount in the reader's units
//	%r  a name in running text, with its article
//	%n  a name in running text without its article
//	%b  an amount in both systems of units
//	%a  an amount rounded, as after "about"
//	%k  an amount as neatly as the household measures go
//	%A  an amount to two digits
//	%U  an amount in both systems, the household measures first
//	%u  whatever it is, as the beginning of a sentence
//
// A list has commas between its members; with a capital letter, or %e for %s,
// it is joined by "and", with %j by semicolons; with %w its members stand
// as they are.
type argument struct {
	*Printer
	what any
}

// Format implements fmt.Formatter.
func (a argument) Format(to fmt.State, verb rune) {
	_, _ = io.WriteString(to, a.text(verb)) // a string builder's state fails at nothing
}

func (a argument) text(verb rune) string {
	if verb == 'u' {
		return a.begin(a.text('s'))
	}
	switch x := a.what.(type) {
	case string:
		return x
	case fact.Name:
		return a.name(string(x), verb)
	case fact.Word:
		return a.say(string(x))
	case fact.Field:
		return a.Field(string(x))
	case fact.Fact:
		return a.name(a.Tell(x), verb)
	case []fact.Fact:
		return list(a, x, verb)
	case *plumbing.Part:
		return a.name(x.Name, verb)
	case []*plumbing.Part:
		return list(a, x, verb)
	case []any:
		return list(a, x, verb)
	case []string:
		return list(a, x, verb)
	case *plumbing.Line:
		return x.ID
	case plumbing.Standing:
		return a.Position(x.Part, x.Position)
	case plumbing.Place:
		return a.Place(x)
	case plumbing.Side:
		return a.say("side." + string(x))
	case state.Fluid:
		return a.say("fluid." + string(x))
	case state.Attitude:
		return a.attitude(x)
	case flow.Reason:
		return a.say("stays." + x.String())
	case quantity.Measured:
		return a.measured(x)
	case time.Duration:
		return a.Duration(x)
	case fmt.Stringer: // as the model gives it
		return x.String()
	}
	return amount(a.Printer, a.what, verb)
}

// name is a name in the form that a verb asks for.
func (p *Printer) name(name string, verb rune) string {
	switch verb {
	case 'r', 'R':
		return p.running(name)
	case 'n', 'N':
		return p.bare(name)
	}
	return name
}

// list joins what a fact is about several times.
func list[T any](a argument, all []T, verb rune) string {
	between := "list.between"
	switch verb {
	case 'w':
		between = "list.as-they-are"
	case 'R', 'N', 'e':
		between = "list.and"
	case 'j':
		between = "list.semicolon"
	}
	var each []string
	for _, x := range all {
		each = append(each, argument{a.Printer, x}.text(verb))
	}
	return strings.Join(each, a.say(between))
}

// Duration writes a time to the minute.
func (p *Printer) Duration(d time.Duration) string {
	h, m := int(d.Hours()), int(d.Minutes())%60
	switch {
	case h == 0:
		return p.say("time.min", m)
	case m == 0:
		return p.say("time.h", h)
	}
	return p.say("time.h-min", h, m)
}

func (p *Printer) attitude(a state.Attitude) string {
	switch {
	case a.NoseUp > 0:
		return p.say("attitude.nose-up")
	case a.NoseUp < 0:
		return p.say("attitude.nose-down")
	case a.LeftUp > 0:
		return p.say("attitude.left-up")
	case a.LeftUp < 0:
		return p.say("attitude.right-up")
	}
	return p.say("attitude.level")
}

// measured is a household measure; for who measures in the other system, what it comes to there beside it.
func (p *Printer) measured(m quantity.Measured) string {
	metric := m.Name == "mL" || m.Name == "L"
	if metric == (p.sys == quantity.SI) {
		return m.String()
	}
	return p.say("measured.other", m.String(), quantity.Show(m.Litre, p.sys))
}

// amount writes a quantity.
func amount(p *Printer, v any, verb rune) string {
	switch x := v.(type) {
	case quantity.Litre:
		return write(x, p.sys, verb)
	case quantity.Millimetre:
		return write(x, p.sys, verb)
	case quantity.Metre:
		return write(x, p.sys, verb)
	case quantity.Kilopascal:
		return write(x, p.sys, verb)
	case quantity.Celsius:
		return write(x, p.sys, verb)
	case quantity.LitrePerMinute:
		return write(x, p.sys, verb)
	case quantity.MgPerLitre:
		return write(x, p.sys, verb)
	case quantity.Second:
		return write(x, p.sys, verb)
	case quantity.Kilogram:
		return write(x, p.sys, verb)
	case quantity.Kilowatt:
		return write(x, p.sys, verb)
	case quantity.Ampere:
		return write(x, p.sys, verb)
	case quantity.Percent:
		return write(x, p.sys, verb)
	}
	return fmt.Sprint(v)
}

func write[U quantity.Unit](v U, sys quantity.System, verb rune) string {
	switch verb {
	case 'b':
		return quantity.Both(v, sys)
	case 'a':
		return quantity.Rough(v, sys)
	case 'k':
		return quantity.Neat(v, sys)
	case 'A':
		return quantity.About(v, sys)
	case 'U':
		return quantity.Both(v, quantity.US)
	}
	return quantity.Show(v, sys)
}
