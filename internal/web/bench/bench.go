package bench

import (
	"fmt"
	"log/slog"
	"net/http"
	"net/url"
	"slices"
	"strconv"
	"strings"

	"github.com/gin-gonic/gin"

	"coldtap/internal/app"
	"coldtap/internal/core/compare"
	"coldtap/internal/core/quantity"
	"coldtap/internal/spreadsheet"
	"coldtap/internal/web/site"
)

// benchRow is a model in the list.
type benchRow struct {
	app.Listed
	Tank, Lines, Antifreeze string
	Modes                   string // how many of the modes have a setting
	Procedures              int    // that it can have
	Found                   []foundThing
	Guide                   guideState
}

// guideState is where the guide of a model stands.
type guideState struct {
	Round    string // "in review", "approved"; "" for none
	Comments int    // that are not settled
	Reports  int    // of readers, not answered
	Letters  string // of what is published
	Broken   int    // lines of it that no longer hold and that the draft has not taken over
	Dangers  int
	Pending  bool // it is being looked at
	Trials   int  // on units, finished
	Beside   int  // of them, that came out otherwise than computed
	Asked    int  // corrections that wait for the reviewer
}

// guideStates are where the guides of all models stand, by model, and the job that looks at published ones; nil for
// none.
func (s View) guideStates(c *gin.Context) (map[string]guideState, *app.Job, error) {
	list, job, err := s.Keeping.List(c) // nobody waits for the job here: the page asks again
	if err != nil {
		return nil, nil, err
	}
	rounds, err := s.Store.OpenRounds(c)
	if err != nil {
		return nil, nil, err
	}
	comments, err := s.Store.OpenComments(c)
	if err != nil {
		return nil, nil, err
	}
	reports, err := s.Store.OpenReports(c)
	if err != nil {
		return nil, nil, err
	}
	trials, err := s.Store.CountTrials(c)
	if err != nil {
		return nil, nil, err
	}
	beside, err := s.Store.CountBeside(c)
	if err != nil {
		return nil, nil, err
	}
	asked, err := s.Store.CorrectionsAsked(c)
	if err != nil {
		return nil, nil, err
	}
	waits := map[uint64]int{}
	for _, x := range asked {
		waits[x.ModelID]++
	}
	models, err := s.Store.Models(c)
	if err != nil {
		return nil, nil, err
	}
	states, slugs := map[string]guideState{}, map[uint64]string{}
	for _, m := range models {
		slugs[m.ID] = m.Slug
		states[m.Slug] = guideState{Comments: comments[m.ID], Reports: reports[m.ID], Trials: trials[m.ID],
			Beside: beside[m.ID], Asked: waits[m.ID]}
	}
	for _, r := range rounds {
		g := states[slugs[r.ModelID]]
		g.Round = r.State
		states[slugs[r.ModelID]] = g
	}
	for i := range list {
		k := &list[i]
		g := states[k.Slug]
		g.Letters = strings.TrimSpace(k.Letter + " " + g.Letters)
		g.Pending = g.Pending || !k.Fresh
		if k.Standing != nil {
			g.Broken += k.Outstanding()
			g.Dangers += k.Standing.Dangers
		}
		states[k.Slug] = g
	}
	return states, job, nil
}

// foundThing is a part or line that a search hit, with its words.
type foundThing struct{ Name, Words, Link string }

type benchBody struct {
	Query string
	Rows  []benchRow

	Retired []benchRow
	Parts   int      // things hit in all
	Total   int      // models there are
	Job     *app.Job // that works the missing columns out; nil for none
	Again   string   // address of the list
	After   string   // how long after it is asked for again
}

// List is the list of models.
func (s View) List(c *gin.Context) {
	body := benchBody{Query: strings.TrimSpace(c.Query("q")), Again: c.Request.URL.RequestURI()}
	list, job, err := s.Listing.List(c, body.Query != "")
	if err == nil && job != nil && job.Key != app.Proving && job.Wait(c, site.Soon) {
		list, job, err = s.Listing.List(c, body.Query != "")
	}
	if err != nil {
		s.Trouble(c, err)
		return
	}
	body.Total, body.Job, body.After = len(list), job, "700ms"
	if job != nil && job.Key == app.Proving { // it takes its time
		body.After = "5s"
	}
	states, looking, err := s.guideStates(c)
	if err != nil {
		s.Trouble(c, err)
		return
	}
	if looking != nil && (job == nil || job.Key == app.Proving) {
		body.Job, body.After = looking, "700ms"
	}
	for i := range list {
		r := benchRow{Listed: list[i], Guide: states[list[i].Slug]}
		r.tell()
		r.search(body.Query)
		own := matches(body.Query, r.Name, r.Kind, strconv.Itoa(r.Year))
		if body.Query == "" || own || len(r.Found) > 0 {
			if r.Columns != nil && r.Columns.Retired {
				body.Retired = append(body.Retired, r)
			} else {
				body.Rows = append(body.Rows, r)
			}
			body.Parts += len(r.Found)
		}
	}
	name := "bench.html"
	if c.GetHeader("HX-Request") != "" {
		name = "models"
	}
	s.Show(c, http.StatusOK, name, site.Page{Title: "Bench", Body: body})
}

// matches reports whether some text contains the words searched for.
func matches(query string, texts ...string) bool {
	return query != "" && slices.ContainsFunc(texts, func(t string) bool {
		return strings.Contains(strings.ToLower(t), strings.ToLower(query))
	})
}

// search looks for names, ids, kinds and what is printed on the unit.
func (r *benchRow) search(query string) {
	for _, t := range r.Things {
		if matches(query, t.Texts...) {
			link := "/models/" + url.PathEscape(r.Slug) + "?part=" + url.QueryEscape(t.ID)
			r.Found = append(r.Found, foundThing{t.Name, t.Words, link})
		}
	}
}

// tell writes the columns in words.
func (r *benchRow) tell() {
	c := r.Columns
	if c == nil || c.Trouble != "" {
		return
	}
	amount := func(v quantity.Litre, none string) string {
		if v == 0 {
			return none
		}
		return quantity.Both(v, c.System)
	}
	r.Tank, r.Lines, r.Antifreeze = amount(c.Tank, "none"), amount(c.Lines, "none"), amount(c.Antifreeze, "no setting")
	if p := c.Procedures; p != nil {
		r.Procedures = p.Proven + p.Told + p.Danger
	}
	r.Modes = fmt.Sprintf("%d of %d", c.Met, c.Modes)
}

type figuresBody struct {
	Query  string
	Models []*site.Computed
	Names  []string
	Rows   [][]string
}

// figures shows chosen models side by side; all where none is chosen.
func (s View) Figures(c *gin.Context) {
	body, err := s.sideBySide(c)
	if err != nil {
		s.Trouble(c, err)
		return
	}
	s.Show(c, http.StatusOK, "figures.html", site.Page{Title: "Figures side by side", Body: body})
}

func (s View) sideBySide(c *gin.Context) (*figuresBody, error) {
	list, err := s.Store.Models(c)
	if err != nil {
		return nil, err
	}
	body := &figuresBody{Query: c.Request.URL.RawQuery}
	chosen := c.QueryArray("m")
	var subjects []compare.Subject
	for i := range list {
		if len(chosen) > 0 && !slices.Contains(chosen, list[i].Slug) {
			continue
		}
		row, rev, err := s.Store.Current(c, list[i].Slug)
		if err != nil {
			return nil, err
		}
		b, err := s.Worked(c, row, rev, "")
		if err != nil {
			continue // the bench says why
		}
		body.Models = append(body.Models, b)
		subject, err := b.Subject(c)
		if err != nil {
			return nil, err
		}
		subjects = append(subjects, subject)
	}
	names, rows := compare.Sheet(subjects)
	for i, name := range names {
		var cells []string
		for k, f := range rows[i] {
			cells = append(cells, body.Models[k].Words().Tell(f))
		}
		body.Names, body.Rows = append(body.Names, site.Tell(name, quantity.US)), append(body.Rows, cells)
	}
	return body, nil
}

// figuresFile is the same as CSV or XLSX.
func (s View) FiguresFile(c *gin.Context) {
	body, err := s.sideBySide(c)
	if err != nil {
		s.Trouble(c, err)
		return
	}
	t := spreadsheet.Table{Name: "Figures", Head: []string{"Figure"}}
	for _, b := range body.Models {
		t.Head = append(t.Head, b.Model.Title())
	}
	for i, name := range body.Names {
		cells := []any{name}
		for _, v := range body.Rows[i] {
			cells = append(cells, v)
		}
		t.Rows = append(t.Rows, cells)
	}
	switch c.Param("kind") {
	case "csv":
		site.Download(c, "text/csv; charset=utf-8", "figures.csv")
		if err := spreadsheet.WriteCSV(c.Writer, []spreadsheet.Table{t}); err != nil {
			slog.Error("csv", "error", err)
		}
	case "xlsx":
		site.SendXLSX(c, "figures", []spreadsheet.Table{t})
	default:
		s.NotFound(c, "Figures are written as csv and xlsx.")
	}
}
