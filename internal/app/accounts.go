package app

import (
	"context"
	"crypto/sha256"
	"encoding/hex"
	"errors"
	"fmt"
	"regexp"
	"slices"
	"strings"
	"time"
	"unicode/utf8"

	"coldtap/internal/people"
)

// Accounts lets people in and keeps their accounts.
type Accounts struct {
	Store interface {
		Transactor
		PersonReader
		TryKeeper
	}
	Cost   int    // of password hashes
	Nobody string // hash of a password that nobody has

	// Shown are accounts whose passwords stand in a program: with them people get in only
	// while Demo.
	Shown []people.Account
	Demo  bool
}

// Limits of sign-ins that fail, in a time: for a name from a place, from a place for any name,
// and for a name from everywhere but browsers that are known. A place is an address, or a
// browser from which the account has signed in: no stranger's tries count against that one.
const (
	triesFor   = 15 * time.Minute
	triesBoth  = 8
	triesPlace = 40
	triesName  = 200
	knownFor   = 90 * 24 * time.Hour
)

// Errors of signing in.
var (
	ErrTooMany  = errors.New("too many sign-ins have failed")
	ErrNotRight = errors.New("name or password is not right")
	ErrDemo     = errors.New("an account of the demo world is open only while the demo runs")
)

// A RefusedError says in words why an account can't be so.
type RefusedError struct{ Words string }

func (e *RefusedError) Error() string { return e.Words }

func refused(format string, args ...any) error {
	return &RefusedError{fmt.Sprintf(format, args...)}
}

// From is where somebody signs in from: an address, and the word that the browser was given
// when somebody signed in from it before, "" for none.
type From struct{ Address, Browser string }

// hash is what is kept of a browser's word.
func (f From) hash() string {
	sum := sha256.Sum256([]byte(f.Browser))
	return hex.EncodeToString(sum[:])
}

// SignIn finds who signs in with a password. It takes as long for a name that is not there.
func (a *Accounts) SignIn(ctx context.Context, login, password string, from From) (*Person, error) {
	p, err := a.Store.Login(ctx, login)
	if err != nil && !errors.Is(err, ErrNotFound) {
		return nil, err
	}
	there := err == nil && p.Active
	place, known := from.Address, false
	if there && from.Browser != "" {
		if known, err = a.Store.KnowsBrowser(ctx, from.hash(), p.ID, time.Now().Add(-knownFor)); err != nil {
			return nil, err
		}
	}
	if known {
		place = browserPlace + from.hash()
	}
	hash := a.Nobody
	if there {
		hash = p.Password
	}
	fits, err := a.try(ctx, login, place, func() bool { return people.Fits(hash, password) && there })
	switch {
	case err != nil:
		return nil, err
	case !fits:
		return nil, ErrNotRight
	case !a.Demo && a.shown(login, password):
		return nil, ErrDemo
	}
	return p, a.Store.Do(ctx, func(tx Tx) error {
		if from.Browser != "" {
			if err := tx.KnowBrowser(ctx, from.hash(), p.ID); err != nil {
				return err
			}
		}
		return tx.Audit(ctx, p.By(), "signed in", p.Login, "")
	})
}

// browserPlace begins the place of a browser that is known.
const browserPlace = "browser "

// try judges a password unless too many were judged lately: ErrTooMany then.
func (a *Accounts) try(ctx context.Context, login, place string, judge func() bool) (bool, error) {
	id, err := a.Store.AddTry(ctx, login, place)
	if err != nil {
		return false, err
	}
	n, err := a.Store.CountTries(ctx, login, place, time.Now().Add(-triesFor))
	if err != nil {
		return false, err
	}
	known := strings.HasPrefix(place, browserPlace)
	if n.Both > triesBoth || !known && (n.Place > triesPlace || n.Name > triesName) {
		return false, errors.Join(ErrTooMany, a.Store.ForgetTry(ctx, id)) // it was not judged
	}
	if !judge() {
		return false, nil
	}
	return true, a.Store.ForgetTry(ctx, id)
}

// shown reports whether a password stands in a program.
func (a *Accounts) shown(login, password string) bool {
	return slices.ContainsFunc(a.Shown, func(x people.Account) bool {
		return strings.EqualFold(x.Login, login) && x.Password == password
	})
}

// nameMost is how many letters the name of a person has at most.
const nameMost = 80

var loginPattern = regexp.MustCompile(`^[a-z][a-z0-9.-]{1,39}$`)

// Add adds an account and gives its first password.
func (a *Accounts) Add(ctx context.Context, by By, login, name string, role people.Role) (password string, err error) {
	switch {
	case !loginPattern.MatchString(login):
		return "", refused("A sign-in name has 2 to 40 small letters, digits, dots or hyphens and begins with a letter.")
	case name == "" || utf8.RuneCountInString(name) > nameMost:
		return "", refused("Give the person's name in at most %d letters, as it stands in the history.", nameMost)
	case !role.Valid():
		return "", refused("Choose a role.")
	}
	password = people.NewPassword()
	p := &Person{Login: login, Name: name, Role: role, Active: true}
	if p.Password, err = people.Hash(password, a.Cost); err != nil {
		return "", err
	}
	err = a.Store.Do(ctx, func(tx Tx) error {
		if err := tx.AddPerson(ctx, p); err != nil {
			return err
		}
		return tx.Audit(ctx, by, "added person", login, string(role))
	})
	if errors.Is(err, ErrExists) {
		return "", refused("Somebody signs in as “%s” already.", login)
	}
	return password, err
}

// SetRole gives somebody else another role, and ends their sessions.
func (a *Accounts) SetRole(ctx context.Context, by, p *Person, role people.Role) error {
	if !role.Valid() || p.ID == by.ID {
		return refused("Choose a role; your own can't be changed here.")
	}
	return a.set(ctx, by, p, "role "+string(role), func(tx Tx) (int64, error) { return tx.SetRole(ctx, p.ID, role) })
}

// SetActive shuts somebody else's account and ends their sessions, or opens it again.
func (a *Accounts) SetActive(ctx context.Context, by, p *Person, active bool) error {
	if p.ID == by.ID {
		return refused("You can't shut your own account.")
	}
	detail := "shut"
	if active {
		detail = "open"
	}
	return a.set(ctx, by, p, detail, func(tx Tx) (int64, error) { return tx.SetActive(ctx, p.ID, active) })
}

// Reset gives an account a new password and ends its sessions.
func (a *Accounts) Reset(ctx context.Context, by, p *Person) (password string, err error) {
	password = people.NewPassword()
	hash, err := people.Hash(password, a.Cost)
	if err != nil {
		return "", err
	}
	return password, a.set(ctx, by, p, "password", func(tx Tx) (int64, error) {
		return tx.SetPassword(ctx, p.ID, p.Password, hash)
	})
}

// ChangePassword changes somebody's own password, and ends their other sessions: the present
// one goes on in the account's new epoch.
func (a *Accounts) ChangePassword(ctx context.Context, p *Person, present, fresh string) error {
	place := fmt.Sprint(browserPlace, "of account ", p.ID) // whoever tries it here has signed in
	fits, err := a.try(ctx, p.Login, place, func() bool { return people.Fits(p.Password, present) })
	switch {
	case errors.Is(err, ErrTooMany):
		return refused("Too many tries have failed. Wait a quarter of an hour, then try again.")
	case err != nil:
		return err
	case !fits:
		return refused("The present password is not right.")
	}
	if err := people.CheckPassword(p.Login, fresh); err != nil {
		return refused("%s", err)
	}
	hash, err := people.Hash(fresh, a.Cost)
	if err != nil {
		return err
	}
	return a.Store.Do(ctx, func(tx Tx) (err error) {
		if p.Epoch, err = tx.SetPassword(ctx, p.ID, p.Password, hash); err != nil {
			return err
		}
		return tx.Audit(ctx, p.By(), "changed password", p.Login, "")
	})
}

func (a *Accounts) set(ctx context.Context, by, p *Person, detail string, to func(Tx) (int64, error)) error {
	err := a.Store.Do(ctx, func(tx Tx) error {
		if _, err := to(tx); err != nil {
			return err
		}
		return tx.Audit(ctx, by.By(), "changed person", p.Login, detail)
	})
	if errors.Is(err, ErrStale) {
		return refused("%s's account was changed by somebody else in the meantime. Look at it again.", p.Name)
	}
	return err
}

// SignUp adds people with the passwords they have at first.
func (a *Accounts) SignUp(ctx context.Context, accounts []people.Account) error {
	return a.Store.Do(ctx, func(tx Tx) error {
		for _, x := range accounts {
			h, err := people.Hash(x.Password, a.Cost)
			if err != nil {
				return err
			}
			if err := tx.AddPerson(ctx, &Person{Login: x.Login, Name: x.Name, Role: x.Role, Password: h,
				Active: true}); err != nil {
				return err
			}
		}
		return nil
	})
}
