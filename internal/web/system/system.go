package system

import (
	"fmt"
	"html/template"
	"maps"
	"net/http"
	"net/url"
	"reflect"
	"slices"
	"strconv"
	"strings"

	"github.com/gin-gonic/gin"

	"coldtap/internal/core/amount"
	"coldtap/internal/core/plumbing"
	"coldtap/internal/core/quantity"
	"coldtap/internal/core/state"
	"coldtap/internal/drawing"
	"coldtap/internal/people"
	"coldtap/internal/web/site"
)

type systemBody struct {
	frame
	Drawn     site.Drawn
	Total     string
	Chosen    *inspector
	Findings  []findingGroup
	Accepted  []acceptedRow
	MayReopen bool
	Notice    *notice
	desk
}

type findingRow struct {
	site.ToldFinding
	Key         string
	MayAccept   bool
	Accept      string // address that accepts it
	ConfirmAll  string // address that confirms all assumed values, of the finding that counts them
	From        uint64 // revision that this starts from
	Link, Board string
	Chosen      bool
}

// findingGroup is one finding, or several alike told together.
type findingGroup struct {
	Rows  []findingRow
	Words string // of several
	Fill  string // where what they all lack can be filled in; "" for nowhere
	Open  bool   // one of them is chosen
}

// fewAlike is how many findings of a kind are still told one by one.
const fewAlike = 3

// fillIn says in which grid, and in which of its columns, the field stands that
// findings of a code miss.
var fillIn = map[string]struct{ query, path string }{"height-missing": {"what=parts", "place.height"},
	"length-missing": {"", "length"}, "diameter-missing": {"", "inside"}}

// grouped tells findings that are alike together.
func grouped(b *site.Computed, rows []findingRow) (list []findingGroup) {
	for len(rows) > 0 {
		same := 1
		for same < len(rows) && rows[same].Code == rows[0].Code {
			same++
		}
		if same <= fewAlike {
			same = 1
		}
		g := findingGroup{Rows: rows[:same]}
		if same > 1 {
			g.Words = b.Words().Alike(rows[0].Code, same)
			if in, ok := fillIn[rows[0].Code]; ok {
				g.Fill = b.Link("grid", in.query) + "#g-" + rows[0].Parts[0] + "-" + in.path
			}
			g.Open = slices.ContainsFunc(g.Rows, func(r findingRow) bool { return r.Chosen })
		}
		list, rows = append(list, g), rows[same:]
	}
	return list
}

// inspector shows what is known of a part or line.
type inspector struct {
	Name, Kind string
	Number     int
	Facts      []known
	Picture    []position
	Findings   []site.ToldFinding
}

// known is one thing that is known of a part.
type known struct{ Name, Value string }

type position struct {
	Part     *plumbing.Part
	Position string
	Normal   bool
}

// System is the plumbing of a model.
func (s View) System(c *gin.Context) { s.showSystem(c, http.StatusOK, "system.html", nil) }

// Board is the part of the page that changes.
func (s View) Board(c *gin.Context) {
	site.Push(c, "/system/board", "")
	s.showSystem(c, http.StatusOK, "sysboard", nil)
}

// showSystem shows the System view; after an edit n tells what came of it.
func (s View) showSystem(c *gin.Context, status int, name string, n *notice) {
	b := s.Model(c)
	if b == nil {
		return
	}
	chosen := c.Query("part")
	if v := c.PostForm("part"); v != "" {
		chosen = v
	}
	if n != nil && n.Made != "" {
		chosen = n.Made
	}
	number, err := strconv.Atoi(c.Query("finding"))
	if err != nil || number < 1 || number > len(b.Findings) {
		number = 0
	}
	show := drawing.Show{State: state.Normal(b.Net), Mark: map[string]string{},
		Title: "Schematic of " + b.Model.Title(),
		Act:   func(p *plumbing.Part) drawing.Action { return drawing.Action{Attrs: choose(b, p.ID, "part="+p.ID)} }}
	show.Pick = func(l *plumbing.Line) string { return choose(b, l.ID, "part="+url.QueryEscape(l.ID)) }
	show.Ports = site.Who(c).Role == people.Author
	if number > 0 {
		for _, id := range b.Findings[number-1].Parts {
			show.Mark[id] = "breach"
		}
	}
	if chosen != "" {
		show.Mark[chosen] = "chosen"
	}
	drawn, err := site.Draw(c, b, &show)
	if err != nil {
		s.Trouble(c, err)
		return
	}
	q := url.Values{}
	for name, value := range map[string]string{"part": chosen, "finding": c.Query("finding")} {
		if value != "" {
			q.Set(name, value)
		}
	}
	drawn.Again, drawn.Into = b.Link("system/board", q.Encode()), "#sysboard"
	body := systemBody{frame: newFrame("drawing", "#sysboard", chosen), Drawn: drawn,
		Total:  quantity.Both(amount.Contents(b.Net, b.Sys()).Total, b.Sys()),
		Chosen: inspect(b, chosen)}
	var rows []findingRow
	for i, f := range b.Findings {
		q := "finding=" + strconv.Itoa(i+1)
		if chosen != "" {
			q += "&part=" + url.QueryEscape(chosen) // what is chosen stays
		}
		all := ""
		if f.Code == "assumed" && site.Who(c).Role == people.Author {
			all = b.Link("confirm/all", "")
		}
		rows = append(rows, findingRow{b.Told(f), findingKey(&f), mayAccept(site.Who(c), &f),
			b.Link("accept", ""), all, b.Row.Revision, b.Link("", q), b.Link("system/board", q), i+1 == number})
	}
	body.Findings = grouped(b, rows)
	role := site.Who(c).Role
	body.MayReopen = role == people.Author || role == people.Reviewer
	for i := range b.Accepted {
		d := &b.Accepted[i]
		body.Accepted = append(body.Accepted, acceptedRow{b.Told(d.Finding), d.Reason, d.By, findingKey(&d.Finding)})
	}
	body.Notice = n
	if site.Who(c).Role == people.Author {
		if err := s.desk(c, b, &body, chosen); err != nil {
			s.Trouble(c, err)
			return
		}
	}
	body.rail(b, number)
	s.Show(c, status, name, site.Page{Title: b.Model.Title(), Model: b, Tab: "system", Framed: "rail", Body: body})
}

// choose makes a part of the drawing show itself in the inspector.
func choose(b *site.Computed, id, query string) string {
	return fmt.Sprintf(`id="pick-%s" href="%s" hx-get="board"`, template.HTMLEscapeString(id),
		template.HTMLEscapeString(b.Link("", query)))
}

func inside(l *plumbing.Line, sys quantity.System) string {
	d, _ := l.InsideDiameter()
	if sys == quantity.SI {
		return quantity.Figure(float64(d), 3, 1) + "\u00a0mm"
	}
	return quantity.Figure(float64(d/quantity.Inch), 3, 3) + "\u00a0in"
}

// inspect gathers what is known of a part or line; nil for an unknown id.
func inspect(b *site.Computed, id string) *inspector {
	in := &inspector{}
	add := func(name, value string) {
		if value != "" {
			in.Facts = append(in.Facts, known{name, value})
		}
	}
	for _, f := range b.Findings {
		if slices.Contains(f.Parts, id) {
			in.Findings = append(in.Findings, b.Told(f))
		}
	}
	if p := b.Model.Part(id); p != nil {
		in.Name, in.Kind, in.Number = p.Name, p.Kind.Info().Name, b.Number(id)
		add("On the unit", p.Label)
		add("Reached from", p.Place.Reach)
		add("Behind", p.Place.Behind)
		if h := p.Place.Height.String(); h != "" {
			add("Height", h+" above "+b.Model.Vehicle().Datum)
		}
		add("From the front", p.Place.Front.String())
		add("Tool", p.Tool)
		add("Thread", p.Thread)
		add("Adapter", p.Adapter)
		for _, of := range []string{"handle", "cap", "hose", "port", "coupling"} {
			add("Colour of the "+of, p.Colours[of])
		}
		dataFacts(p.Data, add)
		for _, pos := range p.Positions() {
			in.Picture = append(in.Picture, position{p, pos, pos == p.NormalPosition()})
		}
		for _, c := range p.Selector {
			var sets []string
			for _, v := range slices.Sorted(maps.Keys(c.Sets)) {
				sets = append(sets, b.Model.Part(v).Name+" "+c.Sets[v])
			}
			add("Position “"+c.Label+"”", strings.Join(sets, ", "))
		}
		return in
	}
	l := b.Model.Line(id)
	if l == nil {
		return nil
	}
	in.Name, in.Kind = lineName(b.Model, l), string(l.Side)+" line "+l.ID
	add("From", l.From)
	add("To", l.To)
	add("Size", l.Size)
	add("Inside", inside(l, b.Sys()))
	add("Length", l.Length.String())
	add("Holds", quantity.Both(l.Content(), b.Sys()))
	add("Material", l.Material)
	add("Colour", l.Colour)
	for _, s := range l.Spots {
		add("At "+s.At.String(), s.Height.String()+" above "+b.Model.Vehicle().Datum)
	}
	return in
}

// lineName is what a line joins, by the names of the parts.
func lineName(m *plumbing.Model, l *plumbing.Line) string {
	name := func(end string) string {
		id, _ := plumbing.PartOf(end)
		if p := m.Part(id); p != nil {
			return p.Name
		}
		return end
	}
	return name(l.From) + " to " + name(l.To)
}

// dataFacts tells the figures of a part under the names of the document.
func dataFacts(d plumbing.Data, add func(name, value string)) {
	v := reflect.ValueOf(d)
	for i := range v.NumField() {
		tag, _, _ := strings.Cut(v.Type().Field(i).Tag.Get("json"), ",")
		name := plumbing.Upper(strings.ReplaceAll(tag, "_", " "))
		switch x := v.Field(i).Interface().(type) {
		case string:
			add(name, x)
		case bool:
			if x {
				add(name, "yes")
			}
		case int:
			if x > 0 {
				add(name, strconv.Itoa(x))
			}
		case fmt.Stringer:
			add(name, x.String())
		}
	}
}
