package guide_test

import (
	"fmt"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"coldtap/internal/core/chapter"
	"coldtap/internal/core/fact"
	"coldtap/internal/core/flow"
	"coldtap/internal/core/house"
	"coldtap/internal/core/plumbing"
	"coldtap/internal/core/proof"
	"coldtap/internal/core/setting"
	"coldtap/internal/core/state"
	"coldtap/internal/core/words"
	"coldtap/internal/guide"
	"coldtap/internal/guide/doc"
	"coldtap/internal/rig/drafted"
	"coldtap/internal/sample"
)

// printed is the guide of a build as it is read.
type printed struct {
	name string
	in   chapter.Inputs
	doc  *doc.Document
}

// guides are the guides of builds of the demo models, and of the campers that are no demo models.
func guides(t *testing.T, e chapter.Edition) (list []printed) {
	t.Helper()
	type build struct {
		m    *plumbing.Model
		with []string
	}
	var builds []build
	for _, m := range drafted.Campers(t) {
		for _, with := range m.Builds() {
			builds = append(builds, build{m, with})
		}
	}
	for _, b := range sample.Of(t, 6, builds) {
		in := drafted.Whole(t, b.m, b.with)
		in.Edition = e
		d, err := guide.New(t.Context(), in, guide.Options{With: b.with})
		require.NoError(t, err)
		list = append(list, printed{fmt.Sprintf("%s %v", b.m.ID, b.with), in, d})
	}
	return list
}

// What printed guides got wrong before is right in every guide, read from its text and its steps.
func TestWhatPrintedGuidesGotWrong(t *testing.T) {
	for _, p := range guides(t, chapter.Dealer) {
		assert.NotContains(t, plain(p.doc), "%!", "%s: a sentence lacks what it tells of", p.name)
		switches(t, p)
		procedures(t, p)
		doses(t, p)
		refills(t, p)
		parts(t, p)
	}
}

// switches: a pump is told as on where it runs and as off where it does not; a container holds what the way of use is
// for; a position is that of the setting, and none is told as either way.
func switches(t *testing.T, p printed) {
	tell := words.English(p.in.Net.Model.System())
	nodes := section(t, p.doc, "valves").Nodes
	byName := map[string]*setting.Answer{}
	for _, a := range setting.Unroll(p.in.Plan) {
		byName[tell.Tell(a.Mode.Name)] = &a
	}
	for _, n := range nodes {
		table, ok := n.(doc.Table)
		if !ok {
			continue
		}
		for _, r := range table.Rows {
			text := strings.ToLower(doc.Join(append(slices.Clone(r.Cells[0].Lines), r.Cells[1].Items...), "; ").Text())
			assert.NotContains(t, text, "either way", p.name)
			a := byName[r.Cells[0].Lines[0].Text()]
			if table.Class != "beside" || !assert.NotNil(t, a, "%s: %s", p.name, text) {
				continue
			}
			runs := false
			for i := range p.in.Net.Pumps {
				runs = runs || a.State.Pumps.Has(plumbing.PumpID(i))
			}
			assert.Equal(t, runs, strings.Contains(text, "pump switch on"), "%s: %s", p.name, text)
			for fluid, others := range map[state.Fluid][]string{
				state.Antifreeze: {"sanitizer container", "vinegar container", "water container"},
				state.Sanitizer:  {"antifreeze container", "antifreeze jug", "vinegar container"},
			} {
				for _, o := range others {
					if a.Mode.Fluid == fluid {
						assert.NotContains(t, text, o, "%s: %s", p.name, text)
					}
				}
			}
		}
	}
}

// procedures: each is proven, or says what it does not reach; what is waited for comes; nothing is taken off and not
// put back but where the procedure is one for storage; what is poured goes where something can be poured into.
func procedures(t *testing.T, p printed) {
	for _, task := range p.in.Tasks {
		if task.Read == nil {
			continue
		}
		what := p.name + " " + task.ID
		s := section(t, p.doc, "task-"+task.ID)
		var steps *doc.Steps
		for _, n := range s.Nodes {
			if x, ok := n.(doc.Steps); ok {
				steps = &x
			}
		}
		if assert.NotNil(t, steps, what) {
			assert.Len(t, steps.List, len(task.Read.Steps), what)
		}
		if task.Worst > proof.Note {
			assert.Contains(t, plainSection(s), "What this does not reach on this model", what)
		}
		for i, step := range task.Read.Steps {
			if !step.Until.IsZero() && task.Worst <= proof.Note {
				assert.True(t, step.Came, "%s step %d waits for what never comes", what, i+1)
			}
		}
		for i, pour := range pours(task) {
			ok := pour.Role() != plumbing.RoleTank || reachedByFill(p.in.Net, pour)
			assert.True(t, ok, "%s: pour %d into %s, which has no fill", what, i, pour.Name)
		}
		for _, off := range task.Read.TakenOff {
			if off.Cartridge && (task.ID == "sanitize" || task.ID == "first-use" || task.ID == "de-winterize") {
				assert.Positive(t, off.Back, "%s: %s is not put back", what, off.Part.Name)
			}
		}
	}
}

func pours(task chapter.Task) (list []*plumbing.Part) {
	for _, s := range task.Read.Steps {
		if len(s.Pour) == 0 {
			continue
		}
		list = append(list, s.Main...)
	}
	return list
}

// reachedByFill reports whether something can be poured into a tank: a neck, a hatch or a port leads to it.
func reachedByFill(n *plumbing.Network, tank *plumbing.Part) bool {
	s := state.Undecided(n)
	s.Pumps = state.AllPumps(n)
	for _, fill := range n.PartsOf(plumbing.RoleFill, plumbing.RoleHatch, plumbing.RolePickUp, plumbing.RoleInlet) {
		if n.Beside(fill, tank) || flow.Reach(n, s, flow.Query{From: n.NodesOf(fill, "mouth")}).Part(tank) {
			return true
		}
	}
	return false
}

// doses: each body of tank water has its own dose in the figures, and the school that is printed is strong enough or
// says that it is not.
func doses(t *testing.T, p printed) {
	text := plainSection(section(t, p.doc, "figures"))
	tanks := 0
	for _, d := range p.in.Report.Doses {
		for _, x := range d.Tanks {
			tanks++
			assert.Contains(t, text, "Bleach for the "+plumbing.NoArticle(strings.ToLower(x.Tank.Name[:1])+x.Tank.Name[1:]), p.name)
		}
	}
	for _, w := range p.in.Report.Winter {
		i := slices.IndexFunc(p.in.Tasks, func(x chapter.Task) bool { return x.ID == "winterize-"+w.ID })
		if i < 0 || w.Weakest == nil || w.Weakest.Enough || p.in.Tasks[i].Read == nil {
			continue
		}
		s := plainSection(section(t, p.doc, "task-"+p.in.Tasks[i].ID))
		assert.Contains(t, s, "What this does not reach on this model", "%s: %s is too weak", p.name, w.ID)
	}
}

// refills: the figure tells as many refills as the steps have.
func refills(t *testing.T, p printed) {
	i := slices.IndexFunc(p.in.Tasks, func(x chapter.Task) bool { return x.ID == "sanitize" })
	if i < 0 || p.in.Tasks[i].Read == nil || house.FlushWay.Of(p.in.House) == "through" {
		return
	}
	var rounds int
	var last string
	for _, s := range p.in.Tasks[i].Read.Steps { // a refill in several steps, or of several tanks, is one
		switch head := s.Head.ID; {
		case head == "step.refill" && last != "step.refill":
			rounds, last = rounds+1, head
		case head == "step.pump-out" || head == "step.drain-tank" || head == "step.flush":
			last = head
		}
	}
	ref := "flush/" + house.FlushWay.Of(p.in.House) + "/refills"
	for _, r := range section(t, p.doc, "figures").Nodes[0].(doc.Table).Rows {
		if r.Cells[1].Lines[0].Spans[0].Ref == ref {
			assert.Equal(t, fmt.Sprint(rounds), r.Cells[1].Lines[0].Text(), p.name)
		}
	}
}

// parts: the parts of the guide come in the order of a year, and the dealer's has the check to be signed.
func parts(t *testing.T, p printed) {
	tell := words.English(p.in.Net.Model.System())
	var order []string
	for _, part := range chapter.Parts() {
		order = append(order, tell.Tell(fact.Of("chapter."+string(part))))
	}
	last := 0
	for _, s := range p.doc.Sections {
		at := slices.Index(order, s.Part)
		assert.GreaterOrEqual(t, at, last, "%s: %s stands in %s", p.name, s.ID, s.Part)
		last = at
	}
	if i := slices.IndexFunc(p.doc.Sections, func(s doc.Section) bool { return s.ID == "task-first-use" }); i >= 0 {
		assert.Contains(t, plainSection(p.doc.Sections[i]), "Done by", p.name)
	}
}

func plainSection(s doc.Section) string {
	return plain(&doc.Document{Sections: []doc.Section{s}})
}
