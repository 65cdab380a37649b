package plumbing

import (
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"
)

// Every row says what the rest of the program asks of it, and nothing that
// contradicts itself.
func TestEveryKindHasItsRow(t *testing.T) {
	seen := map[Kind]bool{}
	for _, k := range Kinds() {
		assert.False(t, seen[k.Kind], "%s stands twice", k.Kind)
		seen[k.Kind] = true
		assert.NotEmpty(t, k.Name, k.Kind)
		assert.NotEmpty(t, k.Role, k.Kind)
		assert.Equal(t, k.Role, (&Part{Kind: k.Kind}).Role())
		nodes := append([]string{k.Inside}, k.Openings...)
		for _, p := range k.Ports {
			nodes = append(nodes, p.Name)
		}
		for _, p := range k.Passages {
			assert.Contains(t, nodes, p.From, k.Kind)
			assert.Contains(t, nodes, p.To, k.Kind)
			assert.Subset(t, k.Positions, p.In, "%s: a passage is open in positions of its handle", k.Kind)
		}
		for position := range k.Says {
			assert.Contains(t, k.Positions, position, k.Kind)
		}
		for _, fluid := range k.Shuns {
			assert.Contains(t, []string{"antifreeze", "sanitizer"}, fluid, k.Kind)
		}
		for _, field := range k.Must {
			assert.NotContains(t, k.May, field, "%s must carry it", k.Kind)
		}
		assert.Equal(t, slices.Contains(slices.Concat(k.May, k.Must), "type"), len(k.Types) > 0,
			"%s: a type has its values", k.Kind)
	}
}
