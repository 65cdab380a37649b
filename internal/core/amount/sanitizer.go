package amount

import "coldtap/internal/core/quantity"

// Bleach is the volume of bleach that brings treated water to a strength:
// target × treated ÷ (10 000 × available chlorine in g per 100 mL).
func Bleach(target quantity.MgPerLitre, treated quantity.Litre, product quantity.Percent) quantity.Litre {
	return quantity.Litre(float64(target) * float64(treated) / (10000 * float64(product)))
}

// Strength is what bleach in water comes to: the inverse of Bleach.
func Strength(bleach, treated quantity.Litre, product quantity.Percent) quantity.MgPerLitre {
	if treated == 0 {
		return 0
	}
	return quantity.MgPerLitre(float64(bleach) * 10000 * float64(product) / float64(treated))
}
