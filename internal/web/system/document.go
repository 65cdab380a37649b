package system

import (
	"net/http"

	"github.com/gin-gonic/gin"

	"coldtap/internal/web/site"
)

// File is the model file.
func (s View) File(c *gin.Context) {
	_, rev := s.Newest(c, s.Store.Current)
	if rev == nil {
		return
	}
	site.Download(c, "application/json", c.Param("model")+".json")
	c.Data(http.StatusOK, "application/json", []byte(rev.Document))
}
