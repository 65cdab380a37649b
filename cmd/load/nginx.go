package main

import (
	"bytes"
	"context"
	"errors"
	"fmt"
	"io"
	"net"
	"net/http"
	"os"
	"os/exec"
	"path/filepath"
	"sync"
	"sync/atomic"
	"time"
)

// race is how a published guide is served beside nginx serving the same bytes: clients that ask as fast as they are
// answered, in turns of some seconds.
type race struct {
	Clients int
	Turn    time.Duration
	Rounds  int
}

// usual is how it is run.
var usual = race{Clients: 32, Turn: 4 * time.Second, Rounds: 3}

// errNoNginx says that there is nothing to compare with.
var errNoNginx = errors.New("nginx is not installed: the Debian package nginx-light has it")

// run gives the requests a second of the server and of nginx, and how many bytes each answer has.
func (r race) run(ctx context.Context, at string) (ours, theirs float64, size int, err error) {
	program, err := exec.LookPath("nginx")
	if err != nil {
		if program, err = exec.LookPath("/usr/sbin/nginx"); err != nil {
			return 0, 0, 0, errNoNginx
		}
	}
	body, err := settled(ctx, at+published+"/chapter")
	if err != nil {
		return 0, 0, 0, err
	}
	dir, err := os.MkdirTemp("", "coldtap-nginx")
	if err != nil {
		return 0, 0, 0, err
	}
	defer os.RemoveAll(dir)
	other, stop, err := nginx(ctx, program, dir, body)
	if err != nil {
		return 0, 0, 0, err
	}
	defer stop()
	var a, b float64
	for range r.Rounds {
		one, err := r.turn(ctx, at+published+"/chapter", len(body))
		if err != nil {
			return 0, 0, 0, fmt.Errorf("ours: %w", err)
		}
		two, err := r.turn(ctx, other, len(body))
		if err != nil {
			return 0, 0, 0, fmt.Errorf("nginx: %w", err)
		}
		a, b = a+one, b+two
	}
	return a / float64(r.Rounds), b / float64(r.Rounds), len(body), nil
}

// settled is a page as it is sent once what stands around it has come to rest: after a start it is looked at what of
// it still holds.
func settled(ctx context.Context, address string) (body []byte, err error) {
	for range 20 {
		before := body
		if body, err = packed(ctx, address); err != nil || bytes.Equal(before, body) {
			return body, err
		}
		time.Sleep(4 * time.Second)
	}
	return nil, errors.New("the page does not come to rest")
}

// packed is a page as it is sent, compressed.
func packed(ctx context.Context, address string) ([]byte, error) {
	req, err := http.NewRequestWithContext(ctx, http.MethodGet, address, nil)
	if err != nil {
		return nil, err
	}
	req.Header.Set("Accept-Encoding", "gzip")
	resp, err := plain.Do(req)
	if err != nil {
		return nil, err
	}
	defer resp.Body.Close()
	if resp.StatusCode != http.StatusOK || resp.Header.Get("Content-Encoding") != "gzip" {
		return nil, fmt.Errorf("%s is sent with %d, encoding %q", address, resp.StatusCode,
			resp.Header.Get("Content-Encoding"))
	}
	return io.ReadAll(resp.Body)
}

// plain takes bytes as they come.
var plain = &http.Client{Timeout: 30 * time.Second, Transport: &http.Transport{MaxIdleConns: 500,
	MaxIdleConnsPerHost: 500,
	DisableCompression:  true}}

// config serves one page that is compressed already, by as many workers as there are processors.
const config = `daemon off; worker_processes auto; pid %[1]s/pid; error_log stderr crit;
events { worker_connections 1024; }
http { access_log off; sendfile on; tcp_nopush on; keepalive_requests 1000000; open_file_cache max=10;
  client_body_temp_path %[1]s/a; proxy_temp_path %[1]s/b; fastcgi_temp_path %[1]s/c; uwsgi_temp_path %[1]s/d; scgi_temp_path %[1]s/e;
  server { listen %[2]s; root %[1]s; default_type "text/html; charset=utf-8"; gzip_static always; } }
`

// nginx serves a page, and gives its address.
func nginx(ctx context.Context, program, dir string, body []byte) (address string, stop func(), err error) {
	if err := os.Chmod(dir, 0o755); err != nil { // its workers are a user of their own
		return "", nil, err
	}
	if err := os.WriteFile(filepath.Join(dir, "chapter.html.gz"), body, 0o644); err != nil {
		return "", nil, err
	}
	l, err := net.Listen("tcp", "127.0.0.1:0")
	if err != nil {
		return "", nil, err
	}
	at := l.Addr().String()
	l.Close()
	if err := os.WriteFile(filepath.Join(dir, "conf"), fmt.Appendf(nil, config, dir, at), 0o644); err != nil {
		return "", nil, err
	}
	cmd := exec.CommandContext(ctx, program, "-c", filepath.Join(dir, "conf"), "-p", dir)
	cmd.Stderr = os.Stderr
	if err := cmd.Start(); err != nil {
		return "", nil, err
	}
	stop = func() {
		_ = cmd.Process.Signal(os.Interrupt)
		_ = cmd.Wait()
	}
	address = "http://" + at + "/chapter.html"
	for range 50 {
		resp, err := plain.Get(address)
		if err == nil {
			resp.Body.Close()
			if resp.StatusCode == http.StatusOK {
				return address, stop, nil
			}
		}
		time.Sleep(50 * time.Millisecond)
	}
	stop()
	return "", nil, errors.New("nginx does not serve")
}

// turn asks for a page as often as it is answered, and gives how often that was a second.
func (r race) turn(ctx context.Context, address string, size int) (float64, error) {
	ctx, cancel := context.WithTimeout(ctx, r.Turn)
	defer cancel()
	var n atomic.Int64
	var first atomic.Pointer[error]
	var all sync.WaitGroup
	began := time.Now()
	for range r.Clients {
		all.Go(func() {
			for ctx.Err() == nil {
				got, err := r.one(ctx, address)
				if ctx.Err() != nil {
					return
				}
				if err == nil && got != size {
					err = fmt.Errorf("%d bytes instead of %d", got, size)
				}
				if err != nil {
					first.CompareAndSwap(nil, &err)
					return
				}
				n.Add(1)
			}
		})
	}
	all.Wait()
	if err := first.Load(); err != nil {
		return 0, *err
	}
	return float64(n.Load()) / time.Since(began).Seconds(), nil
}

func (r race) one(ctx context.Context, address string) (int, error) {
	req, err := http.NewRequestWithContext(ctx, http.MethodGet, address, nil)
	if err != nil {
		return 0, err
	}
	req.Header.Set("Accept-Encoding", "gzip")
	resp, err := plain.Do(req)
	if err != nil {
		return 0, err
	}
	defer resp.Body.Close()
	n, err := io.Copy(io.Discard, resp.Body)
	return int(n), err
}
