package web

import (
	"context"
	"errors"
	"net/http"
	"slices"
	"strings"

	"coldtap/internal/app"

	"github.com/gin-gonic/gin"

	"coldtap/internal/core/compare"
	"coldtap/internal/core/house"
	"coldtap/internal/core/quantity"
	"coldtap/internal/people"
)

type houseBody struct {
	Scope   string // slug of the model; "" for the house
	Name    string
	Models  []app.Model
	Groups  []ruleGroup
	Own     map[string]app.HouseRule // set in this scope, by rule
	Edits   bool
	Wrong   string
	Done    string
	Changes []houseChange
	Tried   bool // there are values that aren't saved yet
	Base    string
	History []ruleChange // how the rules of the scope were set
}

// ruleChange is a rule that was set, or taken back.
type ruleChange struct {
	app.HouseRule
	Name string
}

// houseChange is what a choice changes on a model.
type houseChange struct {
	Model   string
	Link    string
	Figures []compare.Figure
	Why     string // why it can't hold there
}

// errUnknown is an answer for a scope that isn't there.
var errUnknown = errors.New("there is no such model")

// housePage shows the house's rules, or a model's own, and what values that
// the address brings would change.
func (s *Server) housePage(c *gin.Context) {
	values := map[string]string{}
	for _, r := range house.Rules() {
		if v, ok := c.GetQuery(r.ID); ok {
			values[r.ID] = strings.TrimSpace(v)
		}
	}
	name := "house.html"
	if c.GetHeader("HX-Request") != "" {
		name = "housechanges"
	}
	s.showHouse(c, http.StatusOK, name, c.Query("model"), values, "")
}

// setHouse keeps rules. Nothing is kept where one of them can't hold on some
// model.
func (s *Server) setHouse(c *gin.Context) {
	scope := c.PostForm("model")
	values := map[string]string{}
	for _, r := range house.Rules() {
		if v, ok := c.GetPostForm(r.ID); ok {
			values[r.ID] = strings.TrimSpace(v)
		}
	}
	body, err := s.houseBody(c, scope, values)
	if err != nil {
		s.houseTrouble(c, err)
		return
	}
	if body.Wrong != "" {
		s.show(c, http.StatusUnprocessableEntity, "house.html", page{Title: "House", Body: body})
		return
	}
	changed := body.changedRules(values)
	if err := s.rules.Set(c, who(c).Name, scope, changed, strings.TrimSpace(c.PostForm("why"))); err != nil {
		s.trouble(c, err)
		return
	}
	s.showHouse(c, http.StatusOK, "house.html", scope, nil, "Kept. Every figure follows from now on.")
}

// changedRules are values that differ from what is set in the scope. A value
// that holds anyhow, without being set here, is not set.
func (b *houseBody) changedRules(values map[string]string) map[string]string {
	changed := map[string]string{}
	for rule, v := range values {
		own, set := b.Own[rule]
		switch {
		case set && own.Value == v, !set && (v == "" || v == b.holds(rule)):
		default:
			changed[rule] = v
		}
	}
	return changed
}

// holds is the value that a rule has before anything is tried.
func (b *houseBody) holds(rule string) string {
	for _, g := range b.Groups {
		for _, f := range g.Rules {
			if f.ID == rule {
				return f.Before
			}
		}
	}
	return ""
}

func (s *Server) showHouse(c *gin.Context, status int, name, scope string, values map[string]string, done string) {
	body, err := s.houseBody(c, scope, values)
	if err != nil {
		s.houseTrouble(c, err)
		return
	}
	body.Done = done
	s.show(c, status, name, page{Title: "House", Body: body})
}

func (s *Server) houseTrouble(c *gin.Context, err error) {
	if errors.Is(err, errUnknown) {
		s.notFound(c, "There is no such model.")
		return
	}
	s.trouble(c, err)
}

// houseBody works out what the rules of a scope are and what other values
// would change on which model.
func (s *Server) houseBody(c *gin.Context, scope string, values map[string]string) (*houseBody, error) {
	list, err := s.store.Models(c)
	if err != nil {
		return nil, err
	}
	rules, err := s.store.HouseRules(c)
	if err != nil {
		return nil, err
	}
	body := &houseBody{Scope: scope, Name: "the house", Models: list, Own: map[string]app.HouseRule{}, Edits: who(c).Role == people.Author, Base: "/house"}
	at := slices.IndexFunc(list, func(m app.Model) bool { return m.Slug == scope })
	if scope != "" {
		if at < 0 {
			return nil, errUnknown
		}
		body.Name, body.Base = list[at].Name, "/house?model="+scope
	}
	for _, r := range rules {
		if r.Scope == scope {
			body.Own[r.Rule] = r
		}
	}
	if body.History, err = s.ruleHistory(c, scope); err != nil {
		return nil, err
	}
	sys := quantity.US
	var plan []string
	for i := range list {
		if scope != "" && i != at {
			continue
		}
		plan = append(plan, list[i].Slug)
	}
	if scope != "" {
		b, err := s.current(c, scope)
		if err != nil {
			return nil, err
		}
		sys = b.Sys()
	}
	now, err := app.HouseOf(rules, scope, sys)
	if err != nil {
		return nil, err
	}
	body.Groups = ruleGroups(now, sys, nil)
	tried := body.changedRules(values)
	body.Groups = ruleGroups(now, sys, tried)
	if len(tried) == 0 {
		return body, nil
	}
	body.Tried = true
	after := withRules(rules, scope, tried)
	for _, slug := range plan {
		b, err := s.current(c, slug)
		if err != nil {
			continue // the bench says why
		}
		change, err := changesOf(c, b, after)
		if err != nil {
			return nil, err
		}
		if change.Why != "" && body.Wrong == "" {
			body.Wrong = b.Model.Name + ": " + change.Why
		}
		body.Changes = append(body.Changes, *change)
	}
	return body, nil
}

// ruleHistory is how the rules of a scope were set, the newest first.
func (s *Server) ruleHistory(ctx context.Context, scope string) (list []ruleChange, err error) {
	changes, err := s.store.HouseChanges(ctx, scope)
	for _, c := range changes {
		x := ruleChange{HouseRule: c, Name: c.Rule}
		if r := house.RuleByID(c.Rule); r != nil {
			x.Name = r.Name
		}
		list = append(list, x)
	}
	return list, err
}

// changesOf is what other rules change on a build.
func changesOf(ctx context.Context, b *bench, rules []app.HouseRule) (*houseChange, error) {
	change := &houseChange{Model: b.Model.Title(), Link: b.Link("amounts", "")}
	to, err := app.HouseOf(rules, b.Row.Slug, b.Sys())
	if err != nil {
		change.Why = err.Error()
	}
	before, err := b.subject(ctx)
	if err != nil {
		return nil, err
	}
	for _, f := range compare.Figures(before, compare.SubjectOf(b.Net, b.Plan, to)) {
		if f.Differs {
			change.Figures = append(change.Figures, f)
		}
	}
	return change, nil
}

// current is the standard build of a model as it is now.
func (s *Server) current(c *gin.Context, slug string) (*bench, error) {
	row, rev, err := s.store.Current(c, slug)
	if err != nil {
		return nil, err
	}
	return s.worked(c, row, rev, "")
}

// withRules is a list of rules in which some of a scope are set otherwise; an
// empty value takes one back.
func withRules(rules []app.HouseRule, scope string, values map[string]string) []app.HouseRule {
	var list []app.HouseRule
	for _, r := range rules {
		if _, ok := values[r.Rule]; !ok || r.Scope != scope {
			list = append(list, r)
		}
	}
	for rule, v := range values {
		if v != "" {
			list = append(list, app.HouseRule{Scope: scope, Rule: rule, Value: v})
		}
	}
	return list
}
