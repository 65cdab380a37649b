package system

import (
	"net/http"
	"slices"

	"github.com/gin-gonic/gin"

	"coldtap/internal/core/plumbing"
	"coldtap/internal/core/quantity"
	"coldtap/internal/core/table"
	"coldtap/internal/web/site"
)

// gridBody is the table of lines or parts, edited in place.
type gridBody struct {
	What    table.What
	Thing   string // "line" or "part"
	Columns []table.Field
	Rows    []gridRow
	Plain   bool      // with the list that is only read
	Lines   []lineRow // the lines to be read
	Parts   []partRow // the parts to be read
	Block   string    // all of it, to be copied
	Notice  *notice
	frame
}

// lineRow is a line to be read.
type lineRow struct {
	Line                *plumbing.Line
	From, To            string
	Inside, Holds, Link string
}

// partRow is a part to be read.
type partRow struct {
	Part   *plumbing.Part
	Number int
	Link   string
}

type gridRow struct {
	ID    string
	Cells []gridCell
}

type gridCell struct {
	Path, Value string
	Faulty      bool
	Assumed     bool
}

// gridFields are the columns of the grid; the others are in the inspector.
var gridFields = map[table.What][]string{
	table.Lines: {"id", "from", "to", "side", "size", "inside", "length", "spots", "material", "colour"},
	table.Parts: {"id", "name", "label", "place.front", "place.left", "place.height", "place.reach", "place.behind",
		"normal", "reading.handle", "reading.pipe"},
}

// plain lists the lines or the parts to be read.
func (body *gridBody) plain(b *site.Computed) {
	if body.What == table.Parts {
		for i := range b.Model.Parts {
			p := &b.Model.Parts[i]
			body.Parts = append(body.Parts, partRow{p, b.Number(p.ID), b.Link("", "part="+p.ID)})
		}
		return
	}
	for _, l := range b.Net.AllLinks() {
		if l.Line != nil {
			body.Lines = append(body.Lines, lineRow{Line: l.Line, From: b.Net.Nodes[l.A].Part.Name,
				To: b.Net.Nodes[l.B].Part.Name, Inside: inside(l.Line, b.Sys()),
				Holds: quantity.Both(l.Content, b.Sys()), Link: b.Link("", "part="+l.Line.ID)})
		}
	}
}

// Grid is the parts or lines as a table.
func (s View) Grid(c *gin.Context) { s.showGrid(c, http.StatusOK, "grid.html", nil) }

func (s View) showGrid(c *gin.Context, status int, name string, n *notice) {
	b := s.Model(c)
	if b == nil {
		return
	}
	what := table.Lines
	if c.Query("what") == "parts" || c.PostForm("what") == "parts" {
		what = table.Parts
	}
	body := gridBody{What: what, Thing: string(what[:len(what)-1]), Notice: n,
		frame: newFrame(string(what), "#gridboard", "")}
	body.Back = "grid"
	if body.Plain = name == "grid.html"; body.Plain {
		body.plain(b)
	}
	err := s.steps(c, b, &body.frame)
	if err != nil {
		s.Trouble(c, err)
		return
	}
	typedID, typed := "", map[string]string{}
	if n.refused() {
		typedID = c.Param("id")
		if typed, err = fieldsOf(c); err != nil {
			s.Trouble(c, err)
			return
		}
	}
	for _, path := range gridFields[what] {
		for _, f := range table.Fields(what) {
			if f.Path == path {
				body.Columns = append(body.Columns, f)
			}
		}
	}
	rows := table.LineRows(b.Doc)
	texts := table.Texts(b.Doc, what)
	ids := make([]string, 0, len(b.Doc.Lines)+len(b.Doc.Parts))
	assumed := map[string][]string{}
	if what == table.Parts {
		rows = table.PartRows(b.Doc)
		for i := range b.Doc.Parts {
			ids = append(ids, b.Doc.Parts[i].ID)
			assumed[b.Doc.Parts[i].ID] = b.Doc.Parts[i].Assumed
		}
	} else {
		for i := range b.Doc.Lines {
			ids = append(ids, b.Doc.Lines[i].ID)
			assumed[b.Doc.Lines[i].ID] = b.Doc.Lines[i].Assumed
		}
	}
	body.Block = table.WriteBlock(rows)
	for _, id := range ids {
		row := gridRow{ID: id}
		for _, f := range body.Columns {
			cell := gridCell{Path: f.Path, Value: texts[id][f.Path], Assumed: slices.Contains(assumed[id], f.Path)}
			if slices.Contains(refs, f.Path) && cell.Value != "" {
				cell.Value = sayRef(b.Doc, cell.Value)
			}
			if v, ok := typed[f.Path]; ok && id == typedID {
				cell.Value, cell.Faulty = v, true
			}
			row.Cells = append(row.Cells, cell)
		}
		body.Rows = append(body.Rows, row)
	}
	s.Show(
		c,
		status,
		name,
		site.Page{Title: "Grid: " + b.Model.Title(), Model: b, Tab: "system", Framed: "list", Body: body},
	)
}
