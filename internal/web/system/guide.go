package system

import (
	"bytes"
	"context"
	"fmt"
	"html/template"
	"net/http"

	"github.com/gin-gonic/gin"

	"coldtap/internal/guide"
	"coldtap/internal/web/site"
)

// Guide is the owner guide.
func (s View) Guide(c *gin.Context) {
	b := s.Model(c)
	if b == nil {
		return
	}
	leaf, err := s.Leaf(c, b.Named("guide"), func(to *bytes.Buffer) error {
		front, err := guide.NewFront(c, b.Inputs())
		if err != nil {
			return err
		}
		front.Slot = template.HTML(fmt.Sprintf(`<div id="g-procedures" hx-get="%s" hx-trigger="load" hx-swap="innerHTML" `+
			`role="status"><p>The procedures are being carried out… <a href="%[1]s">Open them</a></p></div>`,
			template.HTMLEscapeString(b.Link("guide/procedures", "")))) // an address of ours
		return front.WriteArticle(to)
	})
	if err != nil {
		s.Trouble(c, err)
		return
	}
	s.ShowLeaf(c, site.Page{Title: "Owner guide: " + b.Model.Title(), Model: b, Tab: "guide"}, leaf)
}

// GuideProcedures are the procedures of the owner guide, which take longer than the rest of it.
func (s View) GuideProcedures(c *gin.Context) {
	b := s.Model(c)
	if b == nil {
		return
	}
	s.ShowSlow(c, b, "guide procedures", func(ctx context.Context, to *bytes.Buffer) error {
		list, err := guide.NewProcedures(ctx, b.Inputs())
		if err != nil {
			return err
		}
		return list.WriteProcedures(to)
	})
}

// File is the model file.
func (s View) File(c *gin.Context) {
	_, rev := s.Newest(c, s.Store.Current)
	if rev == nil {
		return
	}
	site.Download(c, "application/json", c.Param("model")+".json")
	c.Data(http.StatusOK, "application/json", []byte(rev.Document))
}
