package words

import (
	"slices"

	"coldtap/internal/core/instruction"
	"coldtap/internal/core/proof"
)

// Step is a step of an instruction in words.
type Step struct {
	Head     string
	Does     []Beside // what hands do, by part
	Pour     []string
	Until    string
	Then     []Beside
	Notes    []string
	Cautions []Caution
	Tools    []string
	Who      string
}

// Caution is a caution in words.
type Caution struct{ Level, Words string }

// Step tells a step of an instruction.
func (p *Printer) Step(s *instruction.Step) Step {
	told := Step{Head: p.begin(p.Tell(s.Head)), Does: p.Together(s.Acts), Pour: p.TellAll(s.Pour), Until: p.Tell(s.Until),
		Then: p.Together(s.Then), Notes: p.TellAll(s.Notes), Tools: p.TellAll(s.Tools),
		Who: p.Tell(s.Who)}
	for i := range told.Then { // what the head names is not named once more
		if slices.Equal(told.Then[i].Parts, s.Main) {
			told.Then[i].names = nil
		}
	}
	for _, c := range s.Cautions {
		level := map[proof.Severity]string{proof.Danger: "danger", proof.Wrong: "warning", proof.Note: "note"}[c.Level]
		told.Cautions = append(told.Cautions, Caution{level, p.Tell(c.Said)})
	}
	return told
}
