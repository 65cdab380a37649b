package testdb

import (
	"io"
	"net"
	"sync"
	"testing"

	"github.com/go-sql-driver/mysql"
	"github.com/stretchr/testify/require"
)

// Cable is the line between an application and its database, which a test can
// pull out, hold still, and plug in again.
type Cable struct {
	DSN string // of the database over this line

	net, addr string
	ln        net.Listener
	mu        sync.Mutex
	free      *sync.Cond
	out, held bool
	open      map[net.Conn]bool
}

// NewCable lays a line to the database of a DSN.
func NewCable(t testing.TB, dsn string) *Cable {
	t.Helper()
	cfg, err := mysql.ParseDSN(dsn)
	require.NoError(t, err)
	c := &Cable{net: cfg.Net, addr: cfg.Addr, open: map[net.Conn]bool{}}
	c.free = sync.NewCond(&c.mu)
	c.ln, err = net.Listen("tcp", "127.0.0.1:0")
	require.NoError(t, err)
	cfg.Net, cfg.Addr = "tcp", c.ln.Addr().String()
	c.DSN = cfg.FormatDSN()
	go c.serve()
	t.Cleanup(func() {
		c.ln.Close()
		c.Hang(false)
		c.Pull()
	})
	return c
}

// Pull cuts every connection and takes no new one.
func (c *Cable) Pull() {
	c.mu.Lock()
	defer c.mu.Unlock()
	c.out = true
	for conn := range c.open {
		conn.Close()
	}
}

// Plug lets connections through again.
func (c *Cable) Plug() {
	c.mu.Lock()
	defer c.mu.Unlock()
	c.out = false
}

// Hang lets nothing through and closes nothing, as a machine that stands still.
func (c *Cable) Hang(held bool) {
	c.mu.Lock()
	defer c.mu.Unlock()
	c.held = held
	c.free.Broadcast()
}

func (c *Cable) serve() {
	for {
		in, err := c.ln.Accept()
		if err != nil {
			return
		}
		go c.join(in)
	}
}

func (c *Cable) join(in net.Conn) {
	defer in.Close()
	c.pass()
	out, err := net.Dial(c.net, c.addr)
	if err != nil {
		return
	}
	defer out.Close()
	c.mu.Lock()
	if c.out {
		c.mu.Unlock()
		return
	}
	c.open[in], c.open[out] = true, true
	c.mu.Unlock()
	defer func() {
		c.mu.Lock()
		defer c.mu.Unlock()
		delete(c.open, in)
		delete(c.open, out)
	}()
	done := make(chan struct{}, 2)
	for _, way := range [][2]net.Conn{{in, out}, {out, in}} {
		go func() {
			io.Copy(heldWriter{c, way[1]}, way[0])
			done <- struct{}{}
		}()
	}
	<-done
}

// pass waits until the line lets something through.
func (c *Cable) pass() {
	c.mu.Lock()
	defer c.mu.Unlock()
	for c.held {
		c.free.Wait()
	}
}

type heldWriter struct {
	c *Cable
	w io.Writer
}

func (h heldWriter) Write(b []byte) (int, error) {
	h.c.pass()
	return h.w.Write(b)
}
