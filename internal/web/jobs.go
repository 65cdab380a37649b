package web

import (
	"net/http"

	"github.com/gin-gonic/gin"

	"coldtap/internal/app"
)

type jobsBody struct {
	Jobs    []*app.Job
	Running bool
}

// jobsPage lists long work, so that what was left is found again.
func (s *Server) jobsPage(c *gin.Context) {
	body := jobsBody{Jobs: s.jobs.List()}
	for _, j := range body.Jobs {
		body.Running = body.Running || !j.Ended()
	}
	name := "jobs.html"
	if c.GetHeader("HX-Request") != "" {
		name = "jobs"
	}
	s.show(c, http.StatusOK, name, page{Title: "Work under way", Body: body})
}
