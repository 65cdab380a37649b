package edit

import (
	"fmt"
	"slices"
	"strconv"
	"strings"

	"coldtap/internal/core/document"
)

// tables are the lists that are written a row a line, its cells between bars:
// the fields in their order, and last what else a row has as field=value.
var tables = map[string][]string{
	"controls":    {"part", "on", "off", "shows"},
	"consumables": {"what", "id", "name", "part", "order", "life_months"},
}

// numbers are the fields of a row that are figures without a unit.
var numbers = []string{"life_months", "strength"}

// rows reads a list of rows.
func rows(columns []string, text string) (any, error) {
	var list []any
	for _, line := range lines(text) {
		o := document.Object{}
		for i, cell := range strings.Split(line, "|") {
			cell = strings.TrimSpace(cell)
			switch {
			case cell == "":
			case i < len(columns):
				if err := cellTo(o, columns[i], cell); err != nil {
					return nil, err
				}
			default:
				for _, pair := range strings.Split(cell, ",") {
					key, value, ok := strings.Cut(pair, "=")
					if !ok {
						return nil, fmt.Errorf("%q is more than a row has; write a line for each: %s",
							strings.TrimSpace(pair), strings.Join(columns, " | "))
					}
					if err := cellTo(o, strings.TrimSpace(key), strings.TrimSpace(value)); err != nil {
						return nil, err
					}
				}
			}
		}
		list = append(list, o)
	}
	if list == nil {
		return nil, nil
	}
	return list, nil
}

func cellTo(o document.Object, field, text string) error {
	o[field] = text
	if slices.Contains(numbers, field) {
		v, err := strconv.ParseFloat(strings.Replace(text, ",", ".", 1), 64)
		if err != nil {
			return fmt.Errorf("%q is not a number", text)
		}
		o[field] = v
	}
	return nil
}

// rowsText writes a list of rows as rows reads it.
func rowsText(columns []string, v any) string {
	items, _ := v.([]any)
	var lines []string
	for _, x := range items {
		o, _ := x.(document.Object)
		cells := make([]string, len(columns))
		for i, c := range columns {
			cells[i] = cellText(o[c])
		}
		var more []string
		for key, value := range o {
			if !slices.Contains(columns, key) {
				more = append(more, key+"="+cellText(value))
			}
		}
		slices.Sort(more)
		if len(more) > 0 {
			cells = append(cells, strings.Join(more, ", "))
		}
		lines = append(lines, strings.TrimRight(strings.Join(cells, " | "), " |"))
	}
	return strings.Join(lines, "\n")
}

// byNames are the fields that hold a text for each of several names, which may
// be written in one: "open=OPEN; closed=SHUT".
var byNames = []string{"reading.says", "port_heights"}

func pairs(text string) (any, error) {
	o := document.Object{}
	for _, pair := range strings.FieldsFunc(text, func(r rune) bool { return r == ';' || r == '\n' }) {
		name, value, ok := strings.Cut(pair, "=")
		switch {
		case strings.TrimSpace(pair) == "":
		case !ok:
			return nil, fmt.Errorf("%q does not say what belongs to which; write name=what, and a semicolon between",
				strings.TrimSpace(pair))
		default:
			o[strings.TrimSpace(name)] = strings.TrimSpace(value)
		}
	}
	if len(o) == 0 {
		return nil, nil
	}
	return o, nil
}

func pairsText(v any) string {
	o, _ := v.(document.Object)
	var list []string
	for name, value := range o {
		list = append(list, name+"="+cellText(value))
	}
	slices.Sort(list)
	return strings.Join(list, "; ")
}

func cellText(v any) string {
	switch v := v.(type) {
	case nil:
		return ""
	case float64:
		return strconv.FormatFloat(v, 'f', -1, 64)
	}
	return fmt.Sprint(v)
}

// ends reads the two ports that a jumper hose joins: "inlet.mouth, tap.cold".
func ends(text string) (any, error) {
	var list []any
	for _, ref := range strings.FieldsFunc(text, func(r rune) bool { return r == ',' || r == ';' || r == ' ' }) {
		list = append(list, ref)
	}
	switch len(list) {
	case 0:
		return nil, nil
	case 2:
		return list, nil
	}
	return nil, fmt.Errorf("%q are not two ports; write them like \"inlet.mouth, tap.cold\"", text)
}

func endsText(v any) string {
	items, _ := v.([]any)
	var list []string
	for _, x := range items {
		list = append(list, cellText(x))
	}
	return strings.Join(list, ", ")
}
