package state

import (
	"fmt"
	"maps"
	"slices"
	"strconv"
	"strings"

	"coldtap/internal/core/plumbing"
	"coldtap/internal/core/quantity"
)

// names of the kinds of connection, as they are written.
var names = map[ConnectionKind]string{Capped: "closed", Supply: "hose", Container: "jug", HandPump: "hand-pump",
	Compressed: "air", OpenToAir: "bare", Plugged: "plugged"}

// String is the kind as it is written.
func (k ConnectionKind) String() string { return names[k] }

// Choices lists what a part's port can be joined to, Capped first; none for
// a part without a port for it.
func Choices(p *plumbing.Part) []ConnectionKind {
	switch p.Role() {
	case plumbing.RoleInlet:
		return []ConnectionKind{Capped, Supply, HandPump, Compressed, OpenToAir}
	case plumbing.RoleFill, plumbing.RoleRinse:
		return []ConnectionKind{Capped, Supply}
	case plumbing.RolePickUp:
		return []ConnectionKind{Capped, Container, OpenToAir}
	case plumbing.RoleJoint:
		return []ConnectionKind{Capped, Container}
	}
	return nil
}

// Keys of a state written as text.
const (
	keySet  = "set"  // handle.position
	keyOpen = "open" // outlet.side
	keyPump = "pump" // those that are on
	keyAt   = "at"   // port.kind
	keyHeat = "heat" // heater.source of those that are on
	keyOut  = "out"  // parts that something is taken out of
	keyFull = "full" // tank.share
	keyTilt = "tilt" // nose.degrees, left.degrees
)

// Write gives what is different in s from base, as lists of words by key. Of
// what is joined the kind is written, and how much a container has in it; not
// its other figures.
func Write(n *plumbing.Network, base, s State) map[string][]string {
	text := map[string][]string{}
	for i, h := range n.AllHandles() {
		if s.Handles[i] != base.Handles[i] {
			text[keySet] = append(text[keySet], h.Part.ID+"."+h.Positions[s.Position(i)])
		}
	}
	write := func(key string, same bool, words func() []string) {
		if !same {
			text[key] = words()
		}
	}
	write(keyOpen, maps.Equal(s.Open, base.Open), func() (list []string) {
		for i, node := range n.AllNodes() {
			if s.Open[i] {
				list = append(list, node.Name())
			}
		}
		return list
	})
	write(keyAt, maps.Equal(s.Joined, base.Joined), func() (list []string) {
		for i, node := range n.AllNodes() {
			if c := s.Joined[i]; c.Kind != Capped {
				list = append(list, node.Part.ID+"."+c.words())
			}
		}
		return list
	})
	write(keyPump, s.Pumps == base.Pumps, func() []string { return written(s.Pumps, pumpNames(n)) })
	write(keyHeat, s.Heat == base.Heat, func() []string { return written(s.Heat, heatNames(n)) })
	write(keyOut, maps.Equal(s.Out, base.Out), func() (list []string) {
		for i, name := range fittingNames(n) {
			if s.Out[plumbing.FittingID(i)] {
				list = append(list, name)
			}
		}
		return list
	})
	write(keyFull, maps.Equal(s.Levels, base.Levels), func() (list []string) {
		for _, id := range slices.Sorted(maps.Keys(s.Levels)) {
			list = append(list, id+"."+number(s.Levels[id]))
		}
		return list
	})
	write(keyTilt, s.Attitude == base.Attitude, func() []string {
		return []string{"nose." + number(s.Attitude.NoseUp), "left." + number(s.Attitude.LeftUp)}
	})
	return text
}

// words are the kind of a connection, and the litres in a container.
func (c Connection) words() string {
	if c.Volume == 0 {
		return c.Kind.String()
	}
	return c.Kind.String() + ":" + number(float64(c.Volume))
}

func number(v float64) string { return strconv.FormatFloat(v, 'g', -1, 64) }

// written names the things of a set.
func written[ID ~int](set Set[ID], names []string) []string {
	var list []string
	for i, name := range names {
		if set.Has(ID(i)) {
			list = append(list, name)
		}
	}
	return list
}

func pumpNames(n *plumbing.Network) (list []string) {
	for _, p := range n.Pumps {
		list = append(list, p.ID)
	}
	return list
}

func heatNames(n *plumbing.Network) (list []string) {
	for _, h := range n.Heat {
		list = append(list, h.Part.ID+"."+string(h.By))
	}
	return list
}

func fittingNames(n *plumbing.Network) (list []string) {
	for _, f := range n.Fittings {
		list = append(list, f.Part.ID+"."+string(f.What))
	}
	return list
}

// Read changes base by what Write gave. A container gives the fluid, a hose
// what base has there, else water. Words that name nothing on the network are
// an error that quotes them.
func Read(n *plumbing.Network, base State, fluid Fluid, text map[string][]string) (State, error) {
	r := reader{n: n, s: base, fluid: fluid}
	for key, read := range map[string]func([]string) error{
		keySet: r.handles, keyOpen: r.open, keyAt: r.joined, keyFull: r.levels, keyTilt: r.attitude,
		keyPump: func(words []string) error { return readSet(&r.s.Pumps, words, pumpNames(n), "pump") },
		keyHeat: func(words []string) error { return readSet(&r.s.Heat, words, heatNames(n), "heat source") },
		keyOut:  r.out,
	} {
		if words, ok := text[key]; ok {
			if err := read(words); err != nil {
				return base, err
			}
		}
	}
	return r.s, nil
}

func readSet[ID ~int](set *Set[ID], words, names []string, what string) error {
	*set = 0
	for _, word := range words {
		i := slices.Index(names, word)
		if i < 0 {
			return fmt.Errorf("there is no %s %q on this model", what, word)
		}
		*set = set.With(ID(i), true)
	}
	return nil
}

// reader reads words into a state.
type reader struct {
	n     *plumbing.Network
	s     State
	fluid Fluid
}

func (r *reader) handles(words []string) error {
	for _, word := range words {
		id, pos := plumbing.PartOf(word)
		h := r.n.HandleOf(id)
		if h == plumbing.None || r.n.Handles[h].Index(pos) == plumbing.None {
			return fmt.Errorf("there is no handle %q with a position %q on this model", id, pos)
		}
		r.s = r.s.With(h, r.n.Handles[h].Index(pos))
	}
	return nil
}

func (r *reader) open(words []string) error {
	r.s.Open = map[plumbing.NodeID]bool{}
	for _, word := range words {
		node := r.n.Node(word)
		if node == plumbing.None || !r.n.Nodes[node].Part.Kind.Info().Target {
			return fmt.Errorf("there is no outlet side %q on this model", word)
		}
		r.s.Open[node] = true
	}
	return nil
}

func (r *reader) out(words []string) error {
	r.s.Out = map[plumbing.FittingID]bool{}
	for _, word := range words {
		i := slices.Index(fittingNames(r.n), word)
		if i < 0 {
			return fmt.Errorf("nothing is fitted at %q on this model", word)
		}
		r.s.Out[plumbing.FittingID(i)] = true
	}
	return nil
}

// mostLitres is more than any container beside a camper holds.
const mostLitres = 10_000

func (r *reader) joined(words []string) error {
	was := r.s.Joined
	r.s.Joined = map[plumbing.NodeID]Connection{}
	for _, word := range words {
		word, litres, said := strings.Cut(word, ":")
		id, name := plumbing.PartOf(word)
		mouth, kind := r.n.Node(id+".mouth"), kindOf(name)
		if kind == Plugged {
			mouth = r.n.Node(id + ".loose")
		}
		if mouth == plumbing.None || kind != Plugged && !slices.Contains(Choices(r.n.Nodes[mouth].Part), kind) {
			return fmt.Errorf("there is no port %q that takes %q on this model", id, name)
		}
		if c := was[mouth]; c.Kind == kind {
			r.s.Joined[mouth] = c
		} else {
			r.s.Joined[mouth] = ConnectionOf(r.n.Nodes[mouth].Part, kind, r.fluid)
		}
		if said {
			v, err := strconv.ParseFloat(litres, 64)
			if err != nil || !(v > 0 && v <= mostLitres) || kind != Container && kind != HandPump {
				return fmt.Errorf("%q is not litres in a container at %q", litres, id)
			}
			c := r.s.Joined[mouth]
			c.Volume = quantity.Litre(v)
			r.s.Joined[mouth] = c
		}
		if kind == Capped {
			delete(r.s.Joined, mouth)
		}
	}
	return nil
}

func (r *reader) levels(words []string) error {
	r.s.Levels = map[string]float64{}
	for _, word := range words {
		id, text := plumbing.PartOf(word)
		share, err := strconv.ParseFloat(text, 64)
		if p := r.n.Model.Part(id); p == nil || p.Role() != plumbing.RoleTank || err != nil ||
			!(share >= 0 && share <= 1) {
			return fmt.Errorf("%q is not a tank of this model with a share from 0 to 1", word)
		}
		r.s.Levels[id] = share
	}
	return nil
}

func (r *reader) attitude(words []string) error {
	r.s.Attitude = Attitude{}
	for _, word := range words {
		side, text := plumbing.PartOf(word)
		degrees, err := strconv.ParseFloat(text, 64)
		if err != nil || !(degrees >= -45 && degrees <= 45) {
			return fmt.Errorf("%q is not a slope of at most 45 degrees", word)
		}
		switch side {
		case "nose":
			r.s.Attitude.NoseUp = degrees
		case "left":
			r.s.Attitude.LeftUp = degrees
		default:
			return fmt.Errorf("a camper stands nose or left side up, not %q", side)
		}
	}
	return nil
}

// ConnectionOf is a connection of a kind at a part, with its usual figures: what
// stands in a container is the fluid, what comes by a hose is water.
func ConnectionOf(p *plumbing.Part, kind ConnectionKind, fluid Fluid) Connection {
	switch kind {
	case Container, HandPump:
	case Compressed:
		fluid = Air
	default:
		fluid = Water
	}
	if !kind.Gives() {
		return Connection{Kind: kind}
	}
	c := Usual(p, fluid)
	c.Kind = kind
	return c
}

// kindOf finds a kind by its name; one that is none is not among the choices
// of any port.
func kindOf(name string) ConnectionKind {
	for k, n := range names {
		if n == name {
			return k
		}
	}
	return -1
}

// Words splits a list of words; an empty list is written as a dash.
func Words(text string) []string {
	return slices.DeleteFunc(strings.Split(text, ","), func(s string) bool { return s == "" || s == "-" })
}

// Text is the opposite of Words.
func Text(words []string) string {
	if len(words) == 0 {
		return "-"
	}
	return strings.Join(words, ",")
}
