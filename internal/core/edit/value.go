package edit

import (
	"errors"
	"fmt"
	"slices"
	"strconv"
	"strings"

	"coldtap/internal/core/document"
	"coldtap/internal/core/plumbing"
)

// yesNo and counts are the fields that are not texts.
var counts = []string{"data.ways", "year"}

// IsYesNo reports whether a field is yes or no.
func IsYesNo(path string) bool {
	name, ok := strings.CutPrefix(path, "data.")
	return ok && plumbing.IsYesNo(name)
}

// valueOf turns a text into what the document holds at a path; nil for
// nothing.
func valueOf(path, text string) (any, error) {
	switch {
	case path == "spots":
		return spots(text)
	case path == "positions":
		return choices(text)
	case path == "ends":
		return ends(text)
	case slices.Contains(byNames, path):
		return pairs(text)
	case tables[path] != nil:
		return rows(tables[path], text)
	case IsYesNo(path):
		switch strings.ToLower(text) {
		case "", "no", "false", "0":
			return nil, nil
		case "yes", "true", "on", "x", "1":
			return true, nil
		}
		return nil, fmt.Errorf("%q is neither yes nor no", text)
	case text == "":
		return nil, nil
	case slices.Contains(counts, path):
		n, err := strconv.Atoi(text)
		if err != nil {
			return nil, fmt.Errorf("%q is not a whole number", text)
		}
		return n, nil
	}
	return text, nil
}

// textAt writes the value at a path as valueOf reads it.
func textAt(o document.Object, path string) string {
	switch path {
	case "spots":
		return spotsText(o["spots"])
	case "positions":
		return choicesText(o["positions"])
	case "ends":
		return endsText(o["ends"])
	}
	if slices.Contains(byNames, path) {
		return pairsText(document.At(o, path))
	}
	if columns := tables[path]; columns != nil {
		return rowsText(columns, o[path])
	}
	switch v := document.At(o, path).(type) {
	case string:
		return v
	case float64:
		return strconv.FormatFloat(v, 'f', -1, 64)
	case bool:
		if v {
			return "yes"
		}
	}
	return ""
}

// spots reads "4 ft @ 12 in; 6 ft @ 20 in".
func spots(text string) (any, error) {
	var list []any
	for _, piece := range strings.FieldsFunc(text, func(r rune) bool { return r == ';' || r == '\n' }) {
		at, height, ok := strings.Cut(piece, "@")
		if !ok {
			return nil, fmt.Errorf("%q is not a spot; write how far along the line, @, and how high, "+
				"like \"4 ft @ 12 in\"", strings.TrimSpace(piece))
		}
		list = append(list, document.Object{"at": strings.TrimSpace(at), "height": strings.TrimSpace(height)})
	}
	if list == nil {
		return nil, nil
	}
	return list, nil
}

func spotsText(v any) string {
	var list []string
	items, _ := v.([]any)
	for _, x := range items {
		if o, ok := x.(document.Object); ok {
			list = append(list, fmt.Sprintf("%v @ %v", o["at"], o["height"]))
		}
	}
	return strings.Join(list, "; ")
}

// lines are the lines of a text that hold anything. In the one cell of a list
// two semicolons end a line.
func lines(text string) []string {
	list := strings.Split(strings.ReplaceAll(text, ";;", "\n"), "\n")
	return slices.DeleteFunc(list, func(line string) bool { return strings.TrimSpace(line) == "" })
}

// choices reads a selector's positions, one a line: "id | label | valve=position, …".
func choices(text string) (any, error) {
	var list []any
	for _, line := range lines(text) {
		cells := strings.Split(line, "|")
		if len(cells) != 3 {
			return nil, errors.New(
				"write a line for each position: its id | what is printed | valve=position, valve=position",
			)
		}
		sets := document.Object{}
		for _, s := range strings.Split(cells[2], ",") {
			valve, pos, ok := strings.Cut(s, "=")
			if strings.TrimSpace(s) == "" {
				continue
			}
			if !ok {
				return nil, fmt.Errorf("%q does not say which valve gets which position; write valve=position",
					strings.TrimSpace(s))
			}
			sets[strings.TrimSpace(valve)] = strings.TrimSpace(pos)
		}
		c := document.Object{"id": strings.TrimSpace(cells[0]), "sets": sets}
		if label := strings.TrimSpace(cells[1]); label != "" {
			c["label"] = label
		}
		list = append(list, c)
	}
	if list == nil {
		return nil, nil
	}
	return list, nil
}

func choicesText(v any) string {
	var lines []string
	items, _ := v.([]any)
	for _, x := range items {
		o, ok := x.(document.Object)
		if !ok {
			continue
		}
		sets, _ := o["sets"].(document.Object)
		var pairs []string
		for valve, pos := range sets {
			pairs = append(pairs, fmt.Sprintf("%s=%v", valve, pos))
		}
		slices.Sort(pairs)
		label, _ := o["label"].(string)
		lines = append(lines, fmt.Sprintf("%v | %s | %s", o["id"], label, strings.Join(pairs, ", ")))
	}
	return strings.Join(lines, "\n")
}
