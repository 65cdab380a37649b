// Package people says who may use Cold Tap for what: roles, and how passwords
// are kept and judged.
package people

import (
	"crypto/rand"
	"errors"
	"fmt"
	"slices"
	"strings"
	"unicode/utf8"

	"golang.org/x/crypto/bcrypt"
)

// Role is what a person does in the product.
type Role string

// The roles. Public is everybody who has not signed in.
const (
	Public     Role = "public"
	Author     Role = "author"
	Reviewer   Role = "reviewer"
	Trainer    Role = "trainer"
	Technician Role = "technician"
	Admin      Role = "admin"
)

// Roles lists the roles that an account can have.
func Roles() []Role { return []Role{Author, Reviewer, Trainer, Technician, Admin} }

// Valid reports whether an account can have the role.
func (r Role) Valid() bool { return slices.Contains(Roles(), r) }

// In reports whether the role is one of some.
func (r Role) In(list []Role) bool { return slices.Contains(list, r) }

// Account is an account before its password is hashed.
type Account struct {
	Login, Name, Password string
	Role                  Role
}

// MinPassword is the least number of characters of a password.
const MinPassword = 10

// ErrWrong says that a password does not fit.
var ErrWrong = errors.New("name or password is not right")

// CheckPassword says what is wrong with a new password, nil if nothing is.
func CheckPassword(login, password string) error {
	switch {
	case utf8.RuneCountInString(password) < MinPassword:
		return fmt.Errorf("a password has at least %d characters; a few words are easy to remember", MinPassword)
	case len(password) > 72:
		return errors.New("a password has at most 72 bytes")
	case strings.Contains(strings.ToLower(password), strings.ToLower(login)):
		return errors.New("a password does not contain the sign-in name")
	}
	return nil
}

// Hash hashes a password at a bcrypt cost.
func Hash(password string, cost int) (string, error) {
	h, err := bcrypt.GenerateFromPassword([]byte(password), cost)
	return string(h), err
}

// Fits reports whether a password fits a hash.
func Fits(hash, password string) bool {
	return bcrypt.CompareHashAndPassword([]byte(hash), []byte(password)) == nil
}

// NewPassword makes a password that nobody knows yet.
func NewPassword() string { return strings.ToLower(rand.Text()[:16]) }
