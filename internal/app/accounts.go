package app

import (
	"context"
	"errors"
	"fmt"
	"regexp"
	"time"

	"coldtap/internal/people"
)

// Accounts lets people in and keeps their accounts.
type Accounts struct {
	Store interface {
		Transactor
		PersonReader
	}
	Cost   int    // of password hashes
	Nobody string // hash of a password that nobody has
}

// Limits of sign-ins that fail: for a name and from an address, in a time.
const (
	triesFor  = 15 * time.Minute
	triesName = 8
	triesFrom = 40
)

// Errors of signing in.
var (
	ErrTooMany  = errors.New("too many sign-ins have failed")
	ErrNotRight = errors.New("name or password is not right")
)

// A RefusedError says in words why an account can't be so.
type RefusedError struct{ Words string }

func (e *RefusedError) Error() string { return e.Words }

func refused(format string, args ...any) error {
	return &RefusedError{fmt.Sprintf(format, args...)}
}

// SignIn finds who signs in with a password from an address. It takes as long
// for a name that is not there.
func (a *Accounts) SignIn(ctx context.Context, login, password, address string) (*Person, error) {
	forName, from, err := a.Store.FailedSignIns(ctx, login, address, time.Now().Add(-triesFor))
	if err != nil {
		return nil, err
	}
	if forName >= triesName || from >= triesFrom {
		return nil, ErrTooMany
	}
	p, err := a.Store.Login(ctx, login)
	if err != nil && !errors.Is(err, ErrNotFound) {
		return nil, err
	}
	there := err == nil && p.Active
	hash := a.Nobody
	if there {
		hash = p.Password
	}
	if !people.Fits(hash, password) || !there {
		err := a.Store.Do(ctx, func(tx Tx) error { return tx.SignInFailed(ctx, login, address) })
		return nil, errors.Join(err, ErrNotRight)
	}
	return p, a.Store.Do(ctx, func(tx Tx) error { return tx.Audit(ctx, p.By(), "signed in", p.Login, "") })
}

var loginPattern = regexp.MustCompile(`^[a-z][a-z0-9.-]{1,39}$`)

// Add adds an account and gives its first password.
func (a *Accounts) Add(ctx context.Context, by By, login, name string, role people.Role) (password string, err error) {
	switch {
	case !loginPattern.MatchString(login):
		return "", refused("A sign-in name has 2 to 40 small letters, digits, dots or hyphens and begins with a letter.")
	case name == "":
		return "", refused("Give the person's name, as it stands in the history.")
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

// SetRole gives somebody else another role.
func (a *Accounts) SetRole(ctx context.Context, by, p *Person, role people.Role) error {
	if !role.Valid() || p.ID == by.ID {
		return refused("Choose a role; your own can't be changed here.")
	}
	p.Role = role
	return a.save(ctx, by, p, "role "+string(role))
}

// SetActive shuts somebody else's account, or opens it again.
func (a *Accounts) SetActive(ctx context.Context, by, p *Person, active bool) error {
	if p.ID == by.ID {
		return refused("You can't shut your own account.")
	}
	p.Active = active
	detail := "shut"
	if active {
		detail = "open"
	}
	return a.save(ctx, by, p, detail)
}

// Reset gives an account a new password.
func (a *Accounts) Reset(ctx context.Context, by, p *Person) (password string, err error) {
	password = people.NewPassword()
	if p.Password, err = people.Hash(password, a.Cost); err != nil {
		return "", err
	}
	return password, a.save(ctx, by, p, "password")
}

// ChangePassword changes somebody's own password.
func (a *Accounts) ChangePassword(ctx context.Context, p *Person, present, fresh string) (err error) {
	if !people.Fits(p.Password, present) {
		return refused("The present password is not right.")
	}
	if err := people.CheckPassword(p.Login, fresh); err != nil {
		return refused("%s", err)
	}
	if p.Password, err = people.Hash(fresh, a.Cost); err != nil {
		return err
	}
	return a.Store.Do(ctx, func(tx Tx) error {
		if err := tx.SavePerson(ctx, p); err != nil {
			return err
		}
		return tx.Audit(ctx, p.By(), "changed password", p.Login, "")
	})
}

func (a *Accounts) save(ctx context.Context, by, p *Person, detail string) error {
	return a.Store.Do(ctx, func(tx Tx) error {
		if err := tx.SavePerson(ctx, p); err != nil {
			return err
		}
		return tx.Audit(ctx, by.By(), "changed person", p.Login, detail)
	})
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
