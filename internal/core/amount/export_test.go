package amount

import "coldtap/internal/core/quantity"

// Quickest is the way that takes the least time by its plain figures; nil where none reaches the limit.
func (p *FlushPlan) Quickest() *FlushWay {
	best, _ := p.quickest(func(w *FlushWay) (int, quantity.Second) { return w.Refills, w.Time })
	return best
}
