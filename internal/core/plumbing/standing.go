package plumbing

// Standing is a part's handle in a position.
type Standing struct {
	Part     *Part
	Position string
}

// Ref tells it from others.
func (s Standing) Ref() string { return s.Part.ID + "=" + s.Position }

// Ref tells a part from others of its model.
func (p *Part) Ref() string { return p.ID }

// Ref tells a line from others of its model.
func (l *Line) Ref() string { return l.ID }
