package card

import (
	"fmt"
	"unicode/utf8"
)

// Of a page of the quick card, in type of the first size: letters in a line, lines in its two columns, lines that a row
// of two handles takes.
const (
	lineLetters = 60
	pageLines   = 2 * 78
	handleLines = 2.4
)

// sizes are the type sizes of the quick card, as shares of the first.
var sizes = []float64{1, 0.92, 0.86, 0.8, 0.74, 0.68}

// sizeOf is the class of the largest type in which a side fits on its page, by about how many lines it takes.
func sizeOf(s side) string {
	for i, share := range sizes {
		if linesOf(s, share) <= pageLines/share || i == len(sizes)-1 {
			return fmt.Sprintf("s%d", i)
		}
	}
	return ""
}

// linesOf is about how many lines a side takes in a type size.
func linesOf(s side, share float64) (sum float64) {
	in := func(texts ...string) float64 {
		n := 0
		for _, t := range texts {
			n += utf8.RuneCountInString(t) + 1
		}
		return float64(int(float64(n)*share/lineLetters) + 1)
	}
	for _, c := range s.Columns {
		sum += 4 + in(c.Needs...)
		if c.Wrong != nil {
			sum += in(append([]string{c.Lacks}, c.Wrong...)...)
		}
		for _, x := range c.Steps {
			sum += in(append([]string{x.Do, x.Outlets}, x.Rest...)...) + 0.35
			for _, k := range x.Cautions {
				sum += in(k.Head, k.Words)
			}
			sum += float64((len(x.Turns)+1)/2) * handleLines
			if x.After != nil {
				sum += in(x.After...)
			}
		}
	}
	return sum
}
