// Package procedures shows the procedures of a model: which it has and how they
// are proven, and of each its steps beside the drawing on which its run plays.
package procedures

import (
	"bytes"
	"context"
	"fmt"

	"github.com/gin-gonic/gin"

	"coldtap/internal/core/amount"
	"coldtap/internal/core/draft"
	"coldtap/internal/core/fact"
	"coldtap/internal/core/instruction"
	"coldtap/internal/core/quantity"
	"coldtap/internal/web/site"
)

// View answers the requests of these pages.
type View struct{ *site.Site }

// listBody is the list of a model's procedures.
type listBody struct {
	Groups  []group
	Schools []schoolRow
	Chosen  string // the school of the house
}

type group struct {
	Name string
	Rows []row
	Cant []row // that the model can't have
}

// row is a procedure in the list.
type row struct {
	ID, Name          string
	Href              string
	Cant              string // why the model can't have it
	Instead, Other    string // what it can have: its name and address
	Proven, Amended   bool
	Worst             string // of what its proof found
	Wrong             []string
	Steps             int
	Elapsed, Attended string
	Uses              []string
}

// schoolRow is a school of winterizing beside the others.
type schoolRow struct {
	row
	Jugs, Weakest string
	For, Against  string
	Ours          bool // it is the house's
	Advised       bool
}

// List is the list of a model's procedures.
func (s View) List(c *gin.Context) {
	b := s.Model(c)
	if b == nil {
		return
	}
	s.ShowSlow(c, page(b, nil), "procedures", func(ctx context.Context, to *bytes.Buffer) error {
		body, err := newList(ctx, b)
		if err != nil {
			return err
		}
		return s.Write(to, "procedurelist", page(b, body))
	})
}

func page(b *site.Computed, body any) site.Page {
	return site.Page{Title: "Procedures: " + b.Model.Title(), Model: b, Tab: "procedures", Body: body}
}

func newList(ctx context.Context, b *site.Computed) (listBody, error) {
	var body listBody
	maker := draft.NewMaker(b.Inputs())
	rows := map[string]row{}
	for _, d := range maker.All(ctx) {
		r := rowOf(ctx, b, d)
		rows[d.ID] = r
		if len(body.Groups) == 0 || body.Groups[len(body.Groups)-1].Name != string(d.Group) {
			body.Groups = append(body.Groups, group{Name: string(d.Group)})
		}
		g := &body.Groups[len(body.Groups)-1]
		if r.Cant != "" {
			g.Cant = append(g.Cant, r)
		} else {
			g.Rows = append(g.Rows, r)
		}
	}
	body.Chosen = maker.Winter(ctx).ID
	tell := b.Words()
	for _, w := range amount.WinterSchools(b.Net, b.Plan, b.House) {
		x := schoolRow{row: rows["winterize-"+w.ID], For: tell.Tell(w.For), Against: tell.Tell(w.Against),
			Advised: w.Advised, Ours: "winterize-"+w.ID == body.Chosen}
		x.Name = tell.Tell(w.Name)
		if w.Weakest != nil {
			x.Weakest = tell.Tell(w.Weakest.Burst.Said())
		}
		body.Schools = append(body.Schools, x)
	}
	return body, ctx.Err()
}

// head is what a procedure is called, and why a model can't have it.
func head(b *site.Computed, d draft.Drafted) row {
	tell := b.Words()
	r := row{ID: d.ID, Name: tell.Tell(fact.Of("procedure." + d.ID)), Href: b.Link("procedures/"+d.ID, ""),
		Cant: tell.Tell(d.Why)}
	if d.Instead != "" {
		r.Instead, r.Other = tell.Tell(fact.Of("procedure."+d.Instead)), b.Link("procedures/"+d.Instead, "")
	}
	r.Amended = b.Model.AmendedOf(d.ID) != nil
	return r
}

// rowOf is a procedure in the list.
func rowOf(ctx context.Context, b *site.Computed, d draft.Drafted) row {
	r := head(b, d)
	if d.Procedure == nil {
		return r
	}
	tell := b.Words()
	p, pr := carriedOut(ctx, b, d)
	if pr == nil {
		return r
	}
	in := instruction.Of(b.Net, b.House, p, pr)
	r.Proven, r.Steps = pr.Proven(), len(p.Steps)
	r.Worst = pr.Worst().String()
	r.Elapsed, r.Attended = span(in.Elapsed), span(in.Attended)
	r.Uses = tell.TellAll(in.Takes)
	for _, x := range pr.Breaches {
		r.Wrong = append(r.Wrong, tell.Tell(x.Said))
	}
	return r
}

// span is a time as somebody would say it.
func span(t quantity.Second) string {
	switch s := int(t + 0.5); {
	case s < 90:
		return fmt.Sprintf("%d s", s)
	case s < 3600:
		return fmt.Sprintf("%d min", (s+30)/60)
	case s%3600 < 300 || s%3600 > 3300:
		return fmt.Sprintf("%d h", (s+1800)/3600)
	default:
		return fmt.Sprintf("%d h %d min", s/3600, (s%3600+150)/300*5)
	}
}

// find makes the procedure that a request asks for, or answers the request and gives false.
func (s View) find(c *gin.Context, b *site.Computed) (draft.Drafted, bool) {
	d := draft.NewMaker(b.Inputs()).Make(c, c.Param("id"))
	if d.Group == "" {
		s.NotFound(c, "There is no such procedure. Look in the list of this model's procedures.")
		return d, false
	}
	if c.Err() != nil {
		return d, false
	}
	return d, true
}
