package flow

// directed takes the marks off ways that no simple way from a start to the end
// runs along in the direction that its one-ways pass. A biconnected block
// tells this exactly only where there are no one-ways; with them the question
// is a hard one, so a way that two plain searches find no proof for counts as
// not moving, which is on the safe side.
func (w *waterways) directed(starts []int, end int) {
	oneWay := false
	for i := range w.ways {
		oneWay = oneWay || w.marked[i] && w.ways[i].oneWay
	}
	if !oneWay {
		return
	}
	proven := make([]bool, len(w.ways))
	for i, x := range w.ways {
		if !w.marked[i] || proven[i] {
			continue
		}
		path := w.through(starts, end, i, x.a, x.b)
		if path == nil && !x.oneWay {
			path = w.through(starts, end, i, x.b, x.a)
		}
		for _, p := range path {
			proven[p] = true
		}
	}
	copy(w.marked, proven)
}

// through finds a simple way from a start over a given way, run from one of its
// points to the other, to the end: the shortest way to it and then one that
// meets it nowhere, or the other way about.
func (w *waterways) through(starts []int, end, over, from, to int) []int {
	w.shun.clear(len(w.z))
	w.shun.add(to)
	if head := w.shortest(starts, from); head != nil {
		w.meet(head, from)
		if tail := w.shortest([]int{to}, end); tail != nil {
			return append(append(head, over), tail...)
		}
	}
	w.shun.clear(len(w.z))
	w.shun.add(from)
	if tail := w.shortest([]int{to}, end); tail != nil {
		w.meet(tail, to)
		if head := w.shortest(starts, from); head != nil {
			return append(append(head, over), tail...)
		}
	}
	return nil
}

// meet shuns the points along a path that begins or ends at a point, and no
// others.
func (w *waterways) meet(path []int, at int) {
	w.shun.clear(len(w.z))
	w.shun.add(at)
	for _, i := range path {
		w.shun.add(w.ways[i].a)
		w.shun.add(w.ways[i].b)
	}
}

// pointSet is a set of points that is cleared without touching them all.
type pointSet struct {
	stamp []int
	now   int
}

// clear empties the set for points below n.
func (s *pointSet) clear(n int) {
	if len(s.stamp) != n {
		s.stamp = make([]int, n)
		s.now = 0
	}
	s.now++
}

func (s *pointSet) add(p int)      { s.stamp[p] = s.now }
func (s *pointSet) has(p int) bool { return s.stamp[p] == s.now }

// shortest is the way with the fewest marked ways from one of some points to
// another that stays clear of the shunned ones; nil if there is none, empty if
// it is there already.
func (w *waterways) shortest(from []int, to int) []int {
	if len(w.via) != len(w.z) {
		w.via = make([]int, len(w.z))
	}
	via, seen := w.via, &w.seen
	seen.clear(len(w.z))
	queue := w.front[:0]
	for _, f := range from {
		if !w.shun.has(f) {
			via[f] = -1
			seen.add(f)
			queue = append(queue, f)
		}
	}
	for k := 0; k < len(queue) && !seen.has(to); k++ {
		at := queue[k]
		for _, i := range w.at[at] {
			x := &w.ways[i]
			next := x.a + x.b - at
			if !w.marked[i] || seen.has(next) || w.shun.has(next) || x.oneWay && x.a != at {
				continue
			}
			via[next] = i
			seen.add(next)
			queue = append(queue, next)
		}
	}
	w.front = queue
	if !seen.has(to) {
		return nil
	}
	path := []int{}
	for at := to; via[at] >= 0; {
		path = append(path, via[at])
		at = w.ways[via[at]].a + w.ways[via[at]].b - at
	}
	return path
}
