// Command withdb starts a private MariaDB for the time of another command and
// gives that its DSN: withdb go test ./...
package main

import (
	"context"
	"errors"
	"fmt"
	"os"
	"os/exec"

	"coldtap/internal/mariadb"
	"coldtap/internal/testdb"
)

func main() {
	code, err := run(os.Args[1:])
	if err != nil {
		fmt.Fprintln(os.Stderr, "withdb:", err)
	}
	os.Exit(code)
}

func run(args []string) (int, error) {
	if len(args) == 0 {
		return 2, errors.New("no command given")
	}
	dir, err := os.MkdirTemp("", "coldtap-test")
	if err != nil {
		return 1, err
	}
	defer os.RemoveAll(dir)
	s, err := mariadb.Start(context.Background(), mariadb.Options{Dir: dir, Tests: true})
	if err != nil {
		return 1, err
	}
	defer s.Stop()
	cmd := exec.Command(args[0], args[1:]...)
	cmd.Stdin, cmd.Stdout, cmd.Stderr = os.Stdin, os.Stdout, os.Stderr
	cmd.Env = append(os.Environ(), testdb.Env+"="+s.DSN)
	err = cmd.Run()
	var exit *exec.ExitError
	if errors.As(err, &exit) {
		return exit.ExitCode(), nil
	}
	if err != nil {
		return 1, err
	}
	return 0, nil
}
