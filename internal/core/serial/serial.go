// Package serial puts serial numbers in order, as makers count them: the
// numbers in them by their value, the rest letter by letter.
package serial

import (
	"cmp"
	"strings"
)

// Compare puts two serial numbers in order. Case and spaces around them do not matter.
func Compare(a, b string) int {
	a, b = clean(a), clean(b)
	for a != "" && b != "" {
		x, restA := piece(a)
		y, restB := piece(b)
		if c := comparePieces(x, y); c != 0 {
			return c
		}
		a, b = restA, restB
	}
	return cmp.Compare(len(a), len(b))
}

// In reports whether a serial number is one of a range; an empty end is open.
func In(s, from, to string) bool {
	return (clean(from) == "" || Compare(s, from) >= 0) && (clean(to) == "" || Compare(s, to) <= 0)
}

// Covers reports whether a range has all serial numbers of another in it.
func Covers(from, to, from2, to2 string) bool {
	low := clean(from) == "" || clean(from2) != "" && Compare(from, from2) <= 0
	high := clean(to) == "" || clean(to2) != "" && Compare(to, to2) >= 0
	return low && high
}

// Alike reports whether a serial number is written as another is: digits where it has digits, the same letters
// elsewhere, whatever the numbers are.
func Alike(a, b string) bool {
	shape := func(s string) string {
		var out strings.Builder
		for s = clean(s); s != ""; {
			p, rest := piece(s)
			if digit(p[0]) {
				p = "0"
			}
			out.WriteString(p)
			s = rest
		}
		return out.String()
	}
	return shape(a) == shape(b)
}

func clean(s string) string { return strings.ToUpper(strings.TrimSpace(s)) }

// piece cuts a run of digits or of other letters off the front.
func piece(s string) (first, rest string) {
	i := 1
	for i < len(s) && digit(s[i]) == digit(s[0]) {
		i++
	}
	return s[:i], s[i:]
}

func digit(b byte) bool { return b >= '0' && b <= '9' }

func comparePieces(a, b string) int {
	if digit(a[0]) && digit(b[0]) {
		x, y := strings.TrimLeft(a, "0"), strings.TrimLeft(b, "0")
		return cmp.Or(cmp.Compare(len(x), len(y)), strings.Compare(x, y))
	}
	return strings.Compare(a, b)
}
