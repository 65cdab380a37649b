package procedures

import (
	"net/http"
	"slices"
	"strconv"
	"strings"

	"github.com/gin-gonic/gin"

	"coldtap/internal/app"
	"coldtap/internal/core/amend"
	"coldtap/internal/core/edit"
	"coldtap/internal/core/fact"
	"coldtap/internal/core/plumbing"
	"coldtap/internal/core/state"
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

// addingBody is what somebody chooses among who adds a step.
type addingBody struct {
	To     string // where the form goes
	From   uint64 // the state of the model that it changes
	Key    string // of the step that it comes after
	Number string
	Parts  []deedsOf
}

// deedsOf is a part with what can be done at it.
type deedsOf struct {
	Name  string
	Deeds []choice
}

// Adding is the form that adds a step after another.
func (s View) Adding(c *gin.Context) {
	b := s.Model(c)
	if b == nil {
		return
	}
	body := addingBody{To: b.Link("procedures/"+c.Param("id")+"/steps", ""), Key: c.Query("key"), Number: c.Query("number"),
		From: b.Row.Revision}
	for _, p := range b.Net.AllParts() {
		of := deedsOf{Name: p.Name}
		for _, a := range amend.Deeds(b.Net, p) {
			value := strings.Join([]string{string(a.Verb), p.ID, deedTo(b.Net, a)}, " ")
			of.Deeds = append(of.Deeds, choice{strings.TrimSpace(value), deedWords(b, a)})
		}
		if of.Deeds != nil {
			body.Parts = append(body.Parts, of)
		}
	}
	s.Show(c, http.StatusOK, "adding", site.Page{Model: b, Body: body})
}

// deedTo is the position or the side that a deed chooses.
func deedTo(n *plumbing.Network, a state.Act) string {
	if a.Verb == state.Open && len(a.Sides) == 1 && len(n.SidesOf(a.Part)) > 1 {
		return a.Sides[0]
	}
	return a.To
}

// deedWords tells a deed.
func deedWords(b *site.Computed, a state.Act) string {
	if to := deedTo(b.Net, a); a.Verb == state.Open && to != "" {
		return b.Words().Act(a) + b.Words().Tell(fact.Of("step-side", fact.Word("side."+to)))
	}
	return b.Words().Act(a)
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
	step := plumbing.AddedStep{Words: strings.TrimSpace(c.PostForm("words"))}
	deed := append(strings.SplitN(c.PostForm("deed"), " ", 3), "", "")
	step.Verb, step.Part, step.To = deed[0], deed[1], deed[2]
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
