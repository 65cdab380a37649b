// Package accounts shows people, one's own account and the audit trail.
package accounts

import "coldtap/internal/web/site"

// View answers the requests of these pages.
type View struct{ *site.Site }
