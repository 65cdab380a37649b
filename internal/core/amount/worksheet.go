// Package amount works out how much: contents, antifreeze, sanitizer. Every
// figure is a worksheet whose rows say where they come from.
package amount

import (
	"coldtap/internal/core/quantity"
)

// Row is one line of a worksheet.
type Row struct {
	Part    string // id of the part or line; "" for an allowance
	What    string
	Formula string
	Inputs  string
	Litre   quantity.Litre
	Source  string // of the constant or the rule
}

// Worksheet is a volume with all that it is made of. Total is the sum of its rows.
type Worksheet struct {
	Title   string
	Rows    []Row
	Total   quantity.Litre
	LeftOut []LeftOut
}

// LeftOut is something that does not count, and why.
type LeftOut struct {
	Part string
	What string
	Why  string
}

func (w *Worksheet) add(r Row) {
	w.Rows = append(w.Rows, r)
	w.Total += r.Litre
}

// House holds the manufacturer's choices and allowances.
type House struct {
	TargetStrength  quantity.MgPerLitre // of the sanitizer where it stands
	BatchCeiling    quantity.MgPerLitre // no part may meet more
	Bleach          quantity.Percent    // available chlorine, g per 100 mL
	OverMeasure     float64             // share a household measure may lie above the dose
	Overrun         quantity.Litre      // per outlet side, until fully coloured
	LowPointRunOut  quantity.Litre      // per low-point drain
	JugHeel         quantity.Litre      // left in the jugs and drawn with air
	FrontSmear      float64             // share of swept lines that mixes at the front when they are full
	AccumulatorFill float64             // share of an accumulator that fluid enters
	JugSizes        []quantity.Litre
	SoakLow         quantity.Second
	SoakHigh        quantity.Second
}

// DefaultHouse is what a manufacturer starts with. The allowances are
// starting values that trials on real units correct.
func DefaultHouse(sys quantity.System) House {
	h := House{
		TargetStrength: 50, BatchCeiling: 200, Bleach: 5.25, OverMeasure: 0.10,
		Overrun: 0.15, LowPointRunOut: 0.1, JugHeel: 0.1, FrontSmear: 0.10, AccumulatorFill: 0.5,
		JugSizes: []quantity.Litre{quantity.USGallon}, SoakLow: 4 * 3600, SoakHigh: 8 * 3600,
	}
	if sys == quantity.SI {
		h.JugSizes = []quantity.Litre{5}
	}
	return h
}

// Products lists the strengths bleach is sold in, in percent available chlorine.
var Products = []quantity.Percent{5.25, 6, 7.5, 8.25}
