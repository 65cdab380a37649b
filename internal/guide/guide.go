// Package guide puts the blocks of a chapter in words, as a document that is
// written to pages, files and topics.
package guide

import (
	"cmp"
	"context"
	"fmt"
	"strconv"

	"coldtap/internal/core/chapter"
	"coldtap/internal/core/fact"
	"coldtap/internal/core/house"
	"coldtap/internal/core/plumbing"
	"coldtap/internal/core/quantity"
	"coldtap/internal/core/record"
	"coldtap/internal/guide/doc"
)

// Options are what a guide has beside what the model gives.
type Options struct {
	Writing bool     // with what a hand left out of the edition
	With    []string // options of the build
	Draw    Draw     // draws the schematic; nil for none
	Photo   func(ctx context.Context, id string) (*doc.Photo, error)
	Units   Units // that stand first
}

// Units is the system of units that stands first in a guide; "" for the model's own.
type Units string

// The orders of units.
const (
	US Units = "us"
	SI Units = "si"
)

// of is the system that stands first in the guide of a model.
func (u Units) of(m *plumbing.Model) quantity.System {
	switch u {
	case US:
		return quantity.US
	case SI:
		return quantity.SI
	}
	return m.System()
}

// Draw draws the schematic as it is in a way of use, by the mode's id.
type Draw func(ctx context.Context, mode string) (svg string, err error)

// New puts an edition of a model's chapter in words. The error is the context's, or that of a drawing.
func New(ctx context.Context, in chapter.Inputs, o Options) (*doc.Document, error) {
	list, err := chapter.Draft(ctx, in)
	if err != nil {
		return nil, err
	}
	return written(ctx, in, o, list)
}

// Both is New in both orders of units.
func Both(ctx context.Context, in chapter.Inputs, o Options) (us, si *doc.Document, err error) {
	list, err := chapter.Draft(ctx, in)
	if err != nil {
		return nil, nil, err
	}
	o.Units = US
	if us, err = written(ctx, in, o, list); err != nil {
		return nil, nil, err
	}
	o.Units, in.Looks = SI, nil // they stand on the same
	si, err = written(ctx, in, o, list)
	return us, si, err
}

// written puts blocks in words.
func written(ctx context.Context, in chapter.Inputs, o Options, list []chapter.Block) (*doc.Document, error) {
	m := in.Net.Model
	rec := &record.Recorder{}
	looked := in
	in.Net, in.House = in.Net.Recorded(rec), in.House.Recorded(rec)
	w := &writer{teller: newTeller(&in, o.Units), ctx: ctx, o: o}
	d := &doc.Document{Language: "en", Maker: maker(&in), Title: m.Title(),
		Mark: house.MakerMark.Of(in.House), Caution: house.FixedCaution.Of(in.House), Sub: w.Tell(fact.Of("guide.sub")),
		Foot: w.foot()}
	if in.Edition == chapter.Dealer {
		d.Sub = w.Tell(fact.Of("guide.sub.dealer"))
	}
	for i := range list {
		b := &list[i]
		s := doc.Section{ID: b.ID, Part: w.Tell(fact.Of("chapter." + string(b.Part))), Title: w.Tell(b.Title),
			Left: !b.Has(in.Edition)}
		for _, e := range b.Hidden {
			s.Hidden = append(s.Hidden, string(e))
		}
		holds := b.Only.Holds(o.With)
		if (s.Left || !holds) && !o.Writing {
			continue
		}
		s.Only = w.only(b.Only, o.Writing)
		s.Left = s.Left || !holds
		var wrong error
		read := rec.During(func() { wrong = w.section(&s, b.Body) })
		if wrong != nil {
			return nil, wrong
		}
		if in.Looks != nil {
			s.From = looked.Stands(b, read...)
		}
		d.Sections = append(d.Sections, s)
	}
	carryParts(d)
	return d, ctx.Err()
}

// maker is the name of the manufacturer: the house's, else the model's own.
func maker(in *chapter.Inputs) string {
	return cmp.Or(house.MakerName.Of(in.House), in.Net.Model.Maker)
}

// carryParts lets a text that a hand wrote belong to the part of what stands before it.
func carryParts(d *doc.Document) {
	for i := range d.Sections {
		if s := &d.Sections[i]; s.Written && i > 0 {
			s.Part = d.Sections[i-1].Part
		} else if s.Written {
			s.Part = ""
		}
	}
}

// writer writes sections.
type writer struct {
	*teller
	ctx context.Context
	o   Options
}

// foot is what stands below every guide.
func (w *writer) foot() []doc.Line {
	weighs := fact.Of("guide.gallon-weighs", quantity.Kilogram(quantity.USGallon*quantity.WaterDensity))
	if w.units == quantity.SI {
		weighs = fact.Of("guide.litre-weighs", quantity.Kilogram(quantity.WaterDensity))
	}
	return []doc.Line{w.line(fact.Of("guide.codes")), w.line(weighs)}
}

// section writes the body of a block.
func (w *writer) section(s *doc.Section, body chapter.Body) error {
	s.Kind = doc.Reference
	switch b := body.(type) {
	case chapter.Have:
		s.Kind, s.Nodes = doc.Concept, []doc.Node{doc.List{Class: "have", Items: w.lines(b.Lines)}}
	case chapter.Lines:
		s.Kind, s.Nodes = doc.Concept, []doc.Node{doc.List{Items: w.lines(b.Said)}}
	case chapter.Places:
		s.Nodes = w.places(b)
	case chapter.Points:
		s.Nodes = w.points(s.Title, b)
	case chapter.Bypass:
		s.Nodes = w.bypass(s.Title, b)
	case chapter.Valves:
		s.Nodes = w.valves(s.Title, b)
	case chapter.Task:
		s.Kind, s.Nodes = doc.Task, w.task(b, w.in.Edition == chapter.Dealer && b.ID == "first-use")
		s.Nodes = append(s.Nodes, w.warranty(b)...)
	case chapter.Album:
		return w.album(s, b)
	case chapter.Calendar:
		s.Nodes = w.calendar(s.Title, b)
	case chapter.Stuff:
		s.Nodes = w.stuff(b)
	case chapter.Troubles:
		s.Kind, s.Nodes = doc.Trouble, w.troubles(s.Title, b)
	case chapter.Mistakes:
		s.Kind, s.Nodes = doc.Trouble, w.mistakes(s.Title, b)
	case chapter.Apart:
		s.Kind, s.Nodes = doc.Trouble, w.apart(b)
	case chapter.Times:
		s.Nodes = w.times(s.Title, b)
	case chapter.FigureTable:
		s.Nodes = w.figures(s.Title, b)
	case chapter.Sheets:
		s.Nodes = w.sheets(b)
	case chapter.Written:
		s.Kind, s.Written = doc.Concept, true
		return w.written(s, b)
	default:
		return fmt.Errorf("block %s: nothing writes a %T", s.ID, body)
	}
	return nil
}

func itoa(n int) string { return strconv.Itoa(n) }
