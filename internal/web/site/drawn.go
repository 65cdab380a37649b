package site

import (
	"context"
	"html/template"

	"coldtap/internal/drawing"
)

// Drawn is a drawing on a page, or how far it is arranged.
type Drawn struct {
	SVG   template.HTML // "" while it is being arranged
	Loose int           // lines that lie on others
	Done  int           // hundredths of the work
	Again string        // address of the board that is to show it
	Into  string        // selector of the board
}

// Draw draws a build where that is soon done; else it says how far the work is,
// which goes on apart from the page.
func Draw(ctx context.Context, b *Computed, show *drawing.Show) (Drawn, error) {
	s, done, err := b.SchematicSoon(ctx, Soon)
	if err != nil || s == nil {
		return Drawn{Done: done}, err
	}
	return Drawn{SVG: template.HTML(s.SVG(*show)), Loose: s.Loose, Done: 100}, nil // drawn by us, texts escaped
}
