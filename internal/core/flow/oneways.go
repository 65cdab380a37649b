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
	shun := make([]bool, len(w.z))
	shun[to] = true
	if head := w.shortest(starts, from, shun); head != nil {
		if tail := w.shortest([]int{to}, end, w.met(head, from)); tail != nil {
			return append(append(head, over), tail...)
		}
	}
	clear(shun)
	shun[from] = true
	if tail := w.shortest([]int{to}, end, shun); tail != nil {
		if head := w.shortest(starts, from, w.met(tail, to)); head != nil {
			return append(append(head, over), tail...)
		}
	}
	return nil
}

// met marks the points along a path that begins or ends at a point.
func (w *waterways) met(path []int, at int) []bool {
	seen := make([]bool, len(w.z))
	seen[at] = true
	for _, i := range path {
		seen[w.ways[i].a], seen[w.ways[i].b] = true, true
	}
	return seen
}

// shortest is the way with the fewest marked ways from one of some points to
// another that stays clear of the shunned ones; nil if there is none, empty if
// it is there already.
func (w *waterways) shortest(from []int, to int, shun []bool) []int {
	via := make([]int, len(w.z))
	for i := range via {
		via[i] = -2
	}
	var queue []int
	for _, f := range from {
		if !shun[f] {
			via[f] = -1
			queue = append(queue, f)
		}
	}
	for len(queue) > 0 && via[to] == -2 {
		at := queue[0]
		queue = queue[1:]
		for _, i := range w.at[at] {
			x := &w.ways[i]
			next := x.a + x.b - at
			if !w.marked[i] || via[next] != -2 || shun[next] || x.oneWay && x.a != at {
				continue
			}
			via[next] = i
			queue = append(queue, next)
		}
	}
	if via[to] == -2 {
		return nil
	}
	path := []int{}
	for at := to; via[at] >= 0; {
		path = append(path, via[at])
		at = w.ways[via[at]].a + w.ways[via[at]].b - at
	}
	return path
}
