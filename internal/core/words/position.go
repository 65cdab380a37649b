package words

import (
	"slices"

	"coldtap/internal/core/plumbing"
)

// Position tells a position the way a reader sees it on this model.
func (p *Printer) Position(part *plumbing.Part, position string) string {
	says := part.Reading.Says[position]
	seen := p.seen(part, position)
	switch {
	case seen == "" && says != "":
		return p.say("position.at", says)
	case seen == "":
		return position
	case says != "":
		return p.say("position.marked", seen, says)
	}
	return seen
}

// seen is what a position looks like; nothing where it is known by its name
// only.
func (p *Printer) seen(part *plumbing.Part, position string) string {
	if own := part.Kind.Info().Says[position]; own != "" {
		return own
	}
	switch handle := part.Reading.Handle; handle {
	case "lever", "tee":
		return p.lever(position, part.Reading.Pipe == "upright")
	case "cap", "plug":
		if position == "open" || position == "closed" {
			return p.say("position." + handle + "." + position)
		}
	case "toggle":
		switch position {
		case "open", "up":
			return p.say("position.toggle.up")
		case "closed", "level":
			return p.say("position.toggle.level")
		}
	case "motor":
		return p.say("position.motor", position)
	case "pointer", "knob":
		return p.pointing(part, position)
	}
	return ""
}

// lever is how a lever lies that turns a quarter.
func (p *Printer) lever(position string, upright bool) string {
	id := "position.lever." + position
	if upright {
		id += ".upright"
	}
	if position != "open" && position != "closed" {
		return ""
	}
	return p.say(id)
}

// pointing says where a pointer stands.
func (p *Printer) pointing(part *plumbing.Part, position string) string {
	switch i := slices.Index(part.Positions(), position); {
	case part.Role() == plumbing.RoleDiverter && i == 0:
		return p.say("position.pointer.along")
	case part.Role() == plumbing.RoleDiverter:
		return p.say("position.pointer.branch")
	}
	return p.say("position.pointer", position)
}

// Place tells where something is reached, what is in front of it and what
// unlocks that; nothing where nothing is said.
func (p *Printer) Place(at plumbing.Place) string {
	var list []string
	if at.Reach != "" {
		list = append(list, at.Reach)
	}
	if at.Behind != "" {
		list = append(list, p.say("place.behind", at.Behind))
	}
	if at.Key != "" {
		list = append(list, p.say("place.key", at.Key))
	}
	return p.list(list)
}
