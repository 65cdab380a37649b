package quantity

import (
	"fmt"
	"math"
	"strconv"
	"strings"
	"unicode"
	"unicode/utf8"
)

// ParseError says what could not be read as a quantity and what would be.
type ParseError struct {
	Input string // as typed
	Why   string
	Want  string // examples that would be accepted
}

func (e *ParseError) Error() string {
	return fmt.Sprintf("%q: %s; write it like %s", e.Input, e.Why, e.Want)
}

// Parse reads a quantity as people type it: "43 gal", "2 1/2 gal", "¼ cup",
// "12 ft 6 in", "7'4\"", "8,5 L", "-30 °F". A unit is needed. Volumes,
// lengths, pressures, flows, times, masses, currents and shares must not be
// negative. The error, if any, is a *ParseError.
func Parse[U Unit](s string) (U, error) {
	d := dimensionOf[U]()
	v, err := d.parse(s)
	return U(v), err
}

func (d *dimension) parse(s string) (float64, error) {
	fail := func(why string) (float64, error) {
		return 0, &ParseError{Input: s, Why: why, Want: d.examples}
	}
	sc := scanner{rest: strings.TrimSpace(typed.Replace(s))}
	if sc.rest == "" {
		return fail("nothing given")
	}
	negative := false
	for _, sign := range []string{"-", "−", "–"} {
		if r, ok := strings.CutPrefix(sc.rest, sign); ok {
			negative, sc.rest = true, strings.TrimSpace(r)
			break
		}
	}
	if sc.rest == "" { // a dash alone stands for what is not known
		return fail("nothing given")
	}
	total, last := 0.0, math.Inf(1)
	for n := 0; sc.rest != ""; n++ {
		num, why := sc.number()
		if why != "" {
			return fail(why)
		}
		word := sc.unit()
		if word == "" {
			return fail("the unit is missing")
		}
		u, ok := d.unit(word)
		if !ok {
			return fail(fmt.Sprintf("%q is not a unit of %s", word, d.name))
		}
		if n > 0 && (u.offset != 0 || u.factor >= last) {
			return fail("two figures that do not belong together")
		}
		last = u.factor
		if negative {
			num = -num
		}
		total += num*u.factor + u.offset
	}
	if math.IsInf(total, 0) || math.Abs(total) > 1e12 {
		return fail("too large")
	}
	if total < 0 && !d.signed {
		return fail(d.name + " can't be negative")
	}
	return total, nil
}

// typed makes of what is typed what is read: the figure in a unit's name is none of the amount.
var typed = strings.NewReplacer("\u00a0", " ", "H2O", "H₂O", "h2o", "h₂o")

// scanner takes numbers and unit words off the front of a text.
type scanner struct{ rest string }

var vulgar = map[rune]float64{
	'¼': 1. / 4, '½': 1. / 2, '¾': 3. / 4, '⅓': 1. / 3, '⅔': 2. / 3,
	'⅛': 1. / 8, '⅜': 3. / 8, '⅝': 5. / 8, '⅞': 7. / 8, '⅕': 1. / 5, '⅙': 1. / 6,
}

// number takes "8", "8.5", "8,5", "1/2", "2 1/2", "2½" or "½". The second
// result says why it could not.
func (sc *scanner) number() (v float64, why string) {
	start := sc.rest
	whole, seen, why := sc.decimal()
	if why != "" {
		return 0, why
	}
	if seen && strings.HasPrefix(sc.rest, "/") {
		sc.rest = sc.rest[1:]
		den, ok, why := sc.decimal()
		if !ok || why != "" || den == 0 {
			return 0, "a fraction without a lower part"
		}
		return whole / den, ""
	}
	save := sc.rest
	sc.space()
	if r, size := utf8.DecodeRuneInString(sc.rest); vulgar[r] != 0 {
		sc.rest = sc.rest[size:]
		return whole + vulgar[r], ""
	}
	if seen {
		if num, ok, _ := sc.decimal(); ok && strings.HasPrefix(sc.rest, "/") {
			sc.rest = sc.rest[1:]
			den, ok, _ := sc.decimal()
			if !ok || den == 0 {
				return 0, "a fraction without a lower part"
			}
			return whole + num/den, ""
		}
		sc.rest = save
		return whole, ""
	}
	word, _, _ := strings.Cut(start, " ")
	return 0, fmt.Sprintf("no number at %q", word)
}

// decimal takes digits with at most one decimal point or comma.
func (sc *scanner) decimal() (v float64, seen bool, why string) {
	i, point, digits := 0, -1, 0
	for i < len(sc.rest) {
		c := sc.rest[i]
		if c >= '0' && c <= '9' {
			digits++
		} else if (c == '.' || c == ',') && point < 0 && i+1 < len(sc.rest) && isDigit(sc.rest[i+1]) {
			point = i
		} else if (c == '.' || c == ',') && point >= 0 && i+1 < len(sc.rest) && isDigit(sc.rest[i+1]) {
			return 0, false, "two decimal marks"
		} else {
			break
		}
		i++
	}
	if digits == 0 {
		return 0, false, ""
	}
	if digits > 15 {
		return 0, false, "too many digits"
	}
	if point > 0 && sc.rest[point] == ',' && i-point-1 == 3 && sc.rest[:point] != "0" {
		return 0, false, "a comma before three digits may be a decimal comma or a thousands mark"
	}
	text := strings.Replace(sc.rest[:i], ",", ".", 1)
	sc.rest = sc.rest[i:]
	v, err := strconv.ParseFloat(text, 64)
	return v, err == nil, ""
}

func isDigit(c byte) bool { return c >= '0' && c <= '9' }

func (sc *scanner) space() { sc.rest = strings.TrimLeft(sc.rest, " \t") }

// unit takes the letters and signs up to the next digit.
func (sc *scanner) unit() string {
	sc.space()
	i := strings.IndexFunc(sc.rest, func(r rune) bool {
		return unicode.IsDigit(r) || vulgar[r] != 0
	})
	between := " \t,-" // a dash stands between feet and inches: 7'-4"
	if i < 0 {
		i, between = len(sc.rest), " \t,"
	}
	word := strings.TrimRight(sc.rest[:i], between)
	sc.rest = sc.rest[i:]
	return strings.Join(strings.Fields(word), " ")
}
