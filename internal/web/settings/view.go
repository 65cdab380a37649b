// Package settings shows how handles stand in each way of use, why, and what goes
// on then.
package settings

import "coldtap/internal/web/site"

// View answers the requests of these pages.
type View struct{ *site.Site }
