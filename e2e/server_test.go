// Package e2e drives the real interface of the real binary in headless Chromium.
package e2e

import (
	"bufio"
	"bytes"
	"context"
	"encoding/json"
	"fmt"
	"io"
	"net/http"
	"os"
	"os/exec"
	"path/filepath"
	"regexp"
	"strings"
	"syscall"
	"testing"
	"time"
)

// demoTables is how many tables the demo book has.
const demoTables = 7

// binary is grandledger as built for the tests.
var binary string

func TestMain(m *testing.M) {
	os.Exit(func() int {
		if _, err := os.Stat("../web/dist/index.html"); err != nil {
			fmt.Fprintln(os.Stderr, "the pages are not built; run ./test, or npm run build in web")
			return 1
		}
		dir, err := os.MkdirTemp("", "grandledger-e2e-")
		if err != nil {
			fmt.Fprintln(os.Stderr, err)
			return 1
		}
		defer os.RemoveAll(dir)
		binary = filepath.Join(dir, "grandledger")
		if out, err := exec.Command("go", "build", "-o", binary, "../cmd/grandledger").CombinedOutput(); err != nil {
			fmt.Fprintf(os.Stderr, "%s\n%v\n", out, err)
			return 1
		}
		return m.Run()
	}())
}

// running is a served Grand Ledger with a data directory of its own.
type running struct {
	t    *testing.T
	base string
	data string
	cmd  *exec.Cmd
	done chan struct{} // closed once the process has ended
}

// dataDir is a directory that the user postgres can reach, and that goes with the test.
func dataDir(t *testing.T) string {
	t.Helper()
	dir, err := os.MkdirTemp("", "grandledger-e2e-data-")
	if err != nil {
		t.Fatal(err)
	}
	if err := os.Chmod(dir, 0o711); err != nil {
		t.Fatal(err)
	}
	t.Cleanup(func() {
		if err := os.RemoveAll(dir); err != nil {
			t.Error(err)
		}
	})
	return dir
}

// serve starts grandledger on a free port and waits until it says where it is open.
func serve(t *testing.T, data string, args ...string) *running {
	t.Helper()
	r := &running{t: t, data: data, done: make(chan struct{})}
	r.cmd = exec.Command(binary, append([]string{"serve", "--addr", "127.0.0.1:0", "--data", data}, args...)...)
	r.cmd.Stderr = os.Stderr
	out, err := r.cmd.StdoutPipe()
	if err != nil {
		t.Fatal(err)
	}
	if err := r.cmd.Start(); err != nil {
		t.Fatal(err)
	}
	address := make(chan string, 1)
	go func() {
		lines := bufio.NewScanner(out)
		for lines.Scan() {
			if m := regexp.MustCompile(`http://\S+`).FindString(lines.Text()); m != "" {
				address <- m
			}
		}
		r.cmd.Wait()
		close(r.done)
	}()
	select {
	case r.base = <-address:
	case <-r.done:
		t.Fatal("grandledger ended before it was open")
	case <-time.After(2 * time.Minute):
		t.Fatal("grandledger did not open")
	}
	t.Cleanup(r.close)
	return r
}

// close ends it as Ctrl-C does, and checks that it went cleanly.
func (r *running) close() {
	select {
	case <-r.done:
		return
	default:
	}
	if err := r.cmd.Process.Signal(os.Interrupt); err != nil {
		r.t.Error(err)
	}
	<-r.done
	if code := r.cmd.ProcessState.ExitCode(); code != 0 {
		r.t.Errorf("grandledger ended with status %d", code)
	}
	if _, err := os.Stat(filepath.Join(r.data, "postgres", "postmaster.pid")); err == nil {
		r.t.Error("PostgreSQL was left running")
	}
}

// kill ends the server without warning, and PostgreSQL as well if asked.
func (r *running) kill(postgres bool) {
	r.t.Helper()
	if postgres {
		pid, err := os.ReadFile(filepath.Join(r.data, "postgres", "postmaster.pid"))
		if err != nil {
			r.t.Fatal(err)
		}
		var n int
		if _, err := fmt.Sscan(strings.SplitN(string(pid), "\n", 2)[0], &n); err != nil {
			r.t.Fatal(err)
		}
		if err := syscall.Kill(n, syscall.SIGKILL); err != nil {
			r.t.Fatal(err)
		}
	}
	if err := r.cmd.Process.Kill(); err != nil {
		r.t.Fatal(err)
	}
	<-r.done
}

// call speaks to the API and decodes the answer.
func (r *running) call(method, path string, body, into any) int {
	r.t.Helper()
	status, err := r.try(method, path, body, into)
	if err != nil {
		r.t.Fatalf("%s %s: %v", method, path, err)
	}
	return status
}

// try is call for a server that may be gone.
func (r *running) try(method, path string, body, into any) (int, error) {
	var in io.Reader
	contentType := "application/json"
	switch b := body.(type) {
	case nil:
	case []byte:
		in, contentType = bytes.NewReader(b), "application/octet-stream"
	default:
		raw, err := json.Marshal(b)
		if err != nil {
			return 0, err
		}
		in = bytes.NewReader(raw)
	}
	ctx, cancel := context.WithTimeout(context.Background(), time.Minute)
	defer cancel()
	req, err := http.NewRequestWithContext(ctx, method, r.base+"/api"+path, in)
	if err != nil {
		return 0, err
	}
	req.Header.Set("Content-Type", contentType)
	req.Header.Set("Idempotency-Key", fmt.Sprint("e2e-", time.Now().UnixNano()))
	res, err := http.DefaultClient.Do(req)
	if err != nil {
		return 0, err
	}
	defer res.Body.Close()
	raw, err := io.ReadAll(res.Body)
	if err != nil {
		return 0, err
	}
	if s, ok := into.(*string); ok {
		*s = string(raw)
	} else if into != nil && len(raw) > 0 {
		if err := json.Unmarshal(raw, into); err != nil {
			return res.StatusCode, fmt.Errorf("%s: %w", raw, err)
		}
	}
	return res.StatusCode, nil
}
