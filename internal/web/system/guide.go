package system

import (
	"bytes"
	"context"
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
		owner, err := guide.NewOwner(context.WithoutCancel(c.Request.Context()), b.Inputs()) // others may wait for it
		if err != nil {
			return err
		}
		return owner.WriteArticle(to)
	})
	if err != nil {
		s.Trouble(c, err)
		return
	}
	s.ShowLeaf(c, site.Page{Title: "Owner guide: " + b.Model.Title(), Model: b, Tab: "guide"}, leaf)
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
