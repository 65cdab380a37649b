package system

import (
	"cmp"
	"errors"
	"fmt"
	"net/http"
	"net/url"
	"strconv"
	"strings"
	"unicode/utf8"

	"github.com/gin-gonic/gin"

	"coldtap/internal/app"
	"coldtap/internal/core/plumbing"
	"coldtap/internal/picture"
	"coldtap/internal/web/site"
)

// taken is the picture of a photograph that somebody brings.
func (s View) taken(c *gin.Context) (*app.Photo, error) {
	caption, err := captionOf(c)
	if err != nil {
		return nil, err
	}
	raw, _, err := site.Upload(c, picture.MaxFile)
	if err != nil {
		return nil, err
	}
	p, err := picture.Of(raw, func(points int64) (func(), error) { return s.Bounds.Pixels(c, points) })
	var no *picture.Error
	switch {
	case errors.As(err, &no):
		return nil, fault("Photograph", "%s", no.Why)
	case err != nil:
		return nil, err
	}
	return &app.Photo{Part: c.Param("id"), Image: p.JPEG, Width: p.Width, Height: p.Height, Caption: caption}, nil
}

// captionMost is how many letters stand below a photograph.
const captionMost = 300

func captionOf(c *gin.Context) (string, error) {
	caption := strings.TrimSpace(c.PostForm("caption"))
	if n := utf8.RuneCountInString(caption); n > captionMost {
		return "", fault("Caption", "this has %d letters; at most %d are taken", n, captionMost)
	}
	return caption, nil
}

// AddPhoto keeps a photograph of a part.
func (s View) AddPhoto(c *gin.Context) {
	b := s.Model(c)
	if b == nil {
		return
	}
	part := c.Param("id") // "" for a panel
	if part != "" && b.Doc.Part(part) == nil {
		s.NotFound(c, "There is no such part.")
		return
	}
	photo, err := s.taken(c)
	if err != nil {
		s.edited(c, nil, err)
		return
	}
	if part != "" {
		photo.Marks = []app.PhotoMark{{Part: part, X: 0.5, Y: 0.5}}
	}
	if err := s.Photographs.Add(c, b.Row.Slug, site.By(c), photo); err != nil {
		s.Trouble(c, err)
		return
	}
	s.backFromPhoto(c, photo)
}

// photoOf reads the request's photograph; it answers the request and gives
// nil where there is none.
func (s View) photoOf(c *gin.Context) *app.Photo {
	id, err := strconv.ParseUint(c.Param("id"), 10, 64)
	var p *app.Photo
	if err == nil {
		p, err = s.Store.Photo(c, c.Param("model"), id)
	}
	var number *strconv.NumError
	switch {
	case errors.Is(err, app.ErrNotFound) || errors.As(err, &number):
		s.NotFound(c, "There is no such photograph.")
		return nil
	case err != nil:
		s.Trouble(c, err)
		return nil
	}
	return p
}

// PhotoImage is the photograph itself.
func (s View) PhotoImage(c *gin.Context) {
	if p := s.photoOf(c); p != nil {
		c.Data(http.StatusOK, "image/jpeg", p.Image)
	}
}

// MarkPhoto marks the part on its photograph.
func (s View) MarkPhoto(c *gin.Context) {
	p := s.photoOf(c)
	if p == nil {
		return
	}
	x, errX := strconv.ParseFloat(c.PostForm("x"), 64)
	y, errY := strconv.ParseFloat(c.PostForm("y"), 64)
	if errX != nil || errY != nil || !(x >= 0 && x <= 1 && y >= 0 && y <= 1) {
		c.String(http.StatusUnprocessableEntity, "A mark lies on the picture.")
		return
	}
	part := cmp.Or(c.PostForm("part"), p.Part)
	if b := s.Model(c); b == nil || b.Doc.Part(part) == nil {
		c.String(http.StatusUnprocessableEntity, "Say which part the mark is for.")
		return
	}
	if err := s.Photographs.Mark(c, c.Param("model"), site.By(c), app.PhotoMark{PhotoID: p.ID, Part: part, X: x,
		Y: y}); err != nil {
		s.Trouble(c, err)
		return
	}
	if c.PostForm("back") != "" {
		s.backFromPhoto(c, p)
		return
	}
	c.Status(http.StatusNoContent)
}

// UnmarkPhoto takes the mark of a part off a photograph.
func (s View) UnmarkPhoto(c *gin.Context) {
	s.withPhoto(c, func(p *app.Photo) error {
		return s.Photographs.Unmark(c, c.Param("model"), site.By(c), p, c.PostForm("part"))
	})
}

// CaptionPhoto writes what stands below a photograph.
func (s View) CaptionPhoto(c *gin.Context) {
	caption, err := captionOf(c)
	if err != nil {
		s.edited(c, nil, err)
		return
	}
	s.withPhoto(c, func(p *app.Photo) error {
		return s.Photographs.Caption(c, c.Param("model"), site.By(c), p, caption)
	})
}

// withPhoto changes a photograph and goes back to where it was.
func (s View) withPhoto(c *gin.Context, change func(p *app.Photo) error) {
	p := s.photoOf(c)
	if p == nil {
		return
	}
	if err := change(p); err != nil {
		s.Trouble(c, err)
		return
	}
	s.backFromPhoto(c, p)
}

// backFromPhoto goes back to the list of photographs, or to the part they are of.
func (s View) backFromPhoto(c *gin.Context, p *app.Photo) {
	to := "/models/" + url.PathEscape(c.Param("model"))
	if c.PostForm("back") == "photos" || p.Part == "" {
		c.Redirect(http.StatusSeeOther, fmt.Sprintf("%s/photos#photo-%d", to, p.ID))
		return
	}
	c.Redirect(http.StatusSeeOther, to+"?part="+url.QueryEscape(p.Part))
}

type photosBody struct {
	frame
	List  []photoRow
	Gone  []app.Photo     // that were taken away and can be brought back
	Lacks []plumbing.Part // parts that a reader looks for and no photograph shows
	Parts []plumbing.Part // that can be marked
}

// photoRow is a photograph with its marks and the parts that have none on it yet.
type photoRow struct {
	app.Photo
	Pins []pin
}

// pin is a mark with the place number and name of its part.
type pin struct {
	app.PhotoMark
	Number int
	Name   string
}

// Photos lists the photographs of a model, and what still lacks one.
func (s View) Photos(c *gin.Context) {
	b := s.Model(c)
	if b == nil {
		return
	}
	list, err := s.Store.AllPhotos(c, b.Row.Slug)
	if err != nil {
		s.Trouble(c, err)
		return
	}
	body := photosBody{frame: newFrame("photos", "", "")}
	body.Base = "/models/" + url.PathEscape(b.Row.Slug)
	shown := map[string]bool{}
	for _, p := range list {
		if p.RemovedAt != nil {
			body.Gone = append(body.Gone, p)
			continue
		}
		row := photoRow{Photo: p}
		for _, m := range p.Marks {
			if part := b.Doc.Part(m.Part); part != nil {
				row.Pins = append(row.Pins, pin{m, b.Number(m.Part), part.Name})
				shown[m.Part] = true
			}
		}
		body.List = append(body.List, row)
	}
	for _, p := range b.Doc.Parts {
		if info := p.Kind.Info(); info.Mere {
			continue
		}
		body.Parts = append(body.Parts, p)
		if len(p.Positions()) > 0 && !shown[p.ID] {
			body.Lacks = append(body.Lacks, p)
		}
	}
	s.Show(c, http.StatusOK, "photos.html", site.Page{Title: "Photographs: " + b.Model.Title(), Model: b, Tab: "system",
		Body: body})
}

// RemovePhoto takes a photograph away, until it is brought back.
func (s View) RemovePhoto(c *gin.Context) {
	s.withPhoto(c, func(p *app.Photo) error {
		return s.Photographs.Remove(c, c.Param("model"), site.By(c), p)
	})
}

// BringPhotoBack brings a photograph back that was taken away.
func (s View) BringPhotoBack(c *gin.Context) {
	s.withPhoto(c, func(p *app.Photo) error {
		return s.Photographs.BringBack(c, c.Param("model"), site.By(c), p)
	})
}
