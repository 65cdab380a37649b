package guide

import (
	"context"

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

// blocks puts the blocks of an edition in words.
func (o *Owner) blocks(ctx context.Context, in draft.Inputs, edition chapter.Edition) error {
	list, err := chapter.Draft(ctx, in)
	if err != nil {
		return err
	}
	tell := words.English(o.Sys)
	for i := range list {
		if !list[i].Has(edition) {
			continue
		}
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
