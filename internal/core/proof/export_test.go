package proof

// Codes are those of all rules, on the way and at the end.
func Codes() (list []string) {
	for _, r := range append(append([]rule(nil), onTheWay...), atTheEnd...) {
		list = append(list, r.code)
	}
	return list
}
