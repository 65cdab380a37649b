package edit

import (
	"errors"
	"regexp"
	"slices"
	"strings"

	"coldtap/internal/core/document"
	"coldtap/internal/core/plumbing"
)

// Row is a change of one part or line in a batch.
type Row struct {
	ID     string            // of the thing; for a new one, the id it gets
	New    bool              // it is put in
	Fields map[string]string // as Set takes them

	Assumed []string // fields of it that were inferred
}

// Batch makes many changes of parts or lines at once. Rows that can't be made
// are left out and told by their index; the others go in together.
func Batch(m *plumbing.Model, what Thing, rows []Row) (*plumbing.Model, map[int][]plumbing.Fault, error) {
	faults := map[int][]plumbing.Fault{}
	for range 4 { // rows that fail are left out; those that leaned on them fail next
		doc, err := document.Of(m)
		if err != nil {
			return nil, nil, err
		}
		of := map[string]int{}
		for i, r := range rows {
			if faults[i] != nil {
				continue
			}
			if err := batchRow(doc, what, r); err != nil {
				faults[i] = faultsOf(err)
				continue
			}
			of[finalID(r)] = i
		}
		raw, err := document.Raw(doc)
		if err != nil {
			return nil, nil, err
		}
		after, err := Read(raw)
		if err == nil {
			return after, faults, nil
		}
		var fe *FaultError
		if !errors.As(err, &fe) {
			return nil, nil, err
		}
		if !blame(fe.Faults, what, of, faults) {
			return nil, nil, err // not the fault of any row
		}
	}
	return nil, nil, fault("", "the rows depend on one another in a way that can't be read; take in a few at a time")
}

func finalID(r Row) string {
	if id := strings.TrimSpace(r.Fields["id"]); id != "" {
		return id
	}
	return r.ID
}

func batchRow(doc document.Object, what Thing, r Row) error {
	if r.New {
		list, _ := doc[string(what)+"s"].([]any)
		doc[string(what)+"s"] = append(list, document.Object{"id": r.ID})
	}
	node, err := find(doc, what, r.ID)
	if err != nil {
		return err
	}
	for path, text := range r.Fields {
		if path == "id" {
			continue
		}
		v, err := valueOf(path, strings.TrimSpace(text))
		if err != nil {
			return fault(path, "%v", err)
		}
		document.Put(node, path, v)
		settle(node, path)
	}
	if len(r.Assumed) > 0 {
		var list []any
		for _, path := range slices.Sorted(slices.Values(r.Assumed)) {
			list = append(list, path)
		}
		node["assumed"] = list
	}
	if id := finalID(r); id != r.ID {
		return rename(doc, what, r.ID, id)
	}
	return nil
}

func faultsOf(err error) []plumbing.Fault {
	var fe *FaultError
	if errors.As(err, &fe) {
		return fe.Faults
	}
	return []plumbing.Fault{{Why: err.Error()}}
}

var named = regexp.MustCompile(`\((part|line) "([^"]*)"\)/?(.*)$`)

// blame puts faults of a whole document down to the rows that brought them in.
// It reports false if one belongs to none.
func blame(list []plumbing.Fault, what Thing, of map[string]int, faults map[int][]plumbing.Fault) bool {
	for _, f := range list {
		m := named.FindStringSubmatch(f.Path)
		if m == nil || m[1] != string(what) {
			return false
		}
		i, ok := of[m[2]]
		if !ok {
			return false
		}
		faults[i] = append(faults[i], plumbing.Fault{Path: strings.ReplaceAll(m[3], "/", "."), Why: f.Why})
	}
	return true
}
