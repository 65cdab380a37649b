package plumbing

import (
	"fmt"
	"math"
	"strings"

	"coldtap/internal/core/quantity"
)

// LineSize is one row of the size table.
type LineSize struct {
	Name   string
	Inside quantity.Millimetre
	Source string
}

const (
	sourceCTS = "ASTM F876, copper tube size, SDR 9: average inside diameter"
	sourcePB  = "BS 7291, outside diameter less twice the nominal wall"
)

// LineSizes is the table of sizes that are sold. A hose has its nominal size
// as inside diameter and is not listed.
var LineSizes = []LineSize{
	{"PEX 3/8", 0.350 * quantity.Inch, sourceCTS},
	{"PEX 1/2", 0.485 * quantity.Inch, sourceCTS},
	{"PEX 3/4", 0.681 * quantity.Inch, sourceCTS},
	{"PEX 1", 0.875 * quantity.Inch, sourceCTS},
	{"semi-rigid 12 mm", 12 - 2*1.5, sourcePB},
	{"semi-rigid 15 mm", 15 - 2*1.7, sourcePB},
	{"semi-rigid 22 mm", 22 - 2*2.0, sourcePB},
}

// FindSize looks a size up by name; "hose 1/2 in" is its own inside diameter.
func FindSize(name string) (LineSize, error) {
	for _, s := range LineSizes {
		if strings.EqualFold(s.Name, strings.TrimSpace(name)) {
			return s, nil
		}
	}
	if nominal, ok := strings.CutPrefix(strings.ToLower(name), "hose "); ok {
		d, err := quantity.Parse[quantity.Millimetre](nominal)
		if err == nil && d > 0 {
			return LineSize{Name: name, Inside: d, Source: "hose: inside diameter is the nominal size"}, nil
		}
	}
	return LineSize{}, fmt.Errorf("%q is not a size in the table; write one of %s, or \"hose\" and its inside diameter",
		name, sizeNames())
}

func sizeNames() string {
	var names []string
	for _, s := range LineSizes {
		names = append(names, `"`+s.Name+`"`)
	}
	return strings.Join(names, ", ")
}

// InsideDiameter is the line's own, or its size's; 0 where neither is given.
func (l *Line) InsideDiameter() (d quantity.Millimetre, source string) {
	if !l.Inside.IsZero() {
		return l.Inside.Value(), "given for this line"
	}
	s, err := FindSize(l.Size)
	if err != nil {
		return 0, ""
	}
	return s.Inside, s.Source
}

// Content is what the line holds: π/4·d²·L, in litres.
func (l *Line) Content() quantity.Litre {
	d, _ := l.InsideDiameter()
	return PipeContent(d, l.Length.Value())
}

// PipeContent is π/4·d²·L for a round bore, in litres.
func PipeContent(d, length quantity.Millimetre) quantity.Litre {
	return quantity.Litre(math.Pi / 4 * float64(d) * float64(d) * float64(length) * 1e-6)
}

// Storage reports whether a heater keeps its water in a vessel; others heat
// what runs through a coil.
func (p *Part) Storage() bool {
	return p.Data.Type == "storage-steel" || p.Data.Type == "storage-clad" || p.Data.Type == "combi"
}

// Figures that are assumed where a part does not give its own.
const (
	AssumedOpening quantity.Kilopascal     = 3.4 // from which a check valve lets water on: 0.35 m of water
	AssumedSeep    quantity.LitrePerMinute = 0.2 // what a failed check valve lets back at SeepAt
	SeepAt         quantity.Kilopascal     = 300
)

// OpeningPressure is what a check valve, or an idle pump that passes, needs to
// let water on.
func (p *Part) OpeningPressure() quantity.Kilopascal {
	if p.Kind == ReliefValve {
		return 0
	}
	return p.Data.OpensAt.Or(AssumedOpening)
}

// Sealed reports whether a filter can't be emptied of its cartridge: nothing
// but water may come to it.
func (p *Part) Sealed() bool {
	return p.Kind == Filter && (p.Data.Type == "reverse-osmosis" || p.Data.Type == "in-line" && p.Data.Cartridge == "")
}
