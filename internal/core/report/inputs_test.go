package report_test

import (
	"encoding/json"
	"fmt"
	"maps"
	"reflect"
	"regexp"
	"slices"
	"strconv"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"

	"coldtap/internal/core/figure"
	"coldtap/internal/core/house"
	"coldtap/internal/core/plumbing"
	"coldtap/internal/core/quantity"
	"coldtap/internal/core/record"
	"coldtap/internal/core/report"
	"coldtap/internal/core/setting"
	"coldtap/internal/rig"
	"coldtap/internal/sample"
)

// worked is a model with all that is computed of it.
type worked struct {
	plan    []setting.Answer
	figures map[string]figure.Figure
}

func figuresOf(n *plumbing.Network, plan []setting.Answer, rules house.House) map[string]figure.Figure {
	list := map[string]figure.Figure{}
	for _, f := range report.New(n, plan, rules, asked).Figures {
		list[f.ID] = f
	}
	return list
}

// asked looks at an anode, so that there is a figure of it.
var asked = report.Ask{Anode: report.Look{Diameter: 11}}

// joins are marks of parts that decide how a network is joined: they are read
// with the plumbing, not by themselves.
var joins = map[string]bool{"data.check_valve": true, "data.passes_idle": true, "data.engine": true, "data.motor": true,
	"data.above_waterline": true}

// others are texts that a rule can be set to beside what it is.
func others(r house.Rule, h house.House, sys quantity.System) []string {
	return slices.DeleteFunc(append(slices.Clone(r.Schools), ways(h.Text(r.ID, sys), 0.1, 0.3, 0.6, 0.8, 1.2, 1.7, 3,
		10)...), func(text string) bool {
		_, err := h.With("test", map[string]string{r.ID: text})
		return err != nil || text == h.Text(r.ID, sys)
	})
}

func work(t *testing.T, m *plumbing.Model, rules house.House) worked {
	t.Helper()
	n, err := plumbing.NewNetwork(m)
	require.NoError(t, err)
	plan := rig.Plan(t, n.Recorded(&record.Recorder{}))
	return worked{plan, figuresOf(n, plan, rules)}
}

// reads lists all that a figure was computed from, through other figures and
// the positions found for modes.
func (w worked) reads(id string) map[record.Input]bool {
	inputs := map[record.Input]bool{}
	var follow func(list []record.Input)
	follow = func(list []record.Input) {
		for _, in := range list {
			if inputs[in] {
				continue
			}
			inputs[in] = true
			switch in.Kind {
			case record.Figure:
				follow(w.figures[in.Of].Inputs)
			case record.Setting:
				follow(setting.ForMode(w.plan, in.Of).From)
			}
		}
	}
	follow(w.figures[id].Inputs)
	return inputs
}

// differ lists the figures of one that the other has otherwise, or not at all.
func differ(a, b worked) []string {
	var list []string
	for id, f := range a.figures {
		g, ok := b.figures[id]
		if !ok || !reflect.DeepEqual(f.Value, g.Value) || len(f.Missing) != len(g.Missing) {
			list = append(list, id)
		}
	}
	slices.Sort(list)
	return list
}

// ways are other texts for a quantity: its first number by some factors.
func ways(text string, by ...float64) []string {
	main, _, _ := strings.Cut(text, "(")
	at := number.FindStringIndex(main)
	if at == nil {
		return nil
	}
	v, err := strconv.ParseFloat(main[at[0]:at[1]], 64)
	if err != nil {
		return nil
	}
	var list []string
	for _, x := range by {
		list = append(list, main[:at[0]]+strconv.FormatFloat(v*x, 'f', 4, 64)+main[at[1]:])
	}
	return list
}

var number = regexp.MustCompile(`[0-9]+(\.[0-9]+)?`)

// given is what every quantity of a model can do.
type given interface {
	json.Unmarshaler
	fmt.Stringer
	Format() string
}

// likely is a quantity of each kind where none is given.
var likely = map[string]string{
	"volume": "0.4 L", "length": "15 mm", "height": "0.7 m", "pressure": "200 kPa", "flow": "5 L/min",
	"temperature": "-5 °C", "time": "90 s", "power": "2 kW", "mass": "400 kg",
}

// words are fields whose texts are only shown.
var words = []string{"name", "label", "look", "thread", "tool", "material", "colour", "notes", "maker"}

// otherwise calls for every field of a struct, in each way in which it can be
// another, with the field changed.
func otherwise(v reflect.Value, path string, try func(path string)) {
	for i := range v.NumField() {
		f, kind := v.Field(i), v.Type().Field(i)
		tag, _, _ := strings.Cut(kind.Tag.Get("json"), ",")
		if !kind.IsExported() {
			continue
		}
		was := reflect.New(f.Type()).Elem()
		was.Set(f)
		g, isGiven := f.Addr().Interface().(given)
		switch {
		case isGiven:
			texts := ways(g.String(), 0.6, 1.7)
			if g.String() == "" {
				texts = []string{likely[g.Format()]}
			}
			for _, text := range texts {
				if b, _ := json.Marshal(text); text != "" && g.UnmarshalJSON(b) == nil {
					try(path + tag)
				}
				f.Set(was)
			}
		case f.Kind() == reflect.Struct:
			otherwise(f, path+tag+".", try)
		case f.Kind() == reflect.Bool && path == "data.":
			f.SetBool(!f.Bool())
			try(path + tag)
			f.Set(was)
		case slices.Contains(words, tag):
			f.SetString(f.String() + " otherwise")
			try(path + tag)
			f.Set(was)
		}
	}
}

// trial changes a model or the rules in one place and looks at what follows.
type trial struct {
	t     *testing.T
	base  worked
	moved map[[2]string]bool // figure and input that did change it
}

// check holds the figures that changed against what they recorded.
func (x *trial) check(in record.Input, after worked) {
	for _, id := range differ(x.base, after) {
		reads := x.base.reads(id)
		joined := in.Kind == record.Field && joins[in.Field] && reads[record.Input{Kind: record.Plumbing}]
		require.True(x.t, reads[in] || joined, "%s changes with %v, which it has not recorded", id, in)
		x.moved[[2]string{id, fmt.Sprint(in)}] = true
	}
}

// Change every rule of the house, and of the quantities, marks and words of
// models one in some: the figures that change have recorded it. Of what was
// recorded the most changes its figure: the rest are thresholds, roundings and
// limits that do not bind.
func TestFiguresRecordAllThatChangesThem(t *testing.T) {
	models := world(t)
	for _, id := range []string{"pumice-9", "basalt-28"} { // two tanks, joined and not
		n := rig.Network(t, id)
		models[id] = built{n, rig.Plan(t, n)}
	}
	for _, id := range sample.Of(t, 2, slices.Sorted(maps.Keys(models))) {
		b := models[id]
		t.Run(id, func(t *testing.T) {
			t.Parallel()
			sys := b.net.Model.System()
			rules := house.Usual(sys)
			x := &trial{t, work(t, b.net.Model, rules), map[[2]string]bool{}}
			for _, r := range house.Rules() {
				for _, text := range others(r, rules, sys) {
					h, err := rules.With("test", map[string]string{r.ID: text})
					require.NoError(t, err, "%s %s", r.ID, text)
					x.check(record.Input{Kind: record.Rule, Of: r.ID},
						worked{x.base.plan, figuresOf(b.net, x.base.plan, h)})
				}
			}
			x.rules()
			tried := x.fields(b.net.Model, rules)
			t.Log(tried, "fields otherwise")
		})
	}
}

// rules holds that of the rules that are recorded the most change the figure.
func (x *trial) rules() {
	all, idle := 0, 0
	for id, f := range x.base.figures {
		for _, in := range f.Inputs {
			if in.Kind != record.Rule {
				continue
			}
			if all++; !x.moved[[2]string{id, fmt.Sprint(in)}] {
				idle++
			}
		}
	}
	x.t.Logf("%d of %d rules that figures read change them", all-idle, all)
	require.Greater(x.t, all, 40)
	require.Less(x.t, float64(idle), 0.3*float64(all))
}

// oneIn is one of how many fields is tried in the long run.
const oneIn = 8

// fields changes one field after another, and counts them.
func (x *trial) fields(model *plumbing.Model, rules house.House) (tried int) {
	rng, in := sample.Rand(x.t), oneIn
	if !sample.Whole() {
		in *= 4
	}
	m := *model
	m.Parts, m.Lines = slices.Clone(m.Parts), slices.Clone(m.Lines)
	try := func(of string) func(path string) {
		return func(path string) {
			if rng.IntN(in) != 0 {
				return
			}
			n, err := plumbing.NewNetwork(&m)
			if err != nil {
				return
			}
			tried++
			plan := rig.Plan(x.t, n)
			x.check(record.Input{Kind: record.Field, Of: of, Field: path}, worked{plan, figuresOf(n, plan, rules)})
		}
	}
	otherwise(reflect.ValueOf(&m).Elem(), "", try(""))
	for i := range m.Parts {
		otherwise(reflect.ValueOf(&m.Parts[i]).Elem(), "", try(m.Parts[i].ID))
	}
	for i := range m.Lines {
		otherwise(reflect.ValueOf(&m.Lines[i]).Elem(), "", try(m.Lines[i].ID))
	}
	return tried
}
