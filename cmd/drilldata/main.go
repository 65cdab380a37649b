// Command drilldata writes the drill results of the demo world: questions made
// of its models, answered by pretended technicians, marked by the program.
//
//	go run ./cmd/withdb go run ./cmd/drilldata demo/drills.json
package main

import (
	"context"
	"errors"
	"fmt"
	"os"
	"time"

	"golang.org/x/crypto/bcrypt"

	"coldtap/internal/app"
	"coldtap/internal/pretend/pupil"
	"coldtap/internal/store"
	"coldtap/internal/testdb"
	"coldtap/internal/world"
)

func main() {
	if len(os.Args) != 2 {
		fmt.Fprintln(os.Stderr, "usage: withdb drilldata FILE")
		os.Exit(2)
	}
	if err := write(context.Background(), os.Args[1]); err != nil {
		fmt.Fprintln(os.Stderr, err)
		os.Exit(1)
	}
}

func write(ctx context.Context, file string) (err error) {
	dsn := os.Getenv(testdb.Env)
	if dsn == "" {
		return errors.New("no database: begin with go run ./cmd/withdb")
	}
	st, err := store.Open(ctx, dsn)
	if err != nil {
		return err
	}
	defer st.Close()
	if err := world.Load(ctx, st, bcrypt.MinCost); err != nil {
		return err
	}
	docs := new(app.Docs)
	p := &app.Publishing{Store: st, Builds: &app.Builds{States: st, Docs: docs}, Docs: docs}
	raw, err := pupil.Drilled(ctx, st, &app.Drills{Store: st, Publishing: p, Jobs: new(app.Jobs), Now: time.Now})
	if err != nil {
		return err
	}
	return os.WriteFile(file, raw, 0o644)
}
