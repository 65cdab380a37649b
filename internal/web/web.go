// Package web serves Cold Tap: its routes with who may use them, and its static
// files. Each view is a package below it; what they have in common is site.
package web

import (
	"cmp"
	"embed"
	"fmt"
	"net/http"
	"sync"
	"time"

	"github.com/gin-gonic/gin"
	"github.com/klauspost/compress/gzhttp"

	"coldtap/internal/drawing"
	"coldtap/internal/guide/card"
	"coldtap/internal/guide/html"
	"coldtap/internal/web/reader"
	"coldtap/internal/web/site"
)

//go:embed static templates
var files embed.FS

// Store is what the pages read, and what the services behind them write with.
type Store = site.Store

// Options are what a server is told at its start.
type Options = site.Options

// shippedFiles are the files that ship with the program, made ready once: they are the same for every handler.
var shippedFiles = sync.OnceValues(func() (assets, error) {
	return loadAssets(files, map[string]string{"/guide.css": html.CSS(), "/drawing.css": drawing.CSS(), "/card.css": card.CSS()})
})

const requestTime = 20 * time.Second

// New makes the handler of all routes.
func New(st Store, o Options) (http.Handler, error) {
	shipped, err := shippedFiles()
	if err != nil {
		return nil, err
	}
	s, err := site.New(st, files, shipped.address, o)
	if err != nil {
		return nil, err
	}
	gin.SetMode(gin.ReleaseMode)
	r := gin.New()
	r.ContextWithFallback = true // so that queries and computations end with their request
	r.MaxMultipartMemory = 1     // files go to temporary files, whatever their size
	if err := r.SetTrustedProxies(o.Proxies); err != nil {
		return nil, fmt.Errorf("trusted proxies: %w", err)
	}
	r.Use(s.Watch, s.Recover, site.Secure)
	worker, err := files.ReadFile("static/js/worker.js")
	if err != nil {
		return nil, err
	}
	readers := reader.View{Site: s, Shelf: &reader.Shelf{Fresh: o.Fresh}, Worker: worker}
	for _, x := range routes(s, readers) {
		guarded := s.Guard(x.roles, filesOf(x), x.handle)
		r.Handle(x.method, x.path, guarded)
		if x.method == http.MethodGet {
			r.Handle(http.MethodHead, x.path, guarded)
		}
	}
	r.NoRoute(func(c *gin.Context) { s.NotFound(c, "There is no such page.") })
	mux := http.NewServeMux()
	// Who asks whether the program works has no session.
	mux.HandleFunc("GET /health", s.Health)
	mux.HandleFunc("GET /ready", s.Ready)
	mux.Handle("/", s.WhileThere(o.Pulse, http.NewCrossOriginProtection().Handler(s.Sessions.LoadAndSave(r))))
	// What is kept ready is sent as it is: nothing of it can take long.
	all := http.NewServeMux()
	all.Handle("GET /static/", shipped)
	all.Handle("GET /guide.css", shipped)
	all.Handle("GET /drawing.css", shipped)
	all.Handle("GET /card.css", shipped)
	rest := http.TimeoutHandler(gzhttp.GzipHandler(mux), cmp.Or(o.Patience, requestTime), "This took too long. Try again.")
	all.Handle("/read", rest)
	all.Handle("/read/", readers.Shelf.Around(rest))
	all.Handle("/", rest)
	return all, nil
}
