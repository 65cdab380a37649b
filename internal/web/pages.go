package web

import (
	"html/template"
	"net/http"
	"strings"

	"github.com/gin-gonic/gin"

	"coldtap/internal/guide"
)

func (s *Server) guide(c *gin.Context) {
	b := s.model(c)
	if b == nil {
		return
	}
	var article strings.Builder
	if err := guide.NewOwner(b.inputs()).WriteArticle(&article); err != nil {
		s.trouble(c, err)
		return
	}
	s.show(c, http.StatusOK, "guide.html", page{Title: "Owner guide: " + b.Model.Title(), Model: b, Tab: "guide",
		Body: template.HTML(article.String())})
}

func (s *Server) file(c *gin.Context) {
	_, rev, err := s.store.Current(c, c.Param("model"))
	if err != nil {
		s.notFound(c, "There is no such model.")
		return
	}
	c.Header("Content-Disposition", `attachment; filename="`+c.Param("model")+`.json"`)
	c.Data(http.StatusOK, "application/json", []byte(rev.Document))
}
