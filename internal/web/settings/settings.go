package settings

import (
	"fmt"
	"html/template"
	"net/http"
	"net/url"
	"slices"
	"strconv"
	"strings"

	"github.com/gin-gonic/gin"

	"coldtap/internal/core/fact"
	"coldtap/internal/core/fault"
	"coldtap/internal/core/flow"
	"coldtap/internal/core/plumbing"
	"coldtap/internal/core/quantity"
	"coldtap/internal/core/scene"
	"coldtap/internal/core/setting"
	"coldtap/internal/core/state"
	"coldtap/internal/core/words"
	"coldtap/internal/drawing"
	"coldtap/internal/web/site"
)

type settingsBody struct {
	View    string // which of the three views it is
	Groups  []modeGroup
	Lacking []modeTab // ways of use that the model does not have

	LacksChosen bool
	Pane        string      // the pane that is shown at first
	Only        string      // the one pane that is asked for; "" for all of them
	Board       string      // address of this state's board
	Tabs        []site.Pane // of the rail
	Same        string      // way of use with the same positions, "" for none
	Chosen      *setting.Answer
	Drawn       site.Drawn
	Side        template.HTML // where water stays, for a mode that drains or blows
	Verdict     []string
	Remedies    []string  // what would mend a mode that can't be met
	Turns       []turnRow // settings one after the other
	Changed     bool
	Reset       string
	ResetBoard  string
	State       string      // the present state as a query
	Danger      bool        // the present state could hurt somebody
	Met         string      // whether the goal is met, for the head of the sheet
	Drives      []handleRow // handles that are set in daily use
	Shut        []handleRow // drains and plugs
	Outlets     []switchRow
	Pumps       []switchRow
	Ports       []switchRow
	Going       []goingRow
	Trouble     string // why no flow could be told
	Stays       []stayRow
	Total       string
	Best        []string // what is wrong in the best there is, where no setting meets the goal
	Stands      []standRow
	Helps       []helpRow
	Clauses     []clauseRow
	Why         *clauseRow
	Faults      []faultRow
	Fault       *faultRow
	Card        string
	Matrix      string
}

type handleRow struct {
	Part     *plumbing.Part
	Position string
	Differs  bool // from the found setting
	Either   bool // may stand either way
	link
	Next string
}

// link is an address of a page and of the part of it that changes.
type link struct{ Href, Board string }

// switchRow is something with a few ways to stand, one of which it has.
type switchRow struct {
	Part *plumbing.Part
	Ways []way
}

type way struct {
	Words string
	On    bool
	link
}

// turnRow is one setting of several that follow one another.
type turnRow struct {
	Number int
	Turned []string // handles that are turned for it
	Does   string
	Chosen bool
	link
}

type stayRow struct {
	scene.Stay
	Name, Why  string
	Much, Full string
}

// goingRow is one thing that goes on.
type goingRow struct {
	Part       *plumbing.Part
	What, Flow string
}

type helpRow struct {
	scene.Help
	Words, Less string
	link
}

// standRow is what stays when the camper does not stand level.
type standRow struct {
	Words, Total, Changes string
	Least                 bool
}

type clauseRow struct {
	Words  string
	Holds  bool
	Way    string // the path, or what keeps it apart
	Remedy string
	Chosen bool
	link
}

type faultRow struct {
	fault.Entry
	What   string // the first of the faults
	Told   string // what it leads to
	Chosen bool
	link
}

// Page is how handles stand in a way of using the system.
func (s View) Page(c *gin.Context) { s.showSettings(c, "settings.html") }

// Board is the part of the page that changes.
func (s View) Board(c *gin.Context) {
	site.Push(c, "/settings/board", "/settings")
	s.showSettings(c, "board")
}

func (s View) showSettings(c *gin.Context, name string) {
	b := s.Model(c)
	if b == nil {
		return
	}
	a := setting.ForMode(b.Plan, c.DefaultQuery("mode", setting.Everyday))
	if a == nil || a.Mode.Measure {
		s.NotFound(c, "There is no such way of using the system.")
		return
	}
	end := s.Turn(c)
	var body settingsBody
	v, err := newSettingsView(c, b, a, c.Request.URL.Query())
	if err == nil {
		body = v.body()
	}
	end()
	if err != nil {
		s.Show(c, http.StatusBadRequest, "message.html", site.Page{Title: "Settings", Model: b,
			Body: site.Say("This setting can't be read", err.Error())})
		return
	}
	s.Show(c, http.StatusOK, name, site.Page{Title: "Settings: " + b.Model.Title(), Model: b, Tab: "settings",
		Framed: "rail", Body: body})
}

// to is the address of a state.
func (v *settingsView) to(s *scene.Scene, more ...string) link {
	q := v.query(s, more...)
	return link{v.path + q, v.path + "/board" + q}
}

func (v *settingsView) body() settingsBody {
	n, mode := v.b.Net, &v.a.Mode
	body := settingsBody{View: "drawing", Chosen: v.a, Reset: v.path + v.query(v.found),
		ResetBoard: v.path + "/board" + v.query(v.found), State: strings.TrimPrefix(v.query(v.now), "?"),
		Changed: v.query(v.now) != v.query(v.found),
		Card:    v.b.Link("guide/card/card", ""), Matrix: v.b.Link("settings/matrix", "")}
	body.Groups, body.Lacking = modeGroups(v.b, mode.ID)
	body.LacksChosen = slices.ContainsFunc(body.Lacking, func(t modeTab) bool { return t.Chosen })
	show := drawing.Show{State: v.now.State, Mark: map[string]string{}, Doing: map[string]string{},
		Way: map[plumbing.LinkID]string{}, Act: v.act,
		Title: "Schematic of " + v.b.Model.Title() + ", " + v.b.Words().Tell(mode.Name)}
	v.handles(&body)
	v.switches(&body)
	if mode.LeftOut.IsZero() {
		v.faults(&body)
		v.picture(&body, &show)
		v.clauses(&body, &show)
		v.turns(&body)
		body.Danger = setting.Dangerous(mode, setting.Judge(n, mode, v.now.State))
		if !v.a.OK && v.a.Kept == nil {
			base := state.Normal(n)
			if e := setting.ForMode(v.b.Plan, setting.Everyday); e != nil && e.OK {
				base = e.State
			}
			mends, err := setting.Remedies(v.ctx, n, mode, base)
			if err != nil {
				body.Trouble = site.Words(err)
			}
			for _, d := range mends {
				body.Remedies = append(body.Remedies, v.b.Words().Tell(d.Said(n)))
			}
		}
	}
	body.rail(v)
	body.Only, body.Board = v.pane, v.here()
	drawn, err := site.Draw(v.ctx, v.b, &show)
	if err != nil {
		body.Trouble = site.Words(err)
		return body
	}
	drawn.Again, drawn.Into = body.Board, "#board"
	body.Drawn = drawn
	return body
}

// here is the address of the board as it is, with the proof or fault that is shown.
func (v *settingsView) here() string {
	var more []string
	if v.why > 0 {
		more = append(more, "why="+strconv.Itoa(v.why))
	}
	if v.fault > 0 {
		more = append(more, "fault="+strconv.Itoa(v.fault))
	}
	return v.to(v.now, more...).Board
}

// Lacks reports whether a pane is left empty, to be asked for when it is shown.
func (body settingsBody) Lacks(pane string) bool {
	return body.Only != "" && body.Only != pane && body.Pane != pane
}

// rail says what panes the rail has, and which is shown at first.
func (body *settingsBody) rail(v *settingsView) {
	if same := setting.ForMode(v.b.Plan, v.a.SameAs); same != nil && v.a.SameAs != "" {
		body.Same = v.b.Words().Tell(same.Mode.Name)
	}
	switch {
	case !v.a.Has():
	case len(body.Verdict) > 0:
		body.Met = ": goal not met"
	default:
		body.Met = ": goal met"
	}
	now := "Now"
	if body.Stays != nil {
		now = "Stays"
	}
	body.Tabs = []site.Pane{{ID: "use", Name: "Use"}, {ID: "handles", Name: "Handles"}, {ID: "taps", Name: "Taps"},
		{ID: "now", Name: now}}
	if body.Clauses != nil {
		body.Tabs = append(body.Tabs, site.Pane{ID: "why", Name: "Why", Count: len(body.Clauses)})
	}
	if body.Faults != nil {
		body.Tabs = append(body.Tabs, site.Pane{ID: "whatif", Name: "What if", Count: len(body.Faults)})
	}
	switch {
	case body.Why != nil:
		body.Pane = "why"
	case body.Fault != nil:
		body.Pane = "whatif"
	}
}

// picture draws and tells what goes on in the present state.
func (v *settingsView) picture(body *settingsBody, show *drawing.Show) {
	n, words := v.b.Net, v.b.Words()
	p, err := scene.Observe(v.ctx, v.now, v.b.Plan, v.b.House)
	if err != nil {
		body.Trouble = site.Words(err)
	}
	body.Verdict = words.TellAll(setting.Breaches(&v.a.Mode, p.Broken))
	if slices.Equal(v.now.State.Handles, v.a.State.Handles) {
		body.Best = words.TellAll(v.a.Wrong(n))
	}
	for _, br := range p.Broken {
		show.Mark[br.Clause.Target.ID] = "breach"
	}
	for node, open := range v.now.Open {
		if open {
			show.Doing[n.Nodes[node].Part.ID] = "open"
		}
	}
	for node := range v.now.Joined {
		show.Doing[n.Nodes[node].Part.ID] = "joined"
	}
	show.Wet = p.Wet
	if p.Flow != nil {
		v.flows(p, body, show)
	}
	if p.Left == nil {
		return
	}
	body.Side = v.full(p, show)
	body.Total = quantity.Both(p.Left.Total(), v.b.Sys())
	for _, k := range p.Keeps {
		body.Verdict = append(body.Verdict, words.Tell(fact.Of("setting.keeps.sentence", k.Part, k.Stays)))
	}
	v.stays(p, body)
}

// flows tells and draws what flows.
func (v *settingsView) flows(p *scene.Observation, body *settingsBody, show *drawing.Show) {
	n, sys := v.b.Net, v.b.Sys()
	for _, g := range scene.Goings(v.now, p) {
		row := goingRow{Part: g.Part, What: v.b.Words().Tell(g.What)}
		if g.Flow > 0 {
			row.Flow = quantity.About(g.Flow, sys)
		}
		body.Going = append(body.Going, row)
	}
	show.Flow, show.Reads = map[plumbing.LinkID]float64{}, map[string][]string{}
	for i := range n.AllLinks() {
		if q := float64(p.Flow.Flow[i]); q > 0.02 || q < -0.02 {
			show.Flow[i] = q
		}
	}
	sums := map[string]quantity.LitrePerMinute{}
	for node, q := range p.Flow.Out {
		if n.Nodes[node].Part.Kind.Info().Target {
			sums[n.Nodes[node].Part.ID] += q
		}
	}
	for id, q := range sums {
		figure, unit, _ := strings.Cut(quantity.About(q, sys), "\u00a0")
		show.Reads[id] = []string{figure, unit}
	}
	for id, state := range p.Flow.Pumps {
		show.Doing[id] = state.String()
	}
}

// full draws where water stays, on the schematic and from the side.
func (v *settingsView) full(p *scene.Observation, show *drawing.Show) template.HTML {
	n := v.b.Net
	show.Full = map[plumbing.LinkID]float64{}
	holds := map[plumbing.LinkID]quantity.Litre{}
	var pieces []drawing.Stay
	for _, piece := range p.Left.Pieces {
		if piece.Part != nil {
			if piece.Share() > 0.02 && show.Mark[piece.Part.ID] == "" && piece.Stays() > 0.002 {
				show.Mark[piece.Part.ID] = "stays"
			}
			continue
		}
		show.Full[piece.Link] += float64(piece.Stays())
		holds[piece.Link] += piece.Holds()
		pieces = append(pieces, drawing.Stay{Line: piece.ID(n), Piece: piece.From, Share: piece.Share()})
	}
	for li, h := range holds {
		show.Full[li] /= float64(h)
	}
	return template.HTML(drawing.NewLayout(v.b.Model).Side("", pieces...)) // drawn by us, texts escaped
}

// stays lists what stays, what would change that, and how it is off level.
func (v *settingsView) stays(p *scene.Observation, body *settingsBody) {
	n, sys, words := v.b.Net, v.b.Sys(), v.b.Words()
	for _, s := range scene.Stands(v.now, p) {
		body.Stands = append(body.Stands, newStandRow(s, words))
	}
	for _, s := range scene.Stays(n, p) {
		body.Stays = append(body.Stays, stayRow{Stay: s,
			Name: words.Tell(fact.Of("it", s.Where)), Why: words.Tell(fact.Of("it", s.Why)),
			Much: quantity.Both(s.Stays, sys), Full: fmt.Sprintf("%.0f %%", s.Share*100)})
	}
	for _, h := range scene.Helps(v.now, p) {
		i := n.HandleOf(h.Part.ID)
		next := *v.now
		next.State = next.State.With(i, n.Handles[i].Index(h.Position))
		body.Helps = append(body.Helps,
			helpRow{h, words.Position(h.Part, h.Position), quantity.Both(h.Less, sys), v.to(&next)})
	}
}

func newStandRow(s scene.Stand, p *words.Printer) standRow {
	row := standRow{
		Words: site.UpperFirst(p.Tell(s.Said())),
		Total: p.Tell(fact.Of("it.both", s.Total)),
		Least: s.Least,
	}
	for i, c := range s.Changes {
		if i == 3 {
			row.Changes += " and more"
			break
		}
		if i > 0 {
			row.Changes += "; "
		}
		id := "stand.more"
		if c.Stays < 0 {
			c.Stays, id = -c.Stays, "stand.less"
		}
		row.Changes += p.Tell(fact.Of(id, c.Stays, c.Where))
	}
	return row
}

// handles lists the handles as they stand.
func (v *settingsView) handles(body *settingsBody) {
	n := v.b.Net
	for i, h := range n.AllHandles() {
		next := v.turned(i)
		row := handleRow{Part: h.Part, Position: h.Positions[v.now.State.Position(i)],
			Differs: v.now.State.Handles[i] != v.found.State.Handles[i],
			Either:  slices.Contains(v.a.Either, i), link: v.to(next),
			Next: v.b.Words().Position(h.Part, h.Positions[next.State.Position(i)])}
		if _, fixed := v.a.Mode.Fixed[i]; fixed {
			body.Shut = append(body.Shut, row)
		} else {
			body.Drives = append(body.Drives, row)
		}
	}
}

// switches lists outlets, pumps and ports with the ways they can stand.
func (v *settingsView) switches(body *settingsBody) {
	n := v.b.Net
	for _, p := range n.PartsOf(plumbing.RoleOutlet, plumbing.RoleMachine) {
		row := switchRow{Part: p}
		for _, sides := range choices(n, p) {
			row.Ways = append(row.Ways, way{choiceWords(sides), slices.Equal(sides, v.sidesOpen(p)),
				v.to(v.opened(p, sides...))})
		}
		body.Outlets = append(body.Outlets, row)
	}
	for i, p := range n.Pumps {
		id := plumbing.PumpID(i)
		on := v.now.Pumps.Has(id)
		body.Pumps = append(body.Pumps, switchRow{p, []way{{"off", !on, v.to(v.pumped(id, false))},
			{"on", on, v.to(v.pumped(id, true))}}})
	}
	for i, node := range n.AllNodes() {
		kinds := v.joints(i)
		if kinds == nil {
			continue
		}
		row := switchRow{Part: node.Part}
		for _, k := range kinds {
			row.Ways = append(row.Ways, way{jointWords[k], v.now.Joined[i].Kind == k, v.to(v.joined(i, k))})
		}
		body.Ports = append(body.Ports, row)
	}
}

// jointWords tell what is at a port, in a few words.
var jointWords = map[state.ConnectionKind]string{
	state.Capped: "cap on", state.Supply: "hose, tap open", state.Container: "in the jug",
	state.HandPump: "hand pump on", state.Compressed: "air on", state.OpenToAir: "open to the air",
}

// act makes a part's symbol turn its handle, switch its pump, open its outlet.
func (v *settingsView) act(p *plumbing.Part) drawing.Action {
	n := v.b.Net
	next, verb := (*scene.Scene)(nil), ""
	switch h := n.HandleOf(p.ID); {
	case h >= 0:
		next, verb = v.turned(h), "Turn"
	case n.PumpOf(p) != plumbing.None:
		pump := n.PumpOf(p)
		next, verb = v.pumped(pump, !v.now.Pumps.Has(pump)), "Switch"
	case p.Kind.Info().Target:
		ways := choices(n, p)
		at := slices.IndexFunc(ways, func(sides []string) bool { return slices.Equal(sides, v.sidesOpen(p)) })
		sides := ways[(at+1)%len(ways)]
		next, verb = v.opened(p, sides...), "Set to "+choiceWords(sides)
	default:
		mouth := n.Node(p.ID + ".mouth")
		if mouth == plumbing.None {
			return drawing.Action{}
		}
		kinds := v.joints(mouth)
		if kinds == nil {
			return drawing.Action{}
		}
		k := kinds[(slices.Index(kinds, v.now.Joined[mouth].Kind)+1)%len(kinds)]
		next, verb = v.joined(mouth, k), "Set to "+jointWords[k]
	}
	to := v.to(next)
	return drawing.Action{Verb: verb,
		Attrs: fmt.Sprintf(`id="turn-%s" href="%s" hx-get="board"`, template.HTMLEscapeString(p.ID),
			template.HTMLEscapeString(to.Href))}
}

// clauses tells for each condition of the goal whether it holds now, and by
// which way, or what keeps it apart. Those that read the same are told once.
func (v *settingsView) clauses(body *settingsBody, show *drawing.Show) {
	n, mode := v.now.Net, &v.a.Mode
	set := v.now.State
	seen := map[string]bool{}
	for i, p := range setting.Prove(n, mode, set) {
		c := &p.Clause
		row := clauseRow{
			Words:  site.UpperFirst(v.b.Words().Tell(c.Said(mode.Fluid))),
			Holds:  p.Holds,
			Chosen: i+1 == v.why,
			link:   v.to(v.now, "why="+strconv.Itoa(i+1)),
		}
		switch {
		case p.Holds == c.Must: // it is reached
			row.Way = "by way of " + strings.Join(partNames(flow.Parts(n, p.Start, p.Path)), " → ")
		case len(p.Cut) == 0:
			row.Way = "no line leads there"
		default:
			row.Way = "kept apart by " + strings.Join(cutNames(n, p.Cut), ", ")
		}
		if c.Must && !p.Holds {
			if remedy := cutNames(n, flow.Remedy(n, set, c.Query(), c.To[0])); len(remedy) > 0 {
				row.Remedy = "It would get there with these open: " + strings.Join(remedy, ", ") + "."
			}
		}
		if key := fmt.Sprint(row.Words, row.Holds, row.Way); !row.Chosen && seen[key] {
			continue
		} else {
			seen[key] = true
		}
		if row.Chosen {
			for _, li := range p.Path {
				show.Way[li] = "path"
			}
			for _, li := range p.Cut {
				show.Mark[n.Links[li].Part.ID] = "cut"
			}
			show.Mark[c.Target.ID] = "chosen"
			chosen := row
			body.Why = &chosen
		}
		body.Clauses = append(body.Clauses, row)
	}
}

func partNames(parts []*plumbing.Part) []string {
	var names []string
	for _, p := range parts {
		if !p.Kind.Info().Mere {
			names = append(names, p.Name)
		}
	}
	return names
}

// cutNames names the parts of some passages, each once.
func cutNames(n *plumbing.Network, links []plumbing.LinkID) []string {
	var names []string
	for _, li := range links {
		if p := n.Links[li].Part; p != nil && !slices.Contains(names, p.Name) {
			names = append(names, p.Name)
		}
	}
	return names
}

// inTurn is the found state as it stands in a turn, with an outlet open that it
// serves.
func (v *settingsView) inTurn(t *setting.Turn) state.State {
	s := t.State
	for i := range t.Meets {
		if c := &t.Meets[i]; c.Aim == setting.Served {
			s.Open = state.Sides(c.To[0])
			break
		}
	}
	return s
}

// turns lists the settings of a sequence with what each turns and does.
func (v *settingsView) turns(body *settingsBody) {
	n := v.b.Net
	before := state.Normal(n)
	if e := setting.ForMode(v.b.Plan, setting.Everyday); e.Has() {
		before = e.State
	}
	for i := range v.a.Turns {
		t := &v.a.Turns[i]
		row := turnRow{Number: i + 1, Does: v.b.Words().Tell(t.Said(n, &v.a.Mode)), link: v.to(v.with(v.inTurn(t)))}
		row.Chosen = slices.Equal(v.now.State.Handles, t.State.Handles) &&
			(t.Acts == nil || v.now.State.Pumps == t.State.Pumps)
		for h, hd := range n.AllHandles() {
			if p := t.State.Position(h); p != before.Position(h) {
				row.Turned = append(row.Turned, hd.Part.Name+" "+v.b.Words().Position(hd.Part, hd.Positions[p]))
			}
		}
		for _, b := range v.b.Words().Together(t.Acts) {
			row.Turned = append(row.Turned, b.Names()+": "+b.What)
		}
		body.Turns = append(body.Turns, row)
		before = t.State
	}
}

// faults lists what one thing wrong leads to, and puts the one that is shown
// into the picture.
func (v *settingsView) faults(body *settingsBody) {
	if !v.a.OK && !(v.a.Mode.Drains && v.a.Has()) {
		return
	}
	list, err := v.b.Faults(v.ctx, v.a)
	if err != nil {
		body.Trouble = site.Words(err)
	}
	for i, e := range list {
		f := e.Faults[0]
		row := faultRow{Entry: e, What: v.b.Words().Tell(f.Said), Told: v.b.Words().Effects(v.b.Net, e.Effects),
			Chosen: i+1 == v.fault, link: v.to(v.with(f.In(v.found.State)), "fault="+strconv.Itoa(i+1))}
		if row.Chosen {
			v.now.Net = f.Network(v.b.Net)
			body.Fault = &row
		}
		body.Faults = append(body.Faults, row)
	}
}

// modeGroup is the modes of one purpose.
type modeGroup struct {
	Name  setting.Group
	Modes []modeTab
}

type modeTab struct {
	ID, Name, Same, Why string
	link
	OK, Best, Chosen bool // Best: no setting meets the goal, but there is a best one
	Turns            bool // several settings do it, one after the other
}

// modeGroups lists the ways of use that a model has by what they are for, and
// those that it lacks.
func modeGroups(b *site.Computed, chosen string) (list []modeGroup, lacking []modeTab) {
	for _, g := range setting.Groups() {
		group := modeGroup{Name: g}
		for _, a := range b.Plan {
			if a.Mode.Measure || a.Mode.Group != g {
				continue
			}
			q := "mode=" + url.QueryEscape(a.Mode.ID)
			t := modeTab{ID: a.Mode.ID, Name: b.Words().Tell(a.Mode.Name),
				link: link{b.Link("settings", q), b.Link("settings/board", q)}, OK: a.OK, Best: !a.OK && a.Has(),
				Turns: !a.OK && a.Turns != nil, Chosen: a.Mode.ID == chosen, Why: b.Words().Tell(a.Why)}
			if same := setting.ForMode(b.Plan, a.SameAs); same != nil && a.SameAs != "" {
				t.Same = b.Words().Tell(same.Mode.Name)
			}
			if !t.OK && !t.Best {
				lacking = append(lacking, t)
				continue
			}
			group.Modes = append(group.Modes, t)
		}
		if group.Modes != nil {
			list = append(list, group)
		}
	}
	return list, lacking
}
