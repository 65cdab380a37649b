package proof_test

import (
	"fmt"
	"strconv"
	"strings"

	"coldtap/internal/core/plumbing"
	"coldtap/internal/core/proof"
	"coldtap/internal/core/quantity"
	"coldtap/internal/core/run"
	"coldtap/internal/core/state"
)

// steps reads steps as somebody would note them: one a line, what is done in it between semicolons.
//
//	turn pick b; join port vinegar; on pump; open basin cold; ran 5 basin.cold; then shut basin; then off pump
//	pour trap 1 acid=0.05
//	wait 600
func (y yard) steps(text string) (list []proof.Step) {
	y.t.Helper()
	for line := range strings.Lines(text) {
		if line = strings.TrimSpace(line); line == "" {
			continue
		}
		var s proof.Step
		for _, do := range strings.Split(line, ";") {
			if err := y.take(&s, strings.Fields(do)); err != nil {
				y.t.Fatalf("%q: %v", line, err)
			}
		}
		list = append(list, s)
	}
	return list
}

// take puts one thing into a step.
func (y yard) take(s *proof.Step, words []string) error {
	number := func(i int) float64 {
		v, err := strconv.ParseFloat(words[i], 64)
		if err != nil {
			y.t.Fatal(err)
		}
		return v
	}
	switch verb := words[0]; verb {
	case "then":
		a, err := y.acts(words[1:])
		s.Then = append(s.Then, a)
		return err
	case "pour":
		s.Pour = append(s.Pour, run.Pour{Into: y.n.Model.Part(words[1]), Litre: quantity.Litre(number(2)),
			Mix: mixOf(y, words[3:])})
	case "ran":
		s.Until = run.Until{Sense: run.Ran, Litre: quantity.Litre(number(1)), At: y.nodes(words[2:])}
	case "wait":
		s.Until = run.Until{Sense: run.Passed, For: quantity.Second(number(1))}
	case "dry", "silent":
		s.Until.Sense = run.Sense(verb)
	case "coloured":
		s.Until = run.Until{Sense: run.Coloured, At: y.nodes(words[1:]), Least: run.Mix{Glycol: 0.3}, For: 300}
	case "jugs":
		s.Pool = int(number(1))
	default:
		a, err := y.acts(words)
		s.Acts = append(s.Acts, a)
		return err
	}
	return nil
}

func (y yard) nodes(names []string) (list []plumbing.NodeID) {
	for _, name := range names {
		at := y.n.Node(name)
		if at == plumbing.None {
			y.t.Fatalf("there is no %s", name)
		}
		list = append(list, at)
	}
	return list
}

// mixOf reads what stands in a liquid: "chlorine=50 acid=0.05 glycol=0.4".
func mixOf(y yard, words []string) (m run.Mix) {
	for _, w := range words {
		name, value, _ := strings.Cut(w, "=")
		v, err := strconv.ParseFloat(value, 64)
		if err != nil {
			y.t.Fatal(err)
		}
		switch name {
		case "chlorine":
			m.Chlorine = quantity.MgPerLitre(v)
		case "acid":
			m.Acid = v
		case "glycol":
			m.Glycol = v
		default:
			y.t.Fatalf("there is no %s in water", name)
		}
	}
	return m
}

// acts reads one act: a verb, a part, and what the verb asks for.
func (y yard) acts(words []string) (state.Act, error) {
	a := state.Act{Verb: state.Verb(words[0]), Part: y.n.Model.Part(words[1])}
	if a.Part == nil {
		return a, fmt.Errorf("there is no part %q", words[1])
	}
	rest := words[2:]
	switch words[0] {
	case "turn":
		a.To = rest[0]
	case "heat":
		a.Verb, a.By = state.HeatOn, plumbing.Heat(rest[0])
	case "cool":
		a.Verb, a.Until = state.HeatOff, state.Cold
	case "unheat":
		a.Verb = state.HeatOff
	case "open":
		a.Sides = rest
	case "out":
		a.Verb = state.TakeOut
	case "tip":
		a.Verb = state.Tip
	case "back":
		a.Verb = state.PutBack
	case "join":
		a.With = state.Usual(a.Part, state.Fluid(rest[0]))
		if rest[0] == "air" {
			v, err := strconv.ParseFloat(rest[1], 64)
			if err != nil {
				return a, err
			}
			a.With = state.Connection{Kind: state.Compressed, Fluid: state.Air, Pressure: quantity.Kilopascal(v)}
		}
	}
	return a, nil
}
