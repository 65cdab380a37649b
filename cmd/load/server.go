package main

import (
	"bufio"
	"context"
	"errors"
	"os"
	"os/exec"
	"strings"
	"syscall"
	"time"
)

// server is a server of its own, with the demo world, in a folder that is thrown away.
type server struct {
	url string
	cmd *exec.Cmd
	dir string
}

func serve(ctx context.Context, program, metrics string) (*server, error) {
	above, err := os.MkdirTemp("", "coldtap-load")
	if err != nil {
		return nil, err
	}
	if err := os.Chmod(above, 0o755); err != nil { // the database runs as a user of its own
		return nil, err
	}
	s := &server{dir: above, cmd: exec.CommandContext(ctx, program, "serve", "--demo", "--data", above+"/data",
		"--addr", "127.0.0.1:0", "--metrics", metrics)}
	s.cmd.Stderr = os.Stderr
	s.cmd.SysProcAttr = &syscall.SysProcAttr{Setpgid: true}
	out, err := s.cmd.StdoutPipe()
	if err != nil {
		return nil, err
	}
	if err := s.cmd.Start(); err != nil {
		return nil, err
	}
	for lines := bufio.NewScanner(out); lines.Scan(); {
		if _, url, ok := strings.Cut(lines.Text(), "serves on "); ok {
			s.url = url
			return s, nil
		}
	}
	s.stop()
	return nil, errors.New("the server did not start")
}

func (s *server) stop() {
	_ = s.cmd.Process.Signal(syscall.SIGTERM)
	done := make(chan struct{})
	go func() {
		_ = s.cmd.Wait()
		close(done)
	}()
	select {
	case <-done:
	case <-time.After(30 * time.Second):
		_ = s.cmd.Process.Kill()
	}
	_ = os.RemoveAll(s.dir)
}
