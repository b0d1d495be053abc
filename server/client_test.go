package server_test

import (
	"bytes"
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"net/http"
	"net/http/httptest"
	"os"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"grandledger/server"
	"grandledger/store"
	"grandledger/store/storetest"
)

// client speaks to a server of its own on a database of its own.
type client struct {
	t       testing.TB
	url     string
	uploads string
	files   string // from which files may be brought in by path
	keys    int
	srv     *server.Server
}

func serve(t testing.TB) *client {
	t.Helper()
	ctx, stop := context.WithCancel(context.Background())
	s, err := store.Open(ctx, storetest.Database(t))
	if err != nil {
		t.Fatal(err)
	}
	c := &client{t: t, uploads: filepath.Join(t.TempDir(), "uploads"), files: t.TempDir()}
	srv, err := server.New(ctx, s, c.uploads, []string{c.files}, []string{standinAt})
	if err != nil {
		t.Fatal(err)
	}
	c.srv = srv
	ended := make(chan error, 1)
	go func() { ended <- srv.Run(ctx) }()
	h := httptest.NewServer(srv.Handler())
	c.url = h.URL
	t.Cleanup(func() {
		stop()
		h.CloseClientConnections()
		h.Close()
		if err := <-ended; err != nil && !errors.Is(err, context.Canceled) {
			t.Error(err)
		}
		s.Close()
	})
	// Run makes the directory of received files before it takes on work.
	for deadline := time.Now().Add(20 * time.Second); ; time.Sleep(10 * time.Millisecond) {
		if _, err := os.Stat(c.uploads); err == nil {
			break
		} else if time.Now().After(deadline) {
			t.Fatal("the server did not begin")
		}
	}
	c.call("POST", "/books", map[string]string{"name": "Terns"}, nil)
	return c
}

// answer is any answer of the API.
type answer map[string]any

func (c *client) call(method, path string, body any, into any) int {
	c.t.Helper()
	var in io.Reader
	switch b := body.(type) {
	case nil:
	case string:
		in = strings.NewReader(b)
	default:
		raw, err := json.Marshal(b)
		if err != nil {
			c.t.Fatal(err)
		}
		in = bytes.NewReader(raw)
	}
	req, err := http.NewRequest(method, c.url+"/api"+path, in)
	if err != nil {
		c.t.Fatal(err)
	}
	c.keys++
	req.Header.Set("Content-Type", "application/json")
	req.Header.Set("Idempotency-Key", fmt.Sprint("test-key-", c.keys))
	if strings.Contains(path, "/uploads?") || strings.Contains(path, "/file?name=") {
		req.Header.Set("Content-Type", "application/octet-stream")
	}
	res, err := http.DefaultClient.Do(req)
	if err != nil {
		c.t.Fatal(err)
	}
	defer res.Body.Close()
	raw, err := io.ReadAll(res.Body)
	if err != nil {
		c.t.Fatal(err)
	}
	if s, ok := into.(*string); ok {
		*s = string(raw)
	} else if into != nil {
		if err := json.Unmarshal(raw, into); err != nil {
			c.t.Fatalf("%s %s: %s: %v", method, path, raw, err)
		}
	}
	if res.StatusCode >= 400 && res.Header.Get("Content-Type") != "application/problem+json" && strings.HasPrefix(path, "/") {
		c.t.Errorf("%s %s: status %d is no problem document: %s", method, path, res.StatusCode, raw)
	}
	return res.StatusCode
}

// bringIn brings a text in and gives its table.
func (c *client) bringIn(name, text string) int64 {
	c.t.Helper()
	var up struct {
		ID      int64
		Preview struct{ How any }
	}
	if status := c.call("POST", "/books/1/uploads?name="+name+".csv", text, &up); status != 201 {
		c.t.Fatalf("upload: status %d", status)
	}
	var made []struct{ ID int64 }
	if status := c.call("POST", "/books/1/bring-in", []answer{{"name": name, "uploads": []int64{up.ID}, "how": up.Preview.How}}, &made); status != 202 {
		c.t.Fatalf("bring in: status %d", status)
	}
	return c.finished(made[0].ID)
}

// finished waits for a job to make its table.
func (c *client) finished(id int64) int64 {
	c.t.Helper()
	for deadline := time.Now().Add(time.Minute); time.Now().Before(deadline); time.Sleep(20 * time.Millisecond) {
		var job struct {
			Table   int64
			State   string
			Problem answer
		}
		c.call("GET", fmt.Sprintf("/jobs/%d", id), nil, &job)
		switch job.State {
		case "done":
			return job.Table
		case "failed", "cancelled":
			c.t.Fatalf("the job %s: %v", job.State, job.Problem)
		}
	}
	c.t.Fatal("the job did not end")
	return 0
}

// failed waits for a job to fail and gives its problem.
func (c *client) failed(id int64) (p struct{ Detail, File, Column, Remedy string }) {
	c.t.Helper()
	for deadline := time.Now().Add(time.Minute); time.Now().Before(deadline); time.Sleep(20 * time.Millisecond) {
		var job struct {
			State   string
			Problem struct{ Detail, File, Column, Remedy string }
		}
		c.call("GET", fmt.Sprintf("/jobs/%d", id), nil, &job)
		switch job.State {
		case "failed":
			return job.Problem
		case "done", "cancelled":
			c.t.Fatalf("the job is %s", job.State)
		}
	}
	c.t.Fatal("the job did not end")
	return p
}
