package flow

import (
	"context"
	"math"
)

// solve finds heads and flows, opening and shutting one-ways until all agree.
func (g *graph) solve(ctx context.Context) error {
	for i, e := range g.edges {
		if e.law.way < 0 {
			g.edges[i] = e.reversed() // every one-way passes forwards
		}
	}
	g.q, g.shut = make([]float64, len(g.edges)), make([]bool, len(g.edges))
	g.loss, g.slope = make([]float64, len(g.edges)), make([]float64, len(g.edges))
	for i := range g.q {
		g.q[i] = 1e-4
	}
	g.couple()
	// Rough answers are enough to open and shut one-ways; the last is fine.
	const rough, fine = 1e-2, 1e-12
	within := rough
	for range 60 + 2*len(g.edges) {
		if err := ctx.Err(); err != nil {
			return err
		}
		if err := g.newton(within); err != nil {
			return err
		}
		changed := false
		for i, e := range g.edges {
			if e.law.way == 0 {
				continue
			}
			drive := g.h[e.from] - g.h[e.to] + e.law.gain
			switch {
			case !g.shut[i] && g.q[i] < -1e-12:
				g.shut[i], changed = true, true
			case g.shut[i] && g.live[e.from] && g.live[e.to] && drive > 1e-9:
				g.shut[i], g.q[i], changed = false, 1e-5, true
			}
		}
		switch {
		case changed:
			within = rough
		case within == fine:
			return nil
		default:
			within = fine
		}
	}
	return ErrNoFlow{"its one-ways keep opening and shutting"}
}

// couple makes the equations of the heads: a row for each vertex whose head is
// not known, coupled by the edges between them.
func (g *graph) couple() {
	g.row, g.slot = make([]int, len(g.z)), make([]int, len(g.edges))
	for v := range g.row {
		g.row[v] = -1
	}
	rows := 0
	var pairs []pair
	place := map[pair]int{}
	for i, e := range g.edges {
		for _, v := range []int{e.from, e.to} {
			if g.row[v] < 0 && !g.isFixed(v) {
				g.row[v] = rows
				rows++
			}
		}
		g.slot[i] = -1
		if a, b := g.row[e.from], g.row[e.to]; a >= 0 && b >= 0 && a != b {
			p := pair{min(a, b), max(a, b)}
			k, ok := place[p]
			if !ok {
				k = len(pairs)
				place[p] = k
				pairs = append(pairs, p)
			}
			g.slot[i] = k
		}
	}
	g.sums, g.side = newEquations(rows, pairs), make([]float64, rows)
	g.h, g.live = make([]float64, len(g.z)), make([]bool, len(g.z))
}

// newton solves heads and flows for the one-ways as they stand, to within a
// share of the largest flow.
func (g *graph) newton(within float64) error {
	g.connected()
	for v := range g.z {
		if g.isFixed(v) {
			g.h[v] = g.fixed[v]
		}
	}
	for i := range g.edges {
		if !g.flows(i) {
			g.q[i] = 0
		} else if math.Abs(g.q[i]) < 1e-9 {
			g.q[i] = 1e-6
		}
	}
	for round := range 100 {
		if len(g.side) > 0 {
			g.fill()
			if !g.sums.factor.solve(g.sums, g.side) {
				return ErrNoFlow{"the equations have no single answer"}
			}
			for v, r := range g.row {
				if r >= 0 && g.live[v] {
					g.h[v] = g.side[r]
				}
			}
		}
		worst, largest := 0.0, 1e-9
		for i, e := range g.edges {
			if !g.flows(i) {
				continue
			}
			if len(g.side) == 0 || e.from == e.to {
				g.loss[i], g.slope[i] = e.law.head(g.q[i])
			}
			next := g.q[i] + (g.h[e.from]-g.h[e.to]-g.loss[i])/g.slope[i]
			if round > 20 { // two flows taking turns: meet halfway
				next = (next + g.q[i]) / 2
			}
			worst = max(worst, math.Abs(next-g.q[i]))
			largest = max(largest, math.Abs(next))
			g.q[i] = next
		}
		if worst <= 1e-13+within*largest {
			return nil
		}
	}
	return ErrNoFlow{"too many rounds"}
}

// flows reports whether an edge is open and joined to a known head.
func (g *graph) flows(i int) bool {
	e := &g.edges[i]
	return !g.shut[i] && g.live[e.from] && g.live[e.to]
}

// fill puts the flows as they are into the equations: at each vertex what
// comes in is what goes out. A vertex that takes no part has a row of its own.
func (g *graph) fill() {
	g.sums.clear()
	clear(g.side)
	for v, r := range g.row {
		if r >= 0 && !g.live[v] {
			g.sums.diag[r] = 1
		}
	}
	for i := range g.edges {
		e := &g.edges[i]
		if e.from == e.to || !g.flows(i) {
			continue // a run that ends where it began asks nothing of the heads
		}
		g.loss[i], g.slope[i] = e.law.head(g.q[i])
		p := 1 / g.slope[i]
		y := g.q[i] - p*g.loss[i]
		a, b := g.row[e.from], g.row[e.to]
		if a >= 0 {
			g.sums.diag[a] += p
			g.side[a] -= y
			if b < 0 {
				g.side[a] += p * g.h[e.to]
			}
		}
		if b >= 0 {
			g.sums.diag[b] += p
			g.side[b] += y
			if a < 0 {
				g.side[b] += p * g.h[e.from]
			}
		}
		if g.slot[i] >= 0 {
			g.sums.off[g.slot[i]] -= p
		}
	}
}

// connected marks the vertices that open edges join to a known head.
func (g *graph) connected() {
	for v := range g.z {
		g.live[v] = g.isFixed(v)
	}
	// Open edges join their ends: over all of them, until nothing changes; from
	// either end of the list in turn, which follows a long line either way.
	for changed := true; changed; {
		changed = false
		join := func(i int) {
			if e := &g.edges[i]; !g.shut[i] && g.live[e.from] != g.live[e.to] {
				g.live[e.from], g.live[e.to], changed = true, true, true
			}
		}
		for i := range g.edges {
			join(i)
		}
		for i := range g.edges {
			join(len(g.edges) - 1 - i)
		}
	}
}
