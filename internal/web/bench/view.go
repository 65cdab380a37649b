// Package bench shows the list of models, and models beside each other.
package bench

import "coldtap/internal/web/site"

// View answers the requests of these pages.
type View struct{ *site.Site }
