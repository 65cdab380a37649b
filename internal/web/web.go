// Package web serves Cold Tap: its routes with who may use them, and its static
// files. Each view is a package below it; what they have in common is site.
package web

import (
	"crypto/sha256"
	"embed"
	"encoding/hex"
	"io"
	"io/fs"
	"net/http"
	"time"

	"github.com/gin-gonic/gin"
	"github.com/klauspost/compress/gzhttp"

	"coldtap/internal/guide"
	"coldtap/internal/web/site"
)

//go:embed static templates
var files embed.FS

// Store is what the pages read, and what the services behind them write with.
type Store = site.Store

// Options are what a server is told at its start.
type Options = site.Options

const requestTime = 20 * time.Second

// New makes the handler of all routes.
func New(st Store, o Options) (http.Handler, error) {
	version, err := assetVersion()
	if err != nil {
		return nil, err
	}
	s, err := site.New(st, files, version, o)
	if err != nil {
		return nil, err
	}
	gin.SetMode(gin.ReleaseMode)
	r := gin.New()
	r.ContextWithFallback = true // so that queries and computations end with their request
	r.Use(s.Recover, site.Secure)
	for _, x := range routes(s) {
		r.Handle(x.method, x.path, s.Guard(x.roles, x.handle))
	}
	r.NoRoute(func(c *gin.Context) { s.NotFound(c, "There is no such page.") })
	static, err := fs.Sub(files, "static")
	if err != nil {
		return nil, err
	}
	mux := http.NewServeMux()
	mux.Handle("GET /static/", http.StripPrefix("/static/", cached(http.FileServerFS(static))))
	mux.Handle("GET /guide.css", cached(http.HandlerFunc(func(w http.ResponseWriter, _ *http.Request) {
		w.Header().Set("Content-Type", "text/css; charset=utf-8")
		io.WriteString(w, guide.CSS())
	})))
	mux.Handle("/", http.NewCrossOriginProtection().Handler(s.Sessions.LoadAndSave(r)))
	return http.TimeoutHandler(gzhttp.GzipHandler(mux), requestTime, "This took too long. Try again."), nil
}

// assetVersion is a hash of everything that is served as a file.
func assetVersion() (string, error) {
	h := sha256.New()
	io.WriteString(h, guide.CSS())
	err := fs.WalkDir(files, "static", func(path string, d fs.DirEntry, err error) error {
		if err != nil || d.IsDir() {
			return err
		}
		b, err := files.ReadFile(path)
		h.Write(b)
		return err
	})
	return hex.EncodeToString(h.Sum(nil))[:12], err
}

func cached(h http.Handler) http.Handler {
	return http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		w.Header().Set("X-Content-Type-Options", "nosniff")
		w.Header().Set("Cache-Control", "public, max-age=31536000, immutable")
		h.ServeHTTP(w, r)
	})
}
