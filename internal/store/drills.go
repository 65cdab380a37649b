package store

import (
	"context"
	"errors"
	"time"

	"gorm.io/gorm"
	"gorm.io/gorm/clause"

	"coldtap/internal/app"
)

// bankQuestions says which questions a bank has.
const bankQuestions = "drill_bank_questions"

// AddDrillBank keeps a bank with its questions; those that are kept already are taken from there. One that somebody
// else made meanwhile is taken as it is.
func (s *Store) AddDrillBank(ctx context.Context, b *app.DrillBank, questions []app.DrillQuestion) error {
	db := s.db.WithContext(ctx)
	marks := make([]string, len(questions))
	for i := range questions {
		questions[i].Ask = short(questions[i].Ask, 600)
		marks[i] = questions[i].Mark
	}
	if len(questions) > 0 {
		err := db.Clauses(clause.OnConflict{DoNothing: true}).CreateInBatches(questions, 40).Error
		if err != nil {
			return wrap("keep questions", err)
		}
	}
	var kept []app.DrillQuestion
	err := db.Select("id", "mark", "hash").Where("slug = ? AND build = ? AND mark IN ?", b.Slug, b.Build, marks).
		Find(&kept).Error
	if err != nil {
		return wrap("keep questions", err)
	}
	of := map[string]uint64{}
	for _, k := range kept {
		of[k.Mark+k.Hash] = k.ID
	}
	rows := make([]bankQuestion, len(questions))
	for i := range questions {
		q := &questions[i]
		q.ID = of[q.Mark+q.Hash]
		rows[i].QuestionID = q.ID
	}
	switch err := db.Create(b).Error; {
	case errors.Is(err, gorm.ErrDuplicatedKey):
		had, err := s.DrillBank(ctx, b.Slug, b.Build, b.Basis)
		if err == nil {
			*b = *had
		}
		return err
	case err != nil:
		return wrap("keep a bank of questions", err)
	}
	for i := range rows {
		rows[i].BankID = b.ID
	}
	if len(rows) == 0 {
		return nil
	}
	return wrap("keep a bank of questions", db.CreateInBatches(rows, 200).Error)
}

// bankQuestion says that a bank has a question.
type bankQuestion struct{ BankID, QuestionID uint64 }

// TableName is described at gorm.
func (bankQuestion) TableName() string { return bankQuestions }

// AddDrillStands keeps what questions stand on, where it is not kept yet.
func (s *Store) AddDrillStands(ctx context.Context, list []app.DrillStand) error {
	if len(list) == 0 {
		return nil
	}
	return wrap("keep what questions stand on",
		s.db.WithContext(ctx).Clauses(clause.OnConflict{DoNothing: true}).CreateInBatches(list, 20).Error)
}

// DrillStand reads what questions stand on.
func (s *Store) DrillStand(ctx context.Context, hash string) (*app.DrillStand, error) {
	var x app.DrillStand
	return &x, wrap("what a question stands on", s.db.WithContext(ctx).Where("hash = ?", hash).Take(&x).Error)
}

// DrillBank finds a bank by what it was made from.
func (s *Store) DrillBank(ctx context.Context, slug, build, basis string) (*app.DrillBank, error) {
	var b app.DrillBank
	err := s.db.WithContext(ctx).Where("slug = ? AND build = ? AND basis = ?", slug, build, basis).Take(&b).Error
	return &b, wrap("bank of questions", err)
}

// DrillHeads are the questions of a bank without what they say.
func (s *Store) DrillHeads(ctx context.Context, bankID uint64) ([]app.DrillQuestion, error) {
	var list []app.DrillQuestion
	err := s.db.WithContext(ctx).Omit("paper").Joins("JOIN "+bankQuestions+" b ON b.question_id = id").
		Where("b.bank_id = ?", bankID).Order("id").Find(&list).Error
	return list, wrap("questions", err)
}

// DrillQuestion reads a question.
func (s *Store) DrillQuestion(ctx context.Context, id uint64) (*app.DrillQuestion, error) {
	var q app.DrillQuestion
	return &q, wrap("question", s.db.WithContext(ctx).Take(&q, id).Error)
}

// DrillQuestions reads some questions, in no order.
func (s *Store) DrillQuestions(ctx context.Context, ids []uint64) ([]app.DrillQuestion, error) {
	var list []app.DrillQuestion
	if len(ids) == 0 {
		return nil, nil
	}
	return list, wrap("questions", s.db.WithContext(ctx).Where("id IN ?", ids).Find(&list).Error)
}

// AnsweredDrills are the questions of a build that somebody answered and whose answers still hold.
func (s *Store) AnsweredDrills(ctx context.Context, slug, build string) ([]app.DrillQuestion, error) {
	var list []app.DrillQuestion
	err := s.db.WithContext(ctx).Omit("paper").Where(`slug = ? AND build = ? AND id IN
		(SELECT question_id FROM drill_answers WHERE slug = ? AND void_why = '')`, slug, build, slug).Find(&list).Error
	return list, wrap("questions", err)
}

// VoidDrillAnswers marks the answers to a question, and the certificates that they led to.
func (s *Store) VoidDrillAnswers(ctx context.Context, questionID uint64, why string) (int64, error) {
	db := s.db.WithContext(ctx)
	err := db.Exec(`UPDATE drill_certificates SET void_why = ?, updated_at = ? WHERE void_why = '' AND sitting_id IN
		(SELECT sitting_id FROM drill_answers WHERE question_id = ?)`, short(why, 400), time.Now().UTC(), questionID).Error
	if err != nil {
		return 0, wrap("void certificates", err)
	}
	r := db.Model(&app.DrillAnswer{}).Where("question_id = ? AND void_why = ''", questionID).
		UpdateColumn("void_why", short(why, 400))
	return r.RowsAffected, wrap("void answers", r.Error)
}

// AddDrillCourse keeps a course.
func (s *Store) AddDrillCourse(ctx context.Context, c *app.DrillCourse) error {
	return wrap("keep a course", s.db.WithContext(ctx).Create(c).Error)
}

// SetDrillCourse sets what may change of a course.
func (s *Store) SetDrillCourse(ctx context.Context, c *app.DrillCourse) error {
	return wrap("set a course", s.db.WithContext(ctx).Model(&app.DrillCourse{ID: c.ID}).Updates(map[string]any{
		"name": c.Name, "note": c.Note, "models": c.Models, "kinds": c.Kinds, "count": c.Count, "pass_mark": c.PassMark,
		"months": c.Months, "practical": c.Practical, "state": c.State}).Error)
}

// DrillCourses lists the courses, the newest first.
func (s *Store) DrillCourses(ctx context.Context) ([]app.DrillCourse, error) {
	var list []app.DrillCourse
	return list, wrap("courses", s.db.WithContext(ctx).Order("id DESC").Limit(500).Find(&list).Error)
}

// DrillCourse reads a course.
func (s *Store) DrillCourse(ctx context.Context, id uint64) (*app.DrillCourse, error) {
	var c app.DrillCourse
	return &c, wrap("course", s.db.WithContext(ctx).Take(&c, id).Error)
}

// DrillCourseByCode finds a course by the word in its address.
func (s *Store) DrillCourseByCode(ctx context.Context, code string) (*app.DrillCourse, error) {
	var c app.DrillCourse
	return &c, wrap("course", s.db.WithContext(ctx).Where("code = ?", code).Take(&c).Error)
}

// AddDrillSitting keeps a sitting.
func (s *Store) AddDrillSitting(ctx context.Context, x *app.DrillSitting) error {
	return wrap("keep a sitting", s.db.WithContext(ctx).Create(x).Error)
}

// LockDrillSitting reads a sitting that nobody else changes until the transaction ends.
func (s *Store) LockDrillSitting(ctx context.Context, id uint64) (*app.DrillSitting, error) {
	var x app.DrillSitting
	err := s.db.WithContext(ctx).Clauses(clause.Locking{Strength: "UPDATE"}).Take(&x, id).Error
	return &x, wrap("sitting", err)
}

// SetDrillSitting sets what may change of a sitting.
func (s *Store) SetDrillSitting(ctx context.Context, x *app.DrillSitting) error {
	return wrap("set a sitting", s.db.WithContext(ctx).Model(&app.DrillSitting{ID: x.ID}).Updates(map[string]any{
		"answered": x.Answered, "rights": x.Rights, "points": x.Points, "missed_trap": x.MissedTrap, "state": x.State,
		"ended_at": x.EndedAt}).Error)
}

// DrillSittingByCode finds a sitting by the word in its address.
func (s *Store) DrillSittingByCode(ctx context.Context, code string) (*app.DrillSitting, error) {
	var x app.DrillSitting
	return &x, wrap("sitting", s.db.WithContext(ctx).Where("code = ?", code).Take(&x).Error)
}

// DrillSittings lists sittings, the newest first.
func (s *Store) DrillSittings(ctx context.Context, f app.DrillFilter, most int) ([]app.DrillSitting, error) {
	var list []app.DrillSitting
	q := s.db.WithContext(ctx).Order("id DESC").Limit(most)
	if f.Course != 0 {
		q = q.Where("course_id = ?", f.Course)
	}
	return list, wrap("sittings", picked(q, f).Find(&list).Error)
}

// picked picks rows by person and dealer.
func picked(q *gorm.DB, f app.DrillFilter) *gorm.DB {
	if f.Person != 0 {
		q = q.Where("person_id = ?", f.Person)
	}
	if f.Dealer != 0 {
		q = q.Where("dealer_id = ?", f.Dealer)
	}
	return q
}

// DrillSittingsOfClass lists the sittings of a class by name.
func (s *Store) DrillSittingsOfClass(ctx context.Context, classID uint64) ([]app.DrillSitting, error) {
	var list []app.DrillSitting
	err := s.db.WithContext(ctx).Where("class_id = ?", classID).Order("person_name, id").Find(&list).Error
	return list, wrap("sittings of a class", err)
}

// OpenDrillSitting is the sitting of a course that somebody has begun alone and not ended.
func (s *Store) OpenDrillSitting(ctx context.Context, personID, courseID uint64) (*app.DrillSitting, error) {
	var x app.DrillSitting
	err := s.db.WithContext(ctx).Where("person_id = ? AND course_id = ? AND class_id = 0 AND state = 'open'", personID,
		courseID).Order("id DESC").Take(&x).Error
	return &x, wrap("sitting", err)
}

// AddDrillAnswer keeps an answer unless there is one in its place already, and reports whether it did.
func (s *Store) AddDrillAnswer(ctx context.Context, a *app.DrillAnswer) (bool, error) {
	a.Ask = short(a.Ask, 600)
	r := s.db.WithContext(ctx).Clauses(clause.OnConflict{DoNothing: true}).Create(a)
	return r.RowsAffected > 0, wrap("keep an answer", r.Error)
}

// DrillAnswersOf lists the answers of sittings in order.
func (s *Store) DrillAnswersOf(ctx context.Context, sittingIDs ...uint64) ([]app.DrillAnswer, error) {
	var list []app.DrillAnswer
	if len(sittingIDs) == 0 {
		return nil, nil
	}
	err := s.db.WithContext(ctx).Where("sitting_id IN ?", sittingIDs).Order("sitting_id, place").Find(&list).Error
	return list, wrap("answers", err)
}

// DrillAnswer reads the answer in a place of a sitting.
func (s *Store) DrillAnswer(ctx context.Context, sittingID uint64, place int) (*app.DrillAnswer, error) {
	var a app.DrillAnswer
	err := s.db.WithContext(ctx).Where("sitting_id = ? AND place = ?", sittingID, place).Take(&a).Error
	return &a, wrap("answer", err)
}

// DrillAnswers lists answers, the newest first.
func (s *Store) DrillAnswers(ctx context.Context, f app.DrillFilter, most int) ([]app.DrillAnswer, error) {
	var list []app.DrillAnswer
	q := s.db.WithContext(ctx).Order("created_at DESC, sitting_id DESC, place DESC").Limit(most)
	for column, v := range map[string]string{"slug": f.Slug, "kind": string(f.Kind), "mark": f.Mark} {
		if v != "" {
			q = q.Where(column+" = ?", v)
		}
	}
	return list, wrap("answers", picked(q, f).Find(&list).Error)
}

// DrillTry reads how far somebody is with a question.
func (s *Store) DrillTry(ctx context.Context, sittingID uint64, place int) (*app.DrillTry, error) {
	var t app.DrillTry
	err := s.db.WithContext(ctx).Where("sitting_id = ? AND place = ?", sittingID, place).Take(&t).Error
	return &t, wrap("try", err)
}

// SetDrillTry keeps it.
func (s *Store) SetDrillTry(ctx context.Context, t *app.DrillTry) error {
	return wrap("keep a try", s.db.WithContext(ctx).Clauses(clause.OnConflict{UpdateAll: true}).Create(t).Error)
}

// DrillMemories lists when somebody is asked again.
func (s *Store) DrillMemories(ctx context.Context, personID uint64) ([]app.DrillMemory, error) {
	var list []app.DrillMemory
	err := s.db.WithContext(ctx).Where("person_id = ?", personID).Order("due_on").Find(&list).Error
	return list, wrap("memory", err)
}

// SetDrillMemory keeps it.
func (s *Store) SetDrillMemory(ctx context.Context, m *app.DrillMemory) error {
	return wrap("keep the memory", s.db.WithContext(ctx).Clauses(clause.OnConflict{UpdateAll: true}).Create(m).Error)
}

// DrillTallies counts answers by question, those that hold.
func (s *Store) DrillTallies(ctx context.Context, slug string) ([]app.DrillTally, error) {
	var list []app.DrillTally
	q := s.db.WithContext(ctx).Model(&app.DrillAnswer{}).
		Select("slug, mark, MAX(kind) AS kind, MAX(task) AS task, MAX(ask) AS ask, COUNT(*) AS asked, SUM(NOT rightly) AS wrongs").
		Where("void_why = ''").Group("slug, mark").Order("slug, mark")
	if slug != "" {
		q = q.Where("slug = ?", slug)
	}
	return list, wrap("count answers", q.Scan(&list).Error)
}

// AddDrillCertificate keeps a certificate.
func (s *Store) AddDrillCertificate(ctx context.Context, c *app.DrillCertificate) error {
	c.About = short(c.About, 400)
	return wrap("keep a certificate", s.db.WithContext(ctx).Create(c).Error)
}

// DrillCertificates lists certificates, the newest first.
func (s *Store) DrillCertificates(ctx context.Context, f app.DrillFilter, most int) ([]app.DrillCertificate, error) {
	var list []app.DrillCertificate
	q := s.db.WithContext(ctx).Order("id DESC").Limit(most)
	if f.Course != 0 {
		q = q.Where("course_id = ?", f.Course)
	}
	return list, wrap("certificates", picked(q, f).Find(&list).Error)
}

// DrillCertificate finds a certificate by its number.
func (s *Store) DrillCertificate(ctx context.Context, number string) (*app.DrillCertificate, error) {
	var c app.DrillCertificate
	return &c, wrap("certificate", s.db.WithContext(ctx).Where("number = ?", number).Take(&c).Error)
}

// AddDrillSignoff keeps that somebody was seen to do something; once is enough.
func (s *Store) AddDrillSignoff(ctx context.Context, x *app.DrillSignoff) error {
	return wrap("keep a sign-off", s.db.WithContext(ctx).Clauses(clause.OnConflict{DoNothing: true}).Create(x).Error)
}

// RemoveDrillSignoff takes it back.
func (s *Store) RemoveDrillSignoff(ctx context.Context, trialID, personID uint64) error {
	return wrap("take a sign-off back", s.db.WithContext(ctx).
		Where("trial_id = ? AND person_id = ?", trialID, personID).
		Delete(&app.DrillSignoff{}).Error)
}

// DrillSignoffs lists what somebody was seen to do.
func (s *Store) DrillSignoffs(ctx context.Context, personID uint64) ([]app.DrillSignoff, error) {
	var list []app.DrillSignoff
	err := s.db.WithContext(ctx).Where("person_id = ?", personID).Order("created_at DESC").Find(&list).Error
	return list, wrap("sign-offs", err)
}

// DrillSignoffsOf lists who was seen to do a trial.
func (s *Store) DrillSignoffsOf(ctx context.Context, trialID uint64) ([]app.DrillSignoff, error) {
	var list []app.DrillSignoff
	err := s.db.WithContext(ctx).Where("trial_id = ?", trialID).Order("person_name").Find(&list).Error
	return list, wrap("sign-offs", err)
}

// AddDrillClass keeps a class.
func (s *Store) AddDrillClass(ctx context.Context, c *app.DrillClass) error {
	return wrap("keep a class", s.db.WithContext(ctx).Create(c).Error)
}

// LockDrillClass reads a class that nobody else changes until the transaction ends.
func (s *Store) LockDrillClass(ctx context.Context, id uint64) (*app.DrillClass, error) {
	var c app.DrillClass
	err := s.db.WithContext(ctx).Clauses(clause.Locking{Strength: "UPDATE"}).Take(&c, id).Error
	return &c, wrap("class", err)
}

// SetDrillClass sets what may change of a class.
func (s *Store) SetDrillClass(ctx context.Context, c *app.DrillClass) error {
	return wrap("set a class", s.db.WithContext(ctx).Model(&app.DrillClass{ID: c.ID}).Updates(map[string]any{
		"place": c.Place, "shown": c.Shown, "state": c.State}).Error)
}

// DrillClass reads a class.
func (s *Store) DrillClass(ctx context.Context, id uint64) (*app.DrillClass, error) {
	var c app.DrillClass
	return &c, wrap("class", s.db.WithContext(ctx).Take(&c, id).Error)
}

// DrillClassByCode finds a class by the word in its address.
func (s *Store) DrillClassByCode(ctx context.Context, code string) (*app.DrillClass, error) {
	var c app.DrillClass
	return &c, wrap("class", s.db.WithContext(ctx).Where("code = ?", code).Take(&c).Error)
}

// SetDrillProposal keeps what became of a proposal.
func (s *Store) SetDrillProposal(ctx context.Context, p *app.DrillProposal) error {
	p.Words = short(p.Words, 400)
	return wrap("keep a proposal", s.db.WithContext(ctx).Clauses(clause.OnConflict{UpdateAll: true}).Create(p).Error)
}

// DrillProposals lists what became of the proposals of a model.
func (s *Store) DrillProposals(ctx context.Context, slug string) ([]app.DrillProposal, error) {
	var list []app.DrillProposal
	err := s.db.WithContext(ctx).Where("slug = ?", slug).Order("mark").Find(&list).Error
	return list, wrap("proposals", err)
}
