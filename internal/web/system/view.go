// Package system shows the plumbing of a model and changes it: drawing, forms, grids,
// lists, photographs, history.
package system

import "coldtap/internal/web/site"

// View answers the requests of these pages.
type View struct{ *site.Site }
