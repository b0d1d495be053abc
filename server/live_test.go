package server_test

import (
	"bufio"
	"context"
	"fmt"
	"math/rand/v2"
	"net/http"
	"strings"
	"testing"
	"time"
)

// listen opens the event stream and hands over its lines.
func (c *client) listen() <-chan string {
	c.t.Helper()
	ctx, stop := context.WithCancel(context.Background())
	c.t.Cleanup(stop)
	req, err := http.NewRequestWithContext(ctx, "GET", c.url+"/api/events", nil)
	if err != nil {
		c.t.Fatal(err)
	}
	res, err := http.DefaultClient.Do(req)
	if err != nil {
		c.t.Fatal(err)
	}
	lines := make(chan string, 10_000)
	go func() {
		defer res.Body.Close()
		for s := bufio.NewScanner(res.Body); s.Scan(); {
			lines <- s.Text()
		}
		close(lines)
	}()
	return lines
}

// hear waits for a line of the stream.
func (c *client) hear(lines <-chan string, wanted string) string {
	c.t.Helper()
	deadline := time.After(time.Minute)
	for {
		select {
		case line := <-lines:
			if strings.Contains(line, wanted) {
				return line
			}
		case <-deadline:
			c.t.Fatalf("never heard %q", wanted)
		}
	}
}

func TestEventsTellOfTablesAndJobs(t *testing.T) {
	c := serve(t)
	lines := c.listen()
	id := c.bringIn("landings", "a\nx \ny\n")
	c.hear(lines, `"title":"Bringing in landings.csv"`)
	c.hear(lines, `"state":"done"`)
	var tab struct{ Revision int }
	c.call("GET", fmt.Sprintf("/tables/%d", id), nil, &tab)
	c.call("POST", fmt.Sprintf("/tables/%d/entries", id), answer{"revision": tab.Revision, "kind": "tidy", "params": answer{"columns": []string{"a"}, "steps": []answer{{"op": "trim"}}}}, nil)
	c.hear(lines, "event: table")
	c.hear(lines, fmt.Sprint("data: ", id))
}

// large is a text whose reading takes long enough to be cancelled.
func large(rows int) string {
	var b strings.Builder
	b.WriteString("no,vessel,kg\n")
	r := rand.New(rand.NewPCG(81, 82))
	for i := range rows {
		fmt.Fprintf(&b, "LK-%08d,vessel number %d,%d\n", i, r.IntN(50_000), r.IntN(100_000))
	}
	return b.String()
}

// A job that is cancelled leaves nothing; the received file stays, to be brought in
// after all.
func TestCancelledJobLeavesNothing(t *testing.T) {
	c := serve(t)
	lines := c.listen()
	var up struct {
		ID      int64
		Preview struct{ How any }
	}
	c.call("POST", "/books/1/uploads?name=large.csv", large(2_000_000), &up)
	ask := []answer{{"name": "large", "uploads": []int64{up.ID}, "how": up.Preview.How}}
	var made []struct{ ID int64 }
	c.call("POST", "/books/1/bring-in", ask, &made)
	job := made[0]
	c.hear(lines, `"state":"working"`)
	c.call("POST", fmt.Sprintf("/jobs/%d/cancel", job.ID), nil, nil)
	for deadline := time.Now().Add(time.Minute); ; time.Sleep(20 * time.Millisecond) {
		var now struct{ State string }
		c.call("GET", fmt.Sprintf("/jobs/%d", job.ID), nil, &now)
		if now.State == "cancelled" {
			break
		}
		if now.State == "done" || now.State == "failed" || time.Now().After(deadline) {
			t.Fatalf("the cancelled job is %s", now.State)
		}
	}
	var contents struct{ Tables []any }
	if c.call("GET", "/books/1", nil, &contents); len(contents.Tables) != 0 {
		t.Error("the cancelled job made a table")
	}
	c.call("POST", "/books/1/bring-in", ask, &made)
	c.finished(made[0].ID)
}

// BenchmarkViews is the server's time for each view of a table of a million rows, once
// it is loaded; first-ms is the first time a view is opened, when it is worked out.
func BenchmarkViews(b *testing.B) {
	c := serve(b)
	id := c.bringIn("large", large(1_000_000))
	path := fmt.Sprintf("/tables/%d", id)
	var tab struct{ Revision int }
	c.call("GET", path, nil, &tab)
	for _, v := range []struct {
		name, method, path string
		body               any
	}{
		{"register", "GET", path + "/register", nil},
		{"rows", "GET", path + "/rows?from=700000", nil},
		{"rows of a value", "GET", path + "/rows?column=kg&value=777", nil},
		{"tally", "GET", path + "/tally?column=vessel&from=40000", nil},
		{"tally of a million values", "GET", path + "/tally?column=no&order=alphabet&from=900000", nil},
		{"search", "GET", path + "/tally?column=vessel&find=777", nil},
		{"repeats", "GET", path + "/repeats?key=vessel&key=kg", nil},
		{"journal", "GET", path + "/entries", nil},
		{"draft", "POST", path + "/draft", answer{"revision": tab.Revision, "kind": "tidy", "params": answer{"columns": []string{"vessel"}, "case": "upper"}}},
	} {
		begun := time.Now()
		c.call(v.method, v.path, v.body, nil)
		first := time.Since(begun)
		b.Run(v.name, func(b *testing.B) {
			for b.Loop() {
				c.call(v.method, v.path, v.body, nil)
			}
			b.ReportMetric(float64(first.Microseconds())/1000, "first-ms")
		})
	}
}
