package words

import (
	"strings"

	"coldtap/internal/core/finding"
)

// Finding is a finding in words: what was found, why it matters, and what would
// mend it.
type Finding struct{ Words, Why, Remedy string }

// Finding tells a finding.
func (p *Printer) Finding(f finding.Finding) Finding {
	return Finding{p.Tell(f.Said), p.say("finding." + f.Code + ".why"), p.say("finding." + f.Code + ".remedy")}
}

// Alike tells of several findings of one code together.
func (p *Printer) Alike(code string, count int) string {
	key := "finding." + code + ".many"
	if said := p.say(key, count); !strings.HasPrefix(said, key) {
		return said
	}
	return p.say("finding.alike", count)
}
