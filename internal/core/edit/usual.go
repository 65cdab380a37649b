package edit

import (
	"coldtap/internal/core/plumbing"
	"coldtap/internal/core/quantity"
)

// Usual gives a new part the data that its kind must carry, to be corrected.
func Usual(m *plumbing.Model, k plumbing.Kind) plumbing.Data {
	var d plumbing.Data
	info := k.Info()
	if info.Role == plumbing.RoleWaste {
		d.Capacity = quantity.Of(quantity.Litre(40), quantity.SI)
	}
	for _, f := range info.Must {
		switch f {
		case "serves":
			of := idsOf(m, plumbing.RoleTank)
			if info.Role == plumbing.RoleGas {
				of = idsOf(m, plumbing.RoleHeater)
			}
			if len(of) > 0 {
				d.Serves = of[0]
			}
		case "at":
			d.At = quantity.Of(quantity.Millimetre(100), quantity.SI)
		case "capacity":
			d.Capacity = quantity.Of(quantity.Litre(40), quantity.SI)
		case "flow":
			d.Flow = quantity.Of(quantity.LitrePerMinute(10), quantity.SI)
		case "cut_out":
			d.CutOut = quantity.Of(quantity.Kilopascal(300), quantity.SI)
		case "seal":
			d.Seal = quantity.Of(quantity.Litre(0.2), quantity.SI)
		case "ways":
			d.Ways = 4
		case "type":
			d.Type = info.Types[0]
		}
	}
	return d
}

func idsOf(m *plumbing.Model, role plumbing.Role) (ids []string) {
	for i := range m.Parts {
		if m.Parts[i].Role() == role {
			ids = append(ids, m.Parts[i].ID)
		}
	}
	return ids
}
