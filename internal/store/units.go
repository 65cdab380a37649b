package store

import (
	"context"
	"errors"
	"time"

	"gorm.io/gorm"
	"gorm.io/gorm/clause"

	"coldtap/internal/app"
	"coldtap/internal/core/care"
)

// Dealers lists the dealers by name.
func (s *Store) Dealers(ctx context.Context) ([]app.Dealer, error) {
	var list []app.Dealer
	err := s.db.WithContext(ctx).Order("name").Find(&list).Error
	return list, wrap("dealers", err)
}

// AddDealer keeps a dealer. app.ErrExists if there is one of that name.
func (s *Store) AddDealer(ctx context.Context, d *app.Dealer) error {
	err := s.db.WithContext(ctx).Create(d).Error
	if errors.Is(err, gorm.ErrDuplicatedKey) {
		return app.ErrExists
	}
	return wrap("keep a dealer", err)
}

// SetDealer says which dealer somebody belongs to.
func (s *Store) SetDealer(ctx context.Context, personID, dealerID uint64) error {
	_, err := s.setPerson(ctx, personID, s.db, "dealer_id", dealerID)
	return err
}

// AddUnit keeps a unit. app.ErrExists if its serial number is taken.
func (s *Store) AddUnit(ctx context.Context, u *app.Unit) error {
	err := s.db.WithContext(ctx).Create(u).Error
	if errors.Is(err, gorm.ErrDuplicatedKey) {
		return app.ErrExists
	}
	return wrap("keep a unit", err)
}

// SetUnit sets what may change of a unit.
func (s *Store) SetUnit(ctx context.Context, u *app.Unit) error {
	return wrap("set a unit", s.db.WithContext(ctx).Model(&app.Unit{ID: u.ID}).Updates(map[string]any{
		"build": u.Build, "dealer_id": u.DealerID, "used_for": u.Use, "made_on": u.MadeOn, "note": short(u.Note,
			400)}).Error)
}

// Unit reads a unit.
func (s *Store) Unit(ctx context.Context, id uint64) (*app.Unit, error) {
	return s.unitWhere(ctx, "id = ?", id)
}

// UnitBySerial finds a unit by the key of its serial number.
func (s *Store) UnitBySerial(ctx context.Context, key string) (*app.Unit, error) {
	return s.unitWhere(ctx, "serial_key = ?", key)
}

// UnitByCode finds a unit by the word on its plate.
func (s *Store) UnitByCode(ctx context.Context, code string) (*app.Unit, error) {
	return s.unitWhere(ctx, "code = ?", code)
}

func (s *Store) unitWhere(ctx context.Context, where string, arg any) (*app.Unit, error) {
	var u app.Unit
	err := s.db.WithContext(ctx).Where(where, arg).Take(&u).Error
	return &u, wrap("unit", err)
}

// LockUnit is Unit of one that nobody else changes until the transaction ends.
func (s *Store) LockUnit(ctx context.Context, id uint64) (*app.Unit, error) {
	var u app.Unit
	err := s.db.WithContext(ctx).Clauses(clause.Locking{Strength: "UPDATE"}).Take(&u, id).Error
	return &u, wrap("unit", err)
}

// Units lists units in the order of their serial numbers.
func (s *Store) Units(ctx context.Context, scope app.Scope, key string, most int) ([]app.Unit, error) {
	var list []app.Unit
	q := s.db.WithContext(ctx).Order("serial_key").Limit(most)
	if !scope.All {
		q = q.Where("dealer_id = ? AND dealer_id <> 0", scope.Dealer)
	}
	if key != "" { // keys have letters and digits alone
		q = q.Where("serial_key LIKE ?", key+"%")
	}
	err := q.Find(&list).Error
	return list, wrap("units", err)
}

// UnitEntries is the log of a unit, the newest first.
func (s *Store) UnitEntries(ctx context.Context, unitID uint64) ([]app.UnitEntry, error) {
	var list []app.UnitEntry
	err := s.db.WithContext(ctx).Where("unit_id = ?", unitID).Order("on_day DESC, created_at DESC, mark").Limit(2000).
		Find(&list).Error
	return list, wrap("log of a unit", err)
}

// AddUnitEntries keeps entries that are not kept yet.
func (s *Store) AddUnitEntries(ctx context.Context, list []app.UnitEntry) error {
	return wrap("keep entries of a log",
		s.db.WithContext(ctx).Clauses(clause.OnConflict{DoNothing: true}).Create(&list).Error)
}

// RemoveUnitEntries takes away what a trial said.
func (s *Store) RemoveUnitEntries(ctx context.Context, unitID, trialID uint64) error {
	return wrap("take entries of a trial away", s.db.WithContext(ctx).
		Where("unit_id = ? AND trial_id = ? AND trial_id <> 0", unitID, trialID).Delete(&app.UnitEntry{}).Error)
}

// TakeBackUnitEntry marks an entry as not so.
func (s *Store) TakeBackUnitEntry(ctx context.Context, unitID uint64, mark, by string) error {
	r := s.db.WithContext(ctx).Model(&app.UnitEntry{}).Where("unit_id = ? AND mark = ? AND gone_by = ''", unitID, mark).
		Update("gone_by", short(by, 120))
	if r.Error == nil && r.RowsAffected == 0 {
		return app.ErrNotFound
	}
	return wrap("take an entry back", r.Error)
}

// SetDues keeps what is due on a unit.
func (s *Store) SetDues(ctx context.Context, unitID uint64, basis string, list []app.UnitDue) error {
	db := s.db.WithContext(ctx)
	if err := db.Where("unit_id = ?", unitID).Delete(&app.UnitDue{}).Error; err != nil {
		return wrap("keep what is due", err)
	}
	if len(list) > 0 {
		if err := db.Create(&list).Error; err != nil {
			return wrap("keep what is due", err)
		}
	}
	return wrap("keep what is due", db.Model(&app.Unit{ID: unitID}).UpdateColumn("basis", basis).Error)
}

// DuesOf lists what is due on a unit, the soonest first.
func (s *Store) DuesOf(ctx context.Context, unitID uint64) ([]app.UnitDue, error) {
	var list []app.UnitDue
	err := s.db.WithContext(ctx).Where("unit_id = ?", unitID).Order("on_day, kind, what").Find(&list).Error
	return list, wrap("what is due", err)
}

// dues are the rows of what is due until a day.
func (s *Store) dues(ctx context.Context, scope app.Scope, until time.Time) *gorm.DB {
	q := s.db.WithContext(ctx).Model(&app.UnitDue{}).Where("on_day <= ?", until)
	if !scope.All {
		q = q.Where("dealer_id = ? AND dealer_id <> 0", scope.Dealer)
	}
	return q
}

// Dues lists what is due, the soonest first. The units are read by themselves: joined, the database would put all that
// is due in order before it takes the first.
func (s *Store) Dues(ctx context.Context, scope app.Scope, until time.Time, kind care.Kind, most int) ([]app.DueRow,
	error) {
	var dues []app.UnitDue
	q := s.dues(ctx, scope, until).Order("on_day, unit_id, kind, what").Limit(most)
	if kind != "" {
		q = q.Where("kind = ?", kind)
	}
	if err := q.Find(&dues).Error; err != nil || len(dues) == 0 {
		return nil, wrap("what is due", err)
	}
	ids := make([]uint64, len(dues))
	for i := range dues {
		ids[i] = dues[i].UnitID
	}
	var units []app.Unit
	if err := s.db.WithContext(ctx).Where("id IN ?", ids).Find(&units).Error; err != nil {
		return nil, wrap("what is due", err)
	}
	by := make(map[uint64]*app.Unit, len(units))
	for i := range units {
		by[units[i].ID] = &units[i]
	}
	var list []app.DueRow
	for _, d := range dues {
		if u := by[d.UnitID]; u != nil {
			list = append(list, app.DueRow{UnitDue: d, Serial: u.Serial, Slug: u.Slug, Build: u.Build, Use: u.Use})
		}
	}
	return list, nil
}

// CountDues counts it.
func (s *Store) CountDues(ctx context.Context, scope app.Scope, until time.Time) (n int64, err error) {
	err = s.dues(ctx, scope, until).Count(&n).Error
	return n, wrap("count what is due", err)
}

// UnitsBehind lists units of a build whose dues follow from something else than a basis.
func (s *Store) UnitsBehind(ctx context.Context, modelID uint64, build, basis string, most int) ([]app.Unit, error) {
	var list []app.Unit
	err := s.db.WithContext(ctx).Where("model_id = ? AND build = ? AND basis <> ?", modelID, build, basis).Order("id").
		Limit(most).Find(&list).Error
	return list, wrap("units that are behind", err)
}

// BuildsWithUnits lists which builds there are units of.
func (s *Store) BuildsWithUnits(ctx context.Context) ([]app.Unit, error) {
	var list []app.Unit
	err := s.db.WithContext(ctx).Select("model_id, MIN(slug) AS slug, build").Group("model_id, build").
		Order("model_id, build").Find(&list).Error
	return list, wrap("builds that there are units of", err)
}
