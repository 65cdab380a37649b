package golden

import (
	"encoding/json"
	"fmt"
	"math"
	"strings"

	"coldtap/internal/core/amount"
	"coldtap/internal/core/assembly"
	"coldtap/internal/core/house"
	"coldtap/internal/core/plumbing"
	"coldtap/internal/core/quantity"
	"coldtap/internal/core/setting"
)

// Lists writes down what holds for every build: recipes and schools, laws over
// their range, the house's rules, kinds and sizes.
func Lists() string {
	w := &writer{sys: quantity.SI}
	rules := house.Usual(quantity.SI)
	w.recipes(rules)
	w.laws(rules)
	for _, sys := range []quantity.System{quantity.SI, quantity.US} {
		w.head("rules, %s", sys)
		for _, r := range house.Rules() {
			w.row("%s %s: %s, usual %v; %s", r.ID, r.Name, house.Usual(sys).Text(r.ID, sys), r.Schools, bounds(&r, sys))
		}
	}
	w.measures()
	w.kinds()
	return w.String()
}

// bounds are what a rule says to a value far outside of them.
func bounds(r *house.Rule, sys quantity.System) string {
	rules := house.Usual(sys)
	unit := strings.TrimLeft(rules.Text(r.ID, sys), "0123456789.,-– ")
	if _, err := rules.With("golden", map[string]string{r.ID: "90000 " + unit}); err != nil {
		return strings.ReplaceAll(err.Error(), "\u00a0", " ")
	}
	return "no bounds"
}

func (w *writer) recipes(rules house.House) {
	w.head("recipes that go round")
	for _, product := range []quantity.Percent{5.25, 8.25} {
		for _, r := range amount.Scale(amount.Quoted(), product, rules) {
			w.row("%v %%: %s: %.3f mg/L, keep %v; refused %q; %q", product, r.Said(), r.Strength, r.Keep, r.Refused,
				r.Warning)
		}
	}
	w.head("schools of sanitizing")
	for _, s := range amount.Schools() {
		low, high := s.Contact()
		w.row("%s, %v to %v mg/L, %v to %v s, %s: %.2f to %.2f mg·h/L", s.Said(), s.Low, s.High, s.SoakLow, s.SoakHigh,
			s.For(), low, high)
	}
}

func (w *writer) laws(rules house.House) {
	w.head("laws")
	container, bleach := house.Container.Of(rules), house.Bleach.Of(rules)
	for _, v := range []quantity.Litre{0.5, 6, 10, 23, 60} {
		for _, jacket := range []quantity.Millimetre{0, 10, 20, 40} {
			w.row("heater of %v L, %v mm: loses %.4f W/K, cools %.1f s", v, jacket, amount.HeatLoss(nil, v, jacket),
				amount.CoolDown(nil, v, jacket, 60, 40))
		}
		w.row("%v L warms in %.1f s, fills in %.1f s, weighs %.4f kg", v, amount.WarmUp(nil, v, 10, 60, 1.5),
			amount.FillTime(v, 12), amount.Weigh(nil, v))
		count, left := amount.Loads(v, 20)
		w.row("%v L are %d containers, %.3f L left", v, count, left)
		water := container * quantity.Litre(math.Ceil(float64(v/container)))
		line := quantity.Household(amount.Bleach(house.Target.Of(rules), water, bleach), house.Over.Of(rules), quantity.SI)
		w.row("%v L of lines: %s in %.3f L, %.3f mg/L", v, line, water, amount.Strength(line.Litre, water, bleach))
		tank, strength, over := amount.KeepFresh(10*v, 1, 5.25, rules, quantity.US)
		w.row("%v L keep fresh with %s, %.3f mg/L, over %v", 10*v, tank, strength, over)
	}
	for _, edge := range [][2]quantity.Celsius{{40, 40}, {40, 60}, {60, 20}, {60, 20.01}, {60, 15}} {
		w.row("cools from %v to %v °C: %.1f s", edge[0], edge[1], amount.CoolDown(nil, 10, 20, edge[0], edge[1]))
	}
	for temp := quantity.Celsius(-60); temp <= 0; temp += 5 {
		w.row("share that keeps from bursting at %v °C: %.4f", temp, amount.BurstShare(nil, temp))
	}
	for share := 0.0; share <= 1; share += 0.1 {
		w.row("share %.1f freezes at %s, bursts at %s", share, amount.FreezePoint(nil, share).Said(),
			amount.BurstPoint(nil, share).Said())
	}
	for _, f := range [][4]float64{{50, 0, 4, 0.5}, {50, 1, 1, 0.2}, {50, 1, 0.5, 0.2}, {50, 1, 1.5, 0}, {50, 1, 2, 1},
		{2, 1, 2, 0.5}, {50, 0.5, 1, 0.08}} {
		c0, cs, limit := quantity.MgPerLitre(f[0]), quantity.MgPerLitre(f[1]), quantity.MgPerLitre(f[2])
		w.row("from %v over %v to %v mg/L, r %v: %d refills, %.4f volumes", f[0], f[1], f[2], f[3],
			amount.Refills(c0, cs, limit, f[3]), amount.Through(c0, cs, limit))
	}
	for _, run := range []quantity.Second{0, 600, 900, 901, 1800, 4000} {
		w.row("running %v s takes %.1f s", run, amount.Duty(run, rules))
	}
}

// measures are what figures are written as, over the range that occurs.
func (w *writer) measures() {
	w.head("household measures")
	for _, ml := range []float64{0.3, 1, 2.4, 5, 7, 14.8, 20, 31, 59, 118, 240, 500, 1000, 3800} {
		v := quantity.Litre(ml / 1000)
		for _, sys := range []quantity.System{quantity.SI, quantity.US} {
			m := quantity.Household(v, 0.1, sys)
			w.row("%v mL: %s, %.3f mL; %s, %s, %s", ml, m, m.Litre*1000, quantity.Show(v, sys), quantity.Neat(v, sys),
				quantity.About(v, sys))
		}
	}
	w.head("units")
	for _, word := range []string{"mm", "cm", "m", "in", "ft", "yd", "'", "\""} {
		mm, err := quantity.Parse[quantity.Millimetre]("7 " + word)
		w.row("7 %s = %.4f mm %v", word, mm, err)
	}
	for _, word := range []string{"mL", "cL", "dL", "L", "gal", "imp gal", "qt", "pt", "cup", "fl oz", "tbsp", "tsp"} {
		v, err := quantity.Parse[quantity.Litre]("7 " + word)
		w.row("7 %s = %.6f L %v", word, v, err)
	}
	for _, word := range []string{"kPa", "bar", "psi", "mbar", "Pa", "MPa"} {
		v, err := quantity.Parse[quantity.Kilopascal]("7 " + word)
		w.row("7 %s = %.6f kPa %v", word, v, err)
	}
	for _, v := range []float64{0.0004, 0.0123, 0.5, 0.99949, 0.9995, 1, 3.456, 12.34, 99.96, 123.4, 4567} {
		w.row("%v: %s, %s; %s, %s; %s", v, quantity.Show(quantity.Litre(v), quantity.SI),
			quantity.Show(quantity.Litre(v), quantity.US),
			quantity.Show(quantity.Kilopascal(v), quantity.SI), quantity.Show(quantity.Kilopascal(v), quantity.US),
			quantity.Show(quantity.MgPerLitre(v), quantity.SI))
		w.row("    %s, %s; %s, %s; %s", quantity.Show(quantity.Millimetre(v), quantity.SI),
			quantity.Show(quantity.Millimetre(v), quantity.US),
			quantity.Show(quantity.LitrePerMinute(v), quantity.SI),
			quantity.Show(quantity.LitrePerMinute(v), quantity.US),
			quantity.Rough(quantity.Kilogram(v), quantity.US))
	}
}

func (w *writer) kinds() {
	w.head("kinds")
	for _, k := range plumbing.Kinds() {
		w.row("%s %s", k.Kind, k.Name)
		for _, p := range k.Ports {
			w.row("    %+v", p)
		}
		for _, pos := range k.Positions {
			w.row("    %s: %s", pos, w.out().Position(&plumbing.Part{Kind: k.Kind}, pos))
		}
	}
}

// Assemblies writes down every blank, and what every answer of every assembly
// adds to a trailer or, where that has it already, to what comes before it.
func Assemblies() (string, error) {
	w := &writer{}
	for _, units := range []string{"us", "si"} {
		for _, b := range assembly.Blanks() {
			m, err := assembly.Begin(plumbing.Model{ID: "new", Name: "New", Year: 2027, Kind: "trailer", Units: units},
				b.ID)
			if err != nil {
				return "", err
			}
			w.head("%s, %s", b.ID, units)
			w.outline(m, nil)
		}
	}
	before := map[string]string{"tank": "empty", "pump": "tank", "plate": "pump"}
	for _, k := range assembly.Kinds() {
		base, err := ground(before[k.ID])
		if err != nil {
			return "", err
		}
		for _, answers := range choices(&k) {
			done, err := assembly.Add(base, &k, answers)
			if err != nil {
				return "", fmt.Errorf("%s %v: %w", k.ID, answers, err)
			}
			w.head("%s %v: %s", k.ID, answers, done.Said)
			w.outline(done.Model, base)
		}
	}
	return w.String(), nil
}

// ground is what an assembly is added to: the trailer where nothing is named.
func ground(last string) (*plumbing.Model, error) {
	blank := "empty"
	if last == "" {
		blank = "trailer"
	}
	m, err := assembly.Begin(plumbing.Model{ID: "new", Name: "New", Year: 2027, Kind: "trailer", Units: "us"}, blank)
	for _, id := range map[string][]string{"tank": {"tank"}, "pump": {"tank", "pump"}}[last] {
		if err != nil {
			break
		}
		answers := map[string]string{}
		if id == "pump" {
			answers["pickup"] = "port"
		}
		done, added := assembly.Add(m, assembly.ByID(id), answers)
		if err = added; err == nil {
			m = done.Model
		}
	}
	return m, err
}

// choices are no answers at all, and then each answer by itself.
func choices(k *assembly.Kind) []map[string]string {
	list := []map[string]string{nil}
	for _, q := range k.Questions {
		for _, c := range q.Choice {
			list = append(list, map[string]string{q.Name: c.Value})
		}
	}
	return list
}

// rows are the parts and lines as the document has them.
func rows(m *plumbing.Model) []string {
	var list []string
	add := func(v any) {
		b, err := json.Marshal(v)
		if err != nil {
			b = []byte(err.Error())
		}
		list = append(list, string(b))
	}
	for i := range m.Parts {
		add(&m.Parts[i])
	}
	for i := range m.Lines {
		add(&m.Lines[i])
	}
	return list
}

// outline writes the parts and lines of a model that another does not have.
func (w *writer) outline(m, without *plumbing.Model) {
	had := map[string]bool{}
	if without != nil {
		for _, row := range rows(without) {
			had[row] = true
		}
	}
	for _, row := range rows(m) {
		if !had[row] {
			w.row("%s", row)
		}
	}
	n, err := plumbing.NewNetwork(m)
	if err != nil {
		w.row("no network: %v", err)
		return
	}
	for _, mode := range setting.Modes(n) {
		if !mode.LeftOut.IsZero() {
			w.row("  without %s: %s", mode.ID, mode.LeftOut)
		}
	}
}
