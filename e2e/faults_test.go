package e2e

import (
	"bytes"
	"fmt"
	"io"
	"math/rand/v2"
	"net"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"grandledger/store/cluster"
)

type contents struct {
	Tables []struct {
		ID, Rows, Next int
		Revision       int64
		Name           string
	}
}

func (r *running) contents() (c contents) {
	r.call("GET", "/books/1", nil, &c)
	return c
}

// landings is a file large enough to be killed in the middle of.
func landings(rows int) []byte {
	var b bytes.Buffer
	b.WriteString("no,vessel,species,kg\n")
	r := rand.New(rand.NewPCG(71, 72))
	for i := range rows {
		fmt.Fprintf(&b, "LK-%06d,vessel %d,species %d,%.1f\n", i, r.IntN(9000), r.IntN(80), r.Float64()*900)
	}
	return b.Bytes()
}

// Killed without warning at random moments while files are brought in and entries are
// posted, alone and together with PostgreSQL: after each start every table is whole,
// every balance holds, no job is lost or done twice, and no received file stays behind.
func TestKilledAtAnyMoment(t *testing.T) {
	data := dataDir(t)
	file := landings(150_000)
	chance := rand.New(rand.NewPCG(73, 74))
	brought := 0
	const rounds = 10
	for round := range rounds {
		r := serve(t, data, "--demo")
		checkWhole(t, r)

		var up struct{ ID int }
		if status := r.call("POST", "/books/1/uploads?name=many.csv", file, &up); status != 201 {
			t.Fatalf("upload: status %d", status)
		}
		dialect := map[string]any{"encoding": "utf-8", "delimiter": ",", "quote": `"`, "names": 1}
		r.call("POST", "/books/1/bring-in", []map[string]any{{"name": fmt.Sprint("Many ", round), "uploads": []int{up.ID},
			"how": map[string]any{"format": "delimited", "text": dialect}}}, nil)
		brought++
		killed := make(chan struct{})
		go func() {
			time.Sleep(time.Duration(chance.IntN(900)) * time.Millisecond) // the moment is the point; nothing waits on it
			r.kill(round%3 == 2)
			close(killed)
		}()
		// Entries are posted on a demo table all the while.
		for {
			var table struct{ Revision int64 }
			status, err := r.try("GET", "/tables/1", nil, &table)
			if err != nil || status != 200 {
				break
			}
			letter := []string{"upper", "lower"}[chance.IntN(2)]
			_, err = r.try("POST", "/tables/1/entries", map[string]any{"revision": table.Revision, "kind": "tidy",
				"params": map[string]any{"columns": []string{"vessel", "skipper"}, "case": letter}}, nil)
			if err != nil {
				break
			}
		}
		<-killed
	}
	// The last start takes up what was interrupted; every file ends up as one table.
	r := serve(t, data, "--demo")
	deadline := time.Now().Add(2 * time.Minute)
	for {
		var jobs []struct{ State string }
		r.call("GET", "/books/1/jobs", nil, &jobs)
		open := 0
		for _, j := range jobs {
			if j.State == "waiting" || j.State == "working" {
				open++
			}
			if j.State == "failed" || j.State == "cancelled" {
				t.Fatalf("a job ended as %s", j.State)
			}
		}
		if open == 0 && len(jobs) == brought {
			break
		}
		if time.Now().After(deadline) {
			t.Fatalf("%d of %d jobs are still open", open, len(jobs))
		}
		time.Sleep(100 * time.Millisecond) // asks again; the loop above decides
	}
	checkWhole(t, r)
	many := 0
	for _, tab := range r.contents().Tables {
		if strings.HasPrefix(tab.Name, "Many") {
			many++
			var text string
			r.call("GET", fmt.Sprintf("/tables/%d/publish", tab.ID), nil, &text)
			if text != string(file) {
				t.Errorf("%s is not what was brought in", tab.Name)
			}
		}
	}
	if many != brought {
		t.Errorf("%d files became %d tables", brought, many)
	}
	left, err := os.ReadDir(filepath.Join(data, "uploads"))
	if err != nil || len(left) > 0 {
		t.Errorf("%d received files stayed behind (%v)", len(left), err)
	}
}

// checkWhole reads every table to the last row and adds up its journal.
func checkWhole(t *testing.T, r *running) {
	t.Helper()
	for _, tab := range r.contents().Tables {
		var text string
		if status := r.call("GET", fmt.Sprintf("/tables/%d/publish", tab.ID), nil, &text); status != 200 {
			t.Fatalf("%s cannot be read: status %d", tab.Name, status)
		}
		if got := strings.Count(text, "\n") - 1; got != tab.Rows {
			t.Errorf("%s has %d rows and says %d", tab.Name, got, tab.Rows)
		}
		var journal []struct {
			Number int
			State  string
			Effect struct {
				Balance struct{ Before, Added, SetAside, Merged, After int }
			}
		}
		r.call("GET", fmt.Sprintf("/tables/%d/entries", tab.ID), nil, &journal)
		rows := 0
		for i, e := range journal {
			b := e.Effect.Balance
			if e.Number != i || b.Before != rows || b.Before+b.Added-b.SetAside-b.Merged != b.After {
				t.Errorf("%s, entry %d does not balance: %+v after %d rows", tab.Name, e.Number, b, rows)
			}
			rows = b.After
		}
		if rows != tab.Rows || len(journal) != tab.Next {
			t.Errorf("%s: the journal ends at %d rows, the table has %d", tab.Name, rows, tab.Rows)
		}
	}
}

// An upload that is cut off in the middle leaves nothing behind.
func TestUploadCutOff(t *testing.T) {
	r := serve(t, dataDir(t), "--demo")
	conn, err := net.Dial("tcp", strings.TrimPrefix(r.base, "http://"))
	if err != nil {
		t.Fatal(err)
	}
	fmt.Fprintf(conn, "POST /api/books/1/uploads?name=cut.csv HTTP/1.1\r\nHost: 127.0.0.1\r\nContent-Type: application/octet-stream\r\nContent-Length: 100000000\r\n\r\n")
	if _, err := conn.Write(bytes.Repeat([]byte("a,b\n"), 500_000)); err != nil {
		t.Fatal(err)
	}
	uploads := filepath.Join(r.data, "uploads")
	waitFor(t, "the upload to begin", func() bool { files, _ := os.ReadDir(uploads); return len(files) == 1 })
	conn.Close()
	waitFor(t, "the upload to be removed", func() bool { files, _ := os.ReadDir(uploads); return len(files) == 0 })
	if got := len(r.contents().Tables); got != demoTables {
		t.Errorf("%d tables, want the demo's 3", got)
	}
}

func waitFor(t *testing.T, what string, so func() bool) {
	t.Helper()
	for deadline := time.Now().Add(patience); !so(); time.Sleep(20 * time.Millisecond) {
		if time.Now().After(deadline) {
			t.Fatalf("waited in vain for %s", what)
		}
	}
}

// A taken port, a data directory in use and an address beyond the loopback are said
// clearly.
func TestServeRefusals(t *testing.T) {
	r := serve(t, dataDir(t))
	for _, c := range []struct {
		args   []string
		says   string
		status int
	}{
		{[]string{"--addr", strings.TrimPrefix(r.base, "http://"), "--data", t.TempDir()}, "is taken", 1},
		{[]string{"--addr", "127.0.0.1:0", "--data", r.data}, "another Grand Ledger works in", 1},
		{[]string{"--addr", "0.0.0.0:8460"}, "loopback", 2},
		{[]string{"--addr", "nonsense"}, "not an address", 2},
	} {
		cmd := exec.Command(binary, append([]string{"serve"}, c.args...)...)
		stderr, err := cmd.StderrPipe()
		if err != nil {
			t.Fatal(err)
		}
		if err := cmd.Start(); err != nil {
			t.Fatal(err)
		}
		said, _ := io.ReadAll(stderr)
		cmd.Wait()
		if !strings.Contains(string(said), c.says) || cmd.ProcessState.ExitCode() != c.status {
			t.Errorf("%v: status %d, %s", c.args, cmd.ProcessState.ExitCode(), said)
		}
	}
}

// With DATABASE_URL set, that server is used and none is started.
func TestServerOfOnesOwn(t *testing.T) {
	c, stop, err := cluster.Throwaway(t.Context())
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(func() {
		if err := stop(); err != nil {
			t.Error(err)
		}
	})
	t.Setenv("DATABASE_URL", c.URL)
	r := serve(t, dataDir(t), "--demo")
	if got := len(r.contents().Tables); got != demoTables {
		t.Errorf("%d tables, want the demo's 3", got)
	}
	if _, err := os.Stat(filepath.Join(r.data, "postgres")); err == nil {
		t.Error("a cluster was made all the same")
	}
}
