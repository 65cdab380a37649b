package guide_test

import (
	"strings"

	"coldtap/internal/drawing"
	"coldtap/internal/guide/doc"
	"coldtap/internal/guide/md"
)

// plain is all that a document says.
func plain(d *doc.Document) string {
	var b strings.Builder
	if err := md.Write(&b, d, &doc.Pictures{Alone: drawing.Alone}); err != nil {
		return err.Error()
	}
	return b.String()
}
