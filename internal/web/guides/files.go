package guides

import (
	"bytes"
	"context"
	"crypto/sha256"
	"encoding/hex"
	"errors"
	"fmt"
	"html/template"
	"net/http"
	"slices"
	"time"

	"github.com/gin-gonic/gin"

	"coldtap/internal/app"
	"coldtap/internal/browser"
	"coldtap/internal/core/chapter"
	"coldtap/internal/guide"
	"coldtap/internal/guide/card"
	"coldtap/internal/guide/doc"
	"coldtap/internal/guide/file"
	"coldtap/internal/web/site"
)

// File is a guide as a file. What takes long, a PDF and what has one in it, is made as a job: its page says how far it
// is, and goes on to the file.
func (s View) File(c *gin.Context) {
	b, a, ok := s.begin(c)
	if !ok {
		return
	}
	a.Writing, a.alone = false, true
	if k := card.Kind(c.Query("edition")); slices.Contains(card.Kinds(), k) {
		a.Edition, a.address = chapter.Edition(k), address(c, b)
	}
	f := file.Format(c.Param("kind"))
	if !slices.Contains(file.Formats(), f) {
		s.NotFound(c, fmt.Sprintf("Guides are written as %v.", file.Formats()))
		return
	}
	if a.address != "" && f != file.HTML && f != file.PDF {
		s.NotFound(c, "Cards and tags are written as html and pdf.")
		return
	}
	paper := browser.Paper(c.DefaultQuery("paper", string(browser.A4)))
	if paper != browser.A4 && paper != browser.Letter {
		s.NotFound(c, "A PDF is made on paper A4 or Letter.")
		return
	}
	if f != file.PDF && f != file.Zip {
		raw, err := s.made(c, b, a, f, paper, func() {})
		if err != nil {
			s.Trouble(c, err)
			return
		}
		s.send(c, b, a, f, raw)
		return
	}
	if _, err := browser.Find(); err != nil && f == file.PDF {
		s.Show(c, http.StatusServiceUnavailable, "message.html", site.Page{Title: "PDF", Model: b,
			Body: site.Say("No PDF can be made here", site.UpperFirst(file.ErrNoPrinter.Error())+".")})
		return
	}
	s.job(c, b, a, f, paper)
}

// job makes a file as a job, or sends it where it is made.
func (s View) job(c *gin.Context, b *site.Computed, a asked, f file.Format, paper browser.Paper) {
	name := b.Named(fmt.Sprint("file ", f, a.Edition, paper, a.address, a.All, a.seen()))
	if raw, ok := s.Made.Find(name); ok && c.GetHeader("HX-Request") == "" {
		s.send(c, b, a, f, raw)
		return
	}
	key := sha256.Sum256([]byte(name))
	what := fmt.Sprintf("Writing the guide of %s as %s", b.Model.Title(), f)
	job := s.Jobs.Start(hex.EncodeToString(key[:]), what, site.Who(c).Name, madeSteps,
		func(ctx context.Context, step func()) (any, error) {
			_, err := s.Made.Get(name, func() ([]byte, int64, error) {
				raw, err := s.made(ctx, b, a, f, paper, step)
				return raw, int64(len(raw)), err
			})
			return nil, err
		})
	here := b.Link("guide/file/"+string(f), a.query()+"&paper="+string(paper))
	if job.Wait(c, waitFor) && job.Err() == nil {
		if raw, ok := s.Made.Find(name); ok && c.GetHeader("HX-Request") == "" {
			s.send(c, b, a, f, raw)
			return
		}
		c.Header("HX-Redirect", here)
	}
	body := madeBody{Job: job, Again: here, Back: b.Link("guide", ""), Failed: failed(job)}
	name = "guidemade.html"
	if c.GetHeader("HX-Request") != "" {
		name = "guidemade"
	}
	s.Show(c, http.StatusOK, name, site.Page{Title: what, Model: b, Tab: "guide", Body: body})
}

// madeSteps are the steps in which a file is made; waitFor is how long its page waits for it before it says how far
// it is.
const (
	madeSteps = 3
	waitFor   = 400 * time.Millisecond
)

// madeBody is a file that is being made.
type madeBody struct {
	Job         *app.Job
	Again, Back string
	Failed      string
}

func failed(job *app.Job) string {
	err := job.Err()
	switch {
	case err == nil:
		return ""
	case errors.Is(err, browser.ErrMissing):
		return site.UpperFirst(file.ErrNoPrinter.Error()) + "."
	}
	return site.UpperFirst(site.Words(err)) + "."
}

// made makes a file of a guide.
func (s View) made(ctx context.Context, b *site.Computed, a asked, f file.Format, paper browser.Paper,
	step func()) ([]byte, error) {
	if a.address != "" {
		in, err := inputs(ctx, b, a, true)
		if err != nil {
			return nil, err
		}
		step()
		return s.cardFile(ctx, in, a, f, paper, step)
	}
	d, in, err := s.document(ctx, b, a)
	if err != nil {
		return nil, err
	}
	step()
	state := fmt.Sprintf("State %d of the model, %s", b.Rev.Number, b.Rev.CreatedAt.Format("2 January 2006"))
	if !a.All {
		d.About = guide.About(b.Doc, b.With)
	}
	d.About = append(d.About, doc.Of(state))
	step()
	g := &file.Guide{Doc: d, In: in}
	if _, err := browser.Find(); err == nil {
		g.Print = func(ctx context.Context, page []byte) ([]byte, error) { return s.Printer.Print(ctx, page, paper) }
	}
	var raw bytes.Buffer
	err = g.Write(ctx, &raw, f)
	step()
	return raw.Bytes(), err
}

func (s View) send(c *gin.Context, b *site.Computed, a asked, f file.Format, raw []byte) {
	media, ending := f.Type()
	site.Download(c, media, b.Row.Slug+"-"+string(a.Edition)+ending)
	c.Data(http.StatusOK, media, raw)
}

// cardFile makes a card.
func (s View) cardFile(ctx context.Context, in chapter.Inputs, a asked, f file.Format, paper browser.Paper,
	step func()) ([]byte, error) {
	raw, err := card.Page(card.Kind(a.Edition), in, a.address)
	step()
	if err == nil && f == file.PDF {
		raw, err = s.Printer.Print(ctx, raw, paper)
	}
	step()
	return raw, err
}

// address is where a card's code leads: the guide, where this page was asked for.
func address(c *gin.Context, b *site.Computed) string {
	return site.Origin(c) + b.Link("guide", "")
}

// Card is a card as it will be printed.
func (s View) Card(c *gin.Context) {
	b := s.Model(c)
	if b == nil {
		return
	}
	k := card.Kind(c.Param("kind"))
	if !slices.Contains(card.Kinds(), k) {
		s.NotFound(c, fmt.Sprintf("The cards are %v.", card.Kinds()))
		return
	}
	at := address(c, b)
	p := site.Page{Title: "Card: " + b.Model.Title(), Model: b, Tab: "guide"}
	s.ShowSlow(c, p, "card "+string(k)+at, func(ctx context.Context, to *bytes.Buffer) error {
		in, err := inputs(ctx, b, asked{Edition: chapter.Dealer}, true)
		if err != nil {
			return err
		}
		article, err := card.Card(k, in, at)
		if err != nil {
			return err
		}
		more := "edition=" + string(k)
		return s.Write(to, "guidecard", site.Page{Model: b, Body: map[string]any{"Kind": string(k),
			"Article": template.HTML(article), // written by a template of ours
			"A4":      b.Link("guide/file/pdf", more+"&paper=A4"), "Letter": b.Link("guide/file/pdf", more+"&paper=Letter"),
			"HTML": b.Link("guide/file/html", more), "Guide": b.Link("guide", ""), "Matrix": b.Link("settings/matrix", ""),
			"Card":  b.Link("guide/card/card", ""),
			"Quick": b.Link("guide/card/quick", ""), "Tags": b.Link("guide/card/tags", "")}})
	})
}
