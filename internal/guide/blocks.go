package guide

import (
	"context"
	"html/template"
	"strings"

	"coldtap/internal/core/chapter"
	"coldtap/internal/core/draft"
	"coldtap/internal/core/plumbing"
	"coldtap/internal/core/words"
)

// Blocks are those of a chapter in words.
type Blocks struct {
	Have    []string
	Points  []Point
	Bypass  []chapter.Either
	Trouble []Symptom
	Used    []string
	Tools   []chapter.Tool
}

// Point is a place where something goes in or out.
type Point struct {
	Part             *plumbing.Part
	For, Ends, Shuts string
}

// Symptom is what is noticed, with what may be wrong.
type Symptom struct {
	Words  string
	When   []string // ways of use in which it is so
	Causes []Cause
}

// Cause is what may be wrong, and what to do.
type Cause struct {
	Words, Do string
	Only      []string // ways of use in which it is one, where it is not one in all
}

// Item is a block where it stands.
type Item struct {
	ID, Title string
	Prose     template.HTML // of a text that a hand wrote
	Written   plumbing.Prose
	Left      bool              // out of this edition; shown to who writes it
	Hidden    []chapter.Edition // that a hand left it out of
	Tools     template.HTML     // beside it, for who writes
}

// Contents are the blocks of this edition that have a title.
func (o *Owner) Contents() (list []Item) {
	for _, x := range o.List {
		if !x.Left && x.Title != "" {
			list = append(list, x)
		}
	}
	return list
}

// Block writes a block of the model.
func (o *Owner) Block(id string) (template.HTML, error) {
	var b strings.Builder
	err := ownerTemplate.ExecuteTemplate(&b, "block-"+id, o)
	return template.HTML(b.String()), err // written by a template of ours
}

// blocks puts the blocks of an edition in words; one that a hand left out is there for who writes only.
func (o *Owner) blocks(ctx context.Context, in draft.Inputs, edition chapter.Edition, writing bool) error {
	list, err := chapter.Draft(ctx, in)
	if err != nil {
		return err
	}
	tell := words.English(o.Sys)
	for i := range list {
		item := Item{ID: list[i].ID, Title: tell.Tell(list[i].Title), Hidden: list[i].Hidden, Left: !list[i].Has(edition)}
		if item.Left && !writing {
			continue
		}
		if w, ok := list[i].Body.(chapter.Written); ok {
			item.Written, item.Prose = w.Prose, markdown(w.Text)
		}
		o.List = append(o.List, item)
		switch b := list[i].Body.(type) {
		case chapter.Have:
			o.Blocks.Have = tell.TellAll(b.Lines)
		case chapter.Points:
			for _, p := range b.Rows {
				o.Blocks.Points = append(o.Blocks.Points, Point{p.Part, tell.Tell(p.For), tell.Tell(p.Ends), tell.Tell(p.Shuts)})
			}
		case chapter.Bypass:
			o.Blocks.Bypass = b.Handles
		case chapter.Stuff:
			o.Blocks.Used, o.Blocks.Tools = tell.TellAll(b.Used), b.Tools
		case chapter.Troubles:
			for _, s := range b.Rows {
				o.Blocks.Trouble = append(o.Blocks.Trouble, o.symptom(in.Net, tell, s))
			}
		}
	}
	return nil
}

func (o *Owner) symptom(n *plumbing.Network, tell *words.Printer, s chapter.Symptom) Symptom {
	row := Symptom{Words: tell.Tell(s.Said), When: tell.TellAll(s.Modes)}
	if s.Effect != nil {
		row.Words = tell.Effect(n, s.Effect)
	}
	for i := range s.Causes {
		c := &s.Causes[i]
		row.Causes = append(row.Causes, Cause{tell.Tell(c.Said), tell.Tell(c.Do), tell.TellAll(s.Only(c))})
	}
	return row
}
