// Package chapter drafts a guide: its blocks in the order in which a reader
// needs them, as facts, parts and positions. Words come later.
package chapter

import (
	"context"
	"errors"
	"slices"

	"coldtap/internal/core/draft"
	"coldtap/internal/core/fact"
	"coldtap/internal/core/plumbing"
	"coldtap/internal/core/record"
	"coldtap/internal/core/report"
)

// Inputs are what a chapter is drafted from.
type Inputs struct {
	draft.Inputs
	Report  *report.Report       // by the same rules
	Tasks   []Task               // nil while they are being carried out
	Edition Edition              // "" for the owner's
	By      *plumbing.Written    // what a hand changed; nil for nothing
	Photos  []Photo              // that there are of it
	Looks   []Look               // at every procedure; nil where nobody asks what blocks stand on
	Blocks  func(id string) bool // which blocks are drafted; nil for all
}

// Photo is a photograph with the marks of parts on it.
type Photo struct {
	ID            string
	Caption       string
	Width, Height int // points
	Marks         []Mark
}

// Mark is where a part is on a photograph.
type Mark struct {
	Part *plumbing.Part
	X, Y float64 // share of width and height
}

// Album are the photographs of a model.
type Album struct{ Photos []Photo }

func (a Album) empty() bool { return len(a.Photos) == 0 }

// Block is a piece of a guide.
type Block struct {
	ID     string // stays as long as it is about the same
	Part   Part
	Title  fact.Fact
	Hidden []Edition // that a hand left it out of
	Only   plumbing.Condition
	From   []record.Input // what was read to make it, in order
	Body   Body
}

// Body is what a block says: one of the types of this package.
type Body interface {
	empty() bool
}

// Edition is for whom a chapter is written.
type Edition string

// The editions.
const (
	Owner  Edition = "owner"
	Dealer Edition = "dealer"
)

// Editions lists the editions that are chapters.
func Editions() []Edition { return []Edition{Owner, Dealer} }

// Part is what a block is for, by the order of a camper's year.
type Part string

// The parts of a chapter, in their order.
const (
	There   Part = "there"   // what there is and where
	Before  Part = "before"  // before it is used
	Filling Part = "filling" // each way
	Using   Part = "using"
	Leaving Part = "leaving" // a site, for home
	Clean   Part = "cleaning"
	Winter  Part = "winter"
	Spring  Part = "spring"
	Care    Part = "care"
	Wrong   Part = "wrong" // when something is
	Figures Part = "figures"
)

// Parts lists the parts of a chapter in their order.
func Parts() []Part {
	return []Part{There, Before, Filling, Using, Leaving, Clean, Winter, Spring, Care, Wrong, Figures}
}

// Has reports whether an edition has a block.
func (b *Block) Has(e Edition) bool {
	return !slices.Contains(b.Hidden, e)
}

// Draft makes the blocks of an edition, those that have something to say, as a hand left them. The error is the
// context's.
func Draft(ctx context.Context, in Inputs) ([]Block, error) {
	if in.Edition == "" {
		in.Edition = Owner
	}
	rec := &record.Recorder{}
	d := drafting{Inputs: in, rec: rec}
	d.Net, d.House = in.Net.Recorded(rec), in.House.Recorded(rec)
	if err := d.all(ctx); err != nil {
		return nil, err
	}
	slices.SortStableFunc(d.list, func(a, b Block) int { return order(a.Part) - order(b.Part) })
	list := Apply(d.list, in.By)
	return slices.DeleteFunc(list, func(b Block) bool { return !d.wants(b.ID) }), ctx.Err()
}

func order(p Part) int { return slices.Index(Parts(), p) }

// drafting is a chapter in the making.
type drafting struct {
	Inputs
	rec  *record.Recorder
	list []Block
}

func (d *drafting) all(ctx context.Context) (err error) {
	dealer := d.Edition == Dealer
	d.block("have", There, func() Body { return have(d.Net) })
	d.block("where", There, func() Body { return places(d.Net) })
	d.block("photos", There, func() Body { return Album{d.Photos} })
	d.block("points", There, func() Body { return points(d.Inputs.Inputs) })
	d.block("bypass", There, func() Body { return bypass(d.Inputs.Inputs) })
	d.block("valves", There, func() Body { return valves(d.Inputs.Inputs) })
	d.block("before", Before, func() Body { return before(d.Inputs) })
	d.tasks()
	d.block("calendar", Care, func() Body { return calendar(d.Inputs) })
	d.block("stuff", Care, func() Body { return stuff(d.Net) })
	d.block("trouble", Wrong, func() Body {
		var t Troubles
		t, err = symptoms(ctx, d.Inputs.Inputs)
		return t
	})
	if dealer {
		d.block("mistakes", Wrong, func() Body {
			m, wrong := mistakes(ctx, d.Inputs)
			err = errors.Join(err, wrong)
			return m
		})
		d.block("apart", Wrong, func() Body {
			a, wrong := apart(ctx, d.Inputs.Inputs)
			err = errors.Join(err, wrong)
			return a
		})
		d.block("times", Figures, func() Body { return times(d.Tasks) })
	}
	d.block("figures", Figures, func() Body { return figures(d.Inputs) })
	if dealer {
		d.block("sheets", Figures, func() Body { return sheets(d.Inputs) })
	}
	return err
}

// wants reports whether a block is to be drafted.
func (d *drafting) wants(id string) bool { return d.Blocks == nil || d.Blocks(id) }

// block adds a block with what was read to make it, unless it has nothing to say.
func (d *drafting) block(id string, part Part, make func() Body) {
	if !d.wants(id) {
		return
	}
	b := Block{ID: id, Part: part, Title: fact.Of("block." + id)}
	b.From = d.rec.During(func() { b.Body = make() })
	if !b.Body.empty() {
		d.list = append(d.list, b)
	}
}
