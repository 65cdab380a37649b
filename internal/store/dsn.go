package store

import (
	"errors"
	"fmt"
	"time"

	"github.com/go-sql-driver/mysql"
)

// The character set and order of everything that is kept.
const (
	charset   = "utf8mb4"
	collation = "utf8mb4_unicode_520_ci"
)

// How long a connection may take to be made and to answer: a database that
// hangs is away before a reader gives up.
const (
	dialTime   = 2 * time.Second
	answerTime = 2 * time.Second
	lockTime   = 2 // seconds; MariaDB's own 50 outlast every request
)

// settled reads a DSN and sets what the application needs of it, whatever it
// says.
func settled(dsn string) (*mysql.Config, error) {
	c, err := mysql.ParseDSN(dsn)
	if err != nil {
		return nil, fmt.Errorf("the DSN can't be read: %w; it looks like NAME:PASSWORD@tcp(HOST:3306)/SCHEMA, or "+
			"NAME:PASSWORD@tcp(ONE:3306,TWO:3306)/SCHEMA for a cluster", err)
	}
	if c.DBName == "" {
		return nil, errors.New("the DSN names no schema; it ends in /SCHEMA, for instance /coldtap")
	}
	c.ParseTime, c.Loc = true, time.UTC
	if err := c.Apply(mysql.Charset(charset, collation)); err != nil {
		return nil, err
	}
	c.Logger = &mysql.NopLogger{} // what fails is an error, and told once
	if c.Params == nil {
		c.Params = map[string]string{}
	}
	c.Params["innodb_lock_wait_timeout"] = fmt.Sprint(lockTime)
	c.Params["sql_mode"] = "'TRADITIONAL'" // what does not fit is refused, not cut
	c.Params["time_zone"] = "'+00:00'"
	if c.Timeout == 0 {
		c.Timeout = dialTime
	}
	if c.ReadTimeout == 0 {
		c.ReadTimeout = answerTime
	}
	if c.WriteTimeout == 0 {
		c.WriteTimeout = answerTime
	}
	return c, nil
}

// patient is a DSN for work that may keep the database busy for long.
func patient(c *mysql.Config) *mysql.Config {
	p := c.Clone()
	p.ReadTimeout, p.WriteTimeout = 0, 0
	p.Params["innodb_lock_wait_timeout"] = "60"
	return p
}
