package web

import (
	"fmt"
	"html/template"
	"net/http"
	"net/url"
	"slices"
	"strings"

	"github.com/gin-gonic/gin"

	"coldtap/internal/core/flow"
	"coldtap/internal/core/plumbing"
	"coldtap/internal/core/setting"
	"coldtap/internal/drawing"
)

type settingsBody struct {
	Modes   []modeTab
	Chosen  *setting.Answer
	SVG     template.HTML
	Verdict []setting.Breach
	Changed bool
	Reset   string
	Drives  []handleRow // handles that are set in daily use
	Shut    []handleRow // drains and plugs
	Proofs  []proofRow
	Fluid   string
}

type modeTab struct {
	ID, Name, Href, Same string
	OK, Chosen           bool
}

type handleRow struct {
	Part     *plumbing.Part
	Position string
	Differs  bool // from the found setting
	Either   bool // may stand either way
	Href     string
	Board    string
	Next     string
}

type proofRow struct {
	Target string
	Way    string
}

func (s *Server) settings(c *gin.Context) { s.showSettings(c, "settings.html") }
func (s *Server) board(c *gin.Context)    { s.showSettings(c, "board") }

func (s *Server) showSettings(c *gin.Context, name string) {
	b := s.model(c)
	if b == nil {
		return
	}
	a := setting.Of(b.Plan, c.DefaultQuery("mode", setting.Everyday))
	if a == nil || a.Mode.Measure {
		s.notFound(c, "There is no such way of using the system.")
		return
	}
	v := settingsView{b: b, a: a, path: "/models/" + url.PathEscape(b.Row.Slug) + "/settings"}
	if err := v.read(c.Query("set")); err != nil {
		s.show(c, http.StatusBadRequest, "message.html", page{Title: "Settings", Model: b, Body: message{"This setting can't be read", err.Error()}})
		return
	}
	s.show(c, http.StatusOK, name, page{Title: "Settings: " + b.Model.Title(), Model: b, Tab: "settings", Body: v.body()})
}

// settingsView is a mode with handles turned away from what was found for it.
type settingsView struct {
	b     *bench
	a     *setting.Answer
	path  string
	found flow.Setting
	now   flow.Setting
}

// read takes "valve.position,valve.position" as changes from the found setting.
func (v *settingsView) read(set string) error {
	v.found = v.a.Setting
	if !v.a.OK {
		v.found = flow.Normal(v.b.Net)
		if e := setting.Of(v.b.Plan, setting.Everyday); e != nil && e.OK {
			v.found = e.Setting
		}
	}
	v.found.PumpOn = v.a.Mode.PumpOn
	v.now = v.found
	for _, change := range strings.Split(set, ",") {
		if change == "" {
			continue
		}
		id, pos := plumbing.PartOf(change)
		h := v.b.Net.HandleOf(id)
		if h < 0 || v.b.Net.Handles[h].Index(pos) < 0 {
			return fmt.Errorf("there is no handle %q with a position %q on this model", id, pos)
		}
		v.now = v.now.With(h, v.b.Net.Handles[h].Index(pos))
	}
	return nil
}

// query writes a setting as the page's address.
func (v *settingsView) query(s flow.Setting) string {
	var set []string
	for i, h := range v.b.Net.Handles {
		if s.Handles[i] != v.found.Handles[i] {
			set = append(set, h.Part.ID+"."+h.Positions[s.Position(i)])
		}
	}
	q := "?mode=" + url.QueryEscape(v.a.Mode.ID)
	if build := v.b.Build(); build != "" {
		q += "&" + build
	}
	if set != nil {
		q += "&set=" + url.QueryEscape(strings.Join(set, ","))
	}
	return q
}

func (v *settingsView) turned(h int) flow.Setting {
	return v.now.With(h, (v.now.Position(h)+1)%len(v.b.Net.Handles[h].Positions))
}

func (v *settingsView) body() settingsBody {
	n, mode := v.b.Net, &v.a.Mode
	body := settingsBody{Chosen: v.a, Fluid: mode.Fluid, Reset: v.path + v.query(v.found), Changed: !slices.Equal(v.now.Handles, v.found.Handles)}
	for _, a := range v.b.Plan {
		if a.Mode.Measure {
			continue
		}
		t := modeTab{ID: a.Mode.ID, Name: a.Mode.Name, Href: v.b.Link("settings", "mode="+a.Mode.ID), OK: a.OK, Chosen: a.Mode.ID == mode.ID}
		if same := setting.Of(v.b.Plan, a.SameAs); same != nil && a.SameAs != "" {
			t.Same = same.Mode.Name
		}
		body.Modes = append(body.Modes, t)
	}
	show := drawing.Show{Setting: v.now, Wet: map[int]string{}, Mark: map[string]string{}, Turn: v.turn,
		Title: "Schematic of " + v.b.Model.Title() + ", " + mode.Name}
	if mode.LeftOut == "" {
		body.Verdict = setting.Judge(n, mode, v.now)
		r := flow.Reach(n, v.now, flow.Query{From: mode.From})
		for i := range n.Links {
			if n.Links[i].Line != nil && r.Link(v.now, i) {
				show.Wet[i] = mode.Fluid
			}
		}
		for _, br := range body.Verdict {
			show.Mark[br.Clause.Target.ID] = "breach"
		}
		body.Proofs = v.proofs()
	}
	body.SVG = template.HTML(v.b.Schematic.SVG(show))
	for i, h := range n.Handles {
		row := handleRow{Part: h.Part, Position: h.Positions[v.now.Position(i)], Differs: v.now.Handles[i] != v.found.Handles[i], Either: slices.Contains(v.a.Either, i)}
		q := v.query(v.turned(i))
		row.Href, row.Board = v.path+q, v.path+"/board"+q
		row.Next = plumbing.PositionWords(h.Part, h.Positions[v.turned(i).Position(i)])
		if _, fixed := mode.Fixed[i]; fixed {
			body.Shut = append(body.Shut, row)
		} else {
			body.Drives = append(body.Drives, row)
		}
	}
	return body
}

// turn makes a part's symbol turn its handle.
func (v *settingsView) turn(p *plumbing.Part) string {
	h := v.b.Net.HandleOf(p.ID)
	if h < 0 {
		return ""
	}
	q := template.HTMLEscapeString(v.query(v.turned(h)))
	return fmt.Sprintf(`id="turn-%s" href="%s%s" hx-get="%s/board%s" hx-target="#board" hx-push-url="%s%s"`, template.HTMLEscapeString(p.ID), v.path, q, v.path, q, v.path, q)
}

// proofs tell for the found setting how each target is reached, and what
// keeps away what must not get there. Clauses of one kind about one target
// that hold for the same reason are told once.
func (v *settingsView) proofs() []proofRow {
	var rows []proofRow
	for _, p := range v.a.Proofs {
		row := proofRow{Target: p.Clause.TargetName()}
		var names []string
		if p.Clause.Must {
			for _, part := range flow.Parts(v.b.Net, p.Start, p.Path) {
				if part.Kind != plumbing.Tee {
					names = append(names, part.Name)
				}
			}
			row.Way = strings.Join(names, " → ")
		} else {
			row.Target = p.Clause.Words(v.a.Mode.Fluid)
			for _, li := range p.Cut {
				if name := v.b.Net.Links[li].Part.Name; !slices.Contains(names, name) {
					names = append(names, name)
				}
			}
			row.Way = "kept away by " + strings.Join(names, ", ")
			if len(names) == 0 {
				row.Way = "no way leads there"
			}
		}
		if !slices.Contains(rows, row) {
			rows = append(rows, row)
		}
	}
	return rows
}
