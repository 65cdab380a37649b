package plumbing

import (
	"fmt"
	"slices"
)

// PositionWords tell a position the way a reader sees it on this model.
func PositionWords(p *Part, position string) string {
	words := position
	level := p.Reading.Pipe != "upright"
	switch p.Reading.Handle {
	case "lever", "tee":
		along, across := "level, along the pipe", "upright, across the pipe"
		if !level {
			along, across = "upright, along the pipe", "level, across the pipe"
		}
		switch position {
		case "open":
			words = "open: lever " + along
		case "closed":
			words = "closed: lever " + across
		}
	case "cap", "plug":
		switch position {
		case "open":
			words = p.Reading.Handle + " off"
		case "closed":
			words = p.Reading.Handle + " on"
		}
	case "toggle":
		switch position {
		case "open", "up":
			words = "toggle up: open"
		case "closed", "level":
			words = "toggle level: closed"
		}
	case "motor":
		words = "motor at " + position
	case "pointer", "knob":
		words = "pointing " + pointing(p, position)
	}
	if own := p.Kind.Info().Says[position]; own != "" {
		words = own
	}
	if says := p.Reading.Says[position]; says != "" {
		if words == position {
			return fmt.Sprintf("at “%s”", says)
		}
		words += fmt.Sprintf(", marked “%s”", says)
	}
	return words
}

// pointing says where a pointer stands.
func pointing(p *Part, position string) string {
	switch i := slices.Index(p.Positions(), position); {
	case p.Role() == RoleDiverter && i == 0:
		return "along the pipe"
	case p.Role() == RoleDiverter:
		return "to the branch"
	default:
		return "to " + position
	}
}
