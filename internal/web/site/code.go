package site

import (
	"fmt"
	"html/template"
	"strings"

	"rsc.io/qr"
)

// Code is a QR code (ISO/IEC 18004) of an address as a drawing, black on white in every theme.
func Code(address, label string) (template.HTML, error) {
	code, err := qr.Encode(address, qr.M)
	if err != nil {
		return "", fmt.Errorf("code of %q: %w", address, err)
	}
	const quiet = 4
	var path strings.Builder
	for y := range code.Size {
		for x := range code.Size {
			if code.Black(x, y) {
				fmt.Fprintf(&path, "M%d %dh1v1h-1z", x+quiet, y+quiet)
			}
		}
	}
	n := code.Size + 2*quiet
	return template.HTML(fmt.Sprintf( // figures, and a label that is escaped
		`<svg class="code" viewBox="0 0 %d %d" role="img" aria-label="%s">`+
			`<path fill="#fff" d="M0 0h%dv%dH0z"/><path fill="#000" d="%s"/></svg>`,
		n, n, template.HTMLEscapeString(label), n, n, path.String())), nil
}
