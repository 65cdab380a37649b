package system

import (
	"slices"
	"strings"

	"github.com/gin-gonic/gin"

	"coldtap/internal/app"
	"coldtap/internal/core/edit"
	"coldtap/internal/core/finding"
	"coldtap/internal/core/plumbing"
	"coldtap/internal/people"
	"coldtap/internal/web/site"
)

// acceptedRow is a finding that was accepted.
type acceptedRow struct {
	site.ToldFinding
	Reason, By string
	Key        string
}

// findingKey names a finding in a form.
func findingKey(f *finding.Finding) string { return f.Code + "|" + strings.Join(f.Parts, ",") }

// mayAccept reports whether a person may accept a finding.
func mayAccept(p *app.Person, f *finding.Finding) bool {
	return !f.Danger && (p.Role == people.Reviewer || p.Role == people.Author && f.Severity < finding.Error)
}

// Accept accepts a finding with a reason: a note or a warning by an author or a reviewer,
// an error by a reviewer, a danger by nobody.
func (s View) Accept(c *gin.Context) {
	b := s.Model(c)
	if b == nil {
		return
	}
	reason, who := strings.TrimSpace(c.PostForm("reason")), site.Who(c)
	i := slices.IndexFunc(b.Findings, func(f finding.Finding) bool { return findingKey(&f) == c.PostForm("finding") })
	s.Edit(func(*gin.Context) (app.Operation, error) {
		refuse := func(why string) (app.Operation, error) {
			return nil, &edit.FaultError{Faults: []plumbing.Fault{{Why: why}}}
		}
		if i < 0 {
			return refuse("this finding is not there any more")
		}
		f := &b.Findings[i]
		switch {
		case f.Danger:
			return refuse("this can hurt somebody and is never accepted; put it right")
		case f.Severity == finding.Error && who.Role != people.Reviewer:
			return refuse("an error is accepted by a reviewer only")
		}
		return func(m *plumbing.Model) (*edit.Done, error) {
			return edit.Accept(m, f.Acceptance(reason, who.Name), f.Said)
		}, nil
	})(c)
}

// Reopen takes it back that a finding was accepted.
func (s View) Reopen(c *gin.Context) {
	b := s.Model(c)
	if b == nil {
		return
	}
	i := slices.IndexFunc(
		b.Accepted,
		func(d finding.Done) bool { return findingKey(&d.Finding) == c.PostForm("finding") },
	)
	s.Edit(func(*gin.Context) (app.Operation, error) {
		if i < 0 {
			return nil, &edit.FaultError{Faults: []plumbing.Fault{{Why: "this finding is open already"}}}
		}
		d := b.Accepted[i]
		return func(m *plumbing.Model) (*edit.Done, error) { return edit.Reopen(m, d.Accepted, d.Said) }, nil
	})(c)
}
