package app

import (
	"context"
	"crypto/rand"
	"slices"
	"strings"
	"time"
)

// certificateLetters are what numbers of certificates are made of: none is taken for another.
const certificateLetters = "23456789ABCDEFGHJKMNPQRSTUVWXYZ"

// newNumber is a number that nobody guesses; its last letter tells whether it was typed rightly.
func newNumber() string {
	raw := make([]byte, 15)
	_, _ = rand.Read(raw) // never fails
	var b strings.Builder
	for _, x := range raw {
		b.WriteByte(certificateLetters[int(x)%len(certificateLetters)])
	}
	return b.String() + string(checkLetter(b.String()))
}

// checkLetter is a weighted sum over the letters: one letter wrong, or two exchanged that stand side by side, give
// another.
func checkLetter(text string) byte {
	sum := 0
	for i := range len(text) {
		sum += (i + 1) * strings.IndexByte(certificateLetters, text[i])
	}
	return certificateLetters[sum%len(certificateLetters)]
}

// CertificateNumber is a number as it is kept, however it was typed; "" where it can't be one.
func CertificateNumber(typed string) string {
	n := strings.Map(func(r rune) rune {
		if r == ' ' || r == '-' {
			return -1
		}
		return r
	}, strings.ToUpper(typed))
	if len(n) != 16 || strings.Trim(n, certificateLetters) != "" || checkLetter(n[:15]) != n[15] {
		return ""
	}
	return n
}

// Shown is the number as it is printed, in fours.
func (c *DrillCertificate) Shown() string {
	var fours []string
	for part := range slices.Chunk([]byte(c.Number), 4) {
		fours = append(fours, string(part))
	}
	return strings.Join(fours, "-")
}

// Holds reports whether a certificate holds at a time.
func (c *DrillCertificate) Holds(now time.Time) bool {
	return c.VoidWhy == "" && now.Before(c.ExpiresOn)
}

// forGood is when a certificate ends that holds for good.
var forGood = time.Date(9999, 12, 31, 0, 0, 0, 0, time.UTC)

// ForGood reports whether a certificate never expires.
func (c *DrillCertificate) ForGood() bool { return c.ExpiresOn.Year() == forGood.Year() }

// certify makes the certificate of a sitting that was passed, unless something is still to be seen at a unit.
func (d *Drills) certify(ctx context.Context, tx Tx, c *DrillCourse, s *DrillSitting) error {
	open, err := practicalOpen(ctx, tx, c, s.PersonID)
	if err != nil || len(open) > 0 {
		return err
	}
	about, err := d.titles(ctx, c.Of())
	if err != nil {
		return err
	}
	dealer := ""
	dealers, err := tx.Dealers(ctx)
	if err != nil {
		return err
	}
	for _, x := range dealers {
		if x.ID == s.DealerID {
			dealer = x.Name
		}
	}
	now := d.Now().UTC()
	x := &DrillCertificate{Number: newNumber(), CourseID: c.ID, SittingID: s.ID, Title: c.Name, About: about,
		PersonID: s.PersonID, PersonName: s.PersonName, DealerID: s.DealerID, Dealer: dealer, Percent: s.Percent(),
		ExpiresOn: forGood, CreatedAt: now}
	if c.Months > 0 {
		x.ExpiresOn = now.AddDate(0, c.Months, 0)
	}
	return tx.AddDrillCertificate(ctx, x)
}

// practicalOpen are the procedures of a course that somebody was not yet seen to do, as "slug/task".
func practicalOpen(ctx context.Context, st DrillReader, c *DrillCourse, person uint64) ([]string, error) {
	list := c.PracticalList()
	if len(list) == 0 {
		return nil, nil
	}
	seen, err := st.DrillSignoffs(ctx, person)
	if err != nil {
		return nil, err
	}
	return slices.DeleteFunc(list, func(p string) bool {
		return slices.ContainsFunc(seen, func(x DrillSignoff) bool { return x.Slug+"/"+x.Task == p })
	}), nil
}

// PracticalOpen is described at practicalOpen.
func (d *Drills) PracticalOpen(ctx context.Context, c *DrillCourse, person uint64) ([]string, error) {
	return practicalOpen(ctx, d.Store, c, person)
}

// SignOff keeps that somebody was seen to do a trial's procedure as it is written; what they passed and waited for
// that gets its certificate.
func (d *Drills) SignOff(ctx context.Context, by *Person, t *Trial, person uint64, note string) error {
	if !by.Trains() {
		return refused("A trainer signs off what was done at a unit.")
	}
	if t.State != TrialFinished {
		return refused("The trial is not finished yet.")
	}
	if note = strings.TrimSpace(note); len([]rune(note)) > 400 {
		return refused("The note has at most 400 letters.")
	}
	who, err := d.Store.Person(ctx, person)
	if err != nil {
		return refused("There is no such person.")
	}
	if who.ID == by.ID {
		return refused("Nobody signs off what they did themselves.")
	}
	x := &DrillSignoff{TrialID: t.ID, PersonID: who.ID, PersonName: who.Name, Slug: t.Slug, Task: t.Task, Title: t.Title,
		Serial: t.Serial, ByID: by.ID, ByName: by.Name, Note: note, CreatedAt: d.Now().UTC()}
	return d.Store.Do(ctx, func(tx Tx) error {
		if err := tx.AddDrillSignoff(ctx, x); err != nil {
			return err
		}
		if err := d.certifyWaiting(ctx, tx, who.ID); err != nil {
			return err
		}
		return tx.Audit(ctx, by.By(), "signed off", t.Serial+": "+t.Task, who.Login)
	})
}

// TakeSignOffBack takes back that somebody was seen to do a trial.
func (d *Drills) TakeSignOffBack(ctx context.Context, by *Person, t *Trial, person uint64) error {
	if !by.Trains() {
		return refused("A trainer signs off what was done at a unit.")
	}
	return d.Store.Do(ctx, func(tx Tx) error {
		if err := tx.RemoveDrillSignoff(ctx, t.ID, person); err != nil {
			return err
		}
		return tx.Audit(ctx, by.By(), "took a sign-off back", t.Serial+": "+t.Task, "")
	})
}

// certifyWaiting makes the certificates of what somebody passed, and that waited for what is now seen.
func (d *Drills) certifyWaiting(ctx context.Context, tx Tx, person uint64) error {
	sittings, err := tx.DrillSittings(ctx, DrillFilter{Person: person}, 200)
	if err != nil {
		return err
	}
	have, err := tx.DrillCertificates(ctx, DrillFilter{Person: person}, 500)
	if err != nil {
		return err
	}
	done := map[uint64]bool{}
	for _, c := range have {
		done[c.CourseID] = done[c.CourseID] || c.Holds(d.Now())
	}
	for i := range sittings {
		s := &sittings[i]
		if s.State != DrillPassed || done[s.CourseID] {
			continue
		}
		c, err := tx.DrillCourse(ctx, s.CourseID)
		if err != nil {
			return err
		}
		done[s.CourseID] = true // the newest that was passed
		if err := d.certify(ctx, tx, c, s); err != nil {
			return err
		}
	}
	return nil
}
