// Package table reads lists of lines and parts as they come from engineering's
// spreadsheets, or pasted: columns matched by their heads, units from head or
// cell, every fault told at its row and column.
package table

import (
	"slices"
	"strings"

	"coldtap/internal/core/edit"
)

// What says what the rows of a table are.
type What string

// A table lists lines or parts.
const (
	Lines What = "lines"
	Parts What = "parts"
)

// thing is what the rows are in the document.
func (w What) thing() edit.Thing {
	if w == Parts {
		return edit.OfPart
	}
	return edit.OfLine
}

// Field is something a column can hold.
type Field struct {
	Path  string // in the document, as edit.Set has it
	Title string
	heads []string // what people call it, in small letters
	units []string // units that may stand in the head
}

var volumeUnits = []string{"gal", "l", "litre", "litres", "ml", "fl oz", "imp gal", "qt"}
var lengthUnits = []string{"ft", "in", "m", "mm", "cm"}
var pressureUnits = []string{"psi", "bar", "kpa"}
var flowUnits = []string{"gal/min", "gpm", "l/min", "lpm"}

// Heads that tell where water comes from and goes to, and not only what is joined.
var (
	comesFrom = []string{"from", "start", "begin", "from part", "origin", "source", "upstream"}
	goesTo    = []string{"to", "end", "finish", "to part", "destination", "dest", "dest.", "downstream"}
)

var lineFields = []Field{
	{"id", "Line", []string{"line", "line id", "id", "no", "no.", "line no", "line no.", "tag", "ref", "#", "item",
		"item no", "pos", "pos."}, nil},
	{"from", "From", slices.Concat(comesFrom, []string{"a", "end a", "end 1", "part 1", "point a", "connects",
		"component a"}), nil},
	{"to", "To", slices.Concat(goesTo, []string{"b", "end b", "end 2", "part 2", "point b", "with", "connects to",
		"component b"}), nil},
	{"side", "Side", []string{"side", "carries", "service", "hot/cold", "h/c", "circuit", "system", "water", "medium"},
		nil},
	{"size", "Size", []string{"size", "nominal size", "nominal", "pipe", "tube", "pipe size", "line size", "nom. dia",
		"nom dia", "nom. dia.", "nom. size", "dia", "dia.", "diameter", "tube size", "tubing", "hose size",
		"pipe dia"}, nil},
	{"inside", "Inside diameter", []string{"inside", "inside diameter", "id diameter", "bore", "inner diameter"},
		lengthUnits},
	{"length", "Length", []string{"length", "len", "len.", "run", "cut length", "cut len.", "developed length",
		"line length", "lg", "l"}, lengthUnits},
	{"material", "Material", []string{"material", "mat", "mat.", "matl"}, nil},
	{"colour", "Colour", []string{"colour", "color"}, nil},
	{"spots", "High and low spots", []string{"spots", "high and low spots", "dips", "low spots"}, nil},
	{"option", "With option", []string{"option", "with option"}, nil},
	{"without", "Without option", []string{"without", "without option"}, nil},
}

var partFields = []Field{
	{"id", "Id", []string{"id", "part id", "tag", "ref"}, nil},
	{"name", "Name", []string{"name", "part", "part name", "item", "description"}, nil},
	{"kind", "Kind", []string{"kind", "kind of part", "class"}, nil},
	{"label", "Printed on the unit", []string{"label", "printed label", "printed on the unit", "placard", "plate"},
		nil},
	{"option", "With option", []string{"option", "with option"}, nil},
	{"without", "Without option", []string{"without", "without option"}, nil},
	{"place.front", "From the front", []string{"front", "from the front", "from front", "x"}, lengthUnits},
	{"place.left", "From the left", []string{"left", "from the left", "from left", "y"}, lengthUnits},
	{"place.height", "Height", []string{"height", "above ground", "height above ground", "z"}, lengthUnits},
	{"place.reach", "Reached from", []string{"reach", "reached from", "access", "location"}, nil},
	{"place.behind", "Behind", []string{"behind", "behind panel", "panel"}, nil},
	{"reading.handle", "Handle", []string{"handle", "handle kind", "actuator"}, nil},
	{"reading.pipe", "Pipe runs", []string{"pipe runs", "mounted", "pipe", "orientation"}, nil},
	{"normal", "Normal position", []string{"normal", "normal position", "normally"}, nil},
	{"reading.says", "Printed at its positions", []string{"printed at its positions", "marks"}, nil},
	{"port_heights", "Heights of ports", []string{"heights of ports", "port heights"}, nil},
	{"colours.port", "Colour of the port", []string{"port colour", "colour of the port"}, nil},
	{"colours.coupling", "Colour of the coupling", []string{"coupling colour", "colour of the coupling"}, nil},
	{"colours.handle", "Colour of the handle", []string{"handle colour", "colour of the handle"}, nil},
	{"colours.cap", "Colour of the cap", []string{"cap colour", "colour of the cap"}, nil},
	{"colours.hose", "Colour of the hose", []string{"hose colour", "colour of the hose"}, nil},
	{"thread", "Thread", []string{"thread"}, nil},
	{"adapter", "Adapter", []string{"adapter"}, nil},
	{"tool", "Tool", []string{"tool", "tools"}, nil},
	{"data.type", "Type", []string{"type"}, nil},
	{"data.capacity", "Capacity", []string{"capacity", "volume", "cap"}, volumeUnits},
	{"data.heel", "Heel", []string{"heel", "undrainable", "dead volume"}, volumeUnits},
	{"data.hold_up", "Holds", []string{"hold up", "hold-up", "holds", "content"}, volumeUnits},
	{"data.seal", "Seal", []string{"seal"}, volumeUnits},
	{"data.cycle", "Cycle", []string{"cycle"}, volumeUnits},
	{"data.inside_length", "Inside length", []string{"inside length"}, lengthUnits},
	{"data.inside_width", "Inside width", []string{"inside width"}, lengthUnits},
	{"data.inside_height", "Inside height", []string{"inside height"}, lengthUnits},
	{"data.bore", "Bore", []string{"bore", "outlet bore"}, lengthUnits},
	{"data.flow", "Flow", []string{"flow", "flow rate", "rated flow"}, flowUnits},
	{"data.rated_at", "Rated at", []string{"rated at", "flow at"}, pressureUnits},
	{"data.cut_in", "Cut-in", []string{"cut-in", "cut in"}, pressureUnits},
	{"data.cut_out", "Cut-out", []string{"cut-out", "cut out", "shut-off pressure"}, pressureUnits},
	{"data.limit", "Pressure limit", []string{"limit", "pressure limit"}, pressureUnits},
	{"data.regulator", "Regulator", []string{"regulator", "regulator set"}, pressureUnits},
	{"data.rating", "Rating", []string{"rating", "pressure rating", "max pressure"}, pressureUnits},
	{"data.fuse", "Fuse", []string{"fuse"}, []string{"a"}},
	{"data.dry_run", "Dry run", []string{"dry run", "dry-run limit"}, []string{"s", "min"}},
	{"data.electric", "Electric power", []string{"electric", "electric power"}, []string{"kw", "w"}},
	{"data.gas", "Gas power", []string{"gas", "gas power", "burner"}, []string{"btu/h", "kw"}},
	{"data.anode_new", "Anode when new", []string{"anode", "anode new", "anode when new"}, lengthUnits},
	{"data.anode_core", "Anode's core", []string{"anode core", "core wire"}, lengthUnits},
	{"data.socket", "Socket", []string{"socket", "socket size"}, nil},
	{"data.opens_below", "Opens below", []string{"opens below"}, nil},
	{"data.check_valve", "Check valve", []string{"check valve", "check"}, nil},
	{"data.cap", "Cap", []string{"cap kind"}, nil},
	{"data.closure", "Closure", []string{"closure"}, nil},
	{"data.motor", "Motor", []string{"motor", "motor driven"}, nil},
	{"data.ways", "Ways", []string{"ways"}, nil},
	{"data.waste", "Drains into", []string{"drains into", "waste", "waste tank"}, nil},
	{"data.cartridge", "Cartridge", []string{"cartridge"}, nil},
	{"data.passes_idle", "Passes when off", []string{"passes when off", "passes idle"}, nil},
	{"data.frost_sensitive", "Breaks on little", []string{"breaks on little", "frost sensitive"}, nil},
	{"data.diesel", "Diesel power", []string{"diesel", "diesel power"}, []string{"kw", "btu/h"}},
	{"data.engine", "Heated by the engine", []string{"engine", "heated by the engine", "engine coil"}, nil},
	{"data.flow_switch", "Flow switch", []string{"flow switch"}, nil},
	{"data.insulation", "Insulation", []string{"insulation", "jacket"}, lengthUnits},
	{"data.opens_at", "Opens at", []string{"opens at", "opening pressure"}, pressureUnits},
	{"data.seep", "Seeps when it fails", []string{"seep", "seeps when it fails"}, flowUnits},
	{"data.more_ports", "More ports", []string{"more ports"}, nil},
	{"data.serves", "Belongs to", []string{"serves", "belongs to"}, nil},
	{"data.at", "Above the tank's bottom", []string{"above the tank's bottom", "probe height"}, lengthUnits},
	{"data.low_end", "Hose end, lowest", []string{"hose end lowest", "lowest end"}, lengthUnits},
	{"data.high_end", "Hose end, highest", []string{"hose end highest", "highest end"}, lengthUnits},
	{"data.above_waterline", "Above the waterline", []string{"above waterline", "above the waterline"}, nil},
	{"on", "Sits on", []string{"sits on"}, nil},
	{"ends", "Joins", []string{"ends", "joins"}, nil},
	{"look", "Told by", []string{"look", "told by"}, nil},
	{"place.key", "Key", []string{"key"}, nil},
	{"positions", "Positions", []string{"positions", "selector positions"}, nil},
	{"controls", "Switches", []string{"controls", "switches"}, nil},
}

// Fields lists what the columns of a kind of table can hold.
func Fields(w What) []Field {
	if w == Parts {
		return slices.Clone(partFields)
	}
	return slices.Clone(lineFields)
}

// match finds the field that a column's head means, and the unit in it:
// "Length (ft)" is the length in feet.
func match(w What, head string) (path, unit string) {
	h := strings.ToLower(strings.Join(strings.Fields(head), " "))
	name, unit := h, ""
	for _, br := range []string{"()", "[]"} {
		if open := strings.IndexByte(h, br[0]); open >= 0 && strings.HasSuffix(h, br[1:]) {
			name, unit = strings.TrimSpace(h[:open]), strings.TrimSpace(h[open+1:len(h)-1])
		}
	}
	for _, sep := range []string{", ", " in ", "/ "} {
		if before, after, ok := strings.Cut(h, sep); ok && unit == "" {
			name, unit = strings.TrimSpace(before), strings.TrimSpace(after)
		}
	}
	for _, f := range Fields(w) { // as these lists are written themselves, before what others call it
		if strings.EqualFold(f.Title, head) {
			return f.Path, ""
		}
	}
	for _, f := range Fields(w) {
		for _, candidate := range []struct{ name, unit string }{{h, ""}, {name, unit}} {
			if !slices.Contains(f.heads, candidate.name) && !strings.EqualFold(f.Title, candidate.name) &&
				f.Path != candidate.name {
				continue
			}
			if candidate.unit != "" && !slices.Contains(f.units, candidate.unit) {
				continue
			}
			return f.Path, candidate.unit
		}
	}
	// "Length ft", "Capacity gal": the unit as the last word.
	if i := strings.LastIndexByte(h, ' '); i > 0 {
		for _, f := range Fields(w) {
			if slices.Contains(f.units, h[i+1:]) && slices.Contains(f.heads, h[:i]) {
				return f.Path, h[i+1:]
			}
		}
	}
	return "", ""
}
