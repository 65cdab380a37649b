package amount

import (
	"testing"

	"github.com/stretchr/testify/assert"
)

// The schools as they are practised: mg/L and hours, and mg·h/L from the mildest to the strongest reading.
func TestSchoolsOfSanitizingByHand(t *testing.T) {
	t.Parallel()
	by := map[string][6]float64{
		"short":       {50, 65, 3, 4, 150, 260},
		"lived-in":    {50, 55, 4, 8, 200, 440},
		"overnight":   {50, 65, 8, 12, 400, 780},
		"stood-idle":  {50, 50, 12, 24, 600, 1200},
		"on-the-road": {50, 55, 8, 10, 400, 550},
	}
	list := Schools()
	assert.Len(t, list, len(by))
	for _, s := range list {
		low, high := s.Contact()
		assert.Equal(t, by[s.ID], [6]float64{float64(s.Low), float64(s.High), float64(s.SoakLow) / 3600,
			float64(s.SoakHigh) / 3600,
			low, high}, s.ID)
	}
}
