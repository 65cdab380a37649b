package system

import (
	"net/url"
	"strconv"

	"github.com/gin-gonic/gin"

	"coldtap/internal/app"
	"coldtap/internal/web/site"
)

// frame is what the views of a model's plumbing share: their bar, and what the
// rail is for.
type frame struct {
	Looks      string // "drawing", "lines", "parts" or "layout"
	Board      string // selector of what an answer changes
	Back       string // view that an edit goes back to, "" for the drawing
	ChosenID   string // part or line
	For        string // what the rail is for
	Pane       string // the pane it shows at first; "" for the one shown last
	Grip       string // head of the rail where it is a sheet
	Tabs       []site.Pane
	From       uint64 // revision that edits start from
	Base       string // address of the model
	Undo, Redo *app.Revision
	Waiting    []app.Held // changes of the reader's that wait for an answer
}

func newFrame(looks, board, chosen string) frame {
	return frame{Looks: looks, Board: board, ChosenID: chosen}
}

// steps fills in what an author needs to take changes back.
func (s View) steps(c *gin.Context, b *site.Computed, f *frame) (err error) {
	f.From, f.Base = b.Row.Revision, "/models/"+url.PathEscape(b.Row.Slug)
	if f.Undo, f.Redo, err = s.Store.Steps(c, b.Row.Slug); err != nil {
		return err
	}
	f.Waiting, err = s.Store.HeldEdits(c, b.Row.Slug, site.By(c))
	return err
}

// rail says what the rail of the System view shows; finding is the number of
// the chosen one, 0 for none.
func (body *systemBody) rail(b *site.Computed, finding int) {
	body.For, body.Grip = body.ChosenID, "Findings and model"
	if body.Chosen != nil {
		body.Grip = body.Chosen.Name
		facts := site.Pane{ID: "facts", Name: "Facts"}
		if body.Form != nil {
			facts.Screen = "narrowscreen"
		}
		body.Tabs = append(body.Tabs, facts)
	}
	if f := body.Form; f != nil {
		for _, g := range f.Groups {
			body.Tabs = append(body.Tabs, site.Pane{ID: g.ID, Name: g.Name, Screen: "widescreen"})
		}
		ports := "Ports"
		if f.What == "line" {
			ports = "Acts"
		}
		body.Tabs = append(body.Tabs, site.Pane{ID: "ports", Name: ports, Screen: "widescreen"})
		if f.What == "part" {
			body.Tabs = append(body.Tabs, site.Pane{ID: "photos", Name: "Photos", Count: len(body.Photos),
				Screen: "widescreen"})
		}
	}
	body.Tabs = append(body.Tabs, site.Pane{ID: "findings", Name: "Findings", Count: len(b.Findings)})
	if body.Chosen == nil {
		body.Tabs = append(body.Tabs, site.Pane{ID: "model", Name: "Model"})
	}
	if finding > 0 {
		body.For, body.Pane = "finding-"+strconv.Itoa(finding), "findings"
	}
}
