// Package cluster keeps a private PostgreSQL cluster in a data directory: made on the
// first start, listening on 127.0.0.1 alone, stopped with the application. After a
// crash the next start takes a server that still runs, or starts it and lets it
// recover. PostgreSQL refuses to run as root; for root it runs as the user postgres.
package cluster

import (
	"context"
	"crypto/rand"
	"encoding/hex"
	"errors"
	"fmt"
	"net"
	"net/url"
	"os"
	"os/exec"
	"os/user"
	"path/filepath"
	"slices"
	"strconv"
	"strings"
	"syscall"
	"time"

	"github.com/jackc/pgx/v5"
)

// Cluster is a running server.
type Cluster struct {
	URL string // for the connection pool

	bin, dir string
	as       *syscall.Credential
}

// Start makes the cluster below dir where there is none, and starts it where it does
// not run.
func Start(ctx context.Context, dir string) (*Cluster, error) {
	dir, err := filepath.Abs(dir)
	if err != nil {
		return nil, err
	}
	c := &Cluster{dir: filepath.Join(dir, "postgres")}
	if c.bin, err = binaries(); err != nil {
		return nil, err
	}
	if c.as, err = runAs(); err != nil {
		return nil, err
	}
	if err := os.MkdirAll(dir, 0o711); err != nil {
		return nil, err
	}
	password, err := c.initialise()
	if err != nil {
		return nil, err
	}
	for {
		port, running := c.running()
		if !running {
			if port, err = c.start(); err != nil {
				return nil, err
			}
		}
		c.URL = c.address(port, password)
		// A server that was found running may have been killed a moment ago.
		if err := c.wait(ctx); !errors.Is(err, errGone) {
			return c, err
		}
	}
}

// Running gives the address of a server that runs below dir, for other processes of this host.
func Running(dir string) (address string, ok bool) {
	dir, err := filepath.Abs(dir)
	if err != nil {
		return "", false
	}
	c := &Cluster{dir: filepath.Join(dir, "postgres")}
	port, running := c.running()
	password, err := os.ReadFile(c.dir + ".password")
	if !running || err != nil {
		return "", false
	}
	return c.address(port, string(password)), true
}

func (c *Cluster) address(port int, password string) string {
	u := url.URL{Scheme: "postgres", User: url.UserPassword("grandledger", password), Host: fmt.Sprintf("127.0.0.1:%d", port),
		Path: "/postgres", RawQuery: "sslmode=disable&pool_max_conns=20"}
	return u.String()
}

// errGone says that the server ended while it was waited for.
var errGone = errors.New("the server is gone")

// Stop ends the server, waiting for it.
func (c *Cluster) Stop() error {
	_, err := c.run("pg_ctl", "stop", "-D", c.dir, "-m", "fast", "-w", "-t", "60")
	return err
}

// binaries finds the newest server of Debian's packages, or one on the PATH.
func binaries() (string, error) {
	found, _ := filepath.Glob("/usr/lib/postgresql/*/bin/initdb")
	slices.SortFunc(found, func(a, b string) int { return major(b) - major(a) })
	if len(found) > 0 {
		return filepath.Dir(found[0]), nil
	}
	if p, err := exec.LookPath("initdb"); err == nil {
		return filepath.Dir(p), nil
	}
	return "", errors.New("PostgreSQL is not installed. Run: apt-get install postgresql")
}

func major(path string) int {
	n, _ := strconv.Atoi(filepath.Base(filepath.Dir(filepath.Dir(path))))
	return n
}

// runAs is the user postgres where this process is root, and nil otherwise.
func runAs() (*syscall.Credential, error) {
	if os.Getuid() != 0 {
		return nil, nil
	}
	u, err := user.Lookup("postgres")
	if err != nil {
		return nil, errors.New("PostgreSQL refuses to run as root and there is no user postgres. Run: apt-get install postgresql")
	}
	uid, _ := strconv.ParseUint(u.Uid, 10, 32)
	gid, _ := strconv.ParseUint(u.Gid, 10, 32)
	return &syscall.Credential{Uid: uint32(uid), Gid: uint32(gid)}, nil
}

func (c *Cluster) run(program string, args ...string) (string, error) {
	cmd := exec.Command(filepath.Join(c.bin, program), args...)
	cmd.Dir = "/"
	cmd.Env = []string{"LC_ALL=C", "PATH=/usr/bin:/bin", "TZ=UTC"}
	cmd.SysProcAttr = &syscall.SysProcAttr{Credential: c.as, Setpgid: true} // Ctrl-C is for us to handle
	out, err := cmd.CombinedOutput()
	if err != nil {
		return "", fmt.Errorf("%s: %w: %s", program, err, strings.TrimSpace(string(out)))
	}
	return string(out), nil
}

// initialise makes the cluster once and gives its password, which is kept beside it.
func (c *Cluster) initialise() (string, error) {
	file := c.dir + ".password"
	password, err := os.ReadFile(file)
	if err == nil {
		if _, err := os.Stat(filepath.Join(c.dir, "PG_VERSION")); err == nil {
			return string(password), nil
		}
	}
	raw := make([]byte, 24)
	if _, err := rand.Read(raw); err != nil {
		return "", err
	}
	password = []byte(hex.EncodeToString(raw))
	// Made under another name and renamed, so that a crash leaves no half a cluster.
	fresh := c.dir + ".new"
	if err := os.RemoveAll(fresh); err != nil {
		return "", err
	}
	if err := os.MkdirAll(fresh, 0o700); err != nil {
		return "", err
	}
	pw, err := os.CreateTemp("", "grandledger-*")
	if err != nil {
		return "", err
	}
	defer os.Remove(pw.Name())
	defer pw.Close()
	if _, err := pw.Write(password); err != nil {
		return "", err
	}
	if c.as != nil {
		for _, path := range []string{fresh, pw.Name()} {
			if err := os.Chown(path, int(c.as.Uid), int(c.as.Gid)); err != nil {
				return "", err
			}
		}
	}
	if err := c.reachable(fresh); err != nil {
		return "", err
	}
	if _, err := c.run("initdb", "-D", fresh, "-U", "grandledger", "--pwfile", pw.Name(), "--auth", "scram-sha-256",
		"--encoding", "UTF8", "--locale", "C"); err != nil {
		return "", fmt.Errorf("making the database cluster: %w", err)
	}
	if err := os.WriteFile(file, password, 0o600); err != nil {
		return "", err
	}
	return string(password), os.Rename(fresh, c.dir)
}

// reachable makes sure that the user postgres can walk down to a directory.
func (c *Cluster) reachable(dir string) error {
	if c.as == nil {
		return nil
	}
	cmd := exec.Command("/bin/ls", dir)
	cmd.Dir = "/"
	cmd.SysProcAttr = &syscall.SysProcAttr{Credential: c.as}
	if err := cmd.Run(); err != nil {
		return fmt.Errorf("the user postgres cannot reach %s. Choose a data directory outside /root, or run: chmod o+x on the directories above it", dir)
	}
	return nil
}

// running gives the port of a server that runs on this cluster. A postmaster.pid left
// by a server that was killed, whose number is now a zombie's or another program's, is
// removed: PostgreSQL itself would take it for a running server and refuse to start.
func (c *Cluster) running() (int, bool) {
	file := filepath.Join(c.dir, "postmaster.pid")
	text, err := os.ReadFile(file)
	lines := strings.Split(string(text), "\n")
	if err != nil || len(lines) < 4 {
		return 0, false
	}
	stat, err := os.ReadFile(filepath.Join("/proc", strings.TrimSpace(lines[0]), "stat"))
	if err != nil || !strings.Contains(string(stat), "(postgres)") || strings.Contains(string(stat), ") Z ") {
		os.Remove(file)
		return 0, false
	}
	port, err := strconv.Atoi(strings.TrimSpace(lines[3]))
	return port, err == nil
}

// start starts the server on the port of last time, or on a free one where that is
// taken.
func (c *Cluster) start() (int, error) {
	file := c.dir + ".port"
	text, _ := os.ReadFile(file)
	port, _ := strconv.Atoi(string(text))
	if !free(port) {
		l, err := net.Listen("tcp", "127.0.0.1:0")
		if err != nil {
			return 0, err
		}
		port = l.Addr().(*net.TCPAddr).Port
		l.Close()
		if err := os.WriteFile(file, []byte(strconv.Itoa(port)), 0o600); err != nil {
			return 0, err
		}
	}
	// The log is the cluster's own file; the reason of a failed start is its last lines.
	log := filepath.Join(c.dir, "server.log")
	options := fmt.Sprintf("-p %d -c listen_addresses=127.0.0.1 -c unix_socket_directories='' -c logging_collector=off -c shared_buffers=256MB -c max_wal_size=2GB -c wal_compression=off", port)
	for try := 1; ; try++ {
		_, err := c.run("pg_ctl", "start", "-D", c.dir, "-w", "-t", "120", "-l", log, "-o", options)
		if err == nil {
			return port, nil
		}
		// The children of a server that was killed end by themselves within moments.
		if why := tail(log); try == 20 || !strings.Contains(why, "still in use") {
			return 0, fmt.Errorf("starting PostgreSQL: %w\n%s", err, why)
		}
		time.Sleep(500 * time.Millisecond)
	}
}

func free(port int) bool {
	if port == 0 {
		return false
	}
	l, err := net.Listen("tcp", fmt.Sprintf("127.0.0.1:%d", port))
	if err != nil {
		return false
	}
	return l.Close() == nil
}

func tail(file string) string {
	text, _ := os.ReadFile(file)
	lines := strings.Split(strings.TrimSpace(string(text)), "\n")
	return strings.Join(lines[max(0, len(lines)-5):], "\n")
}

// wait waits until the server answers; after a crash it may be recovering.
func (c *Cluster) wait(ctx context.Context) error {
	ctx, cancel := context.WithTimeout(ctx, 2*time.Minute)
	defer cancel()
	for {
		conn, err := pgx.Connect(ctx, strings.Replace(c.URL, "&pool_max_conns=20", "", 1))
		if err == nil {
			return conn.Close(ctx)
		}
		if _, running := c.running(); !running {
			return errGone
		}
		select {
		case <-ctx.Done():
			return fmt.Errorf("PostgreSQL does not answer: %w", err)
		case <-time.After(100 * time.Millisecond):
		}
	}
}
