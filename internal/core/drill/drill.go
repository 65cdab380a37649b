// Package drill makes exercises from a model, shows before one is asked that its
// right answer is right and its wrong ones are wrong, and marks what somebody
// answers.
package drill

import (
	"context"
	"hash/fnv"
	"math/rand/v2"
	"slices"

	"coldtap/internal/core/draft"
	"coldtap/internal/core/fact"
	"coldtap/internal/core/fault"
	"coldtap/internal/core/finding"
	"coldtap/internal/core/instruction"
	"coldtap/internal/core/proof"
	"coldtap/internal/core/record"
)

// Kind is a kind of exercise.
type Kind string

// The kinds.
const (
	Valves  Kind = "valves"  // set the valves for a way of using
	Order   Kind = "order"   // put the steps in order
	Fault   Kind = "fault"   // find what is wrong
	Amount  Kind = "amount"  // work out the amount
	Where   Kind = "where"   // where is it
	Label   Kind = "label"   // which label lies
	Heater  Kind = "heater"  // which heater is this
	Happens Kind = "happens" // what happens if
	Missing Kind = "missing" // what is missing
)

// Kinds lists them.
func Kinds() []Kind {
	return []Kind{Valves, Order, Fault, Amount, Where, Label, Heater, Happens, Missing}
}

// Exercise is a question of which it is proved what is right.
type Exercise struct {
	Solution
	Key     string // the same question has the same in every state of a model
	Ask     fact.Fact
	Told    []fact.Fact
	Steps   []fact.Fact // of a procedure, as they are shown: the heads of steps
	Gap     int         // of Missing: how many steps before it are not shown
	Options []Option
	Reasons map[string]Reason // by outcome
	Shows   []Shown           // of Fault: what each of Looks shows
	Hints   []fact.Fact
	Hard    int      // 1 to 5
	About   []string // ids of the parts and lines that it is about
	Traps   []string // codes of the model's traps that it meets
	Task    string   // id of the procedure that it is from, "" for none
	Inputs  []record.Input
}

// Option is something that can be chosen.
type Option struct {
	ID      string
	Said    fact.Fact
	Effects []fault.Effect // where they say it
	Parts   []string       // that it names
}

// Reason is why an answer is right or wrong.
type Reason struct {
	Said    []fact.Fact
	Effects []fault.Effect // that are told behind it
	Parts   []string       // where it is so: parts and lines
	Danger  bool           // it would hurt somebody
}

// Refusal is why a question is not asked.
type Refusal string

// The reasons.
const (
	NoEquipment  Refusal = "no-equipment"  // the model has not what it is about
	SameAlready  Refusal = "same-already"  // the unit stands right as it is
	AnyOrder     Refusal = "any-order"     // every order is right
	NothingShown Refusal = "nothing-shown" // the fault shows in no look
	NoComplaint  Refusal = "no-complaint"  // no look shows all of its class otherwise than usual
	AllAlike     Refusal = "all-alike"     // no look tells it from any other
	FewWrong     Refusal = "few-wrong"     // there are not three answers that are shown to be wrong
	NotMissed    Refusal = "not-missed"    // without it no rule breaks
	NotKnown     Refusal = "not-known"     // a figure is missing in the model
	OutOfReach   Refusal = "out-of-reach"  // no amount that may be used comes to it
	TooNear      Refusal = "too-near"      // another place lies too near
	ManyLie      Refusal = "many-lie"      // more than one label lies
	NoneLies     Refusal = "none-lies"     // the exchange makes none lie
	LooksAlike   Refusal = "looks-alike"   // another kind looks the same
	Unproven     Refusal = "unproven"      // the procedure breaks rules as it is
)

// Set is what can be asked of a model.
type Set struct {
	Exercises []Exercise
	Refused   map[Kind]map[Refusal]int
}

// Count is how many exercises of a kind there are.
func (s *Set) Count(k Kind) (n int) {
	for i := range s.Exercises {
		if s.Exercises[i].Kind == k {
			n++
		}
	}
	return n
}

// Task is a procedure as it was carried out.
type Task struct {
	ID     string
	Done   *proof.Procedure
	Proof  *proof.Proof
	Read   *instruction.Instruction
	Inputs []record.Input
}

// Photo is a photograph with the parts that are marked on it, by where on it
// they are, 0 to 1 from its left and top edge.
type Photo struct {
	ID    string
	Marks map[string][2]float64
}

// Inputs are what exercises are made of.
type Inputs struct {
	draft.Inputs
	Tasks  []Task
	Photos []Photo
	Step   func() // told after each kind; nil for nobody
}

// Most is how many exercises of a kind are made at most.
const Most = 48

type maker struct {
	Inputs
	ctx   context.Context
	set   *Set
	kind  Kind
	traps []finding.Finding
}

// Make makes the exercises of a build, the same for the same inputs. The error
// is the context's.
func Make(ctx context.Context, in Inputs) (*Set, error) {
	k := &maker{Inputs: in, ctx: ctx, set: &Set{Refused: map[Kind]map[Refusal]int{}}}
	for _, f := range finding.Find(in.Net, in.Plan) {
		if finding.Trap(f.Code) {
			k.traps = append(k.traps, f)
		}
	}
	for _, one := range []struct {
		kind Kind
		make func() error
	}{{Valves, k.valves}, {Order, k.orders}, {Fault, k.faults}, {Amount, k.amounts}, {Where, k.wheres},
		{Label, k.labels}, {Heater, k.heaters}, {Happens, k.happens}, {Missing, k.missing}} {
		k.kind = one.kind
		before := len(k.set.Exercises)
		if err := one.make(); err != nil {
			return nil, err
		}
		if err := ctx.Err(); err != nil {
			return nil, err
		}
		if len(k.set.Exercises) == before && len(k.set.Refused[one.kind]) == 0 {
			k.refuse(NoEquipment)
		}
		if in.Step != nil {
			in.Step()
		}
	}
	return k.set, nil
}

func (k *maker) refuse(why Refusal) { k.set.Refuse(k.kind, why) }

// Refuse counts a question that is not asked.
func (s *Set) Refuse(kind Kind, why Refusal) {
	if s.Refused[kind] == nil {
		s.Refused[kind] = map[Refusal]int{}
	}
	s.Refused[kind][why]++
}

// add adds an exercise of the kind that is made.
func (k *maker) add(x Exercise) {
	x.Kind = k.kind
	x.Key = string(k.kind) + "/" + x.Key
	x.Traps = k.meets(x.About)
	if len(x.Traps) > 0 {
		x.Hard++
	}
	x.Hard = min(5, max(1, x.Hard))
	slices.Sort(x.About)
	x.About = slices.Compact(x.About)
	k.set.Exercises = append(k.set.Exercises, x)
}

// meets lists the codes of the traps that lie at some parts and lines.
func (k *maker) meets(about []string) (codes []string) {
	for _, f := range k.traps {
		if slices.ContainsFunc(f.Parts, func(id string) bool { return slices.Contains(about, id) }) &&
			!slices.Contains(codes, f.Code) {
			codes = append(codes, f.Code)
		}
	}
	return codes
}

// chance is the same sequence for the same name.
func chance(name string) *rand.Rand {
	h := fnv.New64a()
	h.Write([]byte(name))
	return rand.New(rand.NewPCG(h.Sum64(), 0))
}

// some are at most so many things of a list, spread over it by a name.
func some[T any](name string, list []T, most int) []T {
	list = slices.Clone(list)
	chance(name).Shuffle(len(list), func(i, j int) { list[i], list[j] = list[j], list[i] })
	return list[:min(most, len(list))]
}

// with are the inputs of both lists, each once.
func with(list []record.Input, more ...record.Input) []record.Input {
	has := make(map[record.Input]bool, len(list)+len(more))
	var all []record.Input
	for _, x := range append(slices.Clone(list), more...) {
		if !has[x] {
			has[x] = true
			all = append(all, x)
		}
	}
	return all
}

// reads is what was read of the network while some work was done; all of it
// where nobody records.
func (k *maker) reads(work func()) []record.Input { return k.Net.Recorder().During(work) }

func ofSetting(id string) record.Input { return record.Input{Kind: record.Setting, Of: id} }

// Refusals lists the reasons for which a question is not asked.
func Refusals() []Refusal {
	return []Refusal{NoEquipment, SameAlready, AnyOrder, NothingShown, NoComplaint, AllAlike, FewWrong, NotMissed,
		NotKnown, OutOfReach, TooNear, ManyLie, NoneLies, LooksAlike, Unproven}
}
