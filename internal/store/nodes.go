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

// takesPart asks a server something that one outside of its cluster refuses.
func takesPart(ctx context.Context, conn driver.Conn) error {
	q, ok := conn.(driver.QueryerContext)
	if !ok {
		return nil
	}
	rows, err := q.QueryContext(ctx, "SELECT 1", nil)
	if err != nil {
		return err
	}
	defer rows.Close()
	if err := rows.Next(make([]driver.Value, 1)); err != nil && !errors.Is(err, io.EOF) {
		return err
	}
	return nil
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
