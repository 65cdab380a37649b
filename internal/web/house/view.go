// Package house shows the house's rules and how they came to be, and long work.
package house

import "coldtap/internal/web/site"

// View answers the requests of these pages.
type View struct{ *site.Site }
