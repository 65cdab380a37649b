package trials

import (
	"context"
	"errors"
	"fmt"
	"net/http"
	"net/url"
	"slices"
	"strconv"
	"strings"
	"time"

	"github.com/gin-gonic/gin"

	"coldtap/internal/app"
	"coldtap/internal/core/words"
	"coldtap/internal/people"
	"coldtap/internal/web/site"
)

// effect is what a correction changes of one model, in words.
type effect struct {
	Href, Title string
	Figures     []struct{ Name, Before, After string }
	Guides      []app.GuideEffect
	Trouble     string // in words; "" for none
}

type effectsBody struct {
	Slug    string
	Trial   *app.Trial
	Index   int
	Of      string // id of the cause
	After   string // as it would be written
	Said    string
	What    string
	List    []effect
	Lowers  string
	Job     *app.Job
	Trouble string
	Judge   bool
	Wrong   string
}

// Effects shows what a correction would change, of every model and every published guide, before it is made.
func (s View) Effects(c *gin.Context) { s.effects(c, http.StatusOK, "") }

// asked finds the correction that a request is of; it answers the request and gives nil where there is none.
func (s View) asked(c *gin.Context) (*app.Trial, *app.Compared, int) {
	t := s.trial(c)
	if t == nil {
		return nil, nil, 0
	}
	job, err := s.Trials.Comparison(c, t)
	if err == nil && !job.Wait(c, 15*time.Second) { // the page of the trial says how far it is
		c.Redirect(http.StatusSeeOther, "/trials/"+t.Code+"/compare")
		return nil, nil, 0
	}
	if err == nil {
		err = job.Err()
	}
	if err != nil {
		s.Trouble(c, err)
		return nil, nil, 0
	}
	i, err := strconv.Atoi(c.Param("cause"))
	got, ok := job.Result().(*app.Compared)
	if !ok || err != nil || i < 0 || i >= len(got.Asks) {
		s.NotFound(c, "The trial does not ask for this any more.")
		return nil, nil, 0
	}
	return t, got, i
}

// work begins to work out what a correction changes.
func (s View) work(t *app.Trial, got *app.Compared, i int) *app.Job {
	ask := got.Asks[i]
	key := fmt.Sprintf("effects %s %s %s %s", t.Code, got.Basis, ask.ID(), ask.After)
	return s.Jobs.Find(key, "What a correction changes", "", 0, func(ctx context.Context, step func()) (any, error) {
		return s.Trials.Effects(ctx, t.Slug, ask, step)
	})
}

func (s View) effects(c *gin.Context, status int, wrong string) {
	t, got, i := s.asked(c)
	if t == nil {
		return
	}
	c.Params = append(c.Params, gin.Param{Key: "model", Value: t.Slug})
	b := s.Model(c)
	if b == nil {
		return
	}
	p := words.English(got.Subject.Net.System())
	body := &effectsBody{Slug: t.Slug, Trial: t, Index: i, Of: got.Asks[i].ID(), After: got.Asks[i].After, What: what(got, got.Asks[i]), Wrong: wrong,
		Said: site.UpperFirst(p.Tell(got.Ranking.Class[i].Said(got.Subject))), Judge: site.Who(c).Role == people.Reviewer}
	job := s.work(t, got, i)
	switch {
	case !job.Wait(c, waits):
		body.Job = job
	case job.Err() != nil:
		body.Trouble = site.UpperFirst(site.Words(job.Err()))
	default:
		list := job.Result().([]app.Effect)
		body.Lowers = lowered(list, p)
		for _, e := range list {
			one := effect{Href: "/models/" + url.PathEscape(e.Slug) + "/review", Title: e.Title, Guides: e.Guides,
				Trouble: troubleOf(e.Err)}
			for _, f := range e.Figures {
				one.Figures = append(one.Figures, struct{ Name, Before, After string }{p.Tell(f.Name), p.Tell(f.Before),
					p.Tell(f.After)})
			}
			body.List = append(body.List, one)
		}
	}
	s.Show(c, status, "trial-effects.html", site.Page{Title: "What a correction changes", Model: b, Tab: "trials",
		Body: body})
}

func troubleOf(err error) string {
	if err == nil {
		return ""
	}
	return site.Words(err)
}

// lowered is what a correction lowers of any model that keeps people and lines safe, each once.
func lowered(list []app.Effect, p *words.Printer) string {
	var said []string
	for _, e := range list {
		if e.Err != nil { // nobody takes over alone what can't be looked at
			said = append(said, "what it changes of "+e.Title+" can’t be said")
		}
		for _, f := range e.Lowers {
			if text := p.Tell(f); !slices.Contains(said, text) {
				said = append(said, text)
			}
		}
	}
	text := strings.Join(said, "; ")
	if r := []rune(text); len(r) > 390 {
		text = string(r[:389]) + "…"
	}
	return text
}

// Correct makes a correction, or asks the reviewer for it.
func (s View) Correct(c *gin.Context) {
	t, got, i := s.asked(c)
	if t == nil {
		return
	}
	job := s.work(t, got, i)
	if !job.Wait(c, 15*time.Second) || job.Err() != nil {
		s.effects(c, http.StatusUnprocessableEntity, "It is not worked out yet what it changes: look at that first.")
		return
	}
	if ask := &got.Asks[i]; c.PostForm("of") != ask.ID() || c.PostForm("after") != ask.After {
		s.effects(c, http.StatusUnprocessableEntity, "The model or a rule was changed since you looked: this is what the trial asks for now.")
		return
	}
	lowers := lowered(job.Result().([]app.Effect), words.English(got.Subject.Net.System()))
	_, err := s.Trials.Ask(c, site.Who(c), t, got.Asks[i], lowers)
	s.decided(c, t.Code, err, func(words string) { s.effects(c, http.StatusUnprocessableEntity, words) })
}

// decided answers what somebody did with a correction.
func (s View) decided(c *gin.Context, code string, err error, again func(words string)) {
	var no *app.RefusedError
	switch {
	case errors.As(err, &no):
		again(no.Words)
	case errors.Is(err, app.ErrStale), errors.Is(err, app.ErrNotYours), errors.As(err, new(app.HeldError)),
		errors.As(err, new(*app.RuleStaleError)):
		again("Somebody else changed it in the meantime: look at the trial again.")
	case errors.Is(err, app.ErrNotFound):
		s.NotFound(c, "There is no such correction.")
	case err != nil:
		s.Trouble(c, err)
	default:
		c.Redirect(http.StatusSeeOther, "/trials/"+code+"/compare#made")
	}
}

// Decide takes a correction over, takes it back, or turns it down.
func (s View) Decide(c *gin.Context) {
	id, err := strconv.ParseUint(c.Param("id"), 10, 64)
	if err != nil {
		s.NotFound(c, "There is no such correction.")
		return
	}
	x, err := s.Store.Correction(c, id)
	var t *app.Trial
	if err == nil {
		t, err = s.Store.Trial(c, x.TrialID)
	}
	if err != nil {
		s.decided(c, "", err, nil)
		return
	}
	who := site.Who(c)
	switch c.PostForm("do") {
	case "take":
		err = s.Trials.TakeOver(c, who, id)
	case "undo":
		err = s.Trials.Undo(c, who, id)
	case "no":
		err = s.Trials.TurnDown(c, who, id)
	default:
		err = &app.RefusedError{Words: "Choose what becomes of it."}
	}
	c.Params = append(c.Params, gin.Param{Key: "code", Value: t.Code})
	s.decided(c, t.Code, err, func(words string) { s.compare(c, http.StatusUnprocessableEntity, words) })
}
