package app

import (
	"context"
	"crypto/sha256"
	"encoding/hex"
	"fmt"
	"slices"
	"strconv"
	"strings"

	"coldtap/internal/core/chapter"
	"coldtap/internal/core/draft"
	"coldtap/internal/core/house"
	"coldtap/internal/core/plumbing"
	"coldtap/internal/guide"
	"coldtap/internal/guide/doc"
)

// Program tells this program from others, by its bytes: what it computes and how it says it.
func Program() string { return coreVersion() }

// PhotoReader reads photographs, AllPhotos without the images.
type PhotoReader interface {
	AllPhotos(ctx context.Context, slug string) ([]Photo, error)
	Photo(ctx context.Context, slug string, id uint64) (*Photo, error)
}

// Present is all that the guides of a model are made of as it is now.
type Present struct {
	Row    *Model
	Rev    *Revision
	Doc    *plumbing.Model
	House  house.House
	Photos []Photo
	Basis  string // tells it from every other: state, rules, photographs, program
}

// presentStore is what it is read from.
type presentStore interface {
	ModelReader
	RuleReader
	PhotoReader
}

// presentOf reads how a model is now.
func presentOf(ctx context.Context, st presentStore, docs *Docs, slug string) (*Present, error) {
	row, rev, err := st.Current(ctx, slug)
	if err != nil {
		return nil, err
	}
	rules, err := st.HouseRules(ctx)
	if err != nil {
		return nil, err
	}
	x := &Present{Row: row, Rev: rev}
	if x.Doc, err = docs.Read(rev); err != nil {
		return nil, err
	}
	if x.House, err = HouseOf(rules, slug, x.Doc.System()); err != nil {
		return nil, err
	}
	if x.Photos, err = st.AllPhotos(ctx, slug); err != nil {
		return nil, err
	}
	x.Basis = basisOf(rev.Hash, fingerprints(rules)(slug), photosOf(x.Photos))
	return x, nil
}

// basisOf tells what guides are made of from every other.
func basisOf(state, rules, photos string) string {
	sum := sha256.Sum256([]byte(strings.Join([]string{state, rules, photos, Program()}, "\n")))
	return hex.EncodeToString(sum[:])
}

// photosOf tells the photographs that a guide has from others.
func photosOf(list []Photo) string {
	var b strings.Builder
	for _, p := range list {
		if p.RemovedAt == nil {
			fmt.Fprintf(&b, "%d %q %q", p.ID, p.Part, p.Caption)
			marks := slices.Clone(p.Marks)
			slices.SortFunc(marks, func(a, b PhotoMark) int { return strings.Compare(a.Part, b.Part) })
			for _, m := range marks {
				fmt.Fprintf(&b, " %s %g %g", m.Part, m.X, m.Y)
			}
			b.WriteByte('\n')
		}
	}
	return b.String()
}

// Album are the photographs as the guide of a build has them: those that were not taken away, with the parts that the
// build has.
func Album(list []Photo, m *plumbing.Model) (all []chapter.Photo) {
	for _, p := range list {
		if p.RemovedAt != nil {
			continue
		}
		x := chapter.Photo{ID: strconv.FormatUint(p.ID, 10), Caption: p.Caption, Width: p.Width, Height: p.Height}
		for _, m2 := range p.Marks {
			if part := m.Part(m2.Part); part != nil {
				x.Marks = append(x.Marks, chapter.Mark{Part: part, X: m2.X, Y: m2.Y})
			}
		}
		if len(x.Marks) > 0 || p.Part == "" {
			all = append(all, x)
		}
	}
	return all
}

// Inputs are what the guide of a build is drafted from, with its procedures and the looks at them; where they are not
// carried out yet, carry says whether to wait for them.
func (x *Present) Inputs(ctx context.Context, b *Build, carry bool) (chapter.Inputs, error) {
	plan, err := b.Plan(ctx)
	if err != nil {
		return chapter.Inputs{}, err
	}
	in := chapter.Inputs{Inputs: draft.Inputs{Net: b.Net, Plan: plan, House: x.House}, By: x.Doc.Chapter,
		Photos: Album(x.Photos, b.Model)}
	if in.Report, err = b.Report(ctx, x.House); err != nil {
		return in, err
	}
	if carry {
		if _, err := b.Tasks(ctx, x.House); err != nil {
			return in, err
		}
	}
	if c := b.CarriedNow(x.House); c != nil {
		in.Tasks, in.Looks = c.Tasks, c.Looks
	}
	return in, nil
}

// Draw draws the schematic of a build in a way of use.
func (x *Present) Draw(b *Build) guide.Draw {
	return func(ctx context.Context, mode string) (string, error) {
		drawn, err := b.Schematic(ctx)
		if err != nil {
			return "", err
		}
		plan, err := b.Plan(ctx)
		if err != nil {
			return "", err
		}
		return guide.DrawMode(ctx, draft.Inputs{Net: b.Net, Plan: plan, House: x.House}, drawn, mode)
	}
}

// PhotoBeside gives photographs by their names, for what is compared and not shown.
func PhotoBeside(_ context.Context, id string) (*doc.Photo, error) {
	return &doc.Photo{Name: "photo-" + id + ".jpg", Address: "photo/" + id + ".jpg"}, nil
}
