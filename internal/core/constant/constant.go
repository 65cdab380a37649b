// Package constant has the constants of nature and of the trade that figures are
// computed from, with their sources, read through one door that notes each read.
package constant

import (
	"coldtap/internal/core/quantity"
	"coldtap/internal/core/record"
)

// Constant is a figure that neither a model nor a house changes.
type Constant[T any] struct {
	ID     string
	Source string
	value  T
}

// Of is the constant's value, for something that a recorder wants to know the
// inputs of; nil for nobody.
func (c Constant[T]) Of(rec *record.Recorder) T {
	if rec.On() {
		rec.Note(record.Input{Kind: record.Constant, Of: c.ID})
	}
	return c.value
}

// Of nature.
var (
	// Gravity is the acceleration of free fall, m/s².
	Gravity = Constant[float64]{"gravity", "standard gravity, 3rd CGPM 1901", 9.80665}
	// WaterHeat is what a kilogram of water takes for each degree, kJ/(kg·K).
	WaterHeat = Constant[float64]{"water-heat", "water at 15 to 20 °C", 4.186}
	// WaterDensity is that of fresh water, kg/L.
	WaterDensity = Constant[float64]{"water-density", "water at 20 °C", quantity.WaterDensity}
)

// Of the trade.
var (
	// Orifice is the discharge coefficient of a sharp-edged opening.
	Orifice = Constant[float64]{"orifice", "sharp-edged opening, hydraulics handbooks", 0.62}
	// Efficiency is the share of a burner's or element's heat that gets into the water.
	Efficiency = Constant[float64]{"efficiency", "usual of small storage heaters", 0.85}
	// Foam is how well a heater's jacket lets heat through, W/(m·K).
	Foam = Constant[float64]{"foam", "polystyrene and polyurethane foam", 0.04}
	// StillAir is the most that still air takes from a surface, W/(m²·K).
	StillAir = Constant[float64]{"still-air", "free convection and radiation indoors", 10}
	// HeaterPipes is what a heater loses by its pipes and flue, W/K.
	HeaterPipes = Constant[float64]{"heater-pipes", "estimate", 1}
	// Jacket is how thick a heater's insulation is taken to be where nobody gave it.
	Jacket = Constant[quantity.Millimetre]{"jacket", "usual of small storage heaters", 20}
	// Room is the air around a heater that cools.
	Room = Constant[quantity.Celsius]{"room", "assumed", 20}
	// MostAir is a pressure of air that is never exceeded, whatever parts stand: 50 psi.
	MostAir = Constant[quantity.Kilopascal]{"most-air", "rule of the trade", 345}
	// BurstsFull is how full of water a place may be before frost bursts it.
	BurstsFull = Constant[float64]{"bursts-full", "ice takes a tenth more room", 0.9}
	// SelfVenting is the bore from which water and air pass each other.
	SelfVenting = Constant[quantity.Millimetre]{"self-venting", "drain pipes of 20 mm empty by themselves", 20}
	// Bowl is how far a strainer's bowl hangs below its ports.
	Bowl = Constant[quantity.Metre]{"bowl", "a usual size", 0.05}
	// MixedThrough is how many contents go through a heater until 95 % of what
	// comes out is new: ln 20.
	MixedThrough = Constant[float64]{"mixed-through", "well mixed: 1 − e^(−n) = 0.95", 2.995732273553991}
)

// Glycol is a row of the table of protection.
type Glycol struct {
	Temp          quantity.Celsius
	Freeze, Burst float64 // shares that keep from freezing, and from bursting
}

// Protection is the share of inhibited propylene glycol, by volume of the
// concentrate, for a temperature, warmest first.
var Protection = Constant[[]Glycol]{"protection", "typical figures of makers' tables", []Glycol{
	{-7, 0.18, 0.12}, {-12, 0.29, 0.20}, {-18, 0.36, 0.24}, {-23, 0.42, 0.28},
	{-29, 0.46, 0.30}, {-34, 0.50, 0.33}, {-40, 0.54, 0.35}, {-46, 0.57, 0.35},
}}
