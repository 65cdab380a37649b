// Package habits makes lists of one camper's lines as different engineers would keep
// them, each with the network that it means, to measure how lists are taken in.
package habits

import (
	"fmt"
	"strings"
)

// Line is a line of the camper, with the ports that it joins.
type Line struct {
	From, To       string // names of the parts
	FromPort, Port string // at From and at To; "*" where all ports are alike
	Side           string
	Inch           string // nominal size
	Length         float64
}

// Parts are the parts by name, each with its kind and type.
var Parts = map[string][2]string{
	"Fresh tank": {"tank", ""}, "Filler": {"gravity-fill", ""}, "Tank vent": {"open-end", ""},
	"Tank overflow": {"open-end", ""}, "Tank drain": {"drain", ""}, "Pick-up hose": {"container-port", ""},
	"Pick-up valve": {"three-way", ""}, "Strainer": {"strainer", ""}, "Water pump": {"pump", ""},
	"Pump check": {"check-valve", ""}, "City inlet": {"city-inlet", ""}, "City tee": {"tee", ""},
	"Tee 1": {"tee", ""}, "Tee 2": {"tee", ""}, "Tee 3": {"tee", ""}, "Tee 4": {"tee", ""}, "Tee 5": {"tee", ""},
	"Tee 6": {"tee", ""}, "Tee 7": {"tee", ""}, "Heater in tee": {"tee", ""}, "Heater out tee": {"tee", ""},
	"Heater inlet shut-off": {"valve", ""}, "Heater outlet shut-off": {"valve", ""}, "Bypass valve": {"valve", ""},
	"Water heater": {"heater", ""}, "Heater drain": {"drain", ""}, "Heater relief valve": {"relief-valve", ""},
	"Hot tee 1": {"tee", ""}, "Hot tee 2": {"tee", ""}, "Hot tee 3": {"tee", ""}, "Hot tee 4": {"tee", ""},
	"Kitchen tap": {"outlet", "kitchen"}, "Basin tap": {"outlet", "basin"}, "Shower": {"outlet", "shower"},
	"Outside shower": {"outlet", "outside-shower"}, "Toilet": {"outlet", "toilet"},
	"Cold low point": {"drain", ""}, "Hot low point": {"drain", ""}, "Canister filter": {"filter", ""},
	"Accumulator": {"accumulator", ""},
}

// Lines are the camper's forty-two lines.
var Lines = []Line{
	{"Filler", "Fresh tank", "out", "fill", "supply", "hose 1 1/4", 4},
	{"Fresh tank", "Tank vent", "vent", "in", "air", "hose 1/2", 4},
	{"Fresh tank", "Tank overflow", "overflow", "in", "air", "hose 1/2", 3},
	{"Fresh tank", "Tank drain", "drain", "in", "drain", "1/2", 1},
	{"Fresh tank", "Pick-up valve", "supply", "*", "supply", "1/2", 2},
	{"Pick-up hose", "Pick-up valve", "out", "*", "supply", "hose 1/2", 4},
	{"Pick-up valve", "Strainer", "com", "in", "supply", "1/2", 0.75},
	{"Strainer", "Water pump", "out", "in", "supply", "hose 1/2", 0.5},
	{"Water pump", "Pump check", "out", "in", "cold", "1/2", 0.5},
	{"Pump check", "City tee", "out", "*", "cold", "1/2", 2},
	{"City inlet", "City tee", "out", "*", "cold", "1/2", 11},
	{"City tee", "Canister filter", "*", "in", "cold", "1/2", 3},
	{"Canister filter", "Tee 1", "out", "*", "cold", "1/2", 2.5},
	{"Tee 1", "Accumulator", "*", "in", "cold", "1/2", 1},
	{"Tee 1", "Tee 2", "*", "*", "cold", "1/2", 6},
	{"Tee 2", "Kitchen tap", "*", "cold", "cold", "1/2", 3.5},
	{"Tee 2", "Tee 3", "*", "*", "cold", "1/2", 2},
	{"Tee 3", "Cold low point", "*", "in", "drain", "1/2", 1},
	{"Tee 3", "Heater in tee", "*", "*", "cold", "1/2", 5},
	{"Heater in tee", "Heater inlet shut-off", "*", "*", "cold", "1/2", 0.5},
	{"Heater inlet shut-off", "Water heater", "*", "cold", "cold", "1/2", 1},
	{"Heater in tee", "Tee 4", "*", "*", "cold", "1/2", 4},
	{"Tee 4", "Bypass valve", "*", "*", "cold", "1/2", 0.5},
	{"Bypass valve", "Heater out tee", "*", "*", "hot", "1/2", 0.5},
	{"Water heater", "Heater outlet shut-off", "hot", "*", "hot", "1/2", 1},
	{"Heater outlet shut-off", "Heater out tee", "*", "*", "hot", "1/2", 0.75},
	{"Water heater", "Heater drain", "drain", "in", "drain", "1/2", 0.5},
	{"Water heater", "Heater relief valve", "relief", "in", "drain", "1/2", 0.5},
	{"Heater out tee", "Hot tee 1", "*", "*", "hot", "1/2", 5},
	{"Hot tee 1", "Kitchen tap", "*", "hot", "hot", "1/2", 3.5},
	{"Hot tee 1", "Hot tee 2", "*", "*", "hot", "1/2", 4},
	{"Hot tee 2", "Hot low point", "*", "in", "drain", "1/2", 1},
	{"Hot tee 2", "Hot tee 3", "*", "*", "hot", "1/2", 6},
	{"Hot tee 3", "Basin tap", "*", "hot", "hot", "3/8", 4},
	{"Hot tee 3", "Hot tee 4", "*", "*", "hot", "1/2", 3},
	{"Hot tee 4", "Shower", "*", "hot", "hot", "1/2", 5},
	{"Hot tee 4", "Outside shower", "*", "hot", "hot", "1/2", 9},
	{"Tee 4", "Tee 5", "*", "*", "cold", "1/2", 7},
	{"Tee 5", "Basin tap", "*", "cold", "cold", "3/8", 4},
	{"Tee 5", "Tee 6", "*", "*", "cold", "1/2", 2},
	{"Tee 6", "Toilet", "*", "cold", "cold", "3/8", 3},
	{"Tee 6", "Tee 7", "*", "*", "cold", "1/2", 3},
	{"Tee 7", "Shower", "*", "cold", "cold", "1/2", 5},
	{"Tee 7", "Outside shower", "*", "cold", "cold", "1/2", 9},
}

// Sheet is a sheet of a list.
type Sheet struct {
	Name string
	Rows [][]string
}

// List is a list in somebody's habit.
type List struct {
	Name    string
	Format  string // "xlsx", "csv" or "ods"
	Sheets  []Sheet
	Missing int               // lengths that it leaves out
	Renames map[string]string // names that it gives parts, by the name above
	Answers map[string]string // what its writer would answer, by question
	Asks    bool              // it can't be taken in without asking
}

// inches writes a length as engineers in feet and inches do, in one of a few ways.
func inches(ft float64, i int) string {
	in := ft * 12
	switch i % 4 {
	case 0:
		return fmt.Sprintf("%g ft", ft)
	case 1:
		return fmt.Sprintf("%g in", in)
	case 2:
		return fmt.Sprintf("%d'-%g\"", int(ft), in-12*float64(int(ft)))
	}
	return fmt.Sprintf("%g\"", in)
}

func size(l Line, i int) string {
	if kind, inch, ok := strings.Cut(l.Inch, " "); ok {
		return kind + " " + inch + " in"
	}
	return []string{"PEX " + l.Inch, l.Inch + "\" PEX", l.Inch + " in PEX"}[i%3]
}

// Merged has its title over all columns, its own words for the heads, totals at its
// foot, a tag that stands twice and two lengths missing.
func Merged() List {
	rows := [][]string{{"BASALT 18: FRESH WATER LINES, ISSUE C", "", "", "", "", ""}, {},
		{"Tag", "Origin", "Destination", "Service", "Nom. dia", "Length", "Remarks"}}
	total := 0.0
	for i, l := range Lines {
		tag, length := fmt.Sprintf("FW-%02d", i+1), inches(l.Length, i)
		switch i {
		case 12:
			tag = "FW-12" // written twice
		case 7, 30:
			length = ""
		}
		service := l.Side
		if i%5 == 0 {
			service = ""
		}
		rows = append(rows, []string{tag, l.From, l.To, service, size(l, i), length, ""})
		total += l.Length
	}
	rows = append(
		rows,
		[]string{"", "", "", "", "", "", ""},
		[]string{"TOTAL", "", "", "", "", inches(total, 0), "44 lines"},
		[]string{"Fittings excluded", "", "", "", "", "", ""},
	)
	return List{Name: "a merged title, own heads, totals", Format: "xlsx", Sheets: []Sheet{{"Lines", rows}}, Missing: 2}
}

// Bare has no heads at all, and names parts in capitals.
func Bare() List {
	var rows [][]string
	names := map[string]string{}
	for i, l := range Lines {
		names[l.From], names[l.To] = strings.ToUpper(l.From), strings.ToUpper(l.To)
		rows = append(
			rows,
			[]string{strings.ToUpper(l.From), strings.ToUpper(l.To), l.Side, size(l, 0), inches(l.Length, i%2)},
		)
	}
	return List{Name: "no heads", Format: "csv", Sheets: []Sheet{{"Sheet1", rows}}, Renames: names,
		Answers: map[string]string{"way": "yes"}}
}

// Metric measures in metres and names the ports after the parts.
func Metric() List {
	words := map[string]string{
		"cold": "cold inlet",
		"hot":  "hot outlet",
		"in":   "inlet",
		"out":  "outlet",
		"com":  "common",
	}
	rows := [][]string{{"From", "To", "Tube", "Length (m)"}}
	at := func(part, port string) string {
		kind := Parts[part][0]
		if w := words[port]; w != "" &&
			(kind == "heater" || kind == "pump" || kind == "check-valve" || kind == "filter" ||
				kind == "strainer" || kind == "three-way") {
			return part + " (" + w + ")"
		}
		if kind == "outlet" {
			return part + " - " + port
		}
		return part
	}
	for i, l := range Lines {
		rows = append(rows, []string{at(l.From, l.FromPort), at(l.To, l.Port), size(l, i),
			fmt.Sprintf("%.3f", l.Length*0.3048)})
	}
	return List{Name: "metres, ports after the names", Format: "ods", Sheets: []Sheet{{"Leitung", rows}}}
}

// Two keeps the parts in a sheet of their own, with the trade's words for their kinds.
func Two() List {
	kinds := map[string]string{"tank": "Tank", "gravity-fill": "Filler", "open-end": "Vent", "drain": "Low point",
		"container-port": "Pick-up", "three-way": "3-way", "strainer": "Strainer", "pump": "Pump",
		"check-valve": "Check", "city-inlet": "City water", "tee": "Tee", "valve": "Shut-off", "heater": "Heater",
		"relief-valve": "Relief", "outlet": "Tap", "filter": "Filter", "accumulator": "Accumulator"}
	parts := [][]string{{"Part name", "Kind", "Access"}}
	seen := map[string]bool{}
	rows := [][]string{{"Line no.", "From", "To", "H/C", "Size", "Cut length"}}
	for i, l := range Lines {
		for _, name := range []string{l.From, l.To} {
			if !seen[name] {
				parts = append(parts, []string{name, kinds[Parts[name][0]], "inside"})
				seen[name] = true
			}
		}
		hc := map[string]string{"cold": "C", "hot": "H", "supply": "feed", "air": "vent", "drain": "drain"}[l.Side]
		rows = append(rows, []string{fmt.Sprint(i + 1), l.From, l.To, hc, size(l, i), inches(l.Length, i)})
	}
	return List{
		Name:   "parts and lines in two sheets",
		Format: "xlsx",
		Sheets: []Sheet{{"Parts", parts}, {"Lines", rows}},
	}
}

// Ends names ends without telling which way water runs, some of them turned round.
func Ends() List {
	rows := [][]string{{"Ref", "End A", "End B", "Dia", "Len."}}
	for i, l := range Lines {
		a, b := l.From, l.To
		if i%3 == 1 {
			a, b = b, a
		}
		rows = append(rows, []string{fmt.Sprintf("L%d", i+1), a, b, size(l, i), inches(l.Length, i)})
	}
	return List{Name: "ends in any order", Format: "xlsx", Sheets: []Sheet{{"List", rows}}, Asks: true,
		Answers: map[string]string{"way": "no", "flow:strainer": "pick up valve", "flow:water pump": "strainer",
			"flow:pump check": "water pump", "flow:canister filter": "city tee", "hot:water heater": "heater outlet shut off",
			"com:pick up valve": "strainer"}}
}

// Grouped says hot and cold in headings between its rows, and its heads on each page.
func Grouped() List {
	heads := []string{"From", "To", "Pipe", "Length in"}
	rows := [][]string{{"Water lines", "", "", ""}, heads}
	n := 0
	for _, group := range []string{"supply", "cold", "hot", "drain", "air"} {
		head := strings.ToUpper(group) + " LINES"
		if group == "air" {
			head = "VENT LINES"
		}
		rows = append(rows, []string{head, "", "", ""})
		for i, l := range Lines {
			if l.Side != group {
				continue
			}
			if n++; n == 20 {
				rows = append(rows, heads)
			}
			rows = append(rows, []string{l.From, l.To, size(l, i), fmt.Sprintf("%g", l.Length*12)})
		}
		rows = append(rows, []string{"Subtotal", "", "", ""})
	}
	return List{Name: "groups under headings, heads repeated", Format: "csv", Sheets: []Sheet{{"Lines", rows}}}
}

// All lists every habit.
func All() []List { return []List{Merged(), Bare(), Metric(), Two(), Ends(), Grouped()} }
