package flow

import (
	"slices"

	"gonum.org/v1/gonum/blas"
	"gonum.org/v1/gonum/blas/blas64"
	"gonum.org/v1/gonum/lapack/lapack64"
)

// pair is a place off the diagonal of a symmetric matrix, row before column.
type pair struct{ row, col int }

// equations are symmetric and positive definite. The diagonal and the places
// off it that are not nought are filled in, then solved for a right side.
type equations struct {
	diag, off []float64
	pairs     []pair // of off
	factor    interface {
		// solve puts the answer in the place of the right side; it reports false
		// where there is no single one.
		solve(e *equations, side []float64) bool
	}
}

// denseRows is the size up to which a full matrix is quicker.
const denseRows = 8

// newEquations makes the equations of so many rows with some pairs of them
// coupled. Which elimination is taken depends on the size alone.
func newEquations(rows int, pairs []pair) *equations {
	e := &equations{diag: make([]float64, rows), off: make([]float64, len(pairs)), pairs: pairs}
	if rows <= denseRows {
		e.factor = &dense{make([]float64, rows*rows)}
	} else {
		e.factor = newSparse(rows, pairs)
	}
	return e
}

func (e *equations) clear() {
	clear(e.diag)
	clear(e.off)
}

// dense is a full symmetric matrix, its upper half row by row.
type dense struct{ a []float64 }

func (d *dense) solve(e *equations, side []float64) bool {
	rows := len(e.diag)
	clear(d.a)
	for i, v := range e.diag {
		d.a[i*rows+i] = v
	}
	for i, p := range e.pairs {
		d.a[p.row*rows+p.col] += e.off[i]
	}
	half, ok := lapack64.Potrf(blas64.Symmetric{N: rows, Stride: rows, Data: d.a, Uplo: blas.Upper})
	if ok {
		lapack64.Potrs(half, blas64.General{Rows: rows, Cols: 1, Stride: 1, Data: side})
	}
	return ok
}

// sparse is the factor L·D·Lᵀ of a sparse matrix (George and Liu, "Computer
// Solution of Large Sparse Positive Definite Systems", 1981): rows are
// eliminated in the order of fewest neighbours left, which is worked out once
// with where L has entries; the numbers are filled in column by column.
type sparse struct {
	at    []int // row to its place in the order
	start []int // of each column in entry, places in the order
	entry []int // row of each entry of L below the diagonal, ascending in a column
	slot  []int // pair to entry
	// The entries in each row: the column they are in, and which entry.
	rowStart, rowCol, rowEntry []int

	l, d, work, side []float64
}

func newSparse(rows int, pairs []pair) *sparse {
	order, below := eliminate(rows, pairs)
	s := &sparse{at: make([]int, rows), start: make([]int, rows+1), slot: make([]int, len(pairs)),
		rowStart: make([]int, rows+1),
		d:        make([]float64, rows), work: make([]float64, rows), side: make([]float64, rows)}
	for place, row := range order {
		s.at[row] = place
	}
	for place := range order {
		for _, row := range below[place] {
			s.entry = append(s.entry, s.at[row])
		}
		slices.Sort(s.entry[s.start[place]:])
		s.start[place+1] = len(s.entry)
	}
	s.l = make([]float64, len(s.entry))
	for _, row := range s.entry {
		s.rowStart[row+1]++
	}
	for i := range rows {
		s.rowStart[i+1] += s.rowStart[i]
	}
	s.rowCol, s.rowEntry = make([]int, len(s.entry)), make([]int, len(s.entry))
	next := slices.Clone(s.rowStart[:rows])
	for col := range rows {
		for e := s.start[col]; e < s.start[col+1]; e++ {
			k := next[s.entry[e]]
			s.rowCol[k], s.rowEntry[k] = col, e
			next[s.entry[e]]++
		}
	}
	for i, p := range pairs {
		col, row := min(s.at[p.row], s.at[p.col]), max(s.at[p.row], s.at[p.col])
		k, _ := slices.BinarySearch(s.entry[s.start[col]:s.start[col+1]], row)
		s.slot[i] = s.start[col] + k
	}
	return s
}

// eliminate takes rows out one after another, always one with the fewest
// neighbours left, and joins those to each other. It gives the order, and for
// each row taken out the neighbours it had.
func eliminate(rows int, pairs []pair) (order []int, below [][]int) {
	beside := make([][]int, rows)
	for _, p := range pairs {
		beside[p.row] = append(beside[p.row], p.col)
		beside[p.col] = append(beside[p.col], p.row)
	}
	// Rows by how many neighbours they have; stale places are passed over.
	waiting := make([][]int, rows+1)
	for row := range rows {
		slices.Sort(beside[row])
		beside[row] = slices.Compact(beside[row])
		waiting[len(beside[row])] = append(waiting[len(beside[row])], row)
	}
	gone := make([]bool, rows)
	var merged []int
	for fewest := 0; len(order) < rows; {
		last := len(waiting[fewest]) - 1
		if last < 0 {
			fewest++
			continue
		}
		row := waiting[fewest][last]
		waiting[fewest] = waiting[fewest][:last]
		if gone[row] || len(beside[row]) != fewest {
			continue
		}
		gone[row] = true
		around := beside[row]
		order, below = append(order, row), append(below, around)
		for _, other := range around {
			merged = union(merged[:0], beside[other], around, row, other)
			beside[other] = append(beside[other][:0], merged...)
			degree := len(beside[other])
			waiting[degree] = append(waiting[degree], other)
			fewest = min(fewest, degree)
		}
	}
	return order, below
}

// union merges two ascending lists without two of their members.
func union(to, a, b []int, without, nor int) []int {
	for len(a) > 0 || len(b) > 0 {
		var v int
		switch {
		case len(b) == 0 || len(a) > 0 && a[0] < b[0]:
			v, a = a[0], a[1:]
		case len(a) == 0 || b[0] < a[0]:
			v, b = b[0], b[1:]
		default:
			v, a, b = a[0], a[1:], b[1:]
		}
		if v != without && v != nor {
			to = append(to, v)
		}
	}
	return to
}

func (s *sparse) solve(e *equations, side []float64) bool {
	clear(s.l)
	for i, slot := range s.slot {
		s.l[slot] += e.off[i]
	}
	for row, v := range e.diag {
		s.d[s.at[row]] = v
	}
	if !s.factorize() {
		return false
	}
	x := s.side
	for row, v := range side {
		x[s.at[row]] = v
	}
	for col := range x {
		for e := s.start[col]; e < s.start[col+1]; e++ {
			x[s.entry[e]] -= s.l[e] * x[col]
		}
	}
	for col := len(x) - 1; col >= 0; col-- {
		v := x[col] / s.d[col]
		for e := s.start[col]; e < s.start[col+1]; e++ {
			v -= s.l[e] * x[s.entry[e]]
		}
		x[col] = v
	}
	for row := range side {
		side[row] = x[s.at[row]]
	}
	return true
}

// factorize turns the matrix in d and l into D and L, column by column: each
// is lessened by those before it that have an entry in its row.
func (s *sparse) factorize() bool {
	w := s.work
	for col := range s.d {
		from, to := s.start[col], s.start[col+1]
		pivot := s.d[col]
		for e := from; e < to; e++ {
			w[s.entry[e]] = s.l[e]
		}
		for k := s.rowStart[col]; k < s.rowStart[col+1]; k++ {
			before, at := s.rowCol[k], s.rowEntry[k]
			f := s.l[at] * s.d[before]
			pivot -= s.l[at] * f
			end := s.start[before+1]
			rows, values := s.entry[at+1:end], s.l[at+1:end]
			for i, row := range rows {
				w[row] -= values[i] * f
			}
		}
		if !(pivot > 0) {
			return false
		}
		s.d[col] = pivot
		for e := from; e < to; e++ {
			s.l[e] = w[s.entry[e]] / pivot
		}
	}
	return true
}
