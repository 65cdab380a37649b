package procedures

import (
	"slices"
	"strings"

	"github.com/gin-gonic/gin"

	"coldtap/internal/core/fault"
	"coldtap/internal/core/plumbing"
	"coldtap/internal/core/proof"
	"coldtap/internal/web/site"
)

// wrongBody is what each thing that can be wrong with a unit shows and leads to while a procedure is carried out.
type wrongBody struct{ Rows []wrongRow }

type wrongRow struct {
	Said     string // what is wrong
	Severity string // the gravest that it leads to, "" where nothing is broken
	Step     int    // at which somebody notices, 0 where nobody does
	Sign     string
	Leads    []string
	Href     string // the procedure carried out with it
}

// Wrong tells what somebody sees of each fault, and what it leads to.
func (s View) Wrong(c *gin.Context) {
	s.lookInto(c, "wrong", func(b *site.Computed, p *proof.Procedure, pr *proof.Proof) (any, error) {
		list, err := fault.InProcedure(c, b.Net, p, pr)
		var body wrongBody
		for i := range list {
			body.Rows = append(body.Rows, rowOfFault(b, p.ID, &list[i]))
		}
		return body, err
	})
}

func rowOfFault(b *site.Computed, procedure string, x *fault.Shown) wrongRow {
	tell := b.Words()
	r := wrongRow{Said: tell.Tell(x.Said), Href: b.Link("procedures/"+procedure, "fault="+x.ID())}
	if x.Step != plumbing.None {
		r.Step, r.Sign = x.Step+1, tell.Tell(x.Sign)
	}
	if x.Breaches != nil {
		r.Severity = x.Worst().String()
	}
	for _, w := range x.Breaches {
		r.Leads = append(r.Leads, tell.Tell(w.Said))
	}
	return r
}

// faultOf is the fault that an address asks for; nil for none.
func faultOf(n *plumbing.Network, id string) *fault.Fault {
	list := fault.OfNetwork(n)
	i := slices.IndexFunc(list, func(f fault.Fault) bool { return f.ID() == strings.TrimSpace(id) })
	if i < 0 {
		return nil
	}
	return &list[i]
}
