// Package amounts shows every figure of a model, and answers what-ifs.
package amounts

import "coldtap/internal/web/site"

// View answers the requests of these pages.
type View struct{ *site.Site }
