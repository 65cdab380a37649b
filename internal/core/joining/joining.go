// Package joining tells which parts and ports the rows of a list of lines mean, where
// the list names parts as people name them: what is safe to infer is inferred and marked,
// what is not is asked, once for all rows alike.
package joining

import (
	"slices"

	"coldtap/internal/core/edit"
	"coldtap/internal/core/plumbing"
)

// Row is what a row of a list of lines says of what it joins.
type Row struct {
	From, To string        // as they stand
	Side     plumbing.Side // "" where it says none
}

// End is what one end of a row means.
type End struct {
	Part, Port string
	Inferred   bool // the port was not said
}

// Joint is what a row means.
type Joint struct {
	Ends         [2]End
	Side         plumbing.Side
	SideInferred bool
	Line         string   // id of the line that it is, where one joins the two parts already
	Asks         []string // ids of the questions that it waits for
	Faults       []Fault
}

// Fault is why a row can't be read.
type Fault struct {
	Code string // "same-part", "crowded", "no-port", "empty"
	End  int    // 0 or 1
	Part string // name
	Rows []int  // that crowd it, by index
	Most int    // lines that it takes
	Have int    // lines that it has already

	Said  string   // port that was named
	Ports []string // that there are
}

// Ask says what is asked.
type Ask string

// What may be asked.
const (
	AskKind Ask = "kind" // what kind of part a name means
	AskSame Ask = "same" // whether two names mean one part
	AskWay  Ask = "way"  // whether From and To tell which way water runs, for all rows
	AskFlow Ask = "flow" // which way water runs through one part
	AskHot  Ask = "hot"  // which of a heater's lines is the hot one
	AskCom  Ask = "com"  // which line of a 3-way valve goes to its common port
	AskSide Ask = "side" // whether a line to a tap is cold or hot
	AskPort Ask = "port" // which port of a tank a line comes to
)

// Question is asked about a part, or about all rows.
type Question struct {
	ID      string
	What    Ask
	Part    string // name; "" for all rows
	Kind    plumbing.Kind
	Other   string // the other name, where two are compared
	Options []Option
	Rows    []int // that wait for it, by index
}

// Option is an answer: a kind, "yes", "no", or the name of what a line comes from.
type Option struct {
	Value string
	Names []string // of the parts at the ends, in the order that the answer means
}

// Plan is what a list means.
type Plan struct {
	Parts     []plumbing.Part // new ones, with what was assumed of them
	Joints    []Joint         // by row
	Questions []Question
}

// Read tells what the rows of a list mean in a model. Directed says that the heads of
// the list tell where water comes from and goes to; answers are by question.
func Read(m *plumbing.Model, rows []Row, directed bool, answers map[string]string) *Plan {
	r := &reader{model: m, rows: rows, directed: directed, answers: answers, joints: make([]Joint, len(rows)),
		parts: map[string]*part{}}
	r.name()
	r.existing()
	r.way()
	r.sides()
	var through []*part // what water passes one way waits for its neighbours
	for _, p := range r.order {
		if p.told && slices.Contains(directedKinds, p.kind) {
			through = append(through, p)
		} else {
			r.allot(p)
		}
	}
	r.oneWays(through)
	r.settleSides()
	return r.plan()
}

// part is a part that rows name.
type part struct {
	key  string // the words of its name
	name string
	id   string
	kind plumbing.Kind
	typ  string
	told bool // its kind is known
	old  *plumbing.Part
	ends []at // the rows that name it
	used map[string]bool
}

// at is an end of a row.
type at struct{ row, end int }

// said is what one end of a row says.
type end struct {
	part  *part
	ports []string // that it may mean, none where it names no port
}

type reader struct {
	model     *plumbing.Model
	rows      []Row
	directed  bool
	answers   map[string]string
	joints    []Joint
	parts     map[string]*part
	order     []*part
	ends      [][2]end
	questions []Question
	flows     bool  // From and To tell which way water runs
	spread    []int // rows whose side was told by their neighbours
}

func (r *reader) ask(q Question, rows ...int) {
	for _, row := range rows {
		if !slices.Contains(r.joints[row].Asks, q.ID) {
			r.joints[row].Asks = append(r.joints[row].Asks, q.ID)
		}
	}
	if i := slices.IndexFunc(r.questions, func(o Question) bool { return o.ID == q.ID }); i >= 0 {
		for _, row := range rows {
			if !slices.Contains(r.questions[i].Rows, row) {
				r.questions[i].Rows = append(r.questions[i].Rows, row)
			}
		}
		return
	}
	q.Rows = slices.Clone(rows)
	r.questions = append(r.questions, q)
}

// rowsOf lists the rows that name a part.
func (p *part) rows() (list []int) {
	for _, e := range p.ends {
		if !slices.Contains(list, e.row) {
			list = append(list, e.row)
		}
	}
	return list
}

// other is the part at the other end of a row.
func (r *reader) other(e at) *part { return r.ends[e.row][1-e.end].part }

// ports are the ports that a part of a kind has for lines.
func (p *part) ports() []string {
	of := p.old
	if of == nil {
		of = &plumbing.Part{Kind: p.kind}
		if p.kind == plumbing.Manifold {
			of.Data.Ways = max(2, len(p.ends)-1)
		}
	}
	var list []string
	for _, port := range of.Ports() {
		if !port.Seat() {
			list = append(list, port.Name)
		}
	}
	return list
}

// plan gathers what was found out.
func (r *reader) plan() *Plan {
	plan := &Plan{Joints: r.joints, Questions: r.questions}
	for _, p := range r.order {
		if p.old != nil || !p.told {
			continue
		}
		np := plumbing.Part{ID: p.id, Kind: p.kind, Name: p.name, Data: edit.Usual(r.model, p.kind)}
		if p.typ != "" && slices.Contains(p.kind.Info().Must, "type") {
			np.Data.Type = p.typ
		}
		if p.kind == plumbing.Manifold {
			np.Data.Ways = max(2, len(p.ends)-1)
		}
		if list := np.Positions(); len(list) > 0 {
			np.Normal = list[0]
			if p.kind == plumbing.Valve && slices.Contains(tokens(p.name), "bypass") {
				np.Normal = "closed"
			}
		}
		np.Assumed = append([]string{"kind"}, assumedData(p.kind)...)
		if np.Normal != "" {
			np.Assumed = append(np.Assumed, "normal")
		}
		slices.Sort(np.Assumed)
		plan.Parts = append(plan.Parts, np)
	}
	return plan
}

// assumedData lists the figures that a new part of a kind must carry and nobody gave.
func assumedData(k plumbing.Kind) (list []string) {
	for _, field := range k.Info().Must {
		if field != "ways" {
			list = append(list, "data."+field)
		}
	}
	return list
}
