package site

import (
	"bytes"
	"context"
	"errors"
	"log/slog"
	"net/http"
)

// Pulse knows whether the database answers.
type Pulse interface {
	Away() error // nil while it answers
	// OnAway calls f when it goes away, until stop is called.
	OnAway(f func()) (stop func())
}

// errAway ends the requests that wait for a database that has gone away.
var errAway = errors.New("the database went away")

// WhileThere answers with what h does while the database is there. When it goes away, those who
// wait for it are told, and so are all who come, until it is back: nobody waits for long.
func (s *Site) WhileThere(pulse Pulse, h http.Handler) http.Handler {
	if pulse == nil {
		return h
	}
	return http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		if pulse.Away() != nil {
			s.away(w)
			return
		}
		ctx, cancel := context.WithCancelCause(r.Context())
		defer cancel(nil)
		stop := pulse.OnAway(func() { cancel(errAway) })
		defer stop()
		h.ServeHTTP(w, r.WithContext(ctx))
	})
}

// away says that the database does not answer.
func (s *Site) away(w http.ResponseWriter) {
	var b bytes.Buffer
	if err := s.templates.ExecuteTemplate(&b, "message.html", awayPage()); err != nil {
		slog.Error("render", "page", "message.html", "error", err)
	}
	h := w.Header()
	h.Set("Cache-Control", "private, no-store")
	h.Set("Content-Type", "text/html; charset=utf-8")
	h.Set("Retry-After", "2")
	w.WriteHeader(http.StatusServiceUnavailable)
	w.Write(b.Bytes())
}

func awayPage() Page {
	return Page{Title: "Database away", Body: Say("The database does not answer",
		"Nothing that was saved is lost. Load this page again in a moment.")}
}
