package document_test

import (
	"encoding/json"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"coldtap/demo"
	"coldtap/internal/core/document"
	"coldtap/internal/core/plumbing"
)

func TestPathsLeadToValues(t *testing.T) {
	o := document.Object{"a": document.Object{"b": "x"}, "list": []any{document.Object{"c": 1.0}, "y"}}
	assert.Equal(t, "x", document.At(o, "a.b"))
	assert.Nil(t, document.At(o, "a.b.c"), "a text has nothing in it")
	assert.Nil(t, document.At(o, "z.b"))
	assert.Equal(t, map[string]string{"a.b": "x", "list.1.c": "1", "list.2": "y"}, document.Texts(o))
	assert.Equal(t, []document.Object{{"c": 1.0}}, document.List(o, "list"))
	assert.Empty(t, document.List(o, "a"))
	assert.Equal(t, "b", document.Path("", "b"))
	assert.Equal(t, "a.b", document.Path("a", "b"))
}

// What is put at a path stands there; taken away again it leaves nothing behind.
func TestWhatIsPutCanBeTakenAway(t *testing.T) {
	o := document.Object{"keep": true}
	document.Put(o, "data.capacity", "43 gal")
	document.Put(o, "data.heel", "1 gal")
	assert.Equal(t, "43 gal", document.At(o, "data.capacity"))
	document.Put(o, "data.capacity", nil)
	assert.Equal(t, document.Object{"keep": true, "data": document.Object{"heel": "1 gal"}}, o)
	document.Put(o, "data.heel", nil)
	document.Put(o, "never.there", nil)
	assert.Equal(t, document.Object{"keep": true}, o)
}

// A model taken apart and put together is the same model.
func TestADocumentIsItsModel(t *testing.T) {
	models, err := demo.Models()
	require.NoError(t, err)
	for _, m := range models {
		o, err := document.Of(m)
		require.NoError(t, err)
		raw, err := document.Raw(o)
		require.NoError(t, err)
		again := new(plumbing.Model)
		require.NoError(t, json.Unmarshal(raw, again))
		assert.Equal(t, m, again)
	}
}
