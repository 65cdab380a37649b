package guides

import (
	"html/template"

	"coldtap/internal/core/chapter"
	"coldtap/internal/guide"
)

// preview is a text as it will be read.
type preview struct {
	Title string
	HTML  template.HTML
	Lost  []string // what it stands for that the model has not
}

func previewOf(in chapter.Inputs, title, text string) preview {
	p := guide.Prose(in, text)
	return preview{title, template.HTML(p.HTML), p.Lost} // sanitized where it was made
}
