package guides

import (
	"fmt"
	"net/http"
	"strings"

	"github.com/gin-gonic/gin"

	"coldtap/internal/app"
	"coldtap/internal/core/edit"
	"coldtap/internal/core/plumbing"
	"coldtap/internal/core/reading"
	"coldtap/internal/web/site"
)

// readBody is a text that somebody else wrote, and what was found of it.
type readBody struct {
	Text, To, Read, Back        string
	Trouble                     string // why it was not read
	Edition                     string
	Sentences                   []sentenceRow
	Agree, Differ, Cant, Silent int
	Into                        []choice // texts of a hand's own that it can be taken over into
}

// sentenceRow is a sentence with its claims.
type sentenceRow struct {
	Heading bool
	Verdict string
	Parts   []textPart
	Claims  []claimRow
	Taken   string
}

// textPart is a stretch of a sentence: within a claim, or not.
type textPart struct{ Text, Verdict string }

type claimRow struct{ Said, Verdict, About, Is, Slip, Why string }

// Read holds a text that somebody else wrote against the model.
func (s View) Read(c *gin.Context) {
	b, a, ok := s.begin(c)
	if !ok {
		return
	}
	a.Writing = true
	body := readBody{To: b.Link("guide", a.query()), Read: b.Link("guide/read", ""), Back: b.Link("guide", a.query()),
		Edition: string(a.Edition), Text: c.PostForm("text")}
	status := http.StatusOK
	if len(body.Text) > reading.Longest {
		body.Trouble = fmt.Sprintf("This text has %d letters; at most %d are read at once. Read it chapter by chapter.",
			len(body.Text), reading.Longest)
		status = http.StatusUnprocessableEntity
	} else if strings.TrimSpace(body.Text) != "" {
		in, err := inputs(c, b, a, false)
		if err != nil {
			s.Trouble(c, err)
			return
		}
		tell := b.Words()
		for _, x := range reading.Read(in, body.Text) {
			body.add(rowOf(tell, x), x.Verdict)
		}
	}
	if w := b.Doc.Chapter; w != nil {
		for id, p := range w.Prose {
			body.Into = append(body.Into, choice{id, p.Title})
		}
	}
	s.Show(c, status, "guideread.html", site.Page{Title: "A text held against " + b.Model.Title(), Model: b, Tab: "guide",
		Body: body})
}

func (body *readBody) add(row sentenceRow, v reading.Verdict) {
	body.Sentences = append(body.Sentences, row)
	switch {
	case v == reading.Agrees:
		body.Agree++
	case v == reading.Differs:
		body.Differ++
	case v == reading.CantTell:
		body.Cant++
	case !row.Heading:
		body.Silent++
	}
}

// rowOf is a sentence as it is shown.
func rowOf(tell teller, x reading.Sentence) sentenceRow {
	row := sentenceRow{Heading: x.Heading, Verdict: string(x.Verdict), Taken: x.Taken()}
	at := 0
	for _, k := range x.Claims {
		row.Claims = append(row.Claims, claimRow{x.Text[k.From:k.To], string(k.Verdict), tell.Tell(k.About), tell.Tell(k.Is),
			tell.Tell(k.Slip), tell.Tell(k.Why)})
		if k.From < at {
			continue // it lies within another
		}
		row.Parts = append(row.Parts, textPart{Text: x.Text[at:k.From]}, textPart{x.Text[k.From:k.To], string(k.Verdict)})
		at = k.To
	}
	row.Parts = append(row.Parts, textPart{Text: x.Text[at:]})
	return row
}

// take takes a sentence over, as prose with what follows the model in it.
func (s View) take(c *gin.Context, b *site.Computed, a asked, change edit.Chapter) (app.Operation, error) {
	text := strings.TrimSpace(c.PostForm("text"))
	if text == "" {
		return nil, faulty("Text", "there is nothing to take over")
	}
	if err := s.known(c, b, a, text); err != nil {
		return nil, err
	}
	into := c.PostForm("into")
	return func(m *plumbing.Model) (*edit.Done, error) {
		if into == "" && m.Chapter != nil { // what was taken over before goes on
			for id, p := range m.Chapter.Prose {
				if p.Title == takenOver {
					into = id
				}
			}
		}
		return change.Append(m, into, plumbing.Prose{Title: takenOver, Text: text})
	}, nil
}

// takenOver is the title of what was taken over, until a hand gives it another.
const takenOver = "Taken over"
