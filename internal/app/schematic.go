package app

import (
	"context"
	"crypto/sha256"
	"encoding/hex"
	"errors"
	"log/slog"
	"time"

	"coldtap/internal/drawing"
)

// DrawingKeeper keeps arrangements of drawings.
type DrawingKeeper interface {
	// Drawing is what was kept under a name; nil where nothing was.
	Drawing(ctx context.Context, of string) ([]byte, error)
	KeepDrawing(ctx context.Context, of string, body []byte) error
}

// slowDrawing is how long an arrangement takes that is worth being kept.
const slowDrawing = 250 * time.Millisecond

// Schematic is the drawing. It is arranged anew only where it differs from that
// of the build before, and where none was kept.
func (b *Build) Schematic(ctx context.Context) (*drawing.Schematic, error) {
	return part(ctx, b, "schematic", b.arrange)
}

// SchematicSoon is Schematic that waits no longer than a time: nil then, with
// how many hundredths of the work are done. The work goes on.
func (b *Build) SchematicSoon(ctx context.Context, wait time.Duration) (*drawing.Schematic, int, error) {
	soon, cancel := context.WithTimeout(ctx, wait)
	defer cancel()
	s, err := b.Schematic(soon)
	if errors.Is(err, context.DeadlineExceeded) && ctx.Err() == nil {
		return nil, int(b.arranged.Load()), nil
	}
	return s, 100, err
}

func (b *Build) arrange(ctx context.Context) (*drawing.Schematic, error) {
	if before := b.before.Value(); before != nil {
		before.mu.Lock()
		old, ok := before.parts["schematic"].(*drawing.Schematic)
		before.mu.Unlock()
		if ok {
			if over, ok := old.Over(b.Net); ok {
				return over, nil
			}
		}
	}
	if b.drawings == nil || len(b.Model.Parts) < fewParts {
		return drawing.NewSchematic(ctx, b.Net, nil)
	}
	if s := b.keptDrawing(ctx); s != nil {
		return s, nil
	}
	began := time.Now()
	s, err := drawing.NewSchematic(ctx, b.Net, func(routed, of int) {
		b.arranged.Store(max(b.arranged.Load(), int64(100*routed/max(1, of))))
	})
	if err == nil && time.Since(began) > slowDrawing {
		b.keepDrawing(ctx, s)
	}
	return s, err
}

// fewParts are arranged faster than a kept drawing is found.
const fewParts = 60

// drawingOf names the arrangement of a build by this program.
func (b *Build) drawingOf() string {
	sum := sha256.Sum256([]byte(b.key + "\n" + coreVersion()))
	return hex.EncodeToString(sum[:])
}

// keptDrawing is the drawing that was kept; nil where there is none. That it
// can't be had is no trouble: it is arranged then.
func (b *Build) keptDrawing(ctx context.Context) *drawing.Schematic {
	raw, err := b.drawings.Drawing(ctx, b.drawingOf())
	if err != nil || raw == nil {
		return nil
	}
	s, err := drawing.Kept(b.Net, raw)
	if err != nil {
		slog.Warn("kept drawing", "error", err)
		return nil
	}
	return s
}

func (b *Build) keepDrawing(ctx context.Context, s *drawing.Schematic) {
	raw, err := s.Keep()
	if err == nil {
		err = b.drawings.KeepDrawing(ctx, b.drawingOf(), raw)
	}
	if err != nil {
		slog.Warn("keep a drawing", "error", err)
	}
}
