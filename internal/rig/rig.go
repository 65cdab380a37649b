// Package rig reads small systems from a terse text, for tests: a line a part,
// a line a pipe. What it reads goes through the same strict reading as a
// model file.
//
//	model basalt-28 "Basalt 28" si
//	tank fresh "Fresh tank" @ 2m 0.3m 0.6m capacity=80L heel=1L
//	valve v1 "Suction valve" @ 3m 0.3m 0.5m handle=lever pipe=level normal=open
//	fresh.supply > v1.a supply "semi-rigid 12 mm" 0.5m dip 0.2m=0.4m
package rig

import (
	"bufio"
	"embed"
	"encoding/json"
	"fmt"
	"io/fs"
	"path"
	"slices"
	"strconv"
	"strings"

	"coldtap/internal/core/plumbing"
)

//go:embed rigs/*.rig
var files embed.FS

// Names lists the rigs and campers that ship with this package.
func Names() []string {
	list, err := fs.Glob(files, "rigs/*.rig")
	if err != nil {
		panic(err) // the pattern is a constant
	}
	for i, f := range list {
		list[i] = strings.TrimSuffix(path.Base(f), ".rig")
	}
	return list
}

// Model reads one of them.
func Model(name string) (*plumbing.Model, error) {
	raw, err := files.ReadFile("rigs/" + name + ".rig")
	if err != nil {
		return nil, err
	}
	m, err := Read(string(raw))
	if err != nil {
		return nil, fmt.Errorf("rig %s: %w", name, err)
	}
	return m, nil
}

type object = map[string]any

// Read reads a system.
func Read(text string) (*plumbing.Model, error) {
	doc := object{"format": plumbing.Format, "year": 2027, "kind": "travel trailer", "maker": "Stonecrop Coachbuilders",
		"units": "us", "parts": []any{}, "lines": []any{}}
	scan := bufio.NewScanner(strings.NewReader(text))
	for row := 1; scan.Scan(); row++ {
		words, err := split(scan.Text())
		if err != nil {
			return nil, fmt.Errorf("line %d: %w", row, err)
		}
		if len(words) == 0 {
			continue
		}
		if err := take(doc, words); err != nil {
			return nil, fmt.Errorf("line %d: %w", row, err)
		}
	}
	b, err := json.Marshal(doc)
	if err != nil {
		return nil, err
	}
	return plumbing.Read(strings.NewReader(string(b)))
}

// split cuts a row into words; what stands in quotes is one of them.
func split(row string) ([]string, error) {
	var words []string
	for rest := strings.TrimSpace(row); rest != ""; rest = strings.TrimSpace(rest) {
		if rest[0] == '#' {
			break
		}
		end, quoted := 0, false
		for end < len(rest) && (quoted || rest[end] != ' ') {
			quoted = quoted != (rest[end] == '"')
			end++
		}
		if quoted {
			return nil, fmt.Errorf("a quote is not closed")
		}
		words = append(words, strings.ReplaceAll(rest[:end], `"`, ""))
		rest = rest[end:]
	}
	return words, nil
}

func take(doc object, words []string) error {
	switch {
	case words[0] == "model":
		doc["id"], doc["name"], doc["units"] = words[1], words[2], words[3]
		for _, w := range words[4:] {
			key, value, _ := strings.Cut(w, "=")
			doc[key] = value
		}
	case words[0] == "body":
		body := object{}
		for _, w := range words[1:] {
			key, value, _ := strings.Cut(w, "=")
			body[key] = value
		}
		doc["body"] = body
	case words[0] == "option":
		doc["options"] = append(list(doc, "options"), object{"id": words[1], "name": words[2]})
	case words[0] == "position":
		return position(doc, words)
	case words[0] == "control":
		return control(doc, words)
	case words[0] == "consumable":
		c := keyed(words[4:])
		c["what"], c["id"], c["name"] = words[1], words[2], words[3]
		doc["consumables"] = append(list(doc, "consumables"), c)
	case len(words) > 2 && words[1] == ">":
		l, err := line(doc, words)
		doc["lines"] = append(list(doc, "lines"), l)
		return err
	default:
		p, err := part(words)
		doc["parts"] = append(list(doc, "parts"), p)
		return err
	}
	return nil
}

func list(doc object, key string) []any {
	l, _ := doc[key].([]any)
	return l
}

var partKeys = map[string]bool{"on": true, "look": true, "label": true, "option": true, "without": true, "normal": true,
	"thread": true, "adapter": true, "tool": true}

// part reads "kind id name @ front left height key=value …".
func part(words []string) (object, error) {
	if len(words) < 3 {
		return nil, fmt.Errorf("a part has a kind, an id and a name")
	}
	place, data, reading, heights := object{}, object{}, object{}, object{}
	p := object{"kind": words[0], "id": words[1], "name": words[2]}
	rest := slices.Clone(words[3:])
	if i := slices.Index(rest, "@"); i >= 0 && i+3 < len(rest) {
		place["front"], place["left"], place["height"] = rest[i+1], rest[i+2], rest[i+3]
		rest = slices.Delete(rest, i, i+4)
	}
	for _, w := range rest {
		key, value, ok := strings.Cut(w, "=")
		port, isHeight := strings.CutPrefix(key, "height.")
		said, isSaid := strings.CutPrefix(key, "says.")
		switch {
		case isHeight:
			heights[port] = value
		case isSaid:
			says, _ := reading["says"].(object)
			if says == nil {
				says = object{}
			}
			says[said] = value
			reading["says"] = says
		case !ok:
			data[key] = true
		case partKeys[key]:
			p[key] = value
		case key == "ends":
			p[key] = strings.Split(value, ",")
		case key == "handle" || key == "pipe":
			reading[key] = value
		case key == "reach" || key == "behind" || key == "key":
			place[key] = value
		case key == "ways":
			data[key] = json.Number(value)
		default:
			data[key] = value
		}
	}
	for key, o := range map[string]object{"place": place, "data": data, "reading": reading, "port_heights": heights} {
		if len(o) > 0 {
			p[key] = o
		}
	}
	return p, nil
}

// position reads "position id label valve=position …" for the part before it.
func position(doc object, words []string) error {
	parts := list(doc, "parts")
	if len(parts) == 0 || len(words) < 3 {
		return fmt.Errorf("a position follows its selector and has an id and a label")
	}
	p := parts[len(parts)-1].(object)
	sets := object{}
	for _, w := range words[3:] {
		valve, pos, _ := strings.Cut(w, "=")
		sets[valve] = pos
	}
	p["positions"] = append(list(p, "positions"), object{"id": words[1], "label": words[2], "sets": sets})
	return nil
}

// control reads "control pump on=… off=… shows=…" for the panel before it.
func control(doc object, words []string) error {
	parts := list(doc, "parts")
	if len(parts) == 0 || len(words) < 3 {
		return fmt.Errorf("a control follows its panel and names what it switches")
	}
	p := parts[len(parts)-1].(object)
	c := keyed(words[2:])
	c["part"] = words[1]
	p["controls"] = append(list(p, "controls"), c)
	return nil
}

// keyed reads "key=value …"; a number without a unit is one.
func keyed(words []string) object {
	o := object{}
	for _, w := range words {
		key, value, _ := strings.Cut(w, "=")
		o[key] = value
		if _, err := strconv.ParseFloat(value, 64); err == nil {
			o[key] = json.Number(value)
		}
	}
	return o
}

// line reads "from > to side size length [dip at=height …] [key=value …]".
func line(doc object, words []string) (object, error) {
	if len(words) < 6 {
		return nil, fmt.Errorf("a line has two ends, a side, a size and a length")
	}
	l := object{"id": fmt.Sprintf("line-%02d", len(list(doc, "lines"))+1), "from": words[0], "to": words[2],
		"side": words[3]}
	if words[4] != "-" {
		l["size"] = words[4]
	}
	if words[5] != "-" {
		l["length"] = words[5]
	}
	dips := false
	for _, w := range words[6:] {
		key, value, _ := strings.Cut(w, "=")
		switch {
		case w == "dip":
			dips = true
		case key == "id" || key == "option" || key == "without" || key == "colour" || key == "inside":
			l[key] = value
		case dips:
			l["spots"] = append(list(l, "spots"), object{"at": key, "height": value})
		default:
			return nil, fmt.Errorf("%q is nothing a line has", w)
		}
	}
	return l, nil
}
