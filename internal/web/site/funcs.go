package site

import (
	"fmt"
	"html/template"
	"slices"
	"strings"
	"time"

	"coldtap/internal/core/plumbing"
	"coldtap/internal/core/quantity"
	"coldtap/internal/core/state"
	"coldtap/internal/core/words"
	"coldtap/internal/drawing"
)

// tab is one of a model's views.
type tab struct{ Tab, View, Name string }

var funcs = template.FuncMap{
	"tabs": func() []tab {
		return []tab{{"system", "", "System"}, {"layout", "layout", "Layout"}, {"settings", "settings", "Settings"},
			{"amounts", "amounts", "Amounts"},
			{"procedures", "procedures", "Procedures"}, {"guide", "guide", "Guide"},
			{"review", "review", "Review"}, {"trials", "trials", "Trials"},
			{"drills", "drills", "Drills"}}
	},
	"both":     func(v quantity.Litre, sys quantity.System) string { return quantity.Both(v, sys) },
	"neat":     func(v quantity.Litre, sys quantity.System) string { return quantity.Neat(v, sys) },
	"tell":     Tell,
	"missing":  missing,
	"place":    words.English(quantity.US).Place,
	"stands":   words.English(quantity.US).Position,
	"together": func(sys quantity.System, acts []state.Act) []words.Beside { return words.English(sys).Together(acts) },
	"tied":     func(n *plumbing.Network) bool { return len(n.PartsOf(plumbing.RoleSelector)) > 0 },
	"sides":    sideNames,
	"vehicles": func() []string { return plumbing.VehicleKinds },
	"handle": func(p *plumbing.Part, position string) template.HTML {
		return template.HTML(drawing.Handle(p, position)) // drawn by us, texts escaped
	},
	"fieldname":    words.English(quantity.US).Field,
	"dict":         dict,
	"list":         arrows,
	"among":        func(value, list string) bool { return slices.Contains(strings.Split(list, ","), value) },
	"pc":           func(share float64) string { return fmt.Sprintf("%.1f", share*100) },
	"quantity":     quantityOf,
	"quantityboth": quantityBoth,
	"split":        strings.Fields,
	"add":          func(a, b int) int { return a + b },
	"used":         usedRules,
	"minutes":      func(from, to time.Time) string { return words.English(quantity.US).Duration(to.Sub(from)) },
	"strength":     func(v quantity.MgPerLitre) string { return quantity.Show(v, quantity.SI) },
	"gallons":      func(v quantity.Litre) string { return fmt.Sprintf("%.3f", v/quantity.USGallon) },
	"kindname":     func(p *plumbing.Part) string { return p.Kind.Info().Name },
}

// dict names the values that a template hands to another.
func dict(pairs ...any) map[string]any {
	m := map[string]any{}
	for i := 0; i+1 < len(pairs); i += 2 {
		m[fmt.Sprint(pairs[i])] = pairs[i+1]
	}
	return m
}

// arrow is a button that moves a symbol by one step.
type arrow struct{ Sign, X, Y, Words string }

func arrows(list ...string) []arrow {
	var out []arrow
	for i := 0; i+3 < len(list); i += 4 {
		out = append(out, arrow{list[i], list[i+1], list[i+2], list[i+3]})
	}
	return out
}
