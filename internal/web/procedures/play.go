package procedures

import (
	"context"
	"encoding/json"
	"fmt"
	"html/template"
	"net/http"
	"net/url"
	"slices"
	"strconv"
	"strings"

	"github.com/gin-gonic/gin"

	"coldtap/internal/core/amend"
	"coldtap/internal/core/draft"
	"coldtap/internal/core/fault"
	"coldtap/internal/core/instruction"
	"coldtap/internal/core/play"
	"coldtap/internal/core/plumbing"
	"coldtap/internal/core/proof"
	"coldtap/internal/core/state"
	"coldtap/internal/core/words"
	"coldtap/internal/drawing"
	"coldtap/internal/web/site"
)

// playBody is a procedure with its steps, beside the drawing on which it plays.
type playBody struct {
	row
	From     uint64 // the state of the model that it is worked out of
	Base     string // address of the procedure, without a query
	With     string // query of the build that is looked at
	Edit     string // query on which the steps are changed
	Broken   bool   // something is left out on purpose
	Wrong    string // what is wrong with the unit, "" for nothing
	Board    string
	Film     string
	List     string
	Drawn    site.Drawn
	Symbols  template.HTML
	Side     template.HTML
	Steps    []stepRow
	Breaches []breachRow // at the end
	Site     []string
	Hand     []string
	Whole    []string
	Off      []offRow
	Tags     []string
	Left     []leftRow // steps that a hand took out
	Gauges   []gauge
	Editing  bool
}

type stepRow struct {
	words.Step
	Number   int
	Key      string
	Own      string // words of a hand, "" for the step's own
	From     string // when it begins
	Took     string
	Clock    float64 // seconds since the procedure began
	Lasts    float64
	Skipped  bool
	Skip     string // address on which it is left out, or done again
	Leaves   []leave
	Breaches []breachRow
	Byhand   bool
	Photos   []stepPhoto
}

// stepPhoto is a photograph on which a part is marked, at the step that needs it first.
type stepPhoto struct {
	Part, Src, Caption string
	X, Y               float64 // of the mark, hundredths of width and height
}

// leave is a part that is forgotten in a step, or could be.
type leave struct {
	Name, Href string
	Left       bool
}

type breachRow struct {
	Rule, Severity, Words, Part string
}

type offRow struct {
	Name     string
	At, Back int
}

type leftRow struct{ Key, Name string }

// gauge is something whose content is shown beside the drawing.
type gauge struct {
	ID, Name, Kind string
	Holds          float64 // litres, 0 where nobody gave it
}

type choice struct{ Value, Words string }

// carriedOut is a procedure as a hand left it, with its proof; nil where nobody waits any longer.
func carriedOut(ctx context.Context, b *site.Computed, d draft.Drafted) (*proof.Procedure, *proof.Proof) {
	p, pr, err := amend.Carried(ctx, b.Net, d.Procedure, d.Run)
	if err != nil {
		return p, nil
	}
	return p, pr
}

// faults are what a request leaves out on purpose.
func faults(q url.Values) amend.Faulty {
	f := amend.Faulty{Leave: map[int][]string{}}
	for _, v := range q["skip"] {
		if i, err := strconv.Atoi(v); err == nil && i > 0 {
			f.Skip = append(f.Skip, i-1)
		}
	}
	for _, v := range q["leave"] {
		at, part, ok := strings.Cut(v, ".")
		if i, err := strconv.Atoi(at); err == nil && ok && i > 0 {
			f.Leave[i-1] = append(f.Leave[i-1], part)
		}
	}
	return f
}

// with is a query with a value added, or taken out where it has it.
func with(q url.Values, name, value string) string {
	next := url.Values{}
	for _, k := range []string{"skip", "leave", "fault", "edit", "with"} {
		for _, v := range q[k] {
			if k != name || v != value {
				next.Add(k, v)
			}
		}
	}
	if !slices.Contains(q[name], value) {
		next.Add(name, value)
	}
	return question(next.Encode())
}

// Page is one procedure.
func (s View) Page(c *gin.Context) { s.show(c, "procedure.html") }

// Board is the part of its page that changes.
func (s View) Board(c *gin.Context) { s.show(c, "playboard") }

func (s View) show(c *gin.Context, name string) {
	b := s.Model(c)
	if b == nil {
		return
	}
	end := s.Turn(c)
	d, ok := s.find(c, b)
	if !ok {
		end()
		return
	}
	body, err := s.body(c, b, d)
	end()
	if err != nil {
		s.Trouble(c, err)
		return
	}
	framed := "rail"
	if d.Procedure == nil {
		framed = "list"
	}
	s.Show(c, http.StatusOK, name, site.Page{Title: body.Name + ": " + b.Model.Title(), Model: b, Tab: "procedures",
		Framed: framed, Body: body})
}

// carried is a procedure as a request breaks it, on the network as it is then, with what that leads to.
type carried struct {
	net   *plumbing.Network
	p     *proof.Procedure
	proof *proof.Proof
	wrong *fault.Fault // what is wrong with the unit; nil for nothing
}

func broken(c *gin.Context, b *site.Computed, d draft.Drafted) (carried, error) {
	p, pr := carriedOut(c, b, d)
	x := carried{net: b.Net, p: p, proof: pr}
	q := c.Request.URL.Query()
	f := faults(q)
	if len(f.Skip)+len(f.Leave) > 0 {
		x.p, x.proof = amend.Without(x.p, f), nil
	}
	if x.wrong = faultOf(b.Net, q.Get("fault")); x.wrong != nil {
		x.net, x.p = x.wrong.Of(b.Net, x.p)
		x.proof = nil
	}
	if x.proof != nil {
		return x, nil
	}
	var err error
	x.proof, err = proof.Prove(c, x.net, x.p)
	return x, err
}

func (s View) body(c *gin.Context, b *site.Computed, d draft.Drafted) (playBody, error) {
	body := playBody{row: head(b, d), From: b.Row.Revision, List: b.Link("procedures", ""),
		Base: "/models/" + url.PathEscape(b.Row.Slug) + "/procedures/" + d.ID, With: question(b.Chosen()),
		Edit: question(strings.TrimPrefix(b.Chosen()+"&edit=yes", "&"))}
	if d.Procedure == nil {
		return body, nil
	}
	x, err := broken(c, b, d)
	if err != nil {
		return body, err
	}
	p, pr := x.p, x.proof
	q := c.Request.URL.Query()
	if x.wrong != nil {
		body.Wrong = b.Words().Tell(x.wrong.Said)
	}
	f := faults(q)
	body.Broken = len(f.Skip)+len(f.Leave) > 0
	body.Editing = q.Get("edit") == "yes"
	body.Board, body.Film = body.Base+"/board"+query(c), body.Base+"/film"+query(c)
	tell := b.Words()
	in := instruction.Of(b.Net, b.House, p, pr)
	body.Site, body.Hand, body.Tags = tell.TellAll(in.Site), tell.TellAll(in.Hand), tell.TellAll(in.Tags)
	body.Whole = tell.TellAll(in.Whole)
	body.Proven, body.Worst = pr.Proven(), pr.Worst().String()
	body.Elapsed, body.Attended = span(in.Elapsed), span(in.Attended)
	for _, t := range in.TakenOff {
		if t.Back != t.At {
			body.Off = append(body.Off, offRow{t.Part.Name, t.At, t.Back})
		}
	}
	for i := range in.Steps {
		body.Steps = append(body.Steps, s.stepRow(b, p, in, i, q, f))
	}
	for _, x := range pr.Breaches {
		row := breachRow{x.Rule, x.Severity.String(), tell.Tell(x.Said), x.Part}
		if x.Step < len(body.Steps) {
			body.Steps[x.Step].Breaches = append(body.Steps[x.Step].Breaches, row)
		} else {
			body.Breaches = append(body.Breaches, row)
		}
	}
	if err := s.photographs(c, b, p, &body); err != nil {
		return body, err
	}
	body.left(b, d)
	body.gauges(b, p)
	show := drawing.Show{State: pr.Systems[0].State, Mark: map[string]string{}, Doing: map[string]string{},
		Title: "Schematic of " + b.Model.Title() + ", " + body.Name}
	body.Drawn, err = site.Draw(c, b, &show)
	body.Drawn.Again, body.Drawn.Into = body.Board, "#playboard"
	if err != nil {
		return body, err
	}
	if sheet, _, err := b.SchematicSoon(c, site.Soon); err == nil && sheet != nil {
		body.Symbols = template.HTML(sheet.Symbols()) // drawn by us, texts escaped
	}
	layout := drawing.NewLayout(b.Net.Model)
	if len(layout.Places()) > 1 {
		body.Side = template.HTML(layout.Side(""))
	}
	return body, nil
}

// photographs puts each photograph with a mark at the first step that does something at the part.
func (s View) photographs(c *gin.Context, b *site.Computed, p *proof.Procedure, body *playBody) error {
	list, err := s.Store.AllPhotos(c, b.Row.Slug)
	if err != nil {
		return err
	}
	shown := map[string]bool{}
	for i := range body.Steps {
		for _, a := range p.Steps[i].Acts {
			id := a.Part.ID
			if shown[id] {
				continue
			}
			for k := range list {
				photo := &list[k]
				m := photo.Mark(id)
				if m == nil || photo.RemovedAt != nil {
					continue
				}
				shown[id] = true
				body.Steps[i].Photos = append(body.Steps[i].Photos, stepPhoto{Part: a.Part.Name, Caption: photo.Caption,
					Src: fmt.Sprintf("/models/%s/photos/%d/image", url.PathEscape(b.Row.Slug), photo.ID), X: 100 * m.X,
					Y: 100 * m.Y})
				break
			}
		}
	}
	return nil
}

// query is the query of a request, as an address goes on with it.
func query(c *gin.Context) string { return question(c.Request.URL.RawQuery) }

// question puts the mark before a query that says something.
func question(query string) string {
	if query == "" {
		return ""
	}
	return "?" + query
}

// stepRow is a step of the list.
func (s View) stepRow(b *site.Computed, p *proof.Procedure, in *instruction.Instruction, i int, q url.Values,
	f amend.Faulty) stepRow {
	x := &in.Steps[i]
	r := stepRow{Step: b.Words().Step(x), Number: i + 1, Key: p.Steps[i].Key, Own: p.Steps[i].Words,
		From: clock(float64(x.From)), Took: span(x.Took), Clock: float64(x.From), Lasts: float64(x.Took),
		Skipped: slices.Contains(f.Skip, i), Byhand: strings.HasPrefix(p.Steps[i].Key, amend.ByHand)}
	if r.Own != "" {
		r.Head = r.Own
	}
	number := strconv.Itoa(i + 1)
	r.Skip = with(q, "skip", number)
	var seen []string
	for _, a := range slices.Concat(p.Steps[i].Acts, p.Steps[i].Then) {
		if a.Verb == state.Catch || slices.Contains(seen, a.Part.ID) {
			continue
		}
		seen = append(seen, a.Part.ID)
		r.Leaves = append(r.Leaves, leave{Name: a.Part.Name, Href: with(q, "leave", number+"."+a.Part.ID)})
	}
	for _, id := range f.Leave[i] {
		if part := b.Model.Part(id); part != nil {
			r.Leaves = append(r.Leaves, leave{part.Name, with(q, "leave", number+"."+id), true})
		}
	}
	return r
}

// clock is a time since the beginning.
func clock(t float64) string {
	s := int(t + 0.5)
	if s < 3600 {
		return fmt.Sprintf("%d:%02d", s/60, s%60)
	}
	return fmt.Sprintf("%d h %02d", s/3600, s/60%60)
}

// Adding is the address of the form that adds a step after another.
func (body playBody) Adding(key string, number int) string {
	begins := "?"
	if body.With != "" {
		begins = body.With + "&"
	}
	return body.Base + "/adding" + begins + url.Values{"key": {key}, "number": {strconv.Itoa(number)}}.Encode()
}

// left lists the steps that a hand took out.
func (body *playBody) left(b *site.Computed, d draft.Drafted) {
	by := b.Model.AmendedOf(d.ID)
	if by == nil {
		return
	}
	keys := amend.Keys(d.Procedure.Steps)
	read := instruction.Of(b.Net, b.House, d.Procedure, proof.Judge(b.Net, d.Procedure, *d.Run))
	for i, k := range keys {
		if slices.Contains(by.Left, k) && i < len(read.Steps) {
			body.Left = append(body.Left, leftRow{k, b.Words().Step(&read.Steps[i]).Head})
		}
	}
}

// gauges are the waste tanks and the ports at which something is drawn.
func (body *playBody) gauges(b *site.Computed, p *proof.Procedure) {
	for _, w := range b.Net.PartsOf(plumbing.RoleWaste) {
		if holds := w.Data.Capacity.Value(); holds > 0 {
			body.Gauges = append(body.Gauges, gauge{w.ID, w.Name, "waste", float64(holds)})
		}
	}
	var seen []*plumbing.Part
	for i := range p.Steps {
		for _, a := range p.Steps[i].Acts {
			if a.Verb == state.Join && a.With.Kind.Gives() && a.With.Kind != state.Compressed && !slices.Contains(seen, a.Part) {
				seen = append(seen, a.Part)
				body.Gauges = append(body.Gauges, gauge{a.Part.ID, a.Part.Name, "drawn", 0})
			}
		}
	}
}

// Film is what stands where from moment to moment, for the page to play.
func (s View) Film(c *gin.Context) {
	b := s.Model(c)
	if b == nil {
		return
	}
	end := s.Turn(c)
	defer end()
	d, ok := s.find(c, b)
	if !ok {
		return
	}
	if d.Procedure == nil {
		s.NotFound(c, "This model can't have that procedure: there is nothing to play.")
		return
	}
	x, err := broken(c, b, d)
	if err != nil {
		s.Trouble(c, err)
		return
	}
	film, err := play.Of(c, x.net, x.p, x.proof)
	if err != nil {
		s.Trouble(c, err)
		return
	}
	text, err := json.Marshal(film)
	if err != nil {
		s.Trouble(c, err)
		return
	}
	c.Data(http.StatusOK, "application/json", text)
}
