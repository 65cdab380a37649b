package system

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"coldtap/demo"
)

func TestPortsAreSaidByNameAndReadBack(t *testing.T) {
	models, err := demo.Models()
	require.NoError(t, err)
	for _, m := range models {
		for _, l := range m.Lines {
			for _, ref := range []string{l.From, l.To} {
				assert.Equal(t, ref, readRef(m, sayRef(m, ref)), m.ID)
				assert.Equal(t, ref, readRef(m, ref), "by its id as well")
			}
		}
	}
	m := models[0]
	assert.Equal(t, m.Parts[0].Name+", in", sayRef(m, m.Parts[0].ID+".in"))
	m.Parts[1].Name = m.Parts[0].Name
	assert.Equal(t, m.Parts[0].ID+".in", sayRef(m, m.Parts[0].ID+".in"), "a name that two parts have tells neither")
	assert.Equal(t, "Nothing, in", readRef(m, "Nothing, in"), "left to be refused")
}
