package store

import (
	"context"
	"database/sql"
	"errors"
	"log/slog"
	"sync"
	"time"
)

// ErrAway says that the database does not answer.
var ErrAway = errors.New("the database does not answer")

// How often the pulse is felt, and how long it may take: a database that hangs
// is known to be away within both together, and pages say so within three
// seconds.
const (
	pulseEvery = 500 * time.Millisecond
	pulseTime  = 1500 * time.Millisecond
)

// Pulse knows whether the database answers, by a connection of its own: one that
// is busy is not away.
type Pulse struct {
	db *sql.DB

	mu     sync.Mutex
	err    error // nil while it answers
	since  time.Time
	onAway map[*func()]bool
}

// Pulse begins to feel the database's pulse, until the context ends.
func (s *Store) Pulse(ctx context.Context) (*Pulse, error) {
	cfg := s.cfg.Clone()
	cfg.Timeout, cfg.ReadTimeout, cfg.WriteTimeout = pulseTime, pulseTime, pulseTime
	db, err := open(cfg)
	if err != nil {
		return nil, err
	}
	db.SetMaxOpenConns(1)
	p := &Pulse{db: db, since: time.Now(), onAway: map[*func()]bool{}}
	go p.feel(ctx)
	return p, nil
}

func (p *Pulse) feel(ctx context.Context) {
	defer p.db.Close()
	for {
		ask, cancel := context.WithTimeout(ctx, pulseTime)
		err := p.db.PingContext(ask)
		cancel()
		if ctx.Err() != nil {
			return
		}
		p.note(err)
		select {
		case <-time.After(pulseEvery):
		case <-ctx.Done():
			return
		}
	}
}

// note keeps what a ping gave; when the database has gone away, those who wait for
// it are told.
func (p *Pulse) note(err error) {
	p.mu.Lock()
	was := p.err
	p.err = err
	if (was == nil) == (err == nil) {
		p.mu.Unlock()
		return
	}
	lasted := time.Since(p.since).Round(time.Millisecond)
	p.since = time.Now()
	var tell []func()
	if err != nil {
		for f := range p.onAway {
			tell = append(tell, *f)
		}
	}
	p.mu.Unlock()
	if err != nil {
		slog.Error("database away", "answered_for", lasted, "error", err)
	} else {
		slog.Info("database back", "away_for", lasted)
	}
	for _, f := range tell {
		f()
	}
}

// Away is nil while the database answers.
func (p *Pulse) Away() error {
	p.mu.Lock()
	defer p.mu.Unlock()
	if p.err != nil {
		return errors.Join(ErrAway, p.err)
	}
	return nil
}

// OnAway calls f when the database goes away, until stop is called.
func (p *Pulse) OnAway(f func()) (stop func()) {
	p.mu.Lock()
	defer p.mu.Unlock()
	p.onAway[&f] = true
	return func() {
		p.mu.Lock()
		defer p.mu.Unlock()
		delete(p.onAway, &f)
	}
}
