package settings

import (
	"net/url"
	"strings"

	"github.com/gin-gonic/gin"

	"coldtap/internal/app"
	"coldtap/internal/core/edit"
	"coldtap/internal/core/plumbing"
	"coldtap/internal/core/setting"
	"coldtap/internal/web/site"
	"coldtap/internal/web/system"
)

// Keep keeps the handles as they stand for a mode.
func (s View) Keep(c *gin.Context) {
	s.change(c, func(v *settingsView) (app.Operation, error) {
		k := setting.Hand(v.b.Net, &v.a.Mode, v.now.State, strings.TrimSpace(c.PostForm("reason")), site.Who(c).Name)
		if setting.Dangerous(&v.a.Mode, setting.Judge(v.b.Net, &v.a.Mode, v.now.State)) {
			return nil, &edit.FaultError{Faults: []plumbing.Fault{{Path: v.b.Words().Tell(v.a.Mode.Name),
				Why: "this setting could hurt somebody, and can't be kept"}}}
		}
		return func(m *plumbing.Model) (*edit.Done, error) { return edit.Keep(m, k, v.a.Mode.Name) }, nil
	})
}

// LetGo goes back to the setting that is found for a mode.
func (s View) LetGo(c *gin.Context) {
	s.change(c, func(v *settingsView) (app.Operation, error) {
		return func(m *plumbing.Model) (*edit.Done, error) { return edit.LetGo(m, v.a.Mode.ID, v.a.Mode.Name) }, nil
	})
}

// change carries out what is made of the state that the form carries, and shows the mode.
func (s View) change(c *gin.Context, make func(*settingsView) (app.Operation, error)) {
	b := s.Model(c)
	if b == nil {
		return
	}
	q, err := url.ParseQuery(c.PostForm("state"))
	a := setting.ForMode(b.Plan, q.Get("mode"))
	if err != nil || a == nil {
		s.NotFound(c, "There is no such way of using the system.")
		return
	}
	v, err := newSettingsView(c, b, a, q)
	if err == nil {
		var op app.Operation
		if op, err = make(v); err == nil {
			system.View{Site: s.Site}.Carry(c, op, "/models/"+url.PathEscape(b.Row.Slug)+"/settings?mode="+
				url.QueryEscape(a.Mode.ID))
			return
		}
	}
	system.View{Site: s.Site}.Carry(c, func(*plumbing.Model) (*edit.Done, error) { return nil, err }, "")
}
