package review

import (
	"context"
	"fmt"
	"html/template"
	"net/http"
	"net/url"
	"slices"
	"strconv"
	"strings"

	"github.com/gin-gonic/gin"

	"coldtap/internal/app"
	"coldtap/internal/core/chapter"
	"coldtap/internal/core/edit"
	"coldtap/internal/core/fact"
	"coldtap/internal/core/house"
	"coldtap/internal/core/plumbing"
	"coldtap/internal/core/record"
	"coldtap/internal/core/state"
	"coldtap/internal/core/words"
	"coldtap/internal/drawing"
	"coldtap/internal/guide"
	"coldtap/internal/guide/said"
	"coldtap/internal/guide/standing"
	"coldtap/internal/web/site"
)

// line is a line that differs, old beside new.
type line struct {
	Block, Title string
	Of           string
	Kind         said.Kind
	Was, Now     string
	Danger       bool
	Why          string
	Moved, Drawn bool
	Because      []string
	Taken        bool
}

// lineOf is a difference in an order of units.
func lineOf(d *said.Difference, unit int) line {
	l := line{Block: d.Block, Title: d.Title[unit], Kind: d.Line().Kind, Of: d.Line().Of, Moved: d.Moved}
	if d.Was != nil {
		l.Was = d.Was.Text[unit]
	}
	if d.Now != nil {
		l.Now = d.Now.Text[unit]
	}
	if l.Was == l.Now && d.Was != nil && d.Now != nil && !d.Moved {
		l.Drawn = d.Was.Drawn != d.Now.Drawn
		if !l.Drawn { // it differs in the other units alone
			l.Was, l.Now = d.Was.Text[1-unit], d.Now.Text[1-unit]
		}
	}
	return l
}

// because tells a change of what a guide stands on.
func because(c standing.Change, x *app.Present) string {
	tell := words.English(x.Doc.System())
	was, is := c.Was, c.Is
	if was == "" {
		was = "nothing"
	}
	if is == "" {
		is = "nothing"
	}
	switch c.Kind {
	case record.Field:
		name := c.Of
		if p := x.Doc.Part(c.Of); p != nil {
			name = p.Name
		}
		return strings.TrimSpace(name+", "+tell.Field(c.Field)) + ": " + was + " → " + is
	case record.Rule:
		name := c.Of
		if r := house.RuleByID(c.Of); r != nil {
			name = r.Name
		}
		return "House rule, " + name + ": " + was + " → " + is
	case record.Plumbing:
		return "Parts, how they are joined, called or reached"
	case record.Setting:
		return "Positions of " + c.Of
	case record.Photo:
		return "Photographs or their marks"
	case record.Hand:
		return "What a hand wrote in the guide"
	case record.Constant, record.Program:
		return "The program’s computations or its words"
	}
	return string(c.Kind)
}

// edited is what no longer holds of an edition of a build.
type edited struct {
	Build, Edition string
	Dangers        int
	Lines          []line
	Because        []string
}

type standingBody struct {
	Slug   string
	Kept   app.Kept
	List   []edited
	Open   int
	Author bool
	Job    *app.Job
	SVG    template.HTML
}

// Standing shows what of a published guide no longer holds: old against new, dangers first.
func (s View) Standing(c *gin.Context) {
	x, b := s.begin(c), s.Model(c)
	if x == nil || b == nil {
		return
	}
	all, job, err := s.Keeping.List(c)
	if err == nil && job != nil && job.Wait(c, 4*waits) {
		all, job, err = s.Keeping.List(c)
	}
	if err != nil {
		s.Trouble(c, err)
		return
	}
	i := slices.IndexFunc(all, func(k app.Kept) bool { return k.Slug == x.Row.Slug && k.Letter == c.Param("letter") })
	if i < 0 {
		s.NotFound(c, "This revision is not published now.")
		return
	}
	body := standingBody{Slug: x.Row.Slug, Kept: all[i], Job: job, Author: b != nil && site.Who(c).Role == "author"}
	row, err := s.Store.Standing(c, all[i].ID)
	if err != nil {
		s.Trouble(c, err)
		return
	}
	open := row.Open()
	unit := unitOf(x)
	var parts []string
	for _, bs := range row.List() {
		e := edited{Build: title(&all[i].PublishedGuide, bs.Build), Edition: bs.Edition, Dangers: bs.Dangers()}
		for _, ch := range bs.Changed {
			if text := because(ch, x); !slices.Contains(e.Because, text) {
				e.Because = append(e.Because, text)
			}
			if x.Doc.Part(ch.Of) != nil || x.Doc.Line(ch.Of) != nil {
				parts = append(parts, ch.Of)
			}
		}
		for k := range bs.List {
			l := lineOf(&bs.List[k].Difference, unit)
			l.Danger, l.Why, l.Taken = bs.List[k].Danger, bs.List[k].Why, !open(&bs, k)
			if !l.Taken {
				body.Open++
			}
			for _, n := range bs.List[k].Because {
				l.Because = append(l.Because, because(bs.Changed[n], x))
			}
			e.Lines = append(e.Lines, l)
		}
		body.List = append(body.List, e)
	}
	body.SVG = s.drawn(c, x, parts)
	s.Show(c, http.StatusOK, "standing.html", site.Page{Title: "What no longer holds: " + b.Model.Title(), Model: b,
		Tab: "review", Body: body})
}

func unitOf(x *app.Present) int {
	if x.Doc.Units == "si" {
		return 1
	}
	return 0
}

// title is what a build of a published guide is called.
func title(g *app.PublishedGuide, name string) string {
	if b := g.Build(name); b != nil && len(g.Of().Builds) > 1 {
		return b.Title
	}
	return ""
}

// drawn is the schematic with some parts marked; nothing where there is none.
func (s View) drawn(ctx context.Context, x *app.Present, parts []string) template.HTML {
	if len(parts) == 0 {
		return ""
	}
	b, err := s.Publishing.Build(ctx, x, x.Doc.StandardOptions())
	if err != nil {
		return ""
	}
	drawn, _, err := b.SchematicSoon(ctx, waits)
	if err != nil || drawn == nil {
		return ""
	}
	mark := map[string]string{}
	for _, id := range parts {
		mark[id] = "breach"
	}
	return template.HTML(drawn.SVG(drawing.Show{Title: "What changed", Mark: mark,
		State: state.Normal(b.Net)})) // drawn by us
}

// group is what differs of a kind.
type group struct {
	Name  string
	Lines []line
}

type changesBody struct {
	Slug, From, To string
	Groups         []group
	Total          int
	Letters        []string
	Edition        string
	Build          string
	Builds         []string
	SVG            template.HTML
	Because        []string
}

// groups are the names of what differs, as a reader wants it.
var groups = []struct {
	kind said.Kind
	name string
}{{said.Caution, "Cautions"}, {said.Position, "Positions"}, {said.Figure, "Figures"}, {said.Step, "Steps"},
	{said.Picture, "Pictures"},
	{said.Words, "Words"}}

// Changes shows what differs between two revisions, or between one and the draft.
func (s View) Changes(c *gin.Context) {
	x, b := s.begin(c), s.Model(c)
	if x == nil || b == nil {
		return
	}
	list, err := s.Store.PublishedOf(c, x.Row.Slug)
	if err != nil {
		s.Trouble(c, err)
		return
	}
	at := slices.IndexFunc(list, func(g app.PublishedGuide) bool { return g.Letter == c.Param("letter") })
	if at < 0 {
		s.NotFound(c, "This revision was never published.")
		return
	}
	body := changesBody{Slug: x.Row.Slug, From: c.Query("against"), To: list[at].Letter, Edition: string(edition(c)),
		Build: c.Query("build")}
	if body.From == "" && at+1 < len(list) {
		body.From = list[at+1].Letter
	}
	for _, g := range list {
		if g.Letter != body.To {
			body.Letters = append(body.Letters, g.Letter)
		}
	}
	for _, one := range list[at].Of().Builds {
		body.Builds = append(body.Builds, one.Name)
	}
	if !slices.Contains(body.Builds, body.Build) {
		body.Build = body.Builds[0]
	}
	if err := s.compare(c, x, list, at, &body); err != nil {
		s.Trouble(c, err)
		return
	}
	s.Show(c, http.StatusOK, "changes.html", site.Page{Title: "What changed: " + b.Model.Title(), Model: b,
		Tab: "review", Body: body})
}

// compare fills in what differs.
func (s View) compare(ctx context.Context, x *app.Present, list []app.PublishedGuide, at int,
	body *changesBody) error {
	e := chapter.Edition(body.Edition)
	to, err := s.Keeping.Said(ctx, list[at].ID, body.Build, e)
	if err != nil {
		return err
	}
	var from *said.Guide
	k := slices.IndexFunc(list, func(g app.PublishedGuide) bool { return g.Letter == body.From })
	switch {
	case body.From == "draft":
		from = to
		if to, err = s.now(ctx, x, list[at].Build(body.Build).With, e); err != nil {
			return err
		}
		body.From, body.To = body.To, "draft"
	case k < 0: // it is the first
		from = &said.Guide{}
	default:
		if from, err = s.Keeping.Said(ctx, list[k].ID, body.Build, e); err != nil {
			return err
		}
	}
	unit := unitOf(x)
	by := map[said.Kind][]line{}
	differ := said.Blocks(from.Blocks, to.Blocks, nil)
	for i := range differ {
		l := lineOf(&differ[i], unit)
		by[l.Kind] = append(by[l.Kind], l)
	}
	body.Total = len(differ)
	for _, g := range groups {
		if len(by[g.kind]) > 0 {
			body.Groups = append(body.Groups, group{g.name, by[g.kind]})
		}
	}
	var parts []string
	was := map[record.Input]string{}
	for _, in := range from.Inputs {
		was[in.Record()] = in.Is
	}
	for _, in := range to.Inputs {
		if old, ok := was[in.Record()]; ok && old != in.Is {
			for _, one := range standing.Single(standing.Change{Kind: in.Kind, Of: in.Of, Field: in.Field, Was: old,
				Is: in.Is}) {
				if text := because(one, x); !slices.Contains(body.Because, text) {
					body.Because = append(body.Because, text)
				}
			}
			if x.Doc.Part(in.Of) != nil || x.Doc.Line(in.Of) != nil {
				parts = append(parts, in.Of)
			}
		}
	}
	body.SVG = s.drawn(ctx, x, parts)
	return nil
}

// now is what an edition of a build says now.
func (s View) now(ctx context.Context, x *app.Present, with []string, e chapter.Edition) (*said.Guide, error) {
	b, err := s.Publishing.Build(ctx, x, with)
	if err != nil {
		return nil, err
	}
	in, err := x.Inputs(ctx, b, true)
	if err != nil {
		return nil, err
	}
	in.Edition = e
	now := standing.Now{In: in, Program: app.Program(), Options: guide.Options{With: with, Draw: x.Draw(b),
		Photo: app.PhotoBeside}}
	return now.Said(ctx)
}

type reportsBody struct {
	Slug    string
	Reports []reported
	Author  bool
	Edits   []app.Revision
}

// reported is a report beside the step that it speaks of.
type reported struct {
	app.Report
	Name string
	Href string // the step as readers see it
	Mine string // the procedure as it is now
}

// Reports are what readers say did not work on theirs.
func (s View) Reports(c *gin.Context) {
	x, b := s.begin(c), s.Model(c)
	if x == nil || b == nil {
		return
	}
	list, err := s.Store.ReportsOf(c, x.Row.ID)
	if err != nil {
		s.Trouble(c, err)
		return
	}
	body := reportsBody{Slug: x.Row.Slug, Author: site.Who(c).Role == "author"}
	tell := words.English(x.Doc.System())
	base := "/models/" + url.PathEscape(x.Row.Slug)
	for _, r := range list {
		one := reported{Report: r, Href: "/read/" + url.PathEscape(x.Row.Slug) + "/" + r.Letter + "/" + r.Build + "/" +
			x.Doc.Units}
		if r.Task != "" {
			one.Name, one.Mine = tell.Tell(fact.Of("procedure."+r.Task)), base+"/procedures/"+url.PathEscape(r.Task)
			one.Href += "/do/" + url.PathEscape(r.Task)
		}
		body.Reports = append(body.Reports, one)
	}
	if body.Edits, err = s.Store.Revisions(c, x.Row.Slug); err != nil {
		s.Trouble(c, err)
		return
	}
	body.Edits = body.Edits[:min(len(body.Edits), 20)]
	s.Show(c, http.StatusOK, "reports.html", site.Page{Title: "Readers’ reports: " + b.Model.Title(), Model: b,
		Tab: "review", Body: body})
}

// Settle answers a report, or turns it into a finding of the model or says which change it led to.
func (s View) Settle(c *gin.Context) {
	x := s.begin(c)
	if x == nil {
		return
	}
	id, err := strconv.ParseUint(c.Param("id"), 10, 64)
	if err != nil {
		s.NotFound(c, "There is no such report.")
		return
	}
	err = s.settle(c, x, id)
	if err == nil {
		err = s.alike(c, x, id)
	}
	s.settled(c, x, "", err)
}

// alike settles the reports that are about the same as one, in the same way.
func (s View) alike(c *gin.Context, x *app.Present, id uint64) error {
	as, err := s.Store.Report(c, x.Row.ID, id)
	if err != nil {
		return err
	}
	for _, text := range c.PostFormArray("also") {
		other, err := strconv.ParseUint(text, 10, 64)
		if err != nil || other == id {
			continue
		}
		if err := s.Readers.Settle(c, x.Row.Slug, site.By(c), other, as.State, as.Answer, as.Became); err != nil {
			return err
		}
	}
	return nil
}

func (s View) settle(c *gin.Context, x *app.Present, id uint64) error {
	slug, by, answer := x.Row.Slug, site.By(c), strings.TrimSpace(c.PostForm("words"))
	switch c.PostForm("do") {
	case "answer":
		return s.Readers.Settle(c, slug, by, id, app.ReportAnswered, answer, "")
	case "finding":
		r, err := s.Store.Report(c, x.Row.ID, id)
		if err != nil {
			return err
		}
		text := strings.TrimSpace(c.PostForm("finding"))
		if text == "" {
			text = r.Words
		}
		if runes := []rune(text); len(runes) > 400 {
			text = string(runes[:399]) + "…"
		}
		op := func(m *plumbing.Model) (*edit.Done, error) { return edit.Report(m, c.PostForm("part"), text) }
		_, err = s.Edits.Change(c, slug, x.Row.Revision, by, op, func(tx app.Tx) error {
			return (&app.Readers{Store: both{tx}}).Settle(c, slug, by, id, app.ReportFinding, answer, "a finding: "+text)
		})
		return err
	case "change":
		number, err := strconv.ParseUint(c.PostForm("state"), 10, 64)
		if err != nil {
			return &app.RefusedError{Words: "choose the change that puts it right"}
		}
		rev, err := s.Store.StateOf(c, slug, number)
		if err != nil {
			return err
		}
		became := fmt.Sprintf("state %d: %s", rev.Number, rev.Reason)
		if runes := []rune(became); len(runes) > 190 {
			became = string(runes[:189]) + "…"
		}
		return s.Readers.Settle(c, slug, by, id, app.ReportChange, answer, became)
	}
	return &app.RefusedError{Words: "nothing was chosen"}
}

// both is a transaction in which readers' reports are read and written.
type both struct{ app.Tx }
