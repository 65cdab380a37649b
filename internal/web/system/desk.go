package system

import (
	"net/url"
	"slices"

	"github.com/gin-gonic/gin"

	"coldtap/internal/app"
	"coldtap/internal/core/assembly"
	"coldtap/internal/core/edit"
	"coldtap/internal/core/plumbing"
	"coldtap/internal/web/site"
)

// desk is what an author has on the System view beside what everybody sees.
type desk struct {
	Assemblies []assembly.Kind
	First      []assembly.Kind // those that a new model begins with
	Kinds      []plumbing.KindInfo
	Form       *form
	Head       *form
	Ports      []string // open ports, to join
	AllPorts   []string
	LineIDs    []string
	Sizes      []plumbing.LineSize
	Sides      []plumbing.Side
	Photos     []app.Photo
	Imports    []app.Import
}

func (s View) desk(c *gin.Context, b *site.Computed, body *systemBody, chosen string) error {
	var err error
	d := &body.desk
	if err = s.steps(c, b, &body.frame); err != nil {
		return err
	}
	if len(b.Doc.Parts) == 0 {
		d.First = assembly.Kinds()[:6]
	}
	d.Assemblies, d.Sizes, d.Sides = assembly.Kinds(), plumbing.LineSizes, plumbing.Sides
	d.Kinds = slices.DeleteFunc(plumbing.Kinds(), func(k plumbing.KindInfo) bool {
		return k.Role == plumbing.RoleSelector
	})
	d.Ports = edit.OpenPorts(b.Doc)
	for i := range b.Doc.Parts {
		for _, p := range b.Doc.Parts[i].Ports() {
			d.AllPorts = append(d.AllPorts, sayRef(b.Doc, b.Doc.Parts[i].ID+"."+p.Name))
		}
	}
	for i := range b.Doc.Lines {
		d.LineIDs = append(d.LineIDs, b.Doc.Lines[i].ID)
	}
	var typed map[string]string
	if body.Notice.refused() {
		if typed, err = fieldsOf(c); err != nil {
			return err
		}
	}
	switch p, l := b.Doc.Part(chosen), b.Doc.Line(chosen); {
	case p != nil:
		d.Form = partForm(b.Doc, p, typed)
		if d.Photos, err = s.Store.Photos(c, b.Row.Slug, chosen); err != nil {
			return err
		}
	case l != nil:
		d.Form = lineForm(b.Doc, l, typed)
	}
	d.Head = headForm(b.Doc, typed)
	return nil
}

// assemblyPage asks what an assembly must know.
func (s View) AssemblyPage(c *gin.Context) {
	b := s.Model(c)
	if b == nil {
		return
	}
	k := assembly.ByID(c.Param("kind"))
	if k == nil {
		s.NotFound(c, "There is no such assembly.")
		return
	}
	type asked struct {
		assembly.Question
		Value  string
		Places []assembly.Choice
	}
	body := struct {
		Kind      *assembly.Kind
		Questions []asked
		From      uint64
		Base      string
	}{k, nil, b.Row.Revision, "/models/" + url.PathEscape(b.Row.Slug)}
	for _, q := range k.Questions {
		a := asked{Question: q, Value: q.Usual}
		if before, after, ok := cutUsual(q.Usual); ok {
			a.Value = before
			if b.Model.Units == "si" {
				a.Value = after
			}
		}
		if q.Port != "" && q.Name != "tank" {
			a.Places = assembly.Places(b.Doc, q.Port)
		}
		body.Questions = append(body.Questions, a)
	}
	s.Show(c, 200, "assembly", site.Page{Model: b, Body: body})
}
