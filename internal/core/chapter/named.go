package chapter

import (
	"slices"
	"strconv"
	"strings"

	"coldtap/internal/core/amount"
	"coldtap/internal/core/fact"
	"coldtap/internal/core/figure"
	"coldtap/internal/core/house"
	"coldtap/internal/core/plumbing"
	"coldtap/internal/core/setting"
)

// Named is what the figure of an id is called; nothing for one that is no amount a reader asks for.
func (in *Inputs) Named(id string) fact.Fact {
	path := strings.Split(id, "/")
	switch path[0] {
	case "antifreeze", "weakest":
		return in.namedAntifreeze(path)
	case "dose":
		return in.namedDose(path)
	case "time":
		for _, t := range in.Report.Times {
			if "time/"+t.ID == id {
				return t.Title
			}
		}
	case "flush":
		if len(path) == 3 {
			return fact.Of("named.flush."+path[2], fact.Word("flush."+path[1]))
		}
	case "level":
		return in.namedLevel(path)
	case "loads", "descale":
		if p := in.Net.Model.Part(path[1]); p != nil {
			return fact.Of("named."+path[0], p)
		}
	case "content", "stays", "batch", "soak", "sanitizing", "weight", "air", "keep-fresh":
		return fact.Of("named." + strings.ReplaceAll(id, "/", "."))
	}
	return fact.Fact{}
}

// namedAntifreeze is antifreeze/<way>/<state of the lines>, or what belongs to it.
func (in *Inputs) namedAntifreeze(path []string) fact.Fact {
	if len(path) < 3 {
		return fact.Fact{}
	}
	way := fact.Of("winter.tank")
	if a := setting.ForMode(in.Plan, path[1]); a != nil {
		way = a.Mode.Name
	}
	id := "named." + path[0]
	if len(path) == 4 {
		id += "." + path[3]
	}
	return fact.Of(id, way, fact.Word("lines."+path[2]))
}

// namedDose is dose/<body>/<what>, of one tank where that stands behind it.
func (in *Inputs) namedDose(path []string) fact.Fact {
	if len(path) < 3 {
		return fact.Fact{}
	}
	if len(path) == 4 { // of one of several tanks
		tank := in.Net.Model.Part(path[3])
		return fact.If(tank != nil, fact.Of("named.dose."+path[2], tank))
	}
	for i := range in.Report.Doses {
		if d := &in.Report.Doses[i]; len(d.Tanks) > 0 && d.Tanks[0].Tank.ID == path[1] {
			if len(d.Tanks) > 1 {
				return fact.Of("named.dose."+path[2], fact.Of("named.together", tanksOf(d)))
			}
			return fact.Of("named.dose."+path[2], d.Tanks[0].Tank)
		}
	}
	return fact.Fact{}
}

func tanksOf(d *amount.DosePlan) (list []*plumbing.Part) {
	for _, t := range d.Tanks {
		list = append(list, t.Tank)
	}
	return list
}

// namedLevel is level/<tank>/<probe>, or its weight or what is left of the carrying capacity.
func (in *Inputs) namedLevel(path []string) fact.Fact {
	i, err := strconv.Atoi(path[min(2, len(path)-1)])
	if err != nil {
		return fact.Fact{}
	}
	for _, l := range in.Report.Levels {
		if l.Tank.ID != path[1] {
			continue
		}
		if i--; i >= 0 {
			continue
		}
		id := "named.level"
		if len(path) == 4 {
			id += "." + path[3]
		}
		return fact.Of(id, l.Tank, l.Reading)
	}
	return fact.Fact{}
}

// value is a figure of the report in the catalogue of words; nothing where it is not known.
func (in *Inputs) value(id string) fact.Fact {
	if f := in.figure(id); f != nil && f.Value != nil {
		return f.Value.Said()
	}
	return fact.Fact{}
}

// figure finds a figure of the report, and notes that it is read; nil where there is none.
func (in *Inputs) figure(id string) *figure.Figure {
	if in.Report == nil {
		return nil
	}
	for i := range in.Report.Figures {
		if in.Report.Figures[i].ID == id {
			in.Net.Note(figure.Input(id))
			return &in.Report.Figures[i]
		}
	}
	return nil
}

// Figure is a figure as a reader is told it.
type Figure struct {
	ID    string // in the report; of a part's own figure "part/" and its id
	Name  fact.Fact
	Value fact.Fact
	Note  fact.Fact
}

// FigureTable is the figures of a model that an edition tells.
type FigureTable struct{ Rows []Figure }

func (f FigureTable) empty() bool { return len(f.Rows) == 0 }

// told are the figures that an owner has need of, by how their ids begin and end.
var told = []struct{ begins, ends string }{
	{"content", ""}, {"dose/", "/measured"}, {"dose/", "/final"}, {"soak", ""}, {"flush/", "/refills"}, {"flush/", "/water"},
	{"antifreeze/", "/blown"}, {"antifreeze/", "/drained"}, {"time/", ""}, {"loads/", ""}, {"keep-fresh", ""},
	{"descale/", ""}, {"weight", ""}, {"weight/left", ""}, {"air", ""},
}

// figures are the parts' own and those of the report that an owner has need of; a dealer has every way of flushing.
func figures(in Inputs) (t FigureTable) {
	for _, p := range in.Net.PartsOf(plumbing.RoleTank, plumbing.RoleHeater, plumbing.RoleWaste) {
		if v := plumbing.Field(in.Net, &p.Data.Capacity); !v.IsZero() {
			t.Rows = append(t.Rows, Figure{"part/" + p.ID, fact.Of("named.holds", p), fact.Of("it.both", v.Value()), fact.Fact{}})
		}
	}
	if in.Report == nil {
		return t
	}
	seen := map[string]bool{}
	for _, x := range told {
		for i := range in.Report.Figures {
			id := in.Report.Figures[i].ID
			exact := x.begins == id || strings.HasSuffix(x.begins, "/") && strings.HasPrefix(id, x.begins)
			if x.ends == "/measured" && in.ofSeveral(id) { // each tank of a body has its own measure
				x.ends = ""
			}
			other := strings.HasPrefix(id, "flush/") && !in.houseWay(id) && in.Edition != Dealer
			if !exact || !strings.HasSuffix(id, x.ends) || seen[id] || other {
				continue
			}
			seen[id] = true
			if row := in.row(id); !row.Name.IsZero() {
				t.Rows = append(t.Rows, row)
			}
		}
	}
	return t
}

// ofSeveral reports whether a figure is the measure of bleach for one of several tanks that are one body.
func (in *Inputs) ofSeveral(id string) bool {
	path := strings.Split(id, "/")
	if len(path) != 4 || path[2] != "measured" {
		return false
	}
	for i := range in.Report.Doses {
		if d := &in.Report.Doses[i]; len(d.Tanks) > 1 && d.Tanks[0].Tank.ID == path[1] {
			return true
		}
	}
	return false
}

// toldFigure reports whether a figure is one of those that are told.
func toldFigure(id string) bool {
	return slices.ContainsFunc(told, func(x struct{ begins, ends string }) bool {
		exact := x.begins == id || strings.HasSuffix(x.begins, "/") && strings.HasPrefix(id, x.begins)
		return exact && strings.HasSuffix(id, x.ends) && !strings.HasPrefix(id, "antifreeze/tank/")
	})
}

// row is a figure as it is told, with what belongs to it.
func (in *Inputs) row(id string) Figure {
	f := in.figure(id)
	row := Figure{ID: id, Name: in.Named(id), Value: in.said(f)}
	if jugs := in.figure(id + "/jugs"); jugs != nil {
		if n, ok := jugs.Value.(figure.Count); ok {
			row.Note = fact.Of("jugs.of", fact.Of("jugs.count", int(n)), house.Jug.Of(in.House))
		}
	}
	if n, ok := in.rounds(id); ok && f.Value != nil && n != int(number(f.Value).low) {
		row.Note = fact.Of("figure.by-run", f.Value.Said())
	}
	for i := range in.Report.Doses {
		d := &in.Report.Doses[i]
		if len(d.Tanks) > 0 && id == "dose/"+d.Tanks[0].Tank.ID+"/measured" {
			row.Note = fact.Of("figure.dose", house.Bleach.Of(in.House), d.Final, house.Target.Of(in.House))
		}
	}
	if o, ok := in.byHand(id); ok { // what stood beside the computed one is not said of it
		row.Note = fact.Of("figure.hand-note", o.Reason, in.computed(f))
	}
	return row
}

// Sheets are how figures were worked out.
type Sheets struct{ Rows []Sheet }

// Sheet is a figure with the lines that it was worked out by.
type Sheet struct {
	ID    string
	Name  fact.Fact
	Value fact.Fact
	Lines []figure.Line
}

func (s Sheets) empty() bool { return len(s.Rows) == 0 }

func sheets(in Inputs) (s Sheets) {
	if in.Report == nil {
		return s
	}
	for i := range in.Report.Figures {
		f := in.figure(in.Report.Figures[i].ID)
		name := in.Named(f.ID)
		if f.Sheet == nil || name.IsZero() || len(f.Sheet.Lines()) == 0 || !toldFigure(f.ID) {
			continue
		}
		s.Rows = append(s.Rows, Sheet{f.ID, name, in.said(f), f.Sheet.Lines()})
	}
	return s
}

// houseWay reports whether a figure of flushing is of the way that the house chose.
func (in *Inputs) houseWay(id string) bool {
	return strings.HasPrefix(id, "flush/"+house.FlushWay.Of(in.House)+"/")
}
