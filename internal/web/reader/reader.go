// Package reader shows published guides to everybody, without sign-in: found
// by model and year or by serial number, whole or one step a screen, and takes
// what readers send.
package reader

import (
	"bytes"
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"html/template"
	"net/http"
	"net/url"
	"slices"
	"strings"

	"github.com/gin-gonic/gin"

	"coldtap/internal/app"
	"coldtap/internal/core/chapter"
	"coldtap/internal/core/measure"
	"coldtap/internal/core/quantity"
	"coldtap/internal/guide"
	"coldtap/internal/guide/frozen"
	"coldtap/internal/web/site"
)

// View answers the requests of readers.
type View struct {
	*site.Site
	Shelf  *Shelf
	Worker []byte // the script that keeps pages for when there is no network
}

// bare is a page around which nothing of a guide stands.
func (s View) bare(c *gin.Context, status int, name, title string, body any) {
	var b bytes.Buffer
	if err := s.Write(&b, name, site.Page{Title: title, Body: body}); err != nil {
		s.Trouble(c, err)
		return
	}
	secure(c.Writer.Header())
	c.Header("Cache-Control", "no-cache")
	c.Data(status, "text/html; charset=utf-8", b.Bytes())
}

// missing says that there is no such guide, whether there is none or it is not published.
func (s View) missing(c *gin.Context) {
	s.bare(c, http.StatusNotFound, "reader-missing.html", "Not found", nil)
}

// found is a guide in the list of those that are published.
type found struct {
	Title, Href, Maker string
	Units              string // the serial numbers it is for
	Letter, Date       string
}

type findBody struct {
	Serial string
	Wrong  string
	List   []found
}

// Find finds a guide by model and year, or by serial number.
func (s View) Find(c *gin.Context) {
	all, err := s.Store.AllPublished(c)
	if err != nil {
		s.Trouble(c, err)
		return
	}
	body := findBody{Serial: strings.TrimSpace(c.Query("serial"))}
	if len(body.Serial) > 60 {
		body.Serial = body.Serial[:60]
	}
	if body.Serial != "" {
		g, builds := app.ForSerial(all, body.Serial)
		switch {
		case g != nil && len(builds) == 1:
			c.Redirect(http.StatusSeeOther, s.home(g, builds[0].Name, ""))
			return
		case g != nil && len(builds) > 1:
			c.Redirect(http.StatusSeeOther, fmt.Sprintf("%s?serial=%s", at(g), url.QueryEscape(body.Serial)))
			return
		}
		body.Wrong = "No guide is published for this serial number. Look whether it is typed as on the plate, or choose the model below."
	}
	for i := range all {
		g := &all[i]
		if g.State != app.Published || slices.ContainsFunc(body.List,
			func(f found) bool { return f.Href == "/read/"+g.Slug }) {
			continue
		}
		body.List = append(body.List, found{Title: g.Title(), Href: "/read/" + url.PathEscape(g.Slug), Maker: g.Of().Maker,
			Units: units(g), Letter: g.Letter, Date: g.CreatedAt.Format("2 January 2006")})
	}
	slices.SortFunc(body.List, func(a, b found) int { return strings.Compare(a.Title, b.Title) })
	s.bare(c, http.StatusOK, "reader-find.html", "Find your camper", body)
}

func units(g *app.PublishedGuide) string {
	switch {
	case g.FromSerial != "" && g.ToSerial != "":
		return "serial numbers " + g.FromSerial + " to " + g.ToSerial
	case g.FromSerial != "":
		return "serial numbers from " + g.FromSerial
	case g.ToSerial != "":
		return "serial numbers up to " + g.ToSerial
	}
	return ""
}

// at is the address of a published guide.
func at(g *app.PublishedGuide) string { return "/read/" + url.PathEscape(g.Slug) + "/" + g.Letter }

// home is the address of a build of it.
func (s View) home(g *app.PublishedGuide, build, unit string) string {
	if unit == "" {
		unit = g.Of().Units
	}
	return at(g) + "/" + build + "/" + unit
}

// guide is the published guide that a request asks for, or it answers the request and gives nil.
func (s View) guide(c *gin.Context) *app.PublishedGuide {
	g, err := s.Store.PublishedGuide(c, c.Param("model"), c.Param("letter"))
	switch {
	case errors.Is(err, app.ErrNotFound):
		s.missing(c)
		return nil
	case err != nil:
		s.Trouble(c, err)
		return nil
	}
	return g
}

// Newest leads to the newest published guide of a model.
func (s View) Newest(c *gin.Context) {
	list, err := s.Store.PublishedOf(c, c.Param("model"))
	if err != nil {
		s.Trouble(c, err)
		return
	}
	for i := range list {
		if list[i].State == app.Published {
			c.Header("Cache-Control", "no-cache")
			c.Redirect(http.StatusSeeOther, at(&list[i]))
			return
		}
	}
	s.missing(c)
}

type buildBody struct {
	envelope
	Title, Serial string
	Units         string
	Builds        []choice
}

// choice is a build that a reader can choose.
type choice struct {
	Title, Href string
	Notes       []string
}

// Builds lets the reader choose the build that stands before them; of one there is nothing to choose.
func (s View) Builds(c *gin.Context) {
	g := s.guide(c)
	if g == nil {
		return
	}
	serial := strings.TrimSpace(c.Query("serial"))
	builds := g.Of().Builds
	if serial != "" {
		builds = app.BuildsOf(g, serial)
	}
	if len(builds) == 1 {
		c.Header("Cache-Control", "no-cache")
		c.Redirect(http.StatusSeeOther, s.home(g, builds[0].Name, ""))
		return
	}
	body := buildBody{Title: g.Title(), Serial: serial, Units: units(g)}
	var err error
	if body.envelope, err = s.envelope(c, g, ""); err != nil {
		s.Trouble(c, err)
		return
	}
	for _, b := range builds {
		x := choice{Title: b.Title, Href: s.home(g, b.Name, "")}
		for _, o := range b.Options {
			if o.Note != "" {
				x.Notes = append(x.Notes, o.Name+": "+o.Note)
			}
		}
		body.Builds = append(body.Builds, x)
	}
	s.bare(c, http.StatusOK, "reader-builds.html", g.Title(), body)
}

// envelope is what stands around what is frozen.
type envelope struct {
	State   string        `json:"state"`
	Letter  string        `json:"letter"`
	Date    string        `json:"date"`
	Newer   string        `json:"newer,omitempty"` // address of the guide that replaces it
	Notice  string        `json:"notice,omitempty"`
	Dangers []string      `json:"dangers,omitempty"` // parts of the guide that are no longer right
	Checked string        `json:"checked,omitempty"` // when it was last held against how the camper is described
	Tried   []app.TriedOf `json:"tried,omitempty"`
	Stamp   string        `json:"stamp"` // tells it from every other, whenever it was checked
}

// envelope is that of a published guide, for a build; "" for all.
func (s View) envelope(ctx context.Context, g *app.PublishedGuide, build string) (envelope, error) {
	e := envelope{State: g.State, Letter: g.Letter, Date: g.CreatedAt.Format("2 January 2006"), Notice: g.Notice,
		Tried: g.OnUnits()}
	if g.State == app.Superseded {
		list, err := s.Store.PublishedOf(ctx, g.Slug)
		if err != nil {
			return e, err
		}
		for i := range list {
			if list[i].State == app.Published {
				e.Newer = at(&list[i])
				break
			}
		}
	}
	row, err := s.Store.Standing(ctx, g.ID)
	if err != nil {
		return e, err
	}
	checked := g.CreatedAt // it was right when it was published
	if row != nil {
		checked = row.CheckedAt
	} else if g.State == app.Published {
		s.Keeping.Soon()
	}
	e.Checked = checked.UTC().Format("2006-01-02T15:04:05Z")
	if row != nil && row.Dangers > 0 && g.State == app.Published {
		e.Dangers = dangers(row, build)
	}
	e.Stamp = fmt.Sprintf("%d %s %q %q", g.Version, e.Newer, e.Notice, e.Dangers)
	return e, nil
}

// dangers are the titles of the owner's blocks in which something is no longer right and can do harm.
func dangers(row *app.StandingRow, build string) (titles []string) {
	for _, b := range row.List() {
		if b.Edition != string(chapter.Owner) || build != "" && b.Build != build {
			continue
		}
		for i := range b.List {
			d := &b.List[i]
			if title := d.Title[0]; d.Danger && title != "" && !slices.Contains(titles, title) {
				titles = append(titles, title)
			}
		}
	}
	return titles
}

// place is where in a guide a page is.
type place struct {
	g     *app.PublishedGuide
	build *frozen.AboutOf
	unit  guide.Units
}

// place reads it from the address, or it answers the request; ok is false then.
func (s View) place(c *gin.Context) (p place, ok bool) {
	if p.g = s.guide(c); p.g == nil {
		return p, false
	}
	p.build, p.unit = p.g.Build(c.Param("build")), guide.Units(c.Param("units"))
	if p.build == nil || p.unit != guide.US && p.unit != guide.SI {
		s.missing(c)
		return p, false
	}
	return p, true
}

// pageBody is a page of a guide.
type pageBody struct {
	envelope
	frozen.Home
	Slug, Build, Units string
	Base               string // address of the guide in these units
	Other              string // the same page in the other units
	Style              string
	Task               *frozen.TaskOf // nil outside of a procedure
	Inside             template.HTML  // frozen
	Parts              []partOf
	Here               bool // of a procedure: it is among what is no longer right
}

// OnUnits are the lines that tell how it came out on units: of a procedure what is of it, else what is of all.
func (b *pageBody) OnUnits() (list []string) {
	sys := quantity.US
	if guide.Units(b.Units) == guide.SI {
		sys = quantity.SI
	}
	for _, t := range b.Tried {
		if b.Task != nil && t.Task != b.Task.ID {
			continue
		}
		units := "one unit"
		if t.Units > 1 {
			units = fmt.Sprintf("%d units", t.Units)
		}
		line := fmt.Sprintf("%s was tried on %s, last on %s.", t.Title, units, t.Last.Format("2 January 2006"))
		for _, f := range t.Came {
			if b.Task != nil || f.Step == "" {
				line += " " + came(f, sys)
			}
		}
		list = append(list, line)
	}
	if list == nil && b.Task != nil {
		list = append(list, "This was not tried on a unit yet.")
	}
	return list
}

// came tells how near a figure came.
func came(f app.TriedFigure, sys quantity.System) string {
	show := func(v float64) string {
		switch f.Kind {
		case measure.Clock:
			return quantity.Both(quantity.Second(v), sys)
		case measure.Jug:
			return quantity.Both(quantity.Litre(v), sys)
		}
		return fmt.Sprintf("%.3g", v)
	}
	what := map[measure.Kind]string{measure.Clock: "Time", measure.Jug: "Antifreeze", measure.Refills: "Refills"}[f.Kind]
	if f.Step != "" {
		what += " of “" + strings.TrimSuffix(f.Step, ".") + "”"
	}
	near := ""
	if f.Computed > 0 && f.Kind != measure.Refills {
		near = fmt.Sprintf(" (%+.0f %%)", 100*(f.Measured/f.Computed-1))
	}
	return fmt.Sprintf("%s: %s measured, %s computed%s.", what, show(f.Measured), show(f.Computed), near)
}

// partOf is a part of the guide with its procedures.
type partOf struct {
	Title string
	Tasks []frozen.TaskOf
}

// Home is where a guide begins: what do you want to do.
func (s View) Home(c *gin.Context) { s.page(c, "reader-home.html", "", "") }

// Chapter is the whole of it.
func (s View) Chapter(c *gin.Context) {
	s.page(c, "reader-chapter.html", frozen.ChapterPath(c.Param("build"), chapter.Owner, guide.Units(c.Param("units"))),
		"")
}

// Do is a procedure, one step a screen.
func (s View) Do(c *gin.Context) {
	task := c.Param("task")
	s.page(c, "reader-task.html", frozen.WalkPath(c.Param("build"), task, guide.Units(c.Param("units"))), task)
}

// page sends a page around a frozen file; path is "" for none.
func (s View) page(c *gin.Context, name, path, task string) {
	p, ok := s.place(c)
	if !ok {
		return
	}
	e, err := s.envelope(c, p.g, p.build.Name)
	if err != nil {
		s.Trouble(c, err)
		return
	}
	key := c.Request.URL.Path
	if l := s.Shelf.find(key); l != nil && l.stamp == e.Stamp {
		s.send(c, key, l)
		return
	}
	body, err := s.body(c, p, e, path, task)
	switch {
	case errors.Is(err, app.ErrNotFound):
		s.missing(c)
		return
	case err != nil:
		s.Trouble(c, err)
		return
	}
	title := body.Title
	if body.Task != nil {
		title = body.Task.Title + ", " + body.Title
	}
	var b bytes.Buffer
	if err := s.Write(&b, name, site.Page{Title: title, Body: body}); err != nil {
		s.Trouble(c, err)
		return
	}
	l, err := newLeaf("text/html; charset=utf-8", b.Bytes(), e.Stamp, false)
	if err != nil {
		s.Trouble(c, err)
		return
	}
	s.send(c, key, l)
}

func (s View) send(c *gin.Context, key string, l *leaf) {
	s.Shelf.put(key, l)
	secure(c.Writer.Header())
	l.send(c.Writer, c.Request)
}

func (s View) body(ctx context.Context, p place, e envelope, path, task string) (*pageBody, error) {
	base := s.home(p.g, p.build.Name, string(p.unit))
	body := &pageBody{envelope: e, Slug: p.g.Slug, Build: p.build.Name, Units: string(p.unit), Base: base,
		Style: at(p.g) + "/style.css"}
	raw, err := s.Store.FrozenFile(ctx, p.g.ID, frozen.HomePath(p.build.Name, p.unit))
	if err != nil {
		return nil, err
	}
	if err := json.Unmarshal(raw, &body.Home); err != nil {
		return nil, fmt.Errorf("home of a guide: %w", err)
	}
	other := guide.SI
	if p.unit == guide.SI {
		other = guide.US
	}
	body.Other = s.home(p.g, p.build.Name, string(other))
	for i := range body.Tasks {
		t := &body.Tasks[i]
		if n := len(body.Parts); n == 0 || body.Parts[n-1].Title != t.Part {
			body.Parts = append(body.Parts, partOf{Title: t.Part})
		}
		last := &body.Parts[len(body.Parts)-1]
		last.Tasks = append(last.Tasks, *t)
		if t.ID == task {
			body.Task = t
		}
	}
	body.Here = body.Task != nil && slices.Contains(e.Dangers, body.Task.Title)
	switch {
	case task != "" && body.Task == nil:
		return nil, app.ErrNotFound
	case task != "":
		body.Other += "/do/" + task
	case path != "":
		body.Other += "/chapter"
	}
	if path != "" {
		inside, err := s.Store.FrozenFile(ctx, p.g.ID, path)
		if err != nil {
			return nil, err
		}
		body.Inside = template.HTML(inside) // written by a template of ours, and kept as it was
	}
	return body, nil
}

// Style is the style sheet that was frozen with a guide.
func (s View) Style(c *gin.Context) {
	if g := s.guide(c); g != nil {
		s.frozen(c, g, frozen.StylePath, "text/css; charset=utf-8")
	}
}

// Photo is a photograph of it.
func (s View) Photo(c *gin.Context) {
	p, ok := s.place(c)
	if !ok {
		return
	}
	name, small := strings.CutSuffix(strings.TrimSuffix(c.Param("file"), ".jpg"), "-small")
	s.frozen(c, p.g, frozen.PhotoPath(name, small), "image/jpeg")
}

// frozen sends a file that never changes.
func (s View) frozen(c *gin.Context, g *app.PublishedGuide, path, kind string) {
	raw, err := s.Store.FrozenFile(c, g.ID, path)
	switch {
	case errors.Is(err, app.ErrNotFound) || !frozen.Public(path):
		s.missing(c)
		return
	case err != nil:
		s.Trouble(c, err)
		return
	}
	l, err := newLeaf(kind, raw, "", true)
	if err != nil {
		s.Trouble(c, err)
		return
	}
	s.send(c, c.Request.URL.Path, l)
}

// Envelope is what stands around a guide, for pages that were kept.
func (s View) Envelope(c *gin.Context) {
	p, ok := s.place(c)
	if !ok {
		return
	}
	e, err := s.envelope(c, p.g, p.build.Name)
	if err != nil {
		s.Trouble(c, err)
		return
	}
	secure(c.Writer.Header())
	c.Header("Cache-Control", "no-cache")
	c.JSON(http.StatusOK, e)
}

// Keep lists the addresses that a phone keeps for when there is no network.
func (s View) Keep(c *gin.Context) {
	p, ok := s.place(c)
	if !ok {
		return
	}
	body, err := s.body(c, p, envelope{}, "", "")
	if err != nil {
		s.Trouble(c, err)
		return
	}
	files, err := s.Store.PublishedFiles(c, p.g.ID)
	if err != nil {
		s.Trouble(c, err)
		return
	}
	list := []string{body.Base, body.Base + "/chapter", body.Style}
	for _, t := range body.Tasks {
		list = append(list, body.Base+"/do/"+t.ID)
	}
	for _, f := range files {
		if name, ok := strings.CutPrefix(f.Path, "photos/"); ok {
			list = append(list, body.Base+"/photo/"+name)
		}
	}
	secure(c.Writer.Header())
	c.Header("Cache-Control", "no-cache")
	c.JSON(http.StatusOK, gin.H{"keep": list, "hash": p.g.Hash})
}

// Script is the worker that keeps pages for when there is no network.
func (s View) Script(c *gin.Context) {
	secure(c.Writer.Header())
	c.Header("Cache-Control", "no-cache")
	c.Header("Service-Worker-Allowed", "/read")
	c.Data(http.StatusOK, "text/javascript; charset=utf-8", s.Worker)
}
