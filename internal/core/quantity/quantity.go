// Package quantity holds amounts with their units: it reads what people
// type, keeps one unit for each kind of amount, and shows both unit systems.
package quantity

import "math"

// The units used inside. One unit for each kind of amount, so that a number's
// type says what it measures.
type (
	Litre          float64 // volume
	Millimetre     float64 // length of a line, diameter
	Metre          float64 // height, place on the camper
	Kilopascal     float64 // pressure above atmosphere
	Celsius        float64 // temperature
	LitrePerMinute float64 // flow
	MgPerLitre     float64 // strength of a solution
	Second         float64 // time
	Kilogram       float64 // mass
	Kilowatt       float64 // heating power
	Ampere         float64 // current
	Percent        float64 // share, 0 to 100
)

// Unit lists the types that Parse reads and Show writes.
type Unit interface {
	Litre | Millimetre | Metre | Kilopascal | Celsius | LitrePerMinute |
		MgPerLitre | Second | Kilogram | Kilowatt | Ampere | Percent
}

// Exact conversion constants. Sources: NIST Handbook 44, appendix C (US
// customary); UK Weights and Measures Act 1985 (imperial gallon).
const (
	USGallon   Litre = 3.785411784
	ImpGallon  Litre = 4.54609
	FluidOunce Litre = 0.0295735295625
	Cup        Litre = 8 * FluidOunce
	Tablespoon Litre = FluidOunce / 2
	Teaspoon   Litre = FluidOunce / 6
	Quart      Litre = USGallon / 4
	Pint       Litre = USGallon / 8

	Inch Millimetre = 25.4
	Foot Millimetre = 12 * Inch

	PSI   Kilopascal = 6.894757
	Pound Kilogram   = 0.45359237

	// BTUPerHour is one international-table British thermal unit an hour.
	BTUPerHour Kilowatt = 0.00029307107
)

// WaterDensity is that of fresh water near 20 °C, in kilograms per litre.
const WaterDensity = 0.998

// System is the unit system shown first.
type System int

const (
	US System = iota // US customary first
	SI               // metric first
)

func (s System) String() string {
	if s == SI {
		return "si"
	}
	return "us"
}

// RoundUp is the whole number that a count of jugs, batches or loads comes to:
// the next one above, but for what only reckoning with fractions has added.
func RoundUp(count float64) int { return int(math.Ceil(count - 1e-9)) }
