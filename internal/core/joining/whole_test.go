package joining_test

import (
	"math/rand/v2"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"

	"coldtap/internal/core/joining"
	"coldtap/internal/core/plumbing"
	"coldtap/internal/rig/drafted"
)

// told are the kinds whose ports are told apart by what they do; the ports of others are all alike.
var told = map[plumbing.Kind]bool{plumbing.Pump: true, plumbing.CheckValve: true, plumbing.Heater: true,
	plumbing.Tank:     true,
	plumbing.Strainer: true}

// astray are ends that are joined to another port without asking: what leads from tank to tank is taken for a supply.
// The list may only get shorter.
var astray = map[string]bool{"basalt-28 line-02 Rear tank": true, "tanks-linked line-01 Left tank": true,
	"tanks-linked line-02 Right tank": true}

// The lines of whole campers, as a list of engineering has them, in any order: what is joined without asking is joined
// as it is, and no port twice.
func TestTheLinesOfWholeCampersAreJoinedAsTheyAre(t *testing.T) {
	t.Parallel()
	right, asked := 0, 0
	for _, m := range drafted.Campers(t) {
		rng := rand.New(rand.NewPCG(1, uint64(len(m.Lines))))
		var rows []joining.Row
		var lines []*plumbing.Line
		for _, i := range rng.Perm(len(m.Lines)) {
			l := &m.Lines[i]
			a, _, _ := strings.Cut(l.From, ".")
			b, _, _ := strings.Cut(l.To, ".")
			rows = append(rows, joining.Row{From: m.Part(a).Name, To: m.Part(b).Name, Side: l.Side})
			lines = append(lines, l)
		}
		plan := joining.Read(&plumbing.Model{}, rows, true, nil)
		used := map[string]int{}
		for i, j := range plan.Joints {
			if len(j.Asks) > 0 || len(j.Faults) > 0 {
				asked++
				continue
			}
			for k, is := range []string{lines[i].From, lines[i].To} {
				e := j.Ends[k]
				used[e.Part+"."+e.Port]++
				id, port, _ := strings.Cut(is, ".")
				p := m.Part(id)
				what := m.ID + " " + lines[i].ID + " " + p.Name
				switch {
				case astray[what]:
					assert.NotEqual(t, port, e.Port, "%s is right now: take it off the list", what)
				case told[p.Kind]:
					assert.Equal(t, port, e.Port, what)
				}
				right++
			}
		}
		for port, n := range used {
			assert.LessOrEqual(t, n, 1, "%s: %s", m.ID, port)
		}
	}
	t.Logf("%d ends are joined, %d lines wait for an answer", right, asked)
	assert.Greater(t, right, 8*asked, "most is told by the names")
}
