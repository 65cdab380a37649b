package html

import (
	_ "embed"
	"fmt"
	"html/template"
	"io"
	"regexp"
	"strings"

	"coldtap/internal/guide/doc"
)

//go:embed walk.html
var walkText string

// Plan is the plan that a walk points at.
type Plan struct {
	Width, Height float64
	SVG           string
}

// Inner is the plan without the element around it.
func (p *Plan) Inner() template.HTML {
	return template.HTML(strings.TrimSuffix(outerSVG.ReplaceAllString(p.SVG, ""), "</svg>")) // drawn by us
}

var outerSVG = regexp.MustCompile(`^<svg[^>]*>`)

// walk is a walk as its template sees it.
type walk struct {
	*doc.Walk
	Plan *Plan // nil for none
}

// Last is the number of the page behind the last step.
func (w walk) Last() int { return len(w.Steps) + 1 }

// stride is a step as its template sees it.
type stride struct {
	*doc.Stride
	N, Of int
	Plan  *Plan
}

// Stride is the step of an index.
func (w walk) Stride(i int) stride { return stride{&w.Steps[i], i + 1, len(w.Steps), w.Plan} }

// Places are where the step is done; of many the plan says it.
func (s stride) Places() []doc.Spot { return s.Spots }

// Unsaid are the places that the handles to be turned do not tell already.
func (s stride) Unsaid() (list []doc.Spot) {
	for _, p := range s.Spots {
		told := false
		for _, t := range s.Turns {
			told = told || len(t.Lines) > 0 && strings.Contains(t.Lines[0].Text(), p.Name)
		}
		if !told {
			list = append(list, p)
		}
	}
	return list
}

// OnPlan reports whether the plan has any of its places.
func (s stride) OnPlan() bool {
	if s.Plan == nil {
		return false
	}
	for _, p := range s.Spots {
		if p.X > 0 {
			return true
		}
	}
	return false
}

// Window is the part of the plan that shows its places: no smaller than a hand finds its way in.
func (s stride) Window() string {
	const margin, least = 90, 320
	x0, y0, x1, y1 := s.Plan.Width, s.Plan.Height, 0.0, 0.0
	for _, p := range s.Spots {
		if p.X > 0 {
			x0, y0, x1, y1 = min(x0, p.X), min(y0, p.Y), max(x1, p.X), max(y1, p.Y)
		}
	}
	w, h := max(x1-x0+2*margin, least), s.Plan.Height
	x := min(max((x0+x1-w)/2, 0), max(0, s.Plan.Width-w))
	return fmt.Sprintf("%.0f 0 %.0f %.0f", x, min(w, s.Plan.Width), h)
}

// PlanName is the plan in words.
func (s stride) PlanName() string {
	var list []string
	for _, p := range s.Spots {
		name := p.Name
		if p.Number > 0 {
			name = fmt.Sprintf("%d %s", p.Number, p.Name)
		}
		if p.Where != "" {
			name += ", " + p.Where
		}
		list = append(list, name)
	}
	return "On the plan: " + strings.Join(list, "; ")
}

// AltOf and MarksOf are what a photograph shows, and the ring on it.
func (s stride) AltOf(p *doc.Photo) string { return s.spotOf(p).Alt }

// MarksOf is described at AltOf.
func (s stride) MarksOf(p *doc.Photo) string { return s.spotOf(p).Marks }

func (s stride) spotOf(p *doc.Photo) doc.Spot {
	for _, x := range s.Spots {
		if x.Photo == p {
			return x
		}
	}
	return doc.Spot{}
}

// Walk writes a procedure as an article of which one step is shown at a time.
func Walk(w io.Writer, d *doc.Walk, plan *Plan) error {
	return templates.ExecuteTemplate(w, "walk", walk{d, plan})
}
