package app

import "context"

// Photos keeps photographs of parts.
type Photos struct{ Store Transactor }

// Add keeps a picture of a part.
func (p *Photos) Add(ctx context.Context, slug string, photo *Photo) error {
	return p.Store.Do(ctx, func(tx Tx) error {
		if err := tx.AddPhoto(ctx, slug, photo); err != nil {
			return err
		}
		return tx.Audit(ctx, photo.Person, "added photograph", slug, photo.Part)
	})
}

// Mark moves the mark on a picture, in shares of its width and height.
func (p *Photos) Mark(ctx context.Context, slug, person string, photo *Photo, x, y float64) error {
	return p.Store.Do(ctx, func(tx Tx) error {
		if err := tx.MarkPhoto(ctx, photo.ID, x, y); err != nil {
			return err
		}
		return tx.Audit(ctx, person, "marked photograph", slug, photo.Part)
	})
}

// Remove takes a picture away.
func (p *Photos) Remove(ctx context.Context, slug, person string, photo *Photo) error {
	return p.Store.Do(ctx, func(tx Tx) error {
		if err := tx.RemovePhoto(ctx, photo.ID); err != nil {
			return err
		}
		return tx.Audit(ctx, person, "removed photograph", slug, photo.Part)
	})
}
