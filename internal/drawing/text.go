package drawing

import (
	"fmt"
	"html"
	"strconv"
	"strings"
)

func itoa(n int) string { return strconv.Itoa(n) }

// svg gathers markup.
type svg struct{ strings.Builder }

// f writes formatted markup; texts among the arguments must be escaped with
// esc.
func (s *svg) f(format string, args ...any) { fmt.Fprintf(&s.Builder, format, args...) }

func esc(s string) string { return html.EscapeString(s) }
