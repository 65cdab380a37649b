package house

import (
	"context"
	"crypto/sha256"
	"encoding/hex"
	"errors"
	"fmt"
	"maps"
	"net/http"
	"net/url"
	"runtime"
	"slices"
	"strconv"
	"strings"

	"github.com/gin-gonic/gin"
	"golang.org/x/sync/errgroup"

	"coldtap/internal/app"
	"coldtap/internal/core/compare"
	"coldtap/internal/core/house"
	"coldtap/internal/core/quantity"
	"coldtap/internal/people"
	"coldtap/internal/web/site"
)

type houseBody struct {
	Scope   string // slug of the model; "" for the house
	Name    string
	Models  []app.Model
	Groups  []site.RuleGroup
	Own     map[string]app.HouseRule // set in this scope, by rule
	Edits   bool
	Wrong   string
	Stale   string // who set what meanwhile
	Done    string
	Changes []houseChange
	Tried   bool // there are values that aren't saved yet
	Base    string
	Again   string       // address of what is tried
	Job     *app.Job     // that works the changes out; nil once it has
	History []ruleChange // how the rules of the scope were set

	now, after []app.HouseRule // the rules, and as they are tried
	on         []app.Model     // that they hold for
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
	Figures []site.ToldFigure
	Why     string // why it can't hold there
}

// errUnknown is an answer for a scope that isn't there.
var errUnknown = errors.New("there is no such model")

// housePage shows the house's rules, or a model's own, and what values that
// the address brings would change.
func (s View) Page(c *gin.Context) {
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

// Set keeps rules. Nothing is kept where one of them can't hold on some model,
// or where somebody else has set one of them meanwhile.
func (s View) Set(c *gin.Context) {
	scope := c.PostForm("model")
	values := map[string]string{}
	for _, r := range house.Rules() {
		v, ok := c.GetPostForm(r.ID)
		if was, seen := c.GetPostForm("was." + r.ID); ok && !(seen && v == was) {
			values[r.ID] = strings.TrimSpace(v)
		}
	}
	body, err := s.houseBody(c, scope, values)
	if err != nil {
		s.houseTrouble(c, err)
		return
	}
	if body.Wrong != "" {
		s.Show(c, http.StatusUnprocessableEntity, "house.html", site.Page{Title: "House", Body: body})
		return
	}
	changes, err := changesOf(c, body.changedRules(values))
	if err == nil {
		err = s.Rules.Set(c, site.By(c), scope, changes, strings.TrimSpace(c.PostForm("why")))
	}
	var stale *app.RuleStaleError
	var no *app.RefusedError
	switch {
	case errors.As(err, &no):
		body.Wrong = no.Words
		s.Show(c, http.StatusUnprocessableEntity, "house.html", site.Page{Title: "House", Body: body})
	case errors.As(err, &stale):
		body.Stale = staleWords(&stale.Now)
		// What was typed is looked at once more, beside what holds now.
		asked := url.Values{"model": {scope}}
		for id, value := range values {
			asked.Set(id, value)
		}
		if err := s.preview(c, body, "/house?"+asked.Encode()); err != nil {
			s.Trouble(c, err)
			return
		}
		s.Show(c, http.StatusConflict, "house.html", site.Page{Title: "House", Body: body})
	case err != nil:
		s.Trouble(c, err)
	default:
		s.showHouse(c, http.StatusOK, "house.html", scope, nil, "Kept. Every figure follows from now on.")
	}
}

// changesOf are values that were changed, each from the version that was seen.
func changesOf(c *gin.Context, values map[string]string) (list []app.RuleChange, err error) {
	for _, id := range slices.Sorted(maps.Keys(values)) {
		from, err := strconv.Atoi(c.PostForm("v." + id))
		if err != nil {
			return nil, &app.RuleStaleError{Now: app.HouseRule{Rule: id}}
		}
		list = append(list, app.RuleChange{Rule: id, Value: values[id], From: from})
	}
	return list, nil
}

// staleWords tells what a rule is now that somebody else has set it.
func staleWords(now *app.HouseRule) string {
	name := now.Rule
	if r := house.RuleByID(now.Rule); r != nil {
		name = r.Name
	}
	switch {
	case now.Version == 0:
		return fmt.Sprintf("The page does not say from which version of “%s” this was typed.", name)
	case now.Value == "":
		return fmt.Sprintf("%s took “%s” back in the meantime.", now.Person, name)
	}
	return fmt.Sprintf("%s set “%s” to %s in the meantime.", now.Person, name, now.Value)
}

// changedRules are values that differ from what the page showed and from what
// is set in the scope.
func (b *houseBody) changedRules(values map[string]string) map[string]string {
	changed := map[string]string{}
	for rule, v := range values {
		own, set := b.Own[rule]
		if v == b.holds(rule) || set && own.Value == v || !set && v == "" {
			continue
		}
		changed[rule] = v
	}
	return changed
}

// asTyped shows what is set in the scope as it was typed, and each rule's
// version there.
func (b *houseBody) asTyped() {
	versions := map[string]int{}
	for _, h := range b.History {
		versions[h.Rule] = max(versions[h.Rule], h.Version)
	}
	for i := range b.Groups {
		for j := range b.Groups[i].Rules {
			f := &b.Groups[i].Rules[j]
			f.Version = versions[f.ID]
			if own, ok := b.Own[f.ID]; ok {
				f.Before = own.Value
				if !f.Asked {
					f.Value = own.Value
				}
			}
		}
	}
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

func (s View) showHouse(c *gin.Context, status int, name, scope string, values map[string]string, done string) {
	body, err := s.houseBody(c, scope, values)
	if err != nil {
		s.houseTrouble(c, err)
		return
	}
	body.Done = done
	if err := s.preview(c, body, c.Request.URL.RequestURI()); err != nil {
		s.Trouble(c, err)
		return
	}
	s.Show(c, status, name, site.Page{Title: "House", Body: body})
}

func (s View) houseTrouble(c *gin.Context, err error) {
	if errors.Is(err, errUnknown) {
		s.NotFound(c, "There is no such model.")
		return
	}
	s.Trouble(c, err)
}

// houseBody is the rules of a scope, with values that are tried.
func (s View) houseBody(c *gin.Context, scope string, values map[string]string) (*houseBody, error) {
	list, err := s.Store.Models(c)
	if err != nil {
		return nil, err
	}
	rules, err := s.Store.HouseRules(c)
	if err != nil {
		return nil, err
	}
	body := &houseBody{Scope: scope, Name: app.ByHouse, Models: list, Own: map[string]app.HouseRule{},
		Edits: site.Who(c).Role == people.Author,
		Base:  "/house"}
	sys := quantity.US
	if scope != "" {
		at := slices.IndexFunc(list, func(m app.Model) bool { return m.Slug == scope })
		if at < 0 {
			return nil, errUnknown
		}
		body.Name, body.Base = list[at].Name, "/house?model="+url.QueryEscape(scope)
		b, err := s.current(c, scope, rules)
		if err != nil {
			return nil, err
		}
		sys, list = b.Sys(), list[at:at+1]
	}
	for _, r := range rules {
		if r.Scope == scope {
			body.Own[r.Rule] = r
		}
	}
	if body.History, err = s.ruleHistory(c, scope); err != nil {
		return nil, err
	}
	now, err := app.HouseOf(rules, scope, sys)
	if err != nil {
		return nil, err
	}
	body.Groups = site.RuleGroups(now, sys, nil)
	body.asTyped()
	tried := body.changedRules(values)
	body.Groups = site.RuleGroups(now, sys, tried)
	body.asTyped()
	if body.Tried = len(tried) > 0; body.Tried {
		body.after = withRules(rules, scope, tried)
		body.Wrong = wrongOn(list, body.after)
	}
	body.now, body.on = rules, list
	return body, nil
}

// wrongOn says on which model rules can't hold together, and why; "" for none.
func wrongOn(list []app.Model, rules []app.HouseRule) string {
	for _, m := range list {
		for _, sys := range []quantity.System{quantity.US, quantity.SI} {
			if _, err := app.HouseOf(rules, m.Slug, sys); err != nil {
				return m.Name + ": " + err.Error()
			}
		}
	}
	return ""
}

// preview works out what the rules that are tried change on which model, by
// a job: of many models that takes a while. The page asks for it again at an address.
func (s View) preview(c *gin.Context, body *houseBody, again string) error {
	if !body.Tried || body.Wrong != "" {
		return nil
	}
	body.Again = again
	key := sha256.New()
	fmt.Fprintln(key, "preview", body.now, body.after)
	for _, m := range body.on {
		fmt.Fprintln(key, m.Slug, m.Revision)
	}
	job := s.Jobs.Find(hex.EncodeToString(key.Sum(nil)), "Working out what these rules change", site.Who(c).Name,
		len(body.on), func(ctx context.Context, step func()) (any, error) {
			return s.changes(ctx, body.on, body.now, body.after, step)
		})
	if !job.Wait(c, site.Soon) {
		body.Job = job
		return nil
	}
	body.Changes, _ = job.Result().([]houseChange)
	return job.Err()
}

// changes are what other rules change on each of some models.
func (s View) changes(ctx context.Context, list []app.Model, now, after []app.HouseRule,
	step func()) ([]houseChange, error) {
	changes := make([]houseChange, len(list))
	group, ctx := errgroup.WithContext(ctx)
	group.SetLimit(runtime.GOMAXPROCS(0))
	for i, m := range list {
		group.Go(func() error {
			defer step()
			changes[i] = houseChange{Model: fmt.Sprintf("%s (%d)", m.Name, m.Year),
				Link: "/models/" + url.PathEscape(m.Slug) + "/amounts"}
			b, err := s.current(ctx, m.Slug, now)
			if err != nil {
				changes[i].Why = site.Words(err)
				return ctx.Err()
			}
			changes[i].Figures, err = changedFigures(ctx, b, after)
			return err
		})
	}
	return changes, group.Wait()
}

// ruleHistory is how the rules of a scope were set, the newest first.
func (s View) ruleHistory(ctx context.Context, scope string) (list []ruleChange, err error) {
	changes, err := s.Store.HouseChanges(ctx, scope)
	for _, c := range changes {
		x := ruleChange{HouseRule: c, Name: c.Rule}
		if r := house.RuleByID(c.Rule); r != nil {
			x.Name = r.Name
		}
		list = append(list, x)
	}
	return list, err
}

// changedFigures are the figures that other rules change on a build.
func changedFigures(ctx context.Context, b *site.Computed, rules []app.HouseRule) ([]site.ToldFigure, error) {
	to, err := app.HouseOf(rules, b.Row.Slug, b.Sys())
	if err != nil {
		return nil, err
	}
	before, err := b.Subject(ctx)
	if err != nil {
		return nil, err
	}
	list := site.ToldFigures(compare.Figures(before, compare.SubjectOf(b.Net, b.Plan, to)), b.Sys(), b.Sys())
	return slices.DeleteFunc(list, func(f site.ToldFigure) bool { return !f.Differs }), nil
}

// current is the standard build of a model as it is now, by some rules.
func (s View) current(ctx context.Context, slug string, rules []app.HouseRule) (*site.Computed, error) {
	row, rev, err := s.Store.Current(ctx, slug)
	if err != nil {
		return nil, err
	}
	return s.Under(ctx, rules, row, rev, "")
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
