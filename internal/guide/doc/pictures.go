package doc

import (
	"crypto/sha256"
	"encoding/hex"
)

// Pictures are the drawings of a document as files beside it, each once.
type Pictures struct {
	Alone func(svg string) string // a drawing as a file of its own
	Names []string                // in the order in which they were first asked for
	Files map[string]string       // by name
}

// Photo is the name of a photograph's file.
func (p *Pictures) Photo(x *Photo) string {
	if p.Files == nil {
		p.Files = map[string]string{}
	}
	if _, there := p.Files[x.Name]; !there {
		p.Files[x.Name] = string(x.JPEG)
		p.Names = append(p.Names, x.Name)
	}
	return x.Name
}

// Name is the name of a drawing's file, by what is drawn: "3f2a….svg".
func (p *Pictures) Name(x *Picture) string {
	text := p.Alone(x.SVG)
	sum := sha256.Sum256([]byte(text))
	name := hex.EncodeToString(sum[:8]) + ".svg"
	if p.Files == nil {
		p.Files = map[string]string{}
	}
	if _, there := p.Files[name]; !there {
		p.Files[name] = text
		p.Names = append(p.Names, name)
	}
	return name
}
