// Package mariadb finds, starts and stops a private MariaDB server on
// loopback, with its data in a folder of its own.
package mariadb

import (
	"context"
	"crypto/rand"
	"database/sql"
	"encoding/hex"
	"errors"
	"fmt"
	"log/slog"
	"net"
	"os"
	"os/exec"
	"os/user"
	"path/filepath"
	"runtime"
	"strconv"
	"strings"
	"sync"
	"syscall"
	"time"

	"github.com/go-sql-driver/mysql"
)

// Server is a running private server.
type Server struct {
	DSN  string // for the application's user, with its schema
	done chan error
	lock *os.File

	mu       sync.Mutex
	process  *os.Process
	up       bool // it answered once: if it ends by itself it is started again
	stopping bool
}

// Options say how the server runs.
type Options struct {
	Dir   string // holds the data, made if it is missing
	Tests bool   // fast and not durable: for data that is thrown away
}

// ErrMissing says that the server is not installed.
var ErrMissing = errors.New("the database MariaDB is not installed; install the Debian package mariadb-server")

// The application's user and schema.
const (
	appUser   = "coldtap"
	appSchema = "coldtap"
)

// firstMark is a file among data that was never ready yet: its start was killed,
// and it is made again.
const firstMark = "first-start"

// Start starts a server on the folder. It makes the data on the first start,
// and refuses a folder that another server uses.
func Start(ctx context.Context, opt Options) (*Server, error) {
	bin, err := find("mariadbd", "/usr/sbin/mariadbd")
	if err != nil {
		return nil, err
	}
	dir, err := filepath.Abs(opt.Dir)
	if err != nil {
		return nil, err
	}
	cred, err := prepare(dir)
	if err != nil {
		return nil, err
	}
	lock, err := lockDir(dir)
	if err != nil {
		return nil, err
	}
	s := &Server{done: make(chan error, 1), lock: lock}
	running := false
	fail := func(err error) (*Server, error) {
		if running {
			s.end(syscall.SIGKILL)
			<-s.done
		}
		lock.Close()
		return nil, err
	}
	data := filepath.Join(dir, "data")
	if err := install(ctx, data, cred, lock); err != nil {
		return fail(err)
	}
	port, errPort := freePort()
	socket, errSocket := socketPath(dir, cred)
	if err := errors.Join(errPort, errSocket); err != nil {
		return fail(err)
	}
	args := arguments(data, socket, port, opt.Tests)
	started := make(chan error)
	go s.run(func() *exec.Cmd {
		cmd := exec.Command(bin, args...)
		// The server ends with this process, however early that is in its own start,
		// where it would not listen to a gentler signal: what it acknowledged is
		// written. Ctrl-C reaches the application first, which then stops the server.
		// It holds the folder's lock too, until it has ended.
		cmd.ExtraFiles = []*os.File{lock}
		cmd.SysProcAttr = &syscall.SysProcAttr{Pdeathsig: syscall.SIGKILL, Setpgid: true, Credential: cred}
		return cmd
	}, started)
	if err := <-started; err != nil {
		return fail(fmt.Errorf("start MariaDB: %w", err))
	}
	running = true
	if s.DSN, err = s.ready(ctx, dir, socket, port, opt.Tests); err != nil {
		return fail(fmt.Errorf("%w; see %s", err, filepath.Join(data, "server.log")))
	}
	if err := os.Remove(filepath.Join(data, firstMark)); err != nil && !errors.Is(err, os.ErrNotExist) {
		return fail(err)
	}
	if err := os.WriteFile(filepath.Join(dir, portFile), []byte(strconv.Itoa(port)), 0o600); err != nil {
		return fail(err)
	}
	s.mu.Lock()
	s.up = true
	s.mu.Unlock()
	return s, nil
}

// portFile says where a running server listens, for those who may read the folder.
const portFile = "port"

// Use gives the DSN of the folder's server: of the one that runs, or of one that
// is started and that stop stops.
func Use(ctx context.Context, opt Options) (dsn string, stop func() error, err error) {
	if dsn, err := running(ctx, opt.Dir); err == nil {
		return dsn, func() error { return nil }, nil
	}
	s, err := Start(ctx, opt)
	if err != nil {
		return "", nil, err
	}
	return s.DSN, s.Stop, nil
}

// running is the DSN of the server that runs on a folder.
func running(ctx context.Context, dir string) (string, error) {
	port, err := os.ReadFile(filepath.Join(dir, portFile))
	if err != nil {
		return "", err
	}
	secret, err := os.ReadFile(filepath.Join(dir, "password"))
	if err != nil {
		return "", err
	}
	c := config(appUser, string(secret), "tcp", "127.0.0.1:"+string(port))
	c.DBName = appSchema
	db, err := sql.Open("mysql", c.FormatDSN())
	if err != nil {
		return "", err
	}
	defer db.Close()
	return c.FormatDSN(), db.PingContext(ctx)
}

// arguments start the server on loopback; for tests without care for what a
// power cut would lose.
func arguments(data, socket string, port int, tests bool) []string {
	args := []string{"--no-defaults", "--datadir=" + data, "--tmpdir=" + data, "--socket=" + socket,
		"--pid-file=" + filepath.Join(data, "server.pid"), "--log-error=" + filepath.Join(data, "server.log"),
		"--bind-address=127.0.0.1", "--port=" + strconv.Itoa(port), "--skip-name-resolve",
		"--character-set-server=utf8mb4", "--collation-server=" + collation}
	if tests {
		args = append(args, "--innodb-flush-log-at-trx-commit=0", "--innodb-doublewrite=0",
			"--innodb-flush-method=nosync", "--innodb-log-file-size=8M", "--innodb-buffer-pool-size=64M",
			"--innodb-fast-shutdown=2", "--innodb-file-per-table=0", "--skip-log-bin",
			"--innodb-stats-persistent=0", "--innodb-stats-auto-recalc=0", "--performance-schema=0")
	}
	return args
}

// run starts the server and waits for its end; once it has been up, a server
// that ends by itself is started again. The death signal follows the thread.
func (s *Server) run(command func() *exec.Cmd, started chan<- error) {
	runtime.LockOSThread()
	for first := true; ; first = false {
		cmd := command()
		err := cmd.Start()
		if err == nil {
			s.mu.Lock()
			s.process = cmd.Process
			s.mu.Unlock()
		}
		if first {
			started <- err
			if err != nil {
				return
			}
		}
		if err == nil {
			err = cmd.Wait()
		}
		s.mu.Lock()
		again := s.up && !s.stopping
		s.mu.Unlock()
		if !again {
			s.done <- err
			return
		}
		slog.Warn("the database ended by itself and is started again", "reason", err)
		time.Sleep(300 * time.Millisecond)
	}
}

// end stops the server for good.
func (s *Server) end(with syscall.Signal) error {
	s.mu.Lock()
	defer s.mu.Unlock()
	s.stopping = true
	return s.process.Signal(with)
}

// Stop stops the server and waits until it has ended.
func (s *Server) Stop() error {
	defer s.lock.Close()
	if err := s.end(syscall.SIGTERM); err != nil {
		return err
	}
	select {
	case <-s.done:
		return nil
	case <-time.After(30 * time.Second):
		return s.end(syscall.SIGKILL)
	}
}

func find(name, usual string) (string, error) {
	if p, err := exec.LookPath(name); err == nil {
		return p, nil
	}
	if _, err := os.Stat(usual); err == nil {
		return usual, nil
	}
	return "", ErrMissing
}

// prepare makes the folder, which nobody else can look into. The server does
// not run as root: then the folder and the server belong to the package's own
// user.
func prepare(dir string) (*syscall.Credential, error) {
	if err := os.MkdirAll(filepath.Dir(dir), 0o755); err != nil {
		return nil, fmt.Errorf("make the data folder: %w", err)
	}
	if err := os.Mkdir(dir, 0o700); err != nil && !errors.Is(err, os.ErrExist) {
		return nil, fmt.Errorf("make the data folder: %w", err)
	}
	if err := os.Chmod(dir, 0o700); err != nil {
		return nil, fmt.Errorf("shut the data folder: %w", err)
	}
	if os.Geteuid() != 0 {
		return nil, nil
	}
	u, err := user.Lookup("mysql")
	if err != nil {
		return nil, fmt.Errorf("the user of the MariaDB package: %w", err)
	}
	uid, _ := strconv.Atoi(u.Uid)
	gid, _ := strconv.Atoi(u.Gid)
	if err := os.Chown(dir, uid, gid); err != nil {
		return nil, err
	}
	for above := filepath.Dir(dir); above != "/"; above = filepath.Dir(above) {
		info, err := os.Stat(above)
		if err != nil {
			return nil, err
		}
		if owner := info.Sys().(*syscall.Stat_t); info.Mode()&1 == 0 && int(owner.Uid) != uid && int(owner.Gid) != gid {
			return nil, fmt.Errorf("the database runs as the user mysql, to whom the folder %s is closed; choose another data "+
				"folder, or open that one with chmod o+x", above)
		}
	}
	return &syscall.Credential{Uid: uint32(uid), Gid: uint32(gid)}, nil
}

func lockDir(dir string) (*os.File, error) {
	f, err := os.OpenFile(filepath.Join(dir, "lock"), os.O_CREATE|os.O_RDWR, 0o600)
	if err != nil {
		return nil, err
	}
	// A server whose application was killed ends shortly after it.
	for range 300 {
		if err = syscall.Flock(int(f.Fd()), syscall.LOCK_EX|syscall.LOCK_NB); err == nil {
			return f, nil
		}
		time.Sleep(100 * time.Millisecond)
	}
	f.Close()
	return nil, fmt.Errorf("another Cold Tap uses the data folder %s", dir)
}

func install(ctx context.Context, data string, cred *syscall.Credential, lock *os.File) error {
	made, errMade := exists(filepath.Join(data, "mysql"))
	first, errFirst := exists(filepath.Join(data, firstMark))
	if err := errors.Join(errMade, errFirst); err != nil {
		return err // nothing is taken away of what can't be seen
	}
	if made && !first {
		return nil
	}
	// It was never ready, or is what is left of such. Moved first, so that a kill while it is taken
	// away leaves nothing that looks like data.
	gone := data + ".gone"
	if err := os.RemoveAll(gone); err != nil {
		return err
	}
	if err := os.Rename(data, gone); err != nil && !errors.Is(err, os.ErrNotExist) {
		return err
	}
	if err := os.RemoveAll(gone); err != nil {
		return err
	}
	bin, err := find("mariadb-install-db", "/usr/bin/mariadb-install-db")
	if err != nil {
		return err
	}
	// Made beside and moved, so that a kill on the way leaves nothing half done; with
	// temporary files of its own, which another server that starts would clear away.
	fresh := data + ".new"
	if err := os.RemoveAll(fresh); err != nil {
		return err
	}
	if err := os.MkdirAll(fresh, 0o700); err != nil {
		return err
	}
	args := []string{"--no-defaults", "--datadir=" + fresh, "--tmpdir=" + fresh,
		"--auth-root-authentication-method=normal", "--skip-test-db", "--skip-name-resolve", "--innodb-log-file-size=8M"}
	if cred != nil {
		args = append(args, "--user=mysql")
	}
	cmd := exec.CommandContext(ctx, bin, args...)
	// It ends with this process; what it has begun holds the folder's lock until it has ended.
	cmd.ExtraFiles = []*os.File{lock}
	cmd.SysProcAttr = &syscall.SysProcAttr{Pdeathsig: syscall.SIGKILL}
	if out, err := onOneThread(cmd.CombinedOutput); err != nil {
		return fmt.Errorf("make the database files: %w: %s", err, out)
	}
	if err := os.WriteFile(filepath.Join(fresh, firstMark), nil, 0o600); err != nil {
		return err
	}
	return os.Rename(fresh, data)
}

func exists(name string) (bool, error) {
	_, err := os.Stat(name)
	if errors.Is(err, os.ErrNotExist) {
		return false, nil
	}
	return err == nil, err
}

// onOneThread runs a command from a thread that waits for it: the death signal
// follows the thread that began it.
func onOneThread(run func() ([]byte, error)) (out []byte, err error) {
	done := make(chan struct{})
	go func() {
		defer close(done)
		runtime.LockOSThread()
		defer runtime.UnlockOSThread()
		out, err = run()
	}()
	<-done
	return out, err
}

// socketPath gives a path for the socket, which may have 107 characters.
func socketPath(dir string, cred *syscall.Credential) (string, error) {
	if p := filepath.Join(dir, "db.sock"); len(p) <= 107 {
		return p, nil
	}
	tmp, err := os.MkdirTemp("", "coldtap")
	if err != nil {
		return "", err
	}
	if cred != nil {
		if err := os.Chown(tmp, int(cred.Uid), int(cred.Gid)); err != nil {
			return "", err
		}
	}
	return filepath.Join(tmp, "db.sock"), nil
}

func freePort() (int, error) {
	l, err := net.Listen("tcp", "127.0.0.1:0")
	if err != nil {
		return 0, err
	}
	defer l.Close()
	return l.Addr().(*net.TCPAddr).Port, nil
}

// ready waits for the server, shuts root and gives the application's user what
// it needs and no more: all of its schema, in tests those of tests too. Its DSN
// comes back.
func (s *Server) ready(ctx context.Context, dir, socket string, port int, tests bool) (string, error) {
	rootSecret, err := secretIn(filepath.Join(dir, "root-password"))
	if err != nil {
		return "", err
	}
	if err := s.answers(ctx, socket, rootSecret); err != nil {
		return "", err
	}
	if err := os.Chmod(socket, 0o700); err != nil {
		return "", err
	}
	secret, err := secretIn(filepath.Join(dir, "password"))
	if err != nil {
		return "", err
	}
	user := "'" + appUser + "'@'127.0.0.1'"
	setUp := []string{
		"CREATE USER IF NOT EXISTS " + user + " IDENTIFIED BY '" + secret + "'",
		"ALTER USER " + user + " IDENTIFIED BY '" + secret + "'",
		"REVOKE ALL PRIVILEGES, GRANT OPTION FROM " + user,
		"CREATE DATABASE IF NOT EXISTS `" + appSchema + "` CHARACTER SET utf8mb4 COLLATE " + collation,
		"GRANT ALL ON `" + appSchema + "`.* TO " + user,
		"ALTER USER 'root'@'localhost' IDENTIFIED BY '" + rootSecret + "'",
		"DELETE FROM mysql.global_priv WHERE User='root' AND Host<>'localhost' OR User=''",
		"FLUSH PRIVILEGES",
	}
	if tests {
		setUp = append(setUp, "GRANT ALL ON `t\\_%`.* TO "+user)
	}
	// Whoever has no password yet is root of data that is new, or from before it had one.
	root, err := sql.Open("mysql", config("root", rootSecret, "unix", socket).FormatDSN())
	if err != nil {
		return "", err
	}
	defer root.Close()
	if root.PingContext(ctx) != nil {
		root.Close()
		if root, err = sql.Open("mysql", config("root", "", "unix", socket).FormatDSN()); err != nil {
			return "", err
		}
		defer root.Close()
	}
	for _, q := range setUp {
		if _, err := root.ExecContext(ctx, q); err != nil {
			return "", fmt.Errorf("set the database up: %w", err)
		}
	}
	slog.Debug("database ready", "port", port)
	c := config(appUser, secret, "tcp", "127.0.0.1:"+strconv.Itoa(port))
	c.DBName = appSchema
	return c.FormatDSN(), nil
}

// answers waits until the server answers, be it that it lets nobody in.
func (s *Server) answers(ctx context.Context, socket, secret string) error {
	db, err := sql.Open("mysql", config("root", secret, "unix", socket).FormatDSN())
	if err != nil {
		return err
	}
	defer db.Close()
	deadline := time.Now().Add(30 * time.Second)
	for {
		var told *mysql.MySQLError
		if err = db.PingContext(ctx); err == nil || errors.As(err, &told) && told.Number == errAccess {
			return nil
		}
		select {
		case ended := <-s.done:
			s.done <- ended
			return fmt.Errorf("MariaDB ended at once: %w", ended)
		case <-ctx.Done():
			return ctx.Err()
		case <-time.After(20 * time.Millisecond):
		}
		if time.Now().After(deadline) {
			return fmt.Errorf("MariaDB does not answer: %w", err)
		}
	}
}

const (
	errAccess = 1045 // access denied; see the MariaDB error codes
	collation = "utf8mb4_unicode_520_ci"
)

func config(name, secret, network, addr string) *mysql.Config {
	c := mysql.NewConfig()
	c.User, c.Passwd, c.Net, c.Addr = name, secret, network, addr
	c.ParseTime = true
	c.Collation = collation
	c.Logger = &mysql.NopLogger{}
	return c
}

// secretIn reads the password that is kept in a file, made at the first start;
// a file that was half written is made again.
func secretIn(file string) (string, error) {
	b, err := os.ReadFile(file)
	if err == nil && len(b) >= 32 {
		return strings.TrimSpace(string(b)), nil
	}
	raw := make([]byte, 24)
	rand.Read(raw)
	secret := hex.EncodeToString(raw)
	if err := os.WriteFile(file+".new", []byte(secret), 0o600); err != nil {
		return "", err
	}
	return secret, os.Rename(file+".new", file)
}

// WithSchema gives the DSN with a schema in it, made if it is missing.
func WithSchema(ctx context.Context, dsn, schema string) (string, error) {
	c, err := mysql.ParseDSN(dsn)
	if err != nil {
		return "", fmt.Errorf("the DSN can't be read: %w", err)
	}
	db, err := sql.Open("mysql", dsn)
	if err != nil {
		return "", err
	}
	defer db.Close()
	name := strings.ReplaceAll(schema, "`", "")
	if _, err := db.ExecContext(ctx, "CREATE DATABASE IF NOT EXISTS `"+name+"`"); err != nil {
		return "", fmt.Errorf("make the schema %s: %w", schema, err)
	}
	c.DBName = schema
	return c.FormatDSN(), nil
}
