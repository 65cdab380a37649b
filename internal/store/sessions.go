package store

import (
	"context"
	"time"

	"github.com/alexedwards/scs/v2"
	"gorm.io/gorm/clause"
)

// session is a row of the table of sessions; the token is a hash of what the
// browser has.
type session struct {
	Token  string `gorm:"primaryKey"`
	Data   []byte
	Expiry time.Time
}

// sessions keeps sessions in the database, with the context of their request.
type sessions struct{ s *Store }

// Sessions keeps sessions in the database.
func (s *Store) Sessions() (scs.Store, error) { return sessions{s}, nil }

// FindCtx gives a session's data.
func (k sessions) FindCtx(ctx context.Context, token string) ([]byte, bool, error) {
	var list []session
	err := k.s.db.WithContext(ctx).Where("token = ? AND expiry > ?", token, time.Now().UTC()).Limit(1).Find(&list).Error
	if err != nil || len(list) == 0 {
		return nil, false, wrap("session", err)
	}
	return list[0].Data, true, nil
}

// CommitCtx keeps a session's data.
func (k sessions) CommitCtx(ctx context.Context, token string, data []byte, expiry time.Time) error {
	row := session{token, data, expiry.UTC()}
	return certified(ctx, func() error {
		return wrap("session", k.s.db.WithContext(ctx).Clauses(clause.OnConflict{UpdateAll: true}).Create(&row).Error)
	})
}

// DeleteCtx ends a session.
func (k sessions) DeleteCtx(ctx context.Context, token string) error {
	return certified(ctx, func() error {
		return wrap("session", k.s.db.WithContext(ctx).Delete(&session{Token: token}).Error)
	})
}

// Find, Commit and Delete are for callers without a context.
func (k sessions) Find(token string) ([]byte, bool, error) {
	return k.FindCtx(context.Background(), token)
}

// Commit is described at Find.
func (k sessions) Commit(token string, data []byte, expiry time.Time) error {
	return k.CommitCtx(context.Background(), token, data, expiry)
}

// Delete is described at Find.
func (k sessions) Delete(token string) error { return k.DeleteCtx(context.Background(), token) }
