package plumbing

import "coldtap/internal/core/quantity"

// Consumable is something that is used up and ordered again: an anode,
// a cartridge, cells, antifreeze, sanitizer.
type Consumable struct {
	ID    string `json:"id"`
	What  string `json:"what"` // one of ConsumableKinds
	Name  string `json:"name"`
	Part  string `json:"part,omitempty"`        // id of the part that it belongs to
	Order string `json:"order,omitempty"`       // order number
	Life  int    `json:"life_months,omitempty"` // months until it is changed

	Form     string  `json:"form,omitempty"`     // of a sanitizer: one of SanitizerForms
	Strength float64 `json:"strength,omitempty"` // of a liquid: per cent available chlorine, g per 100 mL
	// of tablets and powder: the water that one measure treats, as printed
	Treats  volume   `json:"treats,omitzero"`
	Measure string   `json:"measure,omitempty"` // of tablets and powder: what is counted, "tablet", "level scoop"
	Gives   chlorine `json:"gives,omitzero"`    // of tablets and powder: the strength that the printed dose gives
}

type chlorine = quantity.Given[quantity.MgPerLitre]

// ConsumableKinds lists what can be used up.
var ConsumableKinds = []string{"anode", "cartridge", "cells", "antifreeze", "sanitizer"}

// SanitizerForms lists how sanitizer is sold.
var SanitizerForms = []string{"liquid", "tablets", "powder"}
