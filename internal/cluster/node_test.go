//go:build cluster

// Package cluster_test runs the application on a replicated database of three
// nodes, which are killed and cut off while people work. make cluster-test.
package cluster_test

import (
	"context"
	"database/sql"
	"fmt"
	"net"
	"os"
	"os/exec"
	"os/user"
	"path/filepath"
	"strconv"
	"strings"
	"syscall"
	"testing"
	"time"

	"github.com/go-sql-driver/mysql"
	"github.com/stretchr/testify/require"
)

const galera = "/usr/lib/galera/libgalera_smm.so"

// node is a server of the cluster.
type node struct {
	name                      string
	dir                       string
	port, group, ist, receive int
	cmd                       *exec.Cmd
	ended                     chan struct{}
}

// cluster is three nodes that replicate each other.
type cluster struct {
	nodes [3]*node
	cred  *syscall.Credential
}

func port(t *testing.T) int {
	t.Helper()
	l, err := net.Listen("tcp", "127.0.0.1:0")
	require.NoError(t, err)
	defer l.Close()
	return l.Addr().(*net.TCPAddr).Port
}

// form starts a cluster with an empty schema and a user for the application.
func form(t *testing.T) *cluster {
	t.Helper()
	above, err := os.MkdirTemp("", "coldtap-cluster")
	require.NoError(t, err)
	require.NoError(t, os.Chmod(above, 0o755))
	t.Cleanup(func() { os.RemoveAll(above) })
	c := &cluster{}
	if os.Geteuid() == 0 {
		u, err := user.Lookup("mysql")
		require.NoError(t, err)
		uid, _ := strconv.Atoi(u.Uid)
		gid, _ := strconv.Atoi(u.Gid)
		c.cred = &syscall.Credential{Uid: uint32(uid), Gid: uint32(gid)}
	}
	for i := range c.nodes {
		n := &node{name: fmt.Sprint("node", i+1), dir: filepath.Join(above, fmt.Sprint("node", i+1)), port: port(t),
			group: port(t), ist: port(t), receive: port(t)}
		c.nodes[i] = n
		require.NoError(t, os.Mkdir(n.dir, 0o700))
		args := []string{"--no-defaults", "--datadir=" + n.dir + "/data", "--auth-root-authentication-method=normal",
			"--skip-test-db", "--skip-name-resolve", "--innodb-log-file-size=8M"}
		if c.cred != nil {
			require.NoError(t, os.Chown(n.dir, int(c.cred.Uid), int(c.cred.Gid)))
			args = append(args, "--user=mysql")
		}
		out, err := exec.Command("mariadb-install-db", args...).CombinedOutput()
		require.NoError(t, err, "%s", out)
	}
	c.start(t, 0, true)
	root, err := sql.Open("mysql", fmt.Sprintf("root@unix(%s/db.sock)/", c.nodes[0].dir))
	require.NoError(t, err)
	defer root.Close()
	for _, q := range []string{"CREATE USER app@'127.0.0.1' IDENTIFIED BY 'app'", "CREATE DATABASE coldtap",
		"GRANT ALL ON coldtap.* TO app@'127.0.0.1'"} {
		_, err := root.ExecContext(t.Context(), q)
		require.NoError(t, err)
	}
	c.start(t, 1, false)
	c.start(t, 2, false)
	t.Cleanup(func() {
		for _, n := range c.nodes {
			n.kill()
		}
	})
	return c
}

// start starts a node and waits until it takes part: the first one of a new cluster, or one
// that joins.
func (c *cluster) start(t *testing.T, i int, first bool) {
	t.Helper()
	n := c.nodes[i]
	var group []string
	for _, other := range c.nodes {
		group = append(group, fmt.Sprintf("127.0.0.1:%d", other.group))
	}
	address := "gcomm://" + strings.Join(group, ",")
	if first {
		address = "gcomm://"
	}
	n.cmd = exec.Command("/usr/sbin/mariadbd", "--no-defaults", "--datadir="+n.dir+"/data", "--tmpdir="+n.dir,
		"--socket="+n.dir+"/db.sock", "--pid-file="+n.dir+"/pid", "--log-error="+n.dir+"/log.err", "--bind-address=127.0.0.1",
		fmt.Sprint("--port=", n.port), "--skip-name-resolve", "--binlog-format=ROW", "--innodb-autoinc-lock-mode=2",
		"--innodb-log-file-size=8M", "--innodb-buffer-pool-size=64M", "--innodb-flush-log-at-trx-commit=0",
		"--wsrep-on=ON", "--wsrep-provider="+galera, "--wsrep-cluster-name=coldtap", "--wsrep-cluster-address="+address,
		"--wsrep-node-name="+n.name, fmt.Sprintf("--wsrep-node-address=127.0.0.1:%d", n.group),
		"--wsrep-node-incoming-address="+fmt.Sprintf("127.0.0.1:%d", n.port), "--wsrep-sst-method=rsync",
		fmt.Sprintf("--wsrep-sst-receive-address=127.0.0.1:%d", n.receive), "--character-set-server=utf8mb4",
		fmt.Sprintf("--wsrep-provider-options=gmcast.listen_addr=tcp://127.0.0.1:%d;ist.recv_addr=127.0.0.1:%d;"+
			"gcache.size=32M;evs.keepalive_period=PT0.5S;evs.suspect_timeout=PT2S;evs.inactive_timeout=PT5S", n.group, n.ist))
	n.cmd.SysProcAttr = &syscall.SysProcAttr{Setpgid: true, Credential: c.cred}
	require.NoError(t, n.cmd.Start())
	n.ended = make(chan struct{})
	go func(cmd *exec.Cmd, ended chan struct{}) {
		_ = cmd.Wait()
		close(ended)
	}(n.cmd, n.ended)
	for began := time.Now(); !n.synced(); time.Sleep(200 * time.Millisecond) {
		if time.Since(began) > 90*time.Second {
			t.Fatalf("%s does not take part; its log ends with:\n%s", n.name, n.log())
		}
	}
}

func (n *node) log() string {
	b, _ := os.ReadFile(n.dir + "/log.err")
	lines := strings.Split(string(b), "\n")
	return strings.Join(lines[max(0, len(lines)-15):], "\n")
}

// synced reports whether the node takes part in the cluster.
func (n *node) synced() bool {
	db, err := sql.Open("mysql", fmt.Sprintf("root@unix(%s/db.sock)/", n.dir))
	if err != nil {
		return false
	}
	defer db.Close()
	ctx, cancel := context.WithTimeout(context.Background(), time.Second)
	defer cancel()
	var name, value string
	err = db.QueryRowContext(ctx, "SHOW STATUS LIKE 'wsrep_local_state_comment'").Scan(&name, &value)
	return err == nil && value == "Synced"
}

// kill ends a node as a power cut would.
func (n *node) kill() {
	if n.cmd == nil || n.cmd.Process == nil {
		return
	}
	_ = syscall.Kill(-n.cmd.Process.Pid, syscall.SIGKILL)
	<-n.ended
}

// dsn is what an application reaches some addresses by.
func dsn(addresses ...string) string {
	c := mysql.NewConfig()
	c.User, c.Passwd, c.Net, c.Addr, c.DBName = "app", "app", "tcp", strings.Join(addresses, ","), "coldtap"
	return c.FormatDSN()
}

func (n *node) address() string { return fmt.Sprintf("127.0.0.1:%d", n.port) }

// desync takes a node out of its group, as a network would that parts it from the others: it
// runs on, and takes no part.
func (n *node) desync(t *testing.T) {
	t.Helper()
	db, err := sql.Open("mysql", fmt.Sprintf("root@unix(%s/db.sock)/", n.dir))
	require.NoError(t, err)
	defer db.Close()
	_, err = db.ExecContext(t.Context(), "SET GLOBAL wsrep_provider_options = 'gmcast.isolate=1'")
	require.NoError(t, err)
}
