package drawing

import (
	_ "embed"
	"regexp"
	"strings"
)

//go:embed drawing.css
var css string

// CSS is the style sheet of drawings.
func CSS() string { return css }

// rule is a rule of the style sheet.
var rule = regexp.MustCompile(`(?m)^[^\s@}/][^{]*\{[^}]*\}`)

// Alone is a drawing as a file of its own: with the rules of the style sheet that it needs.
func Alone(svg string) string {
	class := "schematic"
	for _, c := range []string{"handle", "layout"} {
		if strings.HasPrefix(svg, `<svg class="`+c) {
			class = c
		}
	}
	var rules []string
	for _, r := range rule.FindAllString(css, -1) {
		if strings.Contains(r[:strings.Index(r, "{")], "."+class) && !strings.Contains(r, ":hover") &&
			!strings.Contains(r, "html[") {
			rules = append(rules, strings.Join(strings.Fields(r), " "))
		}
	}
	head, rest, _ := strings.Cut(svg, ">")
	if !strings.Contains(head, "xmlns=") {
		head += ` xmlns="http://www.w3.org/2000/svg"`
	}
	return head + "><style>" + strings.Join(rules, "\n") + "</style>" + rest + "\n"
}
