package reader

import (
	"bytes"
	"cmp"
	"compress/gzip"
	"crypto/sha256"
	"encoding/hex"
	"net/http"
	"strconv"
	"sync"
	"sync/atomic"
	"time"

	"coldtap/internal/web/site"
)

// Shelf keeps the pages that readers asked for last, ready to be sent. A page is looked at again after a short time:
// one request does that, the others are served meanwhile.
type Shelf struct {
	Fresh time.Duration // how long a page is sent without being looked at again; 0 for a second

	mu    sync.Mutex
	pages map[string]*leaf
	bytes int64
}

// most is how many bytes are kept.
const most = 96 << 20

func (s *Shelf) fresh() time.Duration { return cmp.Or(s.Fresh, time.Second) }

// leaf is a page as it is sent.
type leaf struct {
	kind       string
	raw, small []byte // small is gzip; nil where that is not smaller
	tag        string
	stamp      string // of the envelope that is in it
	good       bool   // for ever: nothing around it changes
	until      atomic.Int64
}

// newLeaf makes a page ready.
func newLeaf(kind string, raw []byte, stamp string, good bool) (*leaf, error) {
	sum := sha256.Sum256(raw)
	l := &leaf{kind: kind, raw: raw, tag: `"` + hex.EncodeToString(sum[:12]) + `"`, stamp: stamp, good: good}
	var b bytes.Buffer
	w, err := gzip.NewWriterLevel(&b, gzip.BestCompression)
	if err != nil {
		return nil, err
	}
	if _, err := w.Write(raw); err != nil {
		return nil, err
	}
	if err := w.Close(); err != nil {
		return nil, err
	}
	if b.Len() < len(raw)*9/10 {
		l.small = b.Bytes()
	}
	return l, nil
}

// find is a page that is kept; nil for none.
func (s *Shelf) find(path string) *leaf {
	s.mu.Lock()
	defer s.mu.Unlock()
	return s.pages[path]
}

// put keeps a page. Where too much is kept all else is let go: it is made again in a moment.
func (s *Shelf) put(path string, l *leaf) {
	s.mu.Lock()
	defer s.mu.Unlock()
	if s.pages == nil || s.bytes > most {
		s.pages, s.bytes = map[string]*leaf{}, 0
	}
	if old := s.pages[path]; old != nil {
		s.bytes -= int64(len(old.raw) + len(old.small))
	}
	l.until.Store(time.Now().Add(s.fresh()).UnixNano())
	s.pages[path] = l
	s.bytes += int64(len(l.raw) + len(l.small))
}

// Around serves pages that are kept and fresh, and lets next make the others.
func (s *Shelf) Around(next http.Handler) http.Handler {
	return http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		if (r.Method == http.MethodGet || r.Method == http.MethodHead) && r.URL.RawQuery == "" {
			if l := s.find(r.URL.Path); l != nil {
				until, now := l.until.Load(), time.Now()
				if l.good || now.UnixNano() < until || !l.until.CompareAndSwap(until, now.Add(s.fresh()).UnixNano()) {
					secure(w.Header())
					l.send(w, r)
					return
				}
			}
		}
		next.ServeHTTP(w, r)
	})
}

// send sends a page, or says that its reader has it already.
func (l *leaf) send(w http.ResponseWriter, r *http.Request) {
	h := w.Header()
	h["Content-Type"], h["Etag"], h["Vary"] = []string{l.kind}, []string{l.tag}, []string{"Accept-Encoding"}
	if l.good {
		h["Cache-Control"] = []string{"public, max-age=31536000, immutable"}
	} else {
		h["Cache-Control"] = []string{"no-cache"} // kept by its reader, and asked for again each time
	}
	if r.Header.Get("If-None-Match") == l.tag {
		w.WriteHeader(http.StatusNotModified)
		return
	}
	body := l.raw
	if l.small != nil && site.TakesGzip(r) {
		h["Content-Encoding"] = []string{"gzip"}
		body = l.small
	}
	h["Content-Length"] = []string{strconv.Itoa(len(body))}
	if r.Method != http.MethodHead {
		_, _ = w.Write(body) // who asked may have left
	}
}

// secure keeps a reader's page from being misused: nothing runs in it but scripts of ours, nothing is loaded from
// elsewhere.
func secure(h http.Header) {
	h["Content-Security-Policy"] = []string{"default-src 'none'; script-src 'self'; style-src 'self'; img-src 'self' data:; " +
		"font-src 'self'; connect-src 'self'; worker-src 'self'; object-src 'none'; base-uri 'none'; frame-ancestors 'none'; " +
		"form-action 'self'"}
	h["X-Content-Type-Options"] = []string{"nosniff"}
	h["Referrer-Policy"] = []string{"same-origin"}
}
