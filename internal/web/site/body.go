package site

import (
	"context"
	"errors"
	"fmt"
	"io"
	"mime"
	"net/http"
	"time"

	"github.com/gin-gonic/gin"
	"golang.org/x/sync/semaphore"

	"coldtap/internal/app"
	"coldtap/internal/core/edit"
	"coldtap/internal/core/plumbing"
)

// How many bytes the body of a request has at most: of somebody who has not signed in, and of
// a form without files. Routes that take files say their own.
const (
	strangerMost = 64 << 10
	formMost     = 1 << 20
	partsMost    = 1 << 20 // what else comes with a file
)

// uploadsMost is how many bytes of files all people together may be bringing in at once, and
// pixelsMost how many points of pictures may be unpacked at once, some 5 bytes each.
const (
	uploadsMost = 96 << 20
	pixelsMost  = 80 << 20
)

// uploadWait is how long an upload waits for others.
const uploadWait = 10 * time.Second

// Bounds are what all requests together may take of memory.
type Bounds struct{ uploads, pixels *semaphore.Weighted }

func newBounds() Bounds {
	return Bounds{semaphore.NewWeighted(uploadsMost), semaphore.NewWeighted(pixelsMost)}
}

// ErrBusy says that too much is being brought in by others.
var ErrBusy = &edit.FaultError{Faults: []plumbing.Fault{{Path: "File",
	Why: "others are bringing in files just now; try again in a moment"}}}

// Pixels waits until a picture of a size may be unpacked; done ends that.
func (b *Bounds) Pixels(ctx context.Context, points int64) (done func(), err error) {
	return take(ctx, b.pixels, min(points, pixelsMost))
}

func take(ctx context.Context, of *semaphore.Weighted, n int64) (done func(), err error) {
	ctx, cancel := context.WithTimeout(ctx, uploadWait)
	defer cancel()
	if err := of.Acquire(ctx, n); err != nil {
		return nil, ErrBusy
	}
	return func() { of.Release(n) }, nil
}

// withBody lets a request be handled with its body bounded: a stranger's is small and has no
// files, a form's has none either, and what files need of memory is bounded over all. Temporary
// files are taken away. It answers the request itself where that can't be.
func (s *Site) withBody(c *gin.Context, person *app.Person, most int64, handle gin.HandlerFunc) {
	kind, _, _ := mime.ParseMediaType(c.GetHeader("Content-Type"))
	files := kind == "multipart/form-data" || kind == "multipart/mixed"
	limit := most + partsMost
	switch {
	case person == nil:
		limit = strangerMost
	case most == 0:
		limit = formMost
	case !files:
		limit = 3 * most // a file as text, letters written as %22
	}
	switch {
	case files && (person == nil || most == 0):
		s.Show(c, http.StatusUnsupportedMediaType, "message.html", Page{Title: "Not taken",
			Body: Say("No file is taken here", "This page takes what is typed, no files.")})
		return
	case c.Request.ContentLength > limit:
		s.tooLarge(c, limit)
		return
	}
	c.Request.Body = http.MaxBytesReader(c.Writer, c.Request.Body, limit)
	if files {
		done, err := take(c, s.Bounds.uploads, most)
		if err != nil {
			c.Header("Retry-After", "10")
			s.Show(c, http.StatusServiceUnavailable, "message.html", Page{Title: "Busy",
				Body: Say("Others are bringing in files just now", "Go back, and try again in a moment.")})
			return
		}
		defer done()
	}
	defer func() {
		if form := c.Request.MultipartForm; form != nil {
			_ = form.RemoveAll() // what can't be removed now is removed by the system
		}
	}()
	if c.Request.Method == http.MethodPost && !files {
		var large *http.MaxBytesError
		if err := c.Request.ParseForm(); errors.As(err, &large) {
			s.tooLarge(c, limit)
			return
		}
	}
	handle(c)
}

func (s *Site) tooLarge(c *gin.Context, limit int64) {
	s.Show(c, http.StatusRequestEntityTooLarge, "message.html", Page{Title: "Too large",
		Body: Say("That is too large",
			fmt.Sprintf("At most %s can be sent here at once. Go back, and send it in smaller parts.",
				size(limit)))})
}

func size(bytes int64) string {
	if bytes < 1<<20 {
		return fmt.Sprintf("%d KiB", bytes>>10)
	}
	return fmt.Sprintf("%d MiB", bytes>>20)
}

// Upload reads the file of a form, up to a size, from the temporary file that it was put in.
func Upload(c *gin.Context, most int64) (raw []byte, name string, err error) {
	fail := func(format string, args ...any) ([]byte, string, error) {
		return nil, "", &edit.FaultError{Faults: []plumbing.Fault{{Path: "File", Why: fmt.Sprintf(format, args...)}}}
	}
	h, err := c.FormFile("file")
	var large *http.MaxBytesError
	switch {
	case errors.As(err, &large) || err == nil && h.Size > most:
		return fail("the file is larger than %d MiB", most>>20)
	case err != nil:
		return fail("choose a file")
	}
	f, err := h.Open()
	if err != nil {
		return nil, "", err
	}
	defer f.Close()
	raw = make([]byte, h.Size)
	if _, err := io.ReadFull(f, raw); err != nil {
		return nil, "", err
	}
	if len(raw) == 0 {
		return fail("the file is empty")
	}
	return raw, h.Filename, nil
}

// Origin is where a page was asked for, as links on paper begin.
func Origin(c *gin.Context) string {
	scheme := "http"
	if c.Request.TLS != nil || c.GetHeader("X-Forwarded-Proto") == "https" {
		scheme = "https"
	}
	return scheme + "://" + c.Request.Host
}
