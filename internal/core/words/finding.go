package words

import "coldtap/internal/core/finding"

// Finding is a finding in words: what was found, why it matters, and what would
// mend it.
type Finding struct{ Words, Why, Remedy string }

// Finding tells a finding.
func (p *Printer) Finding(f finding.Finding) Finding {
	return Finding{p.Tell(f.Said), p.say("finding." + f.Code + ".why"), p.say("finding." + f.Code + ".remedy")}
}
