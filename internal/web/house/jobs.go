package house

import (
	"net/http"

	"github.com/gin-gonic/gin"

	"coldtap/internal/app"
	"coldtap/internal/web/site"
)

type jobsBody struct {
	Jobs    []*app.Job
	Running bool
}

// jobsPage lists long work, so that what was left is found again.
func (s View) Work(c *gin.Context) {
	body := jobsBody{Jobs: s.Jobs.List()}
	for _, j := range body.Jobs {
		body.Running = body.Running || !j.Ended()
	}
	name := "jobs.html"
	if c.GetHeader("HX-Request") != "" {
		name = "jobs"
	}
	s.Show(c, http.StatusOK, name, site.Page{Title: "Work under way", Body: body})
}
