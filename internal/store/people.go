package store

import (
	"context"
	"errors"
	"time"

	"gorm.io/gorm"

	"coldtap/internal/app"
)

// EndedSessions takes sessions away that have expired, and old tries.
func (s *Store) EndedSessions(ctx context.Context) error {
	if err := s.db.WithContext(ctx).Exec("DELETE FROM sessions WHERE expiry < UTC_TIMESTAMP(6)").Error; err != nil {
		return err
	}
	return s.db.WithContext(ctx).Exec("DELETE FROM sign_in_tries WHERE created_at < UTC_TIMESTAMP(6) - INTERVAL 1 DAY").Error
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

// SavePerson keeps changes to an account.
func (s *Store) SavePerson(ctx context.Context, p *app.Person) error {
	return wrap("save person "+p.Login, s.db.WithContext(ctx).Save(p).Error)
}

// SignInFailed notes a sign-in that failed.
func (s *Store) SignInFailed(ctx context.Context, login, address string) error {
	type SignInTry struct {
		ID        uint64
		Login     string
		Address   string
		CreatedAt time.Time
	}
	return wrap("note a sign-in try", s.db.WithContext(ctx).Create(&SignInTry{Login: short(login, 60),
		Address: short(address, 60)}).Error)
}

// FailedSignIns counts the sign-ins that failed since a time, for a name and from an
// address.
func (s *Store) FailedSignIns(ctx context.Context, login, address string,
	since time.Time) (forName, from int64, err error) {
	count := func(column, value string, n *int64) error {
		return s.db.WithContext(ctx).Table("sign_in_tries").Where(column+" = ? AND created_at > ?", value,
			since.UTC()).Count(n).Error
	}
	err = errors.Join(count("login", short(login, 60), &forName), count("address", short(address, 60), &from))
	return forName, from, wrap("count sign-in tries", err)
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
		(SELECT r.id, r.author_id, r.author, 'changed model', m.slug, r.reason, r.created_at FROM revisions r JOIN models m ON `+
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
