package drills

import (
	"html/template"
	"net/http"
	"strconv"
	"time"

	"github.com/gin-gonic/gin"

	"coldtap/internal/app"
	"coldtap/internal/core/drill"
	"coldtap/internal/core/plumbing"
	"coldtap/internal/core/setting"
	"coldtap/internal/drawing"
	"coldtap/internal/web/site"
)

// drawingWait is how long a drawing is waited for that has to be arranged first.
const drawingWait = 3 * time.Second

type drawnBody struct {
	SVG   template.HTML
	Again string // where to look again while it is being arranged
}

// Drawing is the plumbing of a question: as it stands, and where the reason of an answer lies.
func (s View) Drawing(c *gin.Context) {
	t := s.sitting(c)
	if t == nil {
		return
	}
	n, _ := strconv.Atoi(c.Query("n"))
	turn, err := s.Drills.Turn(c, t, max(0, n-1))
	if s.failed(c, err, noQuestion, nil) {
		return
	}
	b, err := s.Drills.BuildOf(c, turn.Question, turn.Number)
	if err != nil {
		s.Trouble(c, err)
		return
	}
	plan, err := b.Plan(c)
	if err != nil {
		s.Trouble(c, err)
		return
	}
	drawn, _, err := b.SchematicSoon(c, drawingWait)
	if err != nil {
		s.Trouble(c, err)
		return
	}
	body := drawnBody{Again: c.Request.URL.RequestURI()}
	if drawn != nil {
		body.SVG = template.HTML(drawn.SVG(s.shown(c, b, plan, turn))) // drawn by us, texts escaped
	}
	s.Show(c, http.StatusOK, "drill-drawing", site.Page{Body: body})
}

// shown is how the plumbing stands in a question, as handles were set where they are being set.
func (s View) shown(c *gin.Context, b *app.Build, plan []setting.Answer, t *app.DrillTurn) drawing.Show {
	show := drawing.Show{Title: "Schematic", Mark: map[string]string{}}
	x := t.Paper
	if a := setting.ForMode(plan, x.Mode); a != nil && a.Has() {
		show.State = a.Mode.State(a.State.Handles)
	} else if a := setting.ForMode(plan, setting.Everyday); a.Has() {
		show.State = a.Mode.State(a.State.Handles)
	}
	if x.Kind == drill.Valves {
		given := answerOf(t.Answer)
		for i, h := range b.Net.AllHandles() {
			at := x.Start[h.Part.ID]
			if v, ok := given.Handles[h.Part.ID]; ok {
				at = v
			}
			if v := c.Query("h-" + h.Part.ID); v != "" && t.Answer == nil {
				at = v
			}
			if pos := h.Index(at); pos != plumbing.None && int(i) < len(show.State.Handles) {
				show.State = show.State.With(i, pos)
			}
		}
	}
	if t.Answer != nil {
		for _, id := range t.Answer.Why().Parts {
			show.Mark[id] = "breach"
			if t.Answer.Right {
				show.Mark[id] = "chosen"
			}
		}
	}
	return show
}
