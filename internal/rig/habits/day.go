package habits

import "fmt"

// Day is the list of a whole day's work: the parts with their places and figures, and
// the lines, each in a sheet.
func Day() List {
	two := Two()
	heads := []string{"Part name", "Kind", "X", "Y", "Height", "Access", "Handle", "Orientation", "Normally", "Volume",
		"Dead volume", "Inside length", "Inside width", "Inside height", "Bore", "Flow rate", "Cut-out", "Fuse", "Dry run",
		"Check valve", "Regulator", "Electric", "Gas", "Anode", "Anode core", "Tool", "Drains into", "Waste tank kind"}
	rows := [][]string{heads}
	for i, row := range two.Sheets[0].Rows[1:] {
		name, kind := row[0], Parts[row[0]][0]
		cells := make([]string, len(heads))
		set := func(head, v string) {
			for k, h := range heads {
				if h == head {
					cells[k] = v
				}
			}
		}
		cells[0], cells[1] = name, row[1]
		set("X", fmt.Sprintf("%d in", 40+5*i))
		set("Y", fmt.Sprintf("%d in", 10+(i*7)%80))
		set("Height", "20 in")
		set("Access", "inside, under the bench")
		switch kind {
		case "tank":
			for h, v := range map[string]string{"Volume": "30 gal", "Dead volume": "0.5 gal", "Inside length": "30 in",
				"Inside width": "23 in", "Inside height": "10 in", "Bore": "1/2 in", "Height": "24 in"} {
				set(h, v)
			}
		case "drain":
			set("Height", "12 in")
			set("Handle", "lever")
			set("Orientation", "upright")
			set("Normally", "closed")
			set("Bore", "1/2 in")
			set("Access", "outside, left side")
		case "valve", "three-way":
			set("Handle", "lever")
			set("Orientation", "level")
		case "pump":
			for h, v := range map[string]string{"Flow rate": "3 gal/min", "Cut-out": "55 psi", "Fuse": "10 A",
				"Dry run": "2 min"} {
				set(h, v)
			}
		case "city-inlet":
			set("Check valve", "yes")
			set("Regulator", "50 psi")
			set("Access", "outside, left side")
		case "heater":
			for h, v := range map[string]string{"Volume": "6 gal", "Dead volume": "0.2 gal", "Inside height": "12 in",
				"Electric": "1.4 kW", "Gas": "12000 BTU/h", "Anode": "3/4 in", "Anode core": "1/8 in", "Height": "22 in"} {
				set(h, v)
			}
		case "accumulator":
			set("Volume", "0.3 gal")
		case "outlet":
			set("Height", "34 in")
		}
		rows = append(rows, cells)
	}
	return List{Name: "a whole day", Format: "xlsx", Sheets: []Sheet{{"Parts", rows}, two.Sheets[1]}}
}
