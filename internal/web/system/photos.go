package system

import (
	"bytes"
	"errors"
	"fmt"
	"image"
	"image/jpeg"
	"net/http"
	"net/url"
	"strconv"

	"github.com/disintegration/imaging"
	"github.com/gin-gonic/gin"

	"coldtap/internal/app"
	"coldtap/internal/core/edit"
	"coldtap/internal/core/plumbing"
	"coldtap/internal/web/site"
)

// Bounds of photographs: of the file, of what it may unpack to, and of the
// picture that is kept.
const (
	maxPhotoFile   = 12 << 20
	maxPhotoPixels = 60 << 20
	photoSide      = 1600
)

// shrink makes a JPEG of a photograph: turned upright, scaled, and without
// what the camera wrote beside the picture, its position among it.
func shrink(raw []byte) ([]byte, error) {
	fail := func(why string) ([]byte, error) {
		return nil, &edit.FaultError{Faults: []plumbing.Fault{{Path: "Photograph", Why: why}}}
	}
	cfg, format, err := image.DecodeConfig(bytes.NewReader(raw))
	if err != nil || format != "jpeg" && format != "png" {
		return fail("this is neither a JPEG nor a PNG picture")
	}
	if cfg.Width*cfg.Height > maxPhotoPixels {
		return fail(fmt.Sprintf("%d by %d is larger than %d million points; make it smaller first", cfg.Width,
			cfg.Height, maxPhotoPixels>>20))
	}
	img, err := imaging.Decode(bytes.NewReader(raw), imaging.AutoOrientation(true))
	if err != nil {
		return fail("the picture is broken")
	}
	if b := img.Bounds(); b.Dx() > photoSide || b.Dy() > photoSide {
		img = imaging.Fit(img, photoSide, photoSide, imaging.Lanczos)
	}
	var out bytes.Buffer
	err = jpeg.Encode(&out, img, &jpeg.Options{Quality: 85})
	return out.Bytes(), err
}

// AddPhoto keeps a photograph of a part.
func (s View) AddPhoto(c *gin.Context) {
	b := s.Model(c)
	if b == nil {
		return
	}
	p := b.Doc.Part(c.Param("id"))
	if p == nil {
		s.NotFound(c, "There is no such part.")
		return
	}
	raw, _, err := upload(c, maxPhotoFile)
	var small []byte
	if err == nil {
		small, err = shrink(raw)
	}
	if err != nil {
		s.edited(c, nil, err)
		return
	}
	if err := s.Photographs.Add(c, b.Row.Slug, &app.Photo{Part: p.ID, Person: site.Who(c).Name, Image: small, MarkX: 0.5,
		MarkY: 0.5}); err != nil {
		s.Trouble(c, err)
		return
	}
	c.Redirect(http.StatusSeeOther, "/models/"+url.PathEscape(b.Row.Slug)+"?part="+url.QueryEscape(p.ID))
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
		c.Header("Cache-Control", "private, max-age=3600")
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
	if err := s.Photographs.Mark(c, c.Param("model"), site.Who(c).Name, p, x, y); err != nil {
		s.Trouble(c, err)
		return
	}
	c.Status(http.StatusNoContent)
}

// RemovePhoto takes a photograph away.
func (s View) RemovePhoto(c *gin.Context) {
	p := s.photoOf(c)
	if p == nil {
		return
	}
	if err := s.Photographs.Remove(c, c.Param("model"), site.Who(c).Name, p); err != nil {
		s.Trouble(c, err)
		return
	}
	c.Redirect(http.StatusSeeOther, "/models/"+url.PathEscape(c.Param("model"))+"?part="+url.QueryEscape(p.Part))
}
