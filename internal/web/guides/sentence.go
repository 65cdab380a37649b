package guides

import (
	"errors"
	"fmt"
	"net/http"

	"github.com/gin-gonic/gin"

	"coldtap/internal/app"
	"coldtap/internal/core/chapter"
	"coldtap/internal/core/edit"
	"coldtap/internal/core/fact"
	"coldtap/internal/core/figure"
	"coldtap/internal/core/house"
	"coldtap/internal/core/plumbing"
	"coldtap/internal/core/record"
	"coldtap/internal/web/site"
)

// sentenceBody is a sentence that somebody rewords.
type sentenceBody struct {
	To, Key, Block string
	Now            string // as it was reworded, or as drafted: with slots for what follows the model
	Drafted        string
	Slots          [][2]string
	Own            bool
}

// Sentence is the form by which a sentence is reworded, or a figure set.
func (s View) Sentence(c *gin.Context) {
	b, a, ok := s.begin(c)
	if !ok {
		return
	}
	a.Writing = true
	if ref := c.Query("figure"); ref != "" {
		s.figureForm(c, b, a, ref)
		return
	}
	f, err := s.sentence(c, b, a, c.Query("key"))
	if err != nil {
		s.NotFound(c, "This sentence is no longer there. Load the page again.")
		return
	}
	tell := b.Words()
	body := sentenceBody{To: b.Link("guide", a.query()), Key: c.Query("key"), Block: c.Query("block"),
		Drafted: tell.Tell(f), Now: tell.Pattern(f), Slots: tell.Slots(f)}
	if w := b.Doc.Chapter; w != nil && w.Words[body.Key] != "" {
		body.Now, body.Own = w.Words[body.Key], true
	}
	s.Show(c, http.StatusOK, "guidesentence", site.Page{Model: b, Body: body})
}

// errNoSentence says that there is no such sentence.
var errNoSentence = errors.New("there is no such sentence")

// sentence finds a sentence of a guide by its key.
func (s View) sentence(c *gin.Context, b *site.Computed, a asked, key string) (fact.Fact, error) {
	in, err := inputs(c, b, a, true)
	if err != nil {
		return fact.Fact{}, err
	}
	f, ok, err := chapter.Sentence(c, in, key)
	if err == nil && !ok {
		err = errNoSentence
	}
	return f, err
}

// reword rewords a sentence; what it is about can stand in it, and nothing that the model has not.
func (s View) reword(c *gin.Context, b *site.Computed, a asked, change edit.Chapter) (app.Operation, error) {
	key, words := c.PostForm("key"), c.PostForm("words")
	if c.PostForm("do") == "reword-back" {
		words = ""
	}
	if words != "" {
		f, err := s.sentence(c, b, a, key)
		if err != nil {
			return nil, faulty("Sentence", "this sentence is no longer there; load the page again")
		}
		if _, err := b.Words().Fill(words, f); err != nil {
			return nil, faulty("Sentence", err.Error()+"; those that there are stand below it")
		}
		if words == b.Words().Pattern(f) {
			words = "" // as drafted
		}
	}
	if err := s.known(c, b, a, words); err != nil {
		return nil, err
	}
	return func(m *plumbing.Model) (*edit.Done, error) { return change.Reword(m, key, words) }, nil
}

// figureBody is a figure that somebody sets by hand.
type figureBody struct {
	To, ID, Block  string
	Name, Computed string
	By             plumbing.Override
	Refused        string // why what was set is not told
	From           []string
	Amounts        string // where it is worked out
}

func (s View) figureForm(c *gin.Context, b *site.Computed, a asked, id string) {
	in, err := inputs(c, b, a, false)
	if err != nil {
		s.Trouble(c, err)
		return
	}
	plain := in
	plain.By = nil
	is := plain.Live(id)
	if is.IsZero() {
		s.NotFound(c, "This model has no such figure.")
		return
	}
	tell := b.Words()
	body := figureBody{To: b.Link("guide", a.query()), ID: id, Block: c.Query("block"), Name: tell.Tell(in.Named(id)),
		Computed: tell.Tell(is), Amounts: b.Link("amounts", "")}
	if w := b.Doc.Chapter; w != nil {
		body.By = w.Figures[id]
		if body.By.Value != "" {
			body.Refused = why(tell, in.Judge(id, body.By.Value))
		}
	}
	for _, x := range figure.Reads(in.Report.Figures, id) {
		if x.Kind == record.Rule {
			body.From = append(body.From, house.RuleByID(x.Of).Name)
		}
	}
	s.Show(c, http.StatusOK, "guidefigure", site.Page{Model: b, Body: body})
}

// teller puts facts in words.
type teller interface{ Tell(fact.Fact) string }

// why is why a figure set by hand is not told.
func why(tell teller, err error) string {
	var danger *chapter.DangerError
	var unread *chapter.UnreadError
	switch {
	case errors.As(err, &danger):
		return tell.Tell(danger.Said)
	case errors.As(err, &unread):
		return unread.Err.Error()
	case err != nil:
		return err.Error()
	}
	return ""
}

// setFigure sets a figure by hand, unless that is a danger.
func (s View) setFigure(c *gin.Context, b *site.Computed, a asked, change edit.Chapter) (app.Operation, error) {
	id := c.PostForm("figure")
	to := plumbing.Override{Value: c.PostForm("value"), Reason: c.PostForm("reason")}
	if who := site.Who(c); who != nil {
		to.By = who.Name
	}
	if c.PostForm("do") == "figure-back" {
		to.Value = ""
	}
	if to.Value != "" {
		in, err := inputs(c, b, a, false)
		if err != nil {
			return nil, err
		}
		if err := in.Judge(id, to.Value); err != nil {
			return nil, faulty("Value", fmt.Sprintf("This can't be kept: %s", why(b.Words(), err)))
		}
	}
	return func(m *plumbing.Model) (*edit.Done, error) { return change.SetFigure(m, id, to) }, nil
}

// Preview is a text as it will be read.
func (s View) Preview(c *gin.Context) {
	b, a, ok := s.begin(c)
	if !ok {
		return
	}
	in, err := inputs(c, b, a, false)
	if err != nil {
		s.Trouble(c, err)
		return
	}
	body := previewOf(in, c.PostForm("title"), c.PostForm("text"))
	s.Show(c, http.StatusOK, "guidepreview", site.Page{Model: b, Body: body})
}
