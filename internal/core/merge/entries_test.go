package merge

import (
	"testing"

	"github.com/stretchr/testify/assert"
)

// Entries are told apart by what names them; where two have the same name, or one has none, the list is one value.
func TestEntriesAreToldApartByName(t *testing.T) {
	t.Parallel()
	for _, x := range []struct {
		list []any
		set  bool
		want []string
	}{
		{[]any{object{"id": "a"}, object{"mode": "b"}, object{"name": "c"}}, false, []string{"a", "b", "c"}},
		{[]any{"a", "b"}, true, []string{"a", "b"}},
		{[]any{"a", "b"}, false, nil},
		{[]any{object{"id": "a"}, object{"id": "a"}}, false, nil},
		{[]any{object{"size": "a"}}, false, nil},
		{[]any{3.0}, true, nil},
	} {
		e, ok := entriesOf(x.list, x.set)
		assert.Equal(t, x.want != nil, ok, "%v", x.list)
		if ok {
			assert.Equal(t, x.want, e.order)
		}
	}
}
