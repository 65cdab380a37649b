package chart_test

import (
	"encoding/xml"
	"io"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"coldtap/internal/drawing/chart"
)

// marks are the attributes of a drawing's elements of a class.
func marks(t *testing.T, svg, class string) (list []map[string]string) {
	t.Helper()
	d := xml.NewDecoder(strings.NewReader(svg))
	for {
		tok, err := d.Token()
		if err == io.EOF {
			return list
		}
		require.NoError(t, err)
		if e, ok := tok.(xml.StartElement); ok {
			m := map[string]string{}
			for _, a := range e.Attr {
				m[a.Name.Local] = a.Value
			}
			if m["class"] == class {
				list = append(list, m)
			}
		}
	}
}

func TestStrengthsStandInOrderOnTheScale(t *testing.T) {
	svg := chart.Strengths([]chart.Strength{{Name: "lived-in <1>", Low: 50, High: 55},
		{Name: "cup", Low: 300, High: 300, Refused: true}, {Name: "ours", Low: 60, High: 60, Chosen: true}}, 200)
	require.Len(t, marks(t, svg, "mark"), 1)
	require.Len(t, marks(t, svg, "mark refused"), 1)
	require.Len(t, marks(t, svg, "mark chosen"), 1)
	assert.Contains(t, svg, "lived-in &lt;1&gt;")
	assert.Less(t, marks(t, svg, "mark chosen")[0]["d"], marks(t, svg, "limit")[0]["d"],
		"60 stands left of the ceiling of 200")
	assert.Greater(t, marks(t, svg, "mark refused")[0]["d"], marks(t, svg, "limit")[0]["d"])
}

func TestClockIsToScaleAcrossMidnight(t *testing.T) {
	at := func(h int) time.Time { return time.Date(2027, 4, 3, h, 0, 0, 0, time.UTC) }
	svg := chart.Clock([]chart.Stretch{{at(20), at(22), true}, {at(22), at(30), false}, {at(30), at(32), true}})
	there, away := marks(t, svg, "there"), marks(t, svg, "away")
	require.Len(t, there, 2)
	require.Len(t, away, 1)
	assert.Equal(t, "485.3", away[0]["width"], "8 of 12 hours of 728")
	assert.Contains(t, svg, "Sun 00:00")
	assert.Empty(t, chart.Clock(nil))
}

func TestRefillsAndWeights(t *testing.T) {
	svg := chart.Refills([]chart.Course{{"drained", []float64{60, 5, 0.5}}, {"pumped", []float64{60, 20, 8, 3, 1}}}, 1)
	assert.Len(t, marks(t, svg, "dot c1"), 3)
	assert.Len(t, marks(t, svg, "dot c2"), 5)
	require.Len(t, marks(t, svg, "limit"), 1)
	svg = chart.Weights([]chart.Bar{{Name: "full", Value: 100}, {Name: "empty", Value: 50}}, 200)
	bars := marks(t, svg, "water")
	require.Len(t, bars, 2)
	assert.Equal(t, "215.0", bars[0]["width"], "half of 430")
	assert.Equal(t, "107.5", bars[1]["width"])
	assert.Empty(t, chart.Weights(nil, 0))
}
