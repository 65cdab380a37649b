// Command pictures takes the pictures of the main views from the demo world:
// pictures FOLDER. It needs the DSN that withdb gives.
package main

import (
	"context"
	"errors"
	"fmt"
	"net"
	"net/http"
	"os"
	"path/filepath"

	"coldtap/demo"
	"coldtap/internal/browser"
	"coldtap/internal/mariadb"
	"coldtap/internal/store"
	"coldtap/internal/testdb"
	"coldtap/internal/web"
)

// shots are the views that have a picture.
var shots = []struct {
	name, path    string
	width, height int64
}{
	{"bench", "/", 1280, 800},
	{"system", "/models/gneiss-24-2027?part=valve-bypass", 1280, 1100},
	{"layout", "/models/gneiss-24-2027/layout?part=outside-shower", 1280, 900},
	{"settings", "/models/gneiss-24-2027/settings?mode=antifreeze&set=valve-heater-in.open", 1280, 800},
	{"amounts", "/models/gneiss-24-2027/amounts", 1280, 800},
	{"compare", "/compare?a=ashlar-20-2026&b=ashlar-20-2027", 1280, 1400},
	{"guide", "/models/gneiss-24-2027/guide", 1280, 800},
	{"guide-phone", "/models/gneiss-24-2027/guide", 390, 844},
	{"system-schist-31", "/models/schist-31-2027?finding=1", 1280, 800},
	{"system-ashlar-20", "/models/ashlar-20-2027", 1280, 800},
	{"system-marl-15", "/models/marl-15-2027", 1280, 800},
	{"system-feldspar-c7", "/models/feldspar-c7-2027", 1280, 800},
	{"system-tuff-9", "/models/tuff-9-2027", 1280, 800},
}

func main() {
	if err := run(context.Background(), os.Args[1:]); err != nil {
		fmt.Fprintln(os.Stderr, "pictures:", err)
		os.Exit(1)
	}
}

func run(ctx context.Context, args []string) error {
	if len(args) < 1 {
		return errors.New("no folder given")
	}
	dsn, err := mariadb.WithSchema(ctx, os.Getenv(testdb.Env), "pictures")
	if err != nil {
		return err
	}
	st, err := store.Open(ctx, dsn)
	if err != nil {
		return err
	}
	defer st.Close()
	models, err := demo.Models()
	if err != nil {
		return err
	}
	if err := st.Seed(ctx, models, "Imre Valk", "demo world"); err != nil {
		return err
	}
	h, err := web.New(st)
	if err != nil {
		return err
	}
	l, err := net.Listen("tcp", "127.0.0.1:0")
	if err != nil {
		return err
	}
	go http.Serve(l, h)
	b, err := browser.Start(ctx)
	if err != nil {
		return err
	}
	defer b.Close()
	for _, s := range shots {
		if len(args) > 1 && args[1] != s.name {
			continue
		}
		if err := shoot(b, "http://"+l.Addr().String()+s.path, filepath.Join(args[0], s.name+".png"), s.width, s.height); err != nil {
			return fmt.Errorf("%s: %w", s.name, err)
		}
	}
	return nil
}

func shoot(b *browser.Browser, url, file string, width, height int64) error {
	p, err := b.NewPage(width, height)
	if err != nil {
		return err
	}
	defer p.Close()
	if err := p.Open(url); err != nil {
		return err
	}
	png, err := p.Screenshot()
	if err != nil {
		return err
	}
	return os.WriteFile(file, png, 0o644)
}
