package quantity

import "strings"

// dimension is one kind of amount: its name, its units as people write them.
type dimension struct {
	name     string
	examples string
	signed   bool
	units    map[string]unit
}

// unit converts a figure to the unit used inside: v·factor + offset.
type unit struct{ factor, offset float64 }

// unit finds a unit word. Case matters only where it tells units apart
// ("MPa" and "mpa"), so the word is tried as typed, then in lower case.
func (d *dimension) unit(word string) (unit, bool) {
	if u, ok := d.units[word]; ok {
		return u, true
	}
	u, ok := d.units[strings.TrimSuffix(strings.ToLower(word), ".")]
	return u, ok
}

func names(u unit, words ...string) func(map[string]unit) {
	return func(m map[string]unit) {
		for _, w := range words {
			m[w] = u
		}
	}
}

func units(sets ...func(map[string]unit)) map[string]unit {
	m := make(map[string]unit)
	for _, s := range sets {
		s(m)
	}
	return m
}

func times[F ~float64](factor F, words ...string) func(map[string]unit) {
	return names(unit{factor: float64(factor)}, words...)
}

var volumes = dimension{
	name: "volume", examples: "43 gal, 162.8 L, 2 1/2 gal or ¼ cup",
	units: units(
		times(1.0, "l", "litre", "litres", "liter", "liters", "ltr", "dm³"),
		times(0.001, "ml", "millilitre", "millilitres", "milliliter", "milliliters", "cc", "cm³"),
		times(0.01, "cl"), times(0.1, "dl"), times(1000.0, "m³"),
		times(USGallon, "gal", "gals", "gallon", "gallons", "us gal", "us gallon", "us gallons", "gal us", "usg"),
		times(ImpGallon, "imp gal", "imp gallon", "imp gallons", "imp. gal", "uk gal", "gal imp"),
		times(Quart, "qt", "quart", "quarts"), times(Pint, "pt", "pint", "pints"),
		times(FluidOunce, "fl oz", "floz", "fl. oz", "oz", "ounce", "ounces", "fluid ounce", "fluid ounces",
			"us fl oz"),
		times(Cup, "cup", "cups"),
		times(Tablespoon, "tbsp", "tbs", "tablespoon", "tablespoons"),
		times(Teaspoon, "tsp", "teaspoon", "teaspoons"),
	),
}

func lengthUnits(perMillimetre float64) map[string]unit {
	t := func(mm Millimetre, words ...string) func(map[string]unit) {
		return times(float64(mm)*perMillimetre, words...)
	}
	return units(
		t(1, "mm", "millimetre", "millimetres", "millimeter", "millimeters"),
		t(10, "cm", "centimetre", "centimetres"),
		t(1000, "m", "metre", "metres", "meter", "meters"),
		t(Inch, "in", "inch", "inches", "\"", "″", "”", "''"),
		t(Foot, "ft", "foot", "feet", "'", "′", "’"),
		t(3*Foot, "yd", "yard", "yards"),
	)
}

var lengths = dimension{name: "length", examples: "12 ft 6 in, 7'4\", 3.8 m or 19 mm", units: lengthUnits(1)}

var heights = dimension{name: "height", examples: "0.62 m, 24 in or -80 mm", signed: true, units: lengthUnits(0.001)}

var pressures = dimension{
	name: "pressure", examples: "45 psi, 3.1 bar or 310 kPa",
	units: units(
		times(1.0, "kpa"), times(PSI, "psi", "psig", "lb/in²"), times(100.0, "bar", "bars"),
		times(0.1, "mbar"), times(1000.0, "MPa"), times(0.001, "Pa"),
		// 1 mH2O at 9.80665 m/s² and 1000 kg/m³.
		times(9.80665, "mh₂o", "m h₂o"),
	),
}

var temperatures = dimension{
	name: "temperature", examples: "-30 °C or -22 °F", signed: true,
	units: units(
		times(1.0, "°c", "c", "deg c", "degc", "celsius", "ºc"),
		names(unit{factor: 5. / 9, offset: -160. / 9}, "°f", "f", "deg f", "degf", "fahrenheit", "ºf"),
	),
}

var flows = dimension{
	name: "flow", examples: "3.0 gal/min or 11.4 L/min",
	units: units(
		times(1.0, "l/min", "lpm", "litres/min", "l per min", "litres per minute"),
		times(1./60, "l/h", "l/hour"), times(60.0, "l/s"), times(1000./60, "m³/h"),
		times(USGallon, "gal/min", "gpm", "gallons per minute", "us gal/min"),
		times(USGallon/60, "gal/h", "gph"),
	),
}

var strengths = dimension{
	name: "strength", examples: "50 mg/L or 50 ppm",
	units: units(times(1.0, "mg/l", "ppm", "g/m³"), times(1000.0, "g/l")),
}

var durations = dimension{
	name: "time", examples: "30 s, 20 min, 4 h or 1 h 30 min",
	units: units(
		times(1.0, "s", "sec", "secs", "second", "seconds"),
		times(60.0, "min", "mins", "minute", "minutes"),
		times(3600.0, "h", "hr", "hrs", "hour", "hours"),
		times(86400.0, "d", "day", "days"),
	),
}

var masses = dimension{
	name: "weight", examples: "1200 lb or 540 kg",
	units: units(
		times(1.0, "kg", "kilogram", "kilograms"), times(0.001, "g", "gram", "grams"), times(1000.0, "t"),
		times(Pound, "lb", "lbs", "pound", "pounds"), times(Pound/16, "oz", "ounce", "ounces"),
	),
}

var powers = dimension{
	name: "power", examples: "1.4 kW, 440 W or 12000 BTU/h",
	units: units(times(1.0, "kw"), times(0.001, "w"), times(BTUPerHour, "btu/h", "btu/hr", "btuh", "btu")),
}

var currents = dimension{name: "current", examples: "7.5 A", units: units(times(1.0, "a", "amp", "amps", "ampere"))}

var shares = dimension{name: "share", examples: "6 %", units: units(times(1.0, "%", "percent", "per cent"))}

func dimensionOf[U Unit]() *dimension {
	var zero U
	switch any(zero).(type) {
	case Litre:
		return &volumes
	case Millimetre:
		return &lengths
	case Metre:
		return &heights
	case Kilopascal:
		return &pressures
	case Celsius:
		return &temperatures
	case LitrePerMinute:
		return &flows
	case MgPerLitre:
		return &strengths
	case Second:
		return &durations
	case Kilogram:
		return &masses
	case Kilowatt:
		return &powers
	case Ampere:
		return &currents
	default:
		return &shares
	}
}
