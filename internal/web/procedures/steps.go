package procedures

import (
	"slices"
	"strconv"
	"strings"

	"github.com/gin-gonic/gin"

	"coldtap/internal/app"
	"coldtap/internal/core/amend"
	"coldtap/internal/core/edit"
	"coldtap/internal/core/fact"
	"coldtap/internal/core/plumbing"
	"coldtap/internal/web/site"
	"coldtap/internal/web/system"
)

// Change changes the steps of a procedure: what a hand moves, takes out, rewords or adds.
func (s View) Change(c *gin.Context) {
	b := s.Model(c)
	if b == nil {
		return
	}
	d, ok := s.find(c, b)
	if !ok {
		return
	}
	carry := system.View{Site: s.Site}.Carry
	if d.Procedure == nil {
		s.NotFound(c, "This model can't have that procedure: there are no steps to change.")
		return
	}
	steps := edit.Steps{Procedure: d.ID, Name: fact.Of("procedure." + d.ID)}
	p := amend.Apply(b.Net, d.Procedure, b.Model.AmendedOf(d.ID))
	for i := range p.Steps {
		steps.Keys = append(steps.Keys, p.Steps[i].Key)
	}
	op, key, err := operation(c, b, steps)
	if err != nil {
		carry(c, func(*plumbing.Model) (*edit.Done, error) { return nil, err }, "")
		return
	}
	to := b.Link("procedures/"+d.ID, "edit=yes")
	if i := slices.Index(steps.Keys, key); i >= 0 {
		to += "#step-" + strconv.Itoa(i+1)
	}
	carry(c, op, to)
}

// operation is what a form asks for.
func operation(c *gin.Context, b *site.Computed, steps edit.Steps) (app.Operation, string, error) {
	key := c.PostForm("key")
	at := slices.Index(steps.Keys, key)
	near := func(i int) string {
		if i >= 0 && i < len(steps.Keys) {
			return steps.Keys[i]
		}
		return ""
	}
	type model = *plumbing.Model
	switch c.PostForm("do") {
	case "move":
		before := c.PostForm("before")
		return func(m model) (*edit.Done, error) { return steps.Move(m, key, before) }, key, nil
	case "up":
		return func(m model) (*edit.Done, error) {
			if at <= 0 {
				return &edit.Done{Model: m}, nil
			}
			return steps.Move(m, key, near(at-1))
		}, near(at - 1), nil
	case "down":
		return func(m model) (*edit.Done, error) { return steps.Move(m, key, near(at+2)) }, near(at + 1), nil
	case "leave":
		return func(m model) (*edit.Done, error) { return steps.Leave(m, key) }, near(at - 1), nil
	case "back":
		return func(m model) (*edit.Done, error) { return steps.TakeBack(m, key) }, key, nil
	case "reword":
		words := c.PostForm("words")
		return func(m model) (*edit.Done, error) { return steps.Reword(m, key, words) }, key, nil
	case "reset":
		return steps.Reset, "", nil
	case "add":
		step, err := added(c, b)
		return func(m model) (*edit.Done, error) { return steps.Add(m, key, step) }, key, err
	}
	return nil, "", &edit.FaultError{Faults: []plumbing.Fault{{Path: "Step",
		Why: "the form does not say what to do; load the page again"}}}
}

// added is a step that a form adds.
func added(c *gin.Context, b *site.Computed) (plumbing.AddedStep, error) {
	step := plumbing.AddedStep{Words: strings.TrimSpace(c.PostForm("words")), Verb: c.PostForm("verb"),
		Part: c.PostForm("part"), To: strings.TrimSpace(c.PostForm("to"))}
	if text := strings.TrimSpace(c.PostForm("minutes")); text != "" {
		m, err := strconv.ParseFloat(strings.ReplaceAll(text, ",", "."), 64)
		if err != nil || m < 0 || m > 48*60 {
			return step, &edit.FaultError{Faults: []plumbing.Fault{{Path: "Then wait, minutes",
				Why: "a number from 0 to 2880"}}}
		}
		step.Seconds = m * 60
	}
	if err := amend.Check(b.Net, &step); err != nil {
		return step, &edit.FaultError{Faults: []plumbing.Fault{{Path: "Add a step", Why: err.Error()}}}
	}
	return step, nil
}
