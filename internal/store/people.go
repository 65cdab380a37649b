package store

import (
	"context"
	"errors"
	"fmt"
	"time"

	"gorm.io/gorm"
	"gorm.io/gorm/clause"

	"coldtap/internal/app"
	"coldtap/internal/people"
)

// Tidy takes away what has had its time: sessions that ended, tries of signing in, answers to
// requests, browsers that nobody signed in from for long.
func (s *Store) Tidy(ctx context.Context) error {
	for _, q := range []string{
		"DELETE FROM sessions WHERE expiry < UTC_TIMESTAMP(6)",
		"DELETE FROM sign_in_tries WHERE created_at < UTC_TIMESTAMP(6) - INTERVAL 1 DAY",
		"DELETE FROM answers WHERE created_at < UTC_TIMESTAMP(6) - INTERVAL 7 DAY",
		"DELETE FROM drawings WHERE created_at < UTC_TIMESTAMP(6) - INTERVAL 30 DAY",
		"DELETE FROM reader_tries WHERE created_at < UTC_TIMESTAMP(6) - INTERVAL 1 DAY",
		"DELETE FROM walk_marks WHERE code IN (SELECT code FROM walks WHERE created_at < UTC_TIMESTAMP(6) - INTERVAL 14 DAY)",
		"DELETE FROM walks WHERE created_at < UTC_TIMESTAMP(6) - INTERVAL 14 DAY",
		"DELETE FROM known_browsers WHERE seen_at < UTC_TIMESTAMP(6) - INTERVAL 90 DAY",
	} {
		if err := certified(ctx, func() error { return s.db.WithContext(ctx).Exec(q).Error }); err != nil {
			return fmt.Errorf("tidy: %w", err)
		}
	}
	return nil
}

// People lists all accounts by name.
func (s *Store) People(ctx context.Context) ([]app.Person, error) {
	var list []app.Person
	err := s.db.WithContext(ctx).Order("name, login").Find(&list).Error
	return list, wrap("list people", err)
}

// Person finds an account by its id.
func (s *Store) Person(ctx context.Context, id uint64) (*app.Person, error) {
	var p app.Person
	err := s.db.WithContext(ctx).Take(&p, id).Error
	return &p, wrap("person", err)
}

// Login finds an account by its sign-in name.
func (s *Store) Login(ctx context.Context, login string) (*app.Person, error) {
	var p app.Person
	err := s.db.WithContext(ctx).Where("login = ?", login).Take(&p).Error
	return &p, wrap("person "+login, err)
}

// AddPerson adds an account. app.ErrExists if the sign-in name is taken.
func (s *Store) AddPerson(ctx context.Context, p *app.Person) error {
	err := s.db.WithContext(ctx).Create(p).Error
	if errors.Is(err, gorm.ErrDuplicatedKey) {
		return app.ErrExists
	}
	return wrap("add person "+p.Login, err)
}

// SetPassword sets a password in place of the present one.
func (s *Store) SetPassword(ctx context.Context, id uint64, present, hash string) (int64, error) {
	return s.setPerson(ctx, id, s.db.Where("password = ?", present), "password", hash)
}

// SetRole sets what an account may do.
func (s *Store) SetRole(ctx context.Context, id uint64, role people.Role) (int64, error) {
	return s.setPerson(ctx, id, s.db, "role", role)
}

// SetActive opens or shuts an account.
func (s *Store) SetActive(ctx context.Context, id uint64, active bool) (int64, error) {
	return s.setPerson(ctx, id, s.db, "active", active)
}

// setPerson sets one column of an account, and ends its sessions: what others set at the same
// time stays.
func (s *Store) setPerson(ctx context.Context, id uint64, where *gorm.DB, column string, value any) (int64, error) {
	r := where.WithContext(ctx).Model(&app.Person{ID: id}).Updates(map[string]any{column: value,
		"epoch": gorm.Expr("epoch + 1")})
	if r.Error != nil {
		return 0, wrap("set "+column, r.Error)
	}
	if r.RowsAffected == 0 {
		return 0, app.ErrStale
	}
	p, err := s.Person(ctx, id)
	return p.Epoch, err
}

// KnowBrowser remembers a browser.
func (s *Store) KnowBrowser(ctx context.Context, token string, personID uint64) error {
	return wrap("remember a browser", s.db.WithContext(ctx).Clauses(clause.OnConflict{UpdateAll: true}).
		Create(&knownBrowser{token, personID, time.Now().UTC()}).Error)
}

type knownBrowser struct {
	Token    string `gorm:"primaryKey"`
	PersonID uint64 `gorm:"primaryKey"`
	SeenAt   time.Time
}

// KnowsBrowser reports whether somebody has signed in from a browser since a time.
func (s *Store) KnowsBrowser(ctx context.Context, token string, personID uint64, since time.Time) (bool, error) {
	var n int64
	err := s.db.WithContext(ctx).Model(&knownBrowser{}).Where("token = ? AND person_id = ? AND seen_at > ?", token,
		personID, since.UTC()).Count(&n).Error
	return n > 0, wrap("look for a browser", err)
}

type signInTry struct {
	ID        uint64
	Login     string
	Address   string
	CreatedAt time.Time
}

// AddTry keeps a try of signing in.
func (s *Store) AddTry(ctx context.Context, login, place string) (uint64, error) {
	try := signInTry{Login: short(login, 60), Address: short(place, 60)}
	err := certified(ctx, func() error { return s.db.WithContext(ctx).Create(&try).Error })
	return try.ID, wrap("note a sign-in try", err)
}

// CountTries counts tries since a time.
func (s *Store) CountTries(ctx context.Context, login, place string, since time.Time) (n app.Tries, err error) {
	login, place = short(login, 60), short(place, 60)
	err = s.db.WithContext(ctx).Raw(`SELECT
			COUNT(CASE WHEN login = @login AND address = @place THEN 1 END) AS `+"`both`"+`,
			COUNT(CASE WHEN address = @place THEN 1 END) AS place,
			COUNT(CASE WHEN login = @login AND address NOT LIKE 'browser%' THEN 1 END) AS name
		FROM sign_in_tries WHERE created_at > @since AND (login = @login OR address = @place)`,
		map[string]any{"login": login, "place": place, "since": since.UTC()}).Scan(&n).Error
	return n, wrap("count sign-in tries", err)
}

// ForgetTry takes a try back that is not held against anybody.
func (s *Store) ForgetTry(ctx context.Context, id uint64) error {
	return certified(ctx, func() error {
		return wrap("forget a sign-in try", s.db.WithContext(ctx).Delete(&signInTry{ID: id}).Error)
	})
}

// Audit adds a row to the audit trail.
func (s *Store) Audit(ctx context.Context, by app.By, action, subject, detail string) error {
	n := app.Note{PersonID: by.ID, Person: short(by.Name, 120), Action: short(action, 60), Subject: short(subject, 120),
		Detail: short(detail, 400)}
	return wrap("audit", s.db.WithContext(ctx).Create(&n).Error)
}

// AuditTrail lists the newest entries of the audit trail: what was noted, and every
// revision of a model, which says itself who made it and why.
func (s *Store) AuditTrail(ctx context.Context, most int) ([]app.Note, error) {
	var list []app.Note
	err := s.db.WithContext(ctx).Raw(`SELECT * FROM (
		(SELECT id, person_id, person, action, subject, detail, created_at FROM audit ORDER BY id DESC LIMIT ?)
		UNION ALL
		(SELECT r.id, r.author_id, r.author, 'changed model', m.slug, r.reason,
			r.created_at FROM revisions r JOIN models m ON `+
		`m.id = r.model_id ORDER BY r.id DESC LIMIT ?)
	) AS trail ORDER BY created_at DESC, id DESC LIMIT ?`, most, most, most).Scan(&list).Error
	return list, wrap("audit trail", err)
}

// short cuts a text to what a column takes.
func short(s string, most int) string {
	if r := []rune(s); len(r) > most {
		return string(r[:most-1]) + "…"
	}
	return s
}
