package serial_test

import (
	"testing"

	"github.com/stretchr/testify/assert"

	"coldtap/internal/core/serial"
)

func TestCompare(t *testing.T) {
	for _, c := range []struct {
		a, b string
		want int
	}{
		{"A20-2700001", "A20-2700002", -1},
		{"A20-99", "A20-100", -1},
		{" a20-100 ", "A20-100", 0},
		{"A20-0100", "A20-100", 0},
		{"A20-100B", "A20-100", 1},
		{"B1", "A2", 1},
		{"7", "A", -1},
		{"", "A", -1},
	} {
		assert.Equal(t, c.want, serial.Compare(c.a, c.b), "%q %q", c.a, c.b)
		assert.Equal(t, -c.want, serial.Compare(c.b, c.a), "%q %q", c.b, c.a)
	}
}

func TestRanges(t *testing.T) {
	assert.True(t, serial.In("G-5", "", ""))
	assert.True(t, serial.In("G-5", "G-5", "G-5"))
	assert.False(t, serial.In("G-5", "G-6", ""))
	assert.False(t, serial.In("G-10", "", "G-9"))
	assert.True(t, serial.Covers("", "", "G-1", "G-2"))
	assert.False(t, serial.Covers("G-1", "", "", "G-2"))
	assert.True(t, serial.Covers("G-1", "G-9", "G-1", "G-9"))
	assert.False(t, serial.Covers("G-1", "G-9", "G-1", ""))
	assert.True(t, serial.Alike("G24-27001", "g24-27999"))
	assert.False(t, serial.Alike("G24-27001", "S31-27001"))
}

// Ranges agree with each other over all small serial numbers.
func TestRangesAgree(t *testing.T) {
	names := []string{"", "K-1", "K-2", "K-9", "K-10", "K-11"}
	all := names[1:]
	for _, f := range names {
		for _, u := range names {
			for _, f2 := range names {
				for _, u2 := range names {
					outside := false
					for _, s := range append([]string{"K-0", "K-12"}, all...) {
						one, other := serial.In(s, f, u), serial.In(s, f2, u2)
						outside = outside || other && !one
					}
					if outside {
						assert.False(t, serial.Covers(f, u, f2, u2), "%s-%s %s-%s", f, u, f2, u2)
					}
				}
			}
		}
	}
}
