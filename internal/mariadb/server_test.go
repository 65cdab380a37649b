package mariadb

import (
	"database/sql"
	"errors"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"syscall"
	"testing"

	"github.com/go-sql-driver/mysql"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

func start(t *testing.T, dir string) *Server {
	t.Helper()
	s, err := Start(t.Context(), Options{Dir: dir})
	require.NoError(t, err)
	return s
}

// folder is a place for data that the server's own user gets to.
func folder(t *testing.T) string {
	t.Helper()
	above, err := os.MkdirTemp("", "coldtap-mariadb")
	require.NoError(t, err)
	require.NoError(t, os.Chmod(above, 0o755))
	t.Cleanup(func() { os.RemoveAll(above) })
	return filepath.Join(above, "db")
}

func connect(t *testing.T, dsn string) *sql.DB {
	t.Helper()
	db, err := sql.Open("mysql", dsn)
	require.NoError(t, err)
	t.Cleanup(func() { db.Close() })
	return db
}

// asRoot is a connection by the socket.
func asRoot(t *testing.T, dir, secret string) *sql.DB {
	return connect(t, config("root", secret, "unix", filepath.Join(dir, "db.sock")).FormatDSN())
}

func code(t *testing.T, err error) uint16 {
	t.Helper()
	var told *mysql.MySQLError
	require.ErrorAs(t, err, &told)
	return told.Number
}

func TestNobodyElseGetsIn(t *testing.T) {
	dir := folder(t)
	s := start(t, dir)
	defer func() { assert.NoError(t, s.Stop()) }()
	for path, mode := range map[string]os.FileMode{dir: 0o700, filepath.Join(dir, "db.sock"): 0o700,
		filepath.Join(dir, "password"): 0o600, filepath.Join(dir, "root-password"): 0o600,
		filepath.Join(dir, "data"): 0o700} {
		info, err := os.Stat(path)
		require.NoError(t, err)
		assert.Equal(t, mode, info.Mode().Perm(), path)
	}
	assert.EqualValues(t, errAccess, code(t, asRoot(t, dir, "").PingContext(t.Context())), "root has a password")

	// The application has its schema and nothing else.
	db := connect(t, s.DSN)
	exec := func(q string) error {
		_, err := db.ExecContext(t.Context(), q)
		return err
	}
	require.NoError(t, exec("CREATE TABLE x (id INT PRIMARY KEY, of INT, FOREIGN KEY (of) REFERENCES x (id))"))
	for _, q := range []string{"SELECT * FROM mysql.global_priv", "CREATE DATABASE other", "CREATE USER somebody",
		"SELECT 1 INTO OUTFILE '/tmp/coldtap-outfile'", "SET GLOBAL max_connections = 3", "GRANT ALL ON *.* TO 'coldtap'@'127.0.0.1'"} {
		assert.Error(t, exec(q), q)
	}
}

// Another user of the machine sees neither folder nor socket, and root of the
// database lets nobody in over the network.
func TestAnotherSystemUserGetsNowhere(t *testing.T) {
	if os.Geteuid() != 0 {
		t.Skip("only root can act as another user of the machine")
	}
	dir := folder(t)
	s := start(t, dir)
	defer func() { assert.NoError(t, s.Stop()) }()
	cfg, err := mysql.ParseDSN(s.DSN)
	require.NoError(t, err)
	host, port, _ := strings.Cut(cfg.Addr, ":")
	as := func(command ...string) (string, error) {
		cmd := exec.Command(command[0], command[1:]...)
		cmd.Dir = "/"
		const nobody = 65534
		cmd.SysProcAttr = &syscall.SysProcAttr{Credential: &syscall.Credential{Uid: nobody, Gid: nobody}}
		out, err := cmd.CombinedOutput()
		return string(out), err
	}
	if out, err := as("ls", filepath.Dir(dir)); err != nil {
		t.Fatalf("the folder above is open, else this shows nothing: %s", out)
	}
	for _, command := range [][]string{
		{"ls", dir}, {"cat", filepath.Join(dir, "password")}, {"cat", filepath.Join(dir, "root-password")},
		{"mariadb", "--no-defaults", "-uroot", "--socket=" + filepath.Join(dir, "db.sock"), "-e", "SELECT 1"},
		{"mariadb", "--no-defaults", "-uroot", "-h" + host, "-P" + port, "--skip-ssl", "-e", "SELECT 1"},
		{"mariadb", "--no-defaults", "-ucoldtap", "-h" + host, "-P" + port, "--skip-ssl", "-e", "SELECT 1"},
	} {
		out, err := as(command...)
		assert.Error(t, err, "%v: %s", command, out)
		var missing *exec.Error
		require.False(t, errors.As(err, &missing), "%v can't be run", command)
	}
}

// A folder from before root had a password is shut by its next start.
func TestAnOlderFolderIsShut(t *testing.T) {
	dir := folder(t)
	s := start(t, dir)
	secret, err := os.ReadFile(filepath.Join(dir, "root-password"))
	require.NoError(t, err)
	root := asRoot(t, dir, string(secret))
	for _, q := range []string{"CREATE TABLE coldtap.kept (id INT)", "GRANT ALL ON *.* TO 'coldtap'@'127.0.0.1'",
		"ALTER USER 'root'@'localhost' IDENTIFIED BY ''"} {
		_, err := root.ExecContext(t.Context(), q)
		require.NoError(t, err, q)
	}
	require.NoError(t, os.Remove(filepath.Join(dir, "root-password")))
	require.NoError(t, os.Chmod(dir, 0o755))
	require.NoError(t, s.Stop())

	s = start(t, dir)
	defer func() { assert.NoError(t, s.Stop()) }()
	assert.EqualValues(t, errAccess, code(t, asRoot(t, dir, "").PingContext(t.Context())))
	db := connect(t, s.DSN)
	_, err = db.ExecContext(t.Context(), "SELECT * FROM kept")
	require.NoError(t, err, "what stood in it is there")
	_, err = db.ExecContext(t.Context(), "CREATE DATABASE other")
	require.Error(t, err)
	info, err := os.Stat(dir)
	require.NoError(t, err)
	assert.Equal(t, os.FileMode(0o700), info.Mode().Perm())
}

// Data that was never ready is made again; what was once ready never is.
func TestAFirstStartThatWasKilledIsMadeAgain(t *testing.T) {
	dir := folder(t)
	s := start(t, dir)
	require.NoError(t, s.Stop())
	mark := filepath.Join(dir, "data", firstMark)
	require.NoFileExists(t, mark)
	require.NoError(t, os.WriteFile(mark, nil, 0o600))
	require.NoError(t, os.WriteFile(filepath.Join(dir, "data", "ibdata1"), []byte("half"), 0o600))
	s = start(t, dir)
	db := connect(t, s.DSN)
	_, err := db.ExecContext(t.Context(), "CREATE TABLE kept (id INT)")
	require.NoError(t, err)
	require.NoError(t, s.Stop())
	s = start(t, dir)
	defer func() { assert.NoError(t, s.Stop()) }()
	_, err = connect(t, s.DSN).ExecContext(t.Context(), "SELECT * FROM kept")
	require.NoError(t, err)
}

func TestAFolderThatTheServerCantReachIsToldInWords(t *testing.T) {
	if os.Geteuid() != 0 {
		t.Skip("the server runs as another user only under root")
	}
	dir := folder(t)
	require.NoError(t, os.Chmod(filepath.Dir(dir), 0o700))
	_, err := Start(t.Context(), Options{Dir: dir})
	require.ErrorContains(t, err, "choose another data folder")
}
