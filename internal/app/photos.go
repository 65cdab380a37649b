package app

import "context"

// Photos keeps photographs of parts.
type Photos struct{ Store Transactor }

// Add keeps a picture of a part.
func (p *Photos) Add(ctx context.Context, slug string, by By, photo *Photo) error {
	return p.Store.Do(ctx, func(tx Tx) error {
		photo.ID, photo.Person = 0, by.Name
		if err := tx.AddPhoto(ctx, slug, photo); err != nil {
			return err
		}
		return tx.Audit(ctx, by, "added photograph", slug, photo.Part)
	})
}

// Mark puts the mark of a part on a picture.
func (p *Photos) Mark(ctx context.Context, slug string, by By, m PhotoMark) error {
	return p.Store.Do(ctx, func(tx Tx) error {
		if err := tx.MarkPhoto(ctx, m); err != nil {
			return err
		}
		return tx.Audit(ctx, by, "marked photograph", slug, m.Part)
	})
}

// Unmark takes the mark of a part off a picture.
func (p *Photos) Unmark(ctx context.Context, slug string, by By, photo *Photo, part string) error {
	return p.Store.Do(ctx, func(tx Tx) error {
		if err := tx.UnmarkPhoto(ctx, photo.ID, part); err != nil {
			return err
		}
		return tx.Audit(ctx, by, "took a mark off a photograph", slug, part)
	})
}

// Caption writes what stands below a picture.
func (p *Photos) Caption(ctx context.Context, slug string, by By, photo *Photo, caption string) error {
	return p.Store.Do(ctx, func(tx Tx) error {
		if err := tx.CaptionPhoto(ctx, photo.ID, caption); err != nil {
			return err
		}
		return tx.Audit(ctx, by, "captioned photograph", slug, caption)
	})
}

// Remove takes a picture away, until it is brought back.
func (p *Photos) Remove(ctx context.Context, slug string, by By, photo *Photo) error {
	return p.Store.Do(ctx, func(tx Tx) error {
		if err := tx.RemovePhoto(ctx, photo.ID, by); err != nil {
			return err
		}
		return tx.Audit(ctx, by, "removed photograph", slug, photo.Part)
	})
}

// BringBack brings a picture back that was taken away.
func (p *Photos) BringBack(ctx context.Context, slug string, by By, photo *Photo) error {
	return p.Store.Do(ctx, func(tx Tx) error {
		if err := tx.BringPhotoBack(ctx, photo.ID); err != nil {
			return err
		}
		return tx.Audit(ctx, by, "brought photograph back", slug, photo.Part)
	})
}
