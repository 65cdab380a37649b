package joining

import (
	"slices"
	"strings"

	"coldtap/internal/core/plumbing"
)

// Choice is a kind of part that a name may mean: its value is the kind, with the type
// after a stroke where the kind has several that it must tell.
type Choice struct{ Value, Name string }

// Choices lists the kinds that a line can join.
func Choices() (list []Choice) {
	for _, k := range plumbing.Kinds() {
		if len(k.Ports) == 0 || k.Kind == plumbing.WasteTank {
			continue
		}
		if !slices.Contains(k.Must, "type") {
			list = append(list, Choice{string(k.Kind), k.Name})
			continue
		}
		for _, typ := range k.Types {
			list = append(list, Choice{string(k.Kind) + "/" + typ, k.Name + ", " + strings.ReplaceAll(typ, "-", " ")})
		}
	}
	slices.SortFunc(list, func(a, b Choice) int { return strings.Compare(a.Name, b.Name) })
	return list
}
