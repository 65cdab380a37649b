package web

import (
	"coldtap/internal/web/reader"
	"coldtap/internal/web/site"
)

// Routes lists every address, as "GET /models".
func Routes() (list []string) {
	for _, r := range routes(&site.Site{}, reader.View{}) {
		list = append(list, r.method+" "+r.path)
	}
	return list
}
