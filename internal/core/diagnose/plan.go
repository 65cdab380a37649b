package diagnose

import (
	"fmt"
	"math/bits"
	"slices"
)

// ExactUpTo is up to how many classes the fewest looks are exact.
const ExactUpTo = 16

// Splits says how looks part a number of classes: by look and class, the group
// that the class falls into. Classes of one group of a look are not told apart
// by it.
type Splits struct {
	Groups [][]int // by look, then class; nil for a look that is not to be made
}

// Plan is how some classes are told apart by looks, the next one chosen by what
// was seen before.
type Plan struct {
	Classes []int
	Most    int // looks in the worst case
	Least   int // looks that no plan does with fewer, in its worst case; Most where that is exact
	Root    *Node
}

// Exact reports whether no plan needs fewer looks in its worst case.
func (p *Plan) Exact() bool { return p.Most == p.Least }

// Node is a place in a plan: the look to make and what follows by group, or the
// classes that are left and that no look tells apart.
type Node struct {
	Look int // -1 where none tells more
	Left []int
	Next map[int]*Node // by group
}

// Looks is how many looks the plan makes until a class is told; -1 for one that
// it is not about.
func (p *Plan) Looks(s *Splits, class int) int {
	if !slices.Contains(p.Classes, class) {
		return -1
	}
	at, looks := p.Root, 0
	for at.Look >= 0 {
		at = at.Next[s.Groups[at.Look][class]]
		looks++
	}
	return looks
}

// Splits are how the harmless looks part a study's classes: groups are joined
// where no person tells them apart for sure.
func (s *Study) Splits() *Splits {
	x := &Splits{Groups: make([][]int, len(s.Looks))}
	for l := range s.Looks {
		if !s.Harmless(l) {
			continue
		}
		group := make([]int, len(s.Classes))
		for i := range group {
			group[i] = i
		}
		for c := range s.Classes {
			for _, o := range s.Alike(c, l) {
				from, to := max(group[c], group[o]), min(group[c], group[o])
				for i := range group {
					if group[i] == from {
						group[i] = to
					}
				}
			}
		}
		x.Groups[l] = group
	}
	return x
}

// Fewest tells some classes apart in the fewest looks in the worst case: exact
// up to ExactUpTo of them. Above, the look whose largest group is smallest is
// taken until so many are left; Least is then the exact figure of some of them,
// for a plan for all is one for some.
func (s *Splits) Fewest(classes []int) *Plan {
	p := &Plan{Classes: slices.Sorted(slices.Values(classes))}
	if len(p.Classes) <= ExactUpTo {
		e := newExact(s, p.Classes)
		p.Root = e.node(e.all())
		p.Most = e.depth(e.all())
		p.Least = p.Most
		return p
	}
	hardest := p.Classes
	p.Root, p.Most = s.greedy(p.Classes, &hardest)
	e := newExact(s, hardest[:min(len(hardest), ExactUpTo)])
	p.Least = max(e.depth(e.all()), atLeast(len(p.Classes), s.widest(p.Classes)))
	return p
}

// atLeast is how many looks it takes to tell n classes apart if each shows one of
// so many things.
func atLeast(n, shows int) (looks int) {
	if shows < 2 {
		return 0
	}
	for told := 1; told < n; told *= shows {
		looks++
	}
	return looks
}

// widest is how many groups any look parts some classes into.
func (s *Splits) widest(classes []int) (most int) {
	for _, g := range s.Groups {
		if g != nil {
			most = max(most, len(parts(g, classes)))
		}
	}
	return most
}

// parts are some classes by the groups that a look puts them into.
func parts(group, classes []int) map[int][]int {
	m := map[int][]int{}
	for _, c := range classes {
		m[group[c]] = append(m[group[c]], c)
	}
	return m
}

// greedy makes a plan for many classes; hardest becomes what the last look
// before the exact plan left together.
func (s *Splits) greedy(classes []int, hardest *[]int) (*Node, int) {
	if len(classes) <= ExactUpTo {
		e := newExact(s, classes)
		return e.node(e.all()), e.depth(e.all())
	}
	best, least := -1, len(classes)
	for l, g := range s.Groups {
		if g == nil {
			continue
		}
		most := 0
		for _, part := range parts(g, classes) {
			most = max(most, len(part))
		}
		if most < least {
			best, least = l, most
		}
	}
	if best < 0 {
		return &Node{Look: -1, Left: classes}, 0
	}
	node, deepest := &Node{Look: best, Next: map[int]*Node{}}, 0
	for g, part := range parts(s.Groups[best], classes) {
		next, depth := s.greedy(part, hardest)
		node.Next[g] = next
		if deepest = max(deepest, depth+1); len(part) == least {
			*hardest = part
		}
	}
	return node, deepest
}

// exact is dynamic programming over sets of classes.
type exact struct {
	classes []int
	looks   []int            // that part them at all
	masks   [][]uint32       // by these looks, the groups as sets
	groups  []map[uint32]int // by these looks, the group that a set is
	memo    map[uint32]int
}

func newExact(s *Splits, classes []int) *exact {
	e := &exact{classes: classes, memo: map[uint32]int{}}
	seen := map[string]bool{}
	for l, g := range s.Groups {
		if g == nil {
			continue
		}
		byGroup := map[int]uint32{}
		for i, c := range classes {
			byGroup[g[c]] |= 1 << i
		}
		var masks []uint32
		group := map[uint32]int{}
		for g, m := range byGroup {
			masks, group[m] = append(masks, m), g
		}
		slices.Sort(masks)
		if key := fmt.Sprint(masks); len(masks) > 1 && !seen[key] {
			seen[key] = true
			e.looks, e.masks, e.groups = append(e.looks, l), append(e.masks, masks), append(e.groups, group)
		}
	}
	return e
}

func (e *exact) all() uint32 { return 1<<len(e.classes) - 1 }

// depth is the fewest looks in the worst case until no look parts what is left of
// a set.
func (e *exact) depth(set uint32) int {
	if bits.OnesCount32(set) < 2 {
		return 0
	}
	if d, ok := e.memo[set]; ok {
		return d
	}
	best := -1
	for _, masks := range e.masks {
		if d := e.by(masks, set); d >= 0 && (best < 0 || d < best) {
			best = d
		}
	}
	e.memo[set] = max(best, 0)
	return e.memo[set]
}

// by is depth if a look is made first; -1 where it does not part the set.
func (e *exact) by(masks []uint32, set uint32) (worst int) {
	for _, m := range masks {
		switch m & set {
		case 0:
		case set:
			return -1
		default:
			worst = max(worst, 1+e.depth(m&set))
		}
	}
	return worst
}

// node is the plan of a set.
func (e *exact) node(set uint32) *Node {
	best, least := -1, 0
	for i, masks := range e.masks {
		if d := e.by(masks, set); d >= 0 && (best < 0 || d < least) {
			best, least = i, d
		}
	}
	if best < 0 || bits.OnesCount32(set) < 2 {
		n := &Node{Look: -1}
		for i, c := range e.classes {
			if set&(1<<i) != 0 {
				n.Left = append(n.Left, c)
			}
		}
		return n
	}
	n := &Node{Look: e.looks[best], Next: map[int]*Node{}}
	for _, m := range e.masks[best] {
		if m&set != 0 {
			n.Next[e.groups[best][m]] = e.node(m & set)
		}
	}
	return n
}
