package site

import (
	"context"
	"errors"
	"fmt"
	"log/slog"
	"net/http"
	"net/url"
	"strings"

	"github.com/gin-gonic/gin"

	"coldtap/internal/app"
	"coldtap/internal/core/compare"
	"coldtap/internal/core/draft"
	"coldtap/internal/core/fact"
	"coldtap/internal/core/finding"
	"coldtap/internal/core/house"
	"coldtap/internal/core/quantity"
	"coldtap/internal/core/setting"
)

// Computed is a state of a model with what is Computed of it, as the pages show
// it.
type Computed struct {
	*app.Build
	Row      *app.Model
	Rev      *app.Revision
	House    house.House
	Plan     []setting.Answer
	Findings []finding.Finding
	Accepted []finding.Done
}

// Chosen is the part of an address that names the build, "" for the standard
// one.
func (b *Computed) Chosen() string {
	if b.Standard() {
		return ""
	}
	if len(b.With) == 0 {
		return "with=none"
	}
	return "with=" + url.QueryEscape(strings.Join(b.With, ","))
}

// Assumed tells how many values are assumed, as the finding that counts them; the zero
// fact where none are.
func (b *Computed) Assumed() fact.Fact {
	for _, f := range b.Findings {
		if f.Code == "assumed" {
			return f.Said
		}
	}
	return fact.Fact{}
}

// BuildName says what the build is fitted with.
func (b *Computed) BuildName() string {
	var names []string
	for _, o := range b.Options {
		if o.On {
			names = append(names, o.Option.Name)
		}
	}
	if names == nil {
		return "without options"
	}
	return "with " + strings.Join(names, ", ")
}

// Link is the address of one of the model's views for this build; more is
// added to its query.
func (b *Computed) Link(view, more string) string {
	link := "/models/" + url.PathEscape(b.Row.Slug)
	if view != "" {
		link += "/" + view
	}
	query := b.Chosen()
	if query != "" && more != "" {
		query += "&"
	}
	if query += more; query != "" {
		link += "?" + query
	}
	return link
}

// Number is a part's number in the layout, 0 for none.
func (b *Computed) Number(id string) int {
	for _, p := range b.Places() {
		if p.Part.ID == id {
			return p.Number
		}
	}
	return 0
}

// Sys is the unit system the model shows first.
func (b *Computed) Sys() quantity.System { return b.Model.System() }

// Inputs are what guides are made of.
func (b *Computed) Inputs() draft.Inputs {
	return draft.Inputs{Net: b.Net, Plan: b.Plan, House: b.House}
}

// Subject is what is compared with another build.
func (b *Computed) Subject(ctx context.Context) (compare.Subject, error) {
	r, err := b.Report(ctx, b.House)
	return compare.Subject{Net: b.Net, Report: r}, err
}

// Worked is a build of a state of a model with what is Computed of it by the
// house's rules as they are now.
func (s *Site) Worked(ctx context.Context, row *app.Model, rev *app.Revision, with string) (*Computed, error) {
	rules, err := s.Store.HouseRules(ctx)
	if err != nil {
		return nil, err
	}
	return s.Under(ctx, rules, row, rev, with)
}

// Named is the name of something that follows from the build and the house's rules alone.
func (b *Computed) Named(what string) string {
	return what + "\n" + b.Build.Key() + "\n" + b.House.Fingerprint()
}

// Under is Worked by some rules of the house.
func (s *Site) Under(ctx context.Context, rules []app.HouseRule, row *app.Model, rev *app.Revision,
	with string) (*Computed, error) {
	build, err := s.Builds.Get(ctx, row.Slug, rev, with)
	if err != nil {
		return nil, err
	}
	b := &Computed{Build: build, Row: row, Rev: rev}
	if b.House, err = app.HouseOf(rules, row.Slug, b.Sys()); err != nil {
		// They were checked when they were set; a model may have come since.
		slog.Warn("house rules", "model", row.Slug, "error", err)
	}
	if b.Plan, err = build.Plan(ctx); err != nil {
		return nil, err
	}
	if b.Findings, err = build.Findings(ctx); err != nil {
		return nil, err
	}
	b.Accepted, err = build.Accepted(ctx)
	return b, err
}

// computedKey is where a request keeps its model once it has been worked out.
const computedKey = "computed"

// Keep makes a request go on with a model that was just worked out.
func Keep(c *gin.Context, b *Computed) { c.Set(computedKey, b) }

// Newest is the newest state of the request's model as read gives it, or it answers the request
// and gives nil.
func (s *Site) Newest(c *gin.Context,
	read func(ctx context.Context, slug string) (*app.Model, *app.Revision, error)) (*app.Model, *app.Revision) {
	row, rev, err := read(c, c.Param("model"))
	switch {
	case errors.Is(err, app.ErrNotFound):
		s.NotFound(c, "There is no such model. It may have another name now; look in the list.")
		return nil, nil
	case err != nil:
		s.Trouble(c, err)
		return nil, nil
	}
	return row, rev
}

// Model finds the request's model, or answers the request and gives nil.
func (s *Site) Model(c *gin.Context) *Computed {
	if b, ok := c.Get(computedKey); ok {
		return b.(*Computed)
	}
	row, rev := s.Newest(c, s.Store.Head)
	if row == nil {
		return nil
	}
	b, err := s.Worked(c, row, rev, strings.Join(c.QueryArray("with"), ","))
	var none *app.NoOptionError
	switch {
	case errors.As(err, &none):
		s.cantShow(c, http.StatusNotFound, row, rev, UpperFirst(none.Error())+".")
		return nil
	case err != nil && !errors.As(err, new(*app.KeepError)) && c.Err() == nil:
		slog.Error("can't be worked out", "model", row.Slug, "state", rev.Number, "error", err)
		s.cantShow(c, http.StatusUnprocessableEntity, row, rev, UpperFirst(Words(err))+".")
		return nil
	case err != nil:
		s.Trouble(c, err)
		return nil
	}
	return b
}

// stuck is a state that can't be shown as it was asked for, and what leads on.
type stuck struct {
	Base, Title, Why string
	From             uint64
	Broken           bool // the state itself can't be shown, not only this build of it
}

// cantShow tells why a state can't be shown; what was done before can still be looked at and
// taken back.
func (s *Site) cantShow(c *gin.Context, status int, row *app.Model, rev *app.Revision, why string) {
	if c.GetHeader("HX-Request") != "" {
		c.Header("HX-Redirect", "/models/"+url.PathEscape(row.Slug)) // the whole page tells it
	}
	s.Show(c, status, "stuck.html", Page{Title: row.Name, Body: stuck{"/models/" + url.PathEscape(row.Slug),
		fmt.Sprintf("%s (%d)", row.Name, row.Year), why, rev.Number, status != http.StatusNotFound}})
}
