package store

import (
	"context"
	"database/sql"
	"database/sql/driver"
	"errors"
	"fmt"
	"io"
	"strings"
	"sync/atomic"

	"github.com/go-sql-driver/mysql"
)

// nodes connects to the first of some servers that takes part in its cluster: a
// DSN names them as tcp(ONE:3306,TWO:3306). The one that took the last
// connection is asked first.
type nodes struct {
	all   []driver.Connector
	first atomic.Int64
}

// connector is what connections to the servers of a DSN are made with.
func connector(cfg *mysql.Config) (driver.Connector, error) {
	var n nodes
	list := cfg.Addr
	if strings.Contains(list, ",") { // the driver takes several for one that has colons in it
		list = strings.TrimSuffix(strings.TrimPrefix(list, "["), "]:3306")
	}
	for _, addr := range strings.Split(list, ",") {
		one := cfg.Clone()
		if one.Addr = strings.TrimSpace(addr); cfg.Net == "tcp" && !strings.Contains(one.Addr, ":") {
			one.Addr += ":3306"
		}
		c, err := mysql.NewConnector(one)
		if err != nil {
			return nil, fmt.Errorf("open the database: %w", err)
		}
		n.all = append(n.all, c)
	}
	if len(n.all) == 1 {
		return n.all[0], nil
	}
	return &n, nil
}

// Connect makes a connection.
func (n *nodes) Connect(ctx context.Context) (driver.Conn, error) {
	var last error
	first := n.first.Load()
	for i := range int64(len(n.all)) {
		k := (first + i) % int64(len(n.all))
		conn, err := n.all[k].Connect(ctx)
		if err == nil {
			if err = takesPart(ctx, conn); err == nil {
				n.first.Store(k)
				return conn, nil
			}
			conn.Close()
		}
		last = errors.Join(last, err)
		if ctx.Err() != nil {
			break
		}
	}
	return nil, last
}

// Driver is that of the servers.
func (n *nodes) Driver() driver.Driver { return n.all[0].Driver() }

// takesPart asks a server whether it takes part in its cluster, if it is of one.
func takesPart(ctx context.Context, conn driver.Conn) error {
	q, ok := conn.(driver.QueryerContext)
	if !ok {
		return nil
	}
	ready, err := last(ctx, q, "SHOW STATUS LIKE 'wsrep_ready'")
	if err != nil || ready != "OFF" {
		return err
	}
	// A server by itself is never ready for a cluster.
	on, err := last(ctx, q, "SELECT @@wsrep_on")
	if err == nil && on == "1" {
		err = errors.New("this server takes no part in its cluster")
	}
	return err
}

// last is the last value of the first row that a query gives, "" where it gives none.
func last(ctx context.Context, q driver.QueryerContext, query string) (string, error) {
	rows, err := q.QueryContext(ctx, query, nil)
	if err != nil {
		return "", err
	}
	defer rows.Close()
	said := make([]driver.Value, len(rows.Columns()))
	switch err := rows.Next(said); {
	case errors.Is(err, io.EOF):
		return "", nil
	case err != nil:
		return "", err
	}
	if b, ok := said[len(said)-1].([]byte); ok {
		return string(b), nil
	}
	return fmt.Sprint(said[len(said)-1]), nil
}

// renew lets go of connections that no longer lead anywhere, where an error says
// so: those that are made next lead to a server that takes part in its cluster.
func (s *Store) renew(err error) {
	if pool, poolErr := s.db.DB(); poolErr == nil && outside(err) {
		forget(pool, s.connections)
	}
}

// outside reports whether a server says that it takes no part in its cluster.
func outside(err error) bool {
	var told *mysql.MySQLError
	return errors.As(err, &told) && told.Number == errNotPrepared
}

func forget(pool *sql.DB, connections int) {
	pool.SetMaxIdleConns(0)
	pool.SetMaxIdleConns(connections)
}
