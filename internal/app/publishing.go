package app

import (
	"context"
	"encoding/json"
	"fmt"
	"strconv"
	"strings"

	"coldtap/internal/core/serial"
	"coldtap/internal/guide/frozen"
)

// Publishing freezes guides and says which of them hold for which units.
type Publishing struct {
	Store interface {
		Transactor
		ModelReader
		RuleReader
		PhotoReader
		PublishReader
	}
	Builds *Builds
	Docs   *Docs
}

// Present reads how a model is now.
func (p *Publishing) Present(ctx context.Context, slug string) (*Present, error) {
	return presentOf(ctx, p.Store, p.Docs, slug)
}

// Build is a build of a model as it is now.
func (p *Publishing) Build(ctx context.Context, x *Present, with []string) (*Build, error) {
	name := strings.Join(with, ",")
	if name == "" {
		name = "none"
	}
	return p.Builds.Get(ctx, x.Row.Slug, x.Rev, name)
}

// Range are the serial numbers that a published guide is for; empty ends are open.
type Range struct{ From, To string }

// check refuses a range that has no number in it.
func (r Range) check() error {
	switch {
	case len(r.From) > 60 || len(r.To) > 60:
		return refused("A serial number has at most 60 letters.")
	case r.From != "" && r.To != "" && serial.Compare(r.From, r.To) > 0:
		return refused("The range ends before it begins: %s comes behind %s.", r.From, r.To)
	case r.From != "" && r.To != "" && !serial.Alike(r.From, r.To):
		return refused("%s and %s are not written alike: is there a slip in one of them?", r.From, r.To)
	}
	return nil
}

// Steps is in how many steps a guide is published.
func (p *Publishing) Steps(x *Present) int { return len(x.Doc.Builds()) + 2 }

// Publish freezes the guide of a model as it was approved, for a range of serial numbers. What it replaces wholly is
// superseded. It takes some time and tells each step; address is where readers begin, "" for no code on cards.
func (p *Publishing) Publish(ctx context.Context, slug string, by By, units Range, address string,
	step func()) (*PublishedGuide, error) {
	if err := units.check(); err != nil {
		return nil, err
	}
	x, err := p.Present(ctx, slug)
	if err != nil {
		return nil, err
	}
	if last, err := p.Store.LastReview(ctx, x.Row.ID); err != nil {
		return nil, err
	} else if last == nil || last.State != Approved || last.Basis != x.Basis {
		return nil, ErrNotPassed
	}
	files, err := p.Freeze(ctx, x, address, step)
	if err != nil {
		return nil, err
	}
	g, err := p.keep(ctx, x, by, units, files)
	step()
	return g, err
}

// Freeze makes the files of a guide as it is now.
func (p *Publishing) Freeze(ctx context.Context, x *Present, address string, step func()) ([]frozen.File, error) {
	g := &frozen.Guide{Model: x.Doc, House: x.House, Photos: map[string][]byte{}, Program: Program(), Address: address}
	for _, photo := range x.Photos {
		if photo.RemovedAt != nil {
			continue
		}
		whole, err := p.Store.Photo(ctx, x.Row.Slug, photo.ID)
		if err != nil {
			return nil, err
		}
		g.Photos[strconv.FormatUint(photo.ID, 10)] = whole.Image
	}
	builds := x.Doc.Builds()
	files, err := g.Common(builds)
	if err != nil {
		return nil, err
	}
	step()
	for _, with := range builds {
		b, err := p.Build(ctx, x, with)
		if err != nil {
			return nil, err
		}
		in, err := x.Inputs(ctx, b, true)
		if err != nil {
			return nil, err
		}
		list, err := g.Files(ctx, frozen.Build{With: with, In: in, Draw: x.Draw(b)})
		if err != nil {
			return nil, fmt.Errorf("build %s: %w", frozen.Name(with), err)
		}
		files = append(files, list...)
		step()
	}
	return files, nil
}

// keep keeps a guide with its files, supersedes those it replaces, and ends the round of review.
func (p *Publishing) keep(ctx context.Context, x *Present, by By, units Range, files []frozen.File) (*PublishedGuide,
	error) {
	var listed []frozen.Listed
	about := ""
	for _, f := range files {
		listed = append(listed, frozen.Listed{Path: f.Path, Sum: frozen.Sum(f.Body)})
		if f.Path == frozen.AboutPath {
			about = string(f.Body)
		}
	}
	g := &PublishedGuide{}
	err := p.Store.Do(ctx, func(tx Tx) error {
		row, err := tx.LockRow(ctx, x.Row.Slug)
		if err != nil {
			return err
		}
		last, err := tx.LastReview(ctx, row.ID)
		if err != nil {
			return err
		}
		if last == nil || last.State != Approved || last.Basis != x.Basis || row.Revision != x.Row.Revision {
			return ErrNotPassed
		}
		earlier, err := tx.PublishedOf(ctx, row.Slug)
		if err != nil {
			return err
		}
		*g = PublishedGuide{ModelID: row.ID, Slug: row.Slug, Name: x.Doc.Name, Year: x.Doc.Year,
			Letter: Letter(len(earlier)),
			Number: row.Revision, State: Published, FromSerial: units.From, ToSerial: units.To, Hash: frozen.Hash(listed),
			About: about, PublishedByID: by.ID, PublishedBy: by.Name, Version: 1}
		if err := tx.AddFrozen(ctx, files); err != nil {
			return err
		}
		if err := tx.AddPublished(ctx, g, listed); err != nil {
			return err
		}
		for _, e := range earlier {
			if e.State == Published && serial.Covers(units.From, units.To, e.FromSerial, e.ToSerial) {
				if err := tx.SetPublished(ctx, e.ID, Superseded, ""); err != nil {
					return err
				}
			}
		}
		last.State = Published
		if err := tx.SetReview(ctx, last, Approved); err != nil {
			return err
		}
		return tx.Audit(ctx, by, "published guide", row.Slug, fmt.Sprintf("revision %s, %s", g.Letter, g.Hash))
	})
	return g, err
}

// Letter is the letter of a revision by its number, from 0: A to Z, then AA.
func Letter(n int) string {
	s := ""
	for n++; n > 0; n = (n - 1) / 26 {
		s = string(rune('A'+(n-1)%26)) + s
	}
	return s
}

// Withdraw takes a published guide back: it stays readable, and says why it must not be followed.
func (p *Publishing) Withdraw(ctx context.Context, slug, letter string, by By, why string) error {
	if why = strings.TrimSpace(why); why == "" {
		return refused("Say what readers are to do instead.")
	}
	if err := bounded(why); err != nil {
		return err
	}
	return p.set(ctx, slug, letter, by, "withdrew guide", why, func(g *PublishedGuide) error {
		if g.State == Withdrawn {
			return refused("It is withdrawn already.")
		}
		g.State, g.Notice = Withdrawn, why
		return nil
	})
}

// Notify puts a notice around a published guide, or takes it off.
func (p *Publishing) Notify(ctx context.Context, slug, letter string, by By, notice string) error {
	notice = strings.TrimSpace(notice)
	if err := bounded(notice); err != nil {
		return err
	}
	return p.set(ctx, slug, letter, by, "set notice of guide", notice, func(g *PublishedGuide) error {
		g.Notice = notice
		return nil
	})
}

func (p *Publishing) set(ctx context.Context, slug, letter string, by By, action, detail string,
	change func(*PublishedGuide) error) error {
	return p.Store.Do(ctx, func(tx Tx) error {
		if _, err := tx.LockRow(ctx, slug); err != nil {
			return err
		}
		g, err := tx.PublishedGuide(ctx, slug, letter)
		if err != nil {
			return err
		}
		if err := change(g); err != nil {
			return err
		}
		if err := tx.SetPublished(ctx, g.ID, g.State, g.Notice); err != nil {
			return err
		}
		return tx.Audit(ctx, by, action, slug, "revision "+letter+": "+detail)
	})
}

// ForSerial finds the published guide of a serial number among some, the newest first, and the builds that the unit
// can be.
func ForSerial(list []PublishedGuide, number string) (g *PublishedGuide, builds []frozen.AboutOf) {
	for i := range list {
		p := &list[i]
		if p.State != Published || p.FromSerial == "" && p.ToSerial == "" || !like(p, number) ||
			!serial.In(number, p.FromSerial, p.ToSerial) {
			continue
		}
		return p, BuildsOf(p, number)
	}
	return nil, nil
}

// like reports whether a serial number is written as those that a guide is for.
func like(p *PublishedGuide, number string) bool {
	return (p.FromSerial == "" || serial.Alike(number, p.FromSerial)) && (p.ToSerial == "" || serial.Alike(number,
		p.ToSerial))
}

// BuildsOf are the builds of a published guide that a unit can be: those whose options were fitted to it, and that
// have all which were fitted to every unit.
func BuildsOf(p *PublishedGuide, number string) (list []frozen.AboutOf) {
	all := p.Of().Builds
	always := map[string]bool{}
	for _, b := range all {
		for _, o := range b.Options {
			in := serial.In(number, o.FromSerial, o.ToSerial)
			if o.Standard && in && (o.FromSerial != "" || o.ToSerial != "") {
				always[o.ID] = true
			}
		}
	}
	for _, b := range all {
		can, has := true, map[string]bool{}
		for _, o := range b.Options {
			can = can && serial.In(number, o.FromSerial, o.ToSerial)
			has[o.ID] = true
		}
		for id := range always {
			can = can && has[id]
		}
		if can {
			list = append(list, b)
		}
	}
	return list
}

// marshal is JSON of what the program made itself.
func marshal(v any) (string, error) {
	raw, err := json.Marshal(v)
	return string(raw), err
}
