package server_test

import (
	"fmt"
	"net/url"
	"strings"
	"testing"
)

// refresh brings in the next delivery of a table and waits for it.
func (c *client) refresh(table int64, text string) {
	c.t.Helper()
	var up struct{ ID int64 }
	c.call("POST", "/books/1/uploads?name=next.csv", text, &up)
	var job struct{ ID int64 }
	if status := c.call("POST", fmt.Sprintf("/tables/%d/refresh", table), answer{"uploads": []int64{up.ID}}, &job); status != 202 {
		c.t.Fatalf("refresh: status %d", status)
	}
	if got := c.finished(job.ID); got != table {
		c.t.Fatalf("the delivery is of table %d", got)
	}
}

// post posts an entry on the revision that stands and gives its number.
func (c *client) post(table int64, kind string, params answer) int {
	c.t.Helper()
	var e struct{ Number int }
	if status := c.call("POST", fmt.Sprintf("/tables/%d/entries", table), answer{"revision": c.revision(table), "kind": kind, "params": params}, &e); status != 201 {
		c.t.Fatalf("%s: status %d", kind, status)
	}
	return e.Number
}

func (c *client) revision(table int64) int64 {
	var t struct{ Revision int64 }
	c.call("GET", fmt.Sprintf("/tables/%d", table), nil, &t)
	return t.Revision
}

// csv publishes a table.
func (c *client) csv(table int64) string {
	var text string
	c.call("GET", fmt.Sprintf("/tables/%d/publish?format=csv", table), nil, &text)
	return text
}

type delivery struct {
	Revision   int64
	Rows       int
	Comparison struct {
		Before, Come, Gone, After int
		Columns                   []struct {
			Column, State string
			NewValues     int
			LostRows      int
			Broke         bool
		}
	}
	Steps []struct {
		Number  int
		Now     *struct{ Changed int }
		Problem *struct{ Detail string }
	}
}

// A table is refreshed: its journal is done again on the new delivery, numbers go on, the
// entries done before are superseded, and reversing leads back to where it stood.
func TestRefresh(t *testing.T) {
	c := serve(t)
	table := c.bringIn("landings", "no,gear,kg\n1,GN,10\n2, Trawl,20\n2, Trawl,20\n3,Pots,30\n")
	c.post(table, "tidy", answer{"columns": []string{"gear"}, "steps": []answer{{"op": "trim"}}})
	c.post(table, "values", answer{"column": "gear", "changes": []answer{{"from": "GN", "to": "Gill net"}}, "crosswalk": "gear"})
	aside := c.post(table, "duplicates", answer{"key": []string{"no"}, "keep": "first"})
	c.post(table, "tidy", answer{"columns": []string{"kg"}, "steps": []answer{{"op": "trim"}, {"op": "upper"}}, "where": answer{"op": "is", "column": "gear", "values": []string{"Pots"}}})
	before := c.csv(table)
	at := c.revision(table)

	c.refresh(table, "no,gear,kg,port\n1,GN,10,PK\n4,GN,ten,PK\n4, Pots,40,GP\n3,Pots,30,GP\n")
	var d delivery
	path := fmt.Sprintf("/tables/%d/delivery", table)
	if status := c.call("GET", path, nil, &d); status != 200 {
		t.Fatalf("status %d", status)
	}
	if x := d.Comparison; x.Before != 4 || x.Come != 2 || x.Gone != 2 || x.After != 4 || len(x.Columns) != 4 || x.Columns[3].State != "came" || !x.Columns[2].Broke {
		t.Errorf("%+v", x)
	}
	if len(d.Steps) != 4 || d.Steps[1].Now == nil || d.Steps[1].Now.Changed != 1 || d.Rows != 3 {
		t.Errorf("%+v", d.Steps)
	}
	if c.csv(table) != before {
		t.Error("looking at a delivery changed the table")
	}
	var e struct {
		Number int
		Words  string
	}
	if status := c.call("POST", path, answer{"revision": at}, &e); status != 201 || e.Number != aside+2 || e.Words != "Refreshed from next.csv" {
		t.Fatalf("status %d, %+v", status, e)
	}
	want := "no,gear,kg,port\n1,Gill net,10,PK\n4,Gill net,ten,PK\n3,Pots,30,GP\n"
	if got := c.csv(table); got != want {
		t.Errorf("refreshed:\n%s", got)
	}
	states := c.states(table)
	if got := strings.Join(states, " "); got != "0:posted 1:superseded 2:superseded 3:superseded 4:superseded 5:posted 6:posted 7:posted 8:posted 9:posted" {
		t.Errorf("the journal is %s", got)
	}
	if status := c.call("GET", path, nil, nil); status != 404 {
		t.Errorf("a posted delivery still waits: %d", status)
	}
	for range 5 {
		if status := c.call("POST", fmt.Sprintf("/tables/%d/reverse", table), answer{"revision": c.revision(table)}, nil); status != 200 {
			t.Fatalf("reverse: status %d", status)
		}
	}
	if got := strings.Join(c.states(table)[:6], " "); got != "0:posted 1:posted 2:posted 3:posted 4:posted 5:reversed" || c.csv(table) != before || c.revision(table) != at {
		t.Errorf("reversed, the journal is %s and the table\n%s", got, c.csv(table))
	}
	if status := c.call("POST", fmt.Sprintf("/tables/%d/entries/5/repost", table), answer{"revision": at}, nil); status != 200 {
		t.Errorf("repost: status %d", status)
	}
	if got := strings.Join(c.states(table)[:6], " "); !strings.HasPrefix(got, "0:posted 1:superseded") {
		t.Errorf("posted again, the journal is %s", got)
	}
}

func (c *client) states(table int64) (out []string) {
	var journal []struct {
		Number int
		State  string
	}
	c.call("GET", fmt.Sprintf("/tables/%d/entries", table), nil, &journal)
	for _, e := range journal {
		out = append(out, fmt.Sprintf("%d:%s", e.Number, e.State))
	}
	return out
}

// An entry whose column is gone says so, and can be left out or given a column under another
// name; the same request is done once; a delivery can be dropped.
func TestRefreshMended(t *testing.T) {
	c := serve(t)
	table := c.bringIn("landings", "no,gear\n1,GN \n2,Pots\n")
	c.post(table, "tidy", answer{"columns": []string{"gear"}, "steps": []answer{{"op": "trim"}}})
	at := c.revision(table)
	path := fmt.Sprintf("/tables/%d/delivery", table)
	c.refresh(table, "no,Gear type\n5,Line \n6,GN\n")
	var d delivery
	c.call("GET", path, nil, &d)
	if len(d.Steps) != 1 || d.Steps[0].Problem == nil || d.Steps[0].Problem.Detail != `the table has no column "gear"` {
		t.Fatalf("%+v", d.Steps)
	}
	var p struct{ Detail, Remedy string }
	if status := c.call("POST", path, answer{"revision": at}, &p); status != 422 || !strings.Contains(p.Remedy, "Leave entry 1 out") {
		t.Errorf("status %d, %+v", status, p)
	}
	c.call("GET", path+"?leaveOut=1&renames="+url.QueryEscape(`{}`), nil, &d)
	if d.Rows != 2 {
		t.Errorf("%+v", d)
	}
	d = delivery{}
	c.call("GET", path+"?renames="+url.QueryEscape(`{"Gear type":"gear"}`), nil, &d)
	if d.Steps[0].Now == nil || d.Steps[0].Now.Changed != 1 {
		t.Errorf("%+v", d.Steps)
	}
	// A stale page is told; the delivery waits on.
	other := c.post(table, "tidy", answer{"columns": []string{"no"}, "steps": []answer{{"op": "trim"}, {"op": "upper"}}})
	if status := c.call("POST", path, answer{"revision": at, "renames": answer{"Gear type": "gear"}}, nil); status != 409 {
		t.Errorf("posted on a revision that no longer stands: %d", status)
	}
	body := answer{"revision": c.revision(table), "renames": answer{"Gear type": "gear"}, "leaveOut": []int{other}}
	var first, again struct{ Number int }
	if status := c.call("POST", path, body, &first); status != 201 {
		t.Fatalf("status %d", status)
	}
	c.keys-- // the same request once more
	if status := c.call("POST", path, body, &again); status != 201 || again != first {
		t.Errorf("repeated: status %d, %+v and %+v", status, first, again)
	}
	if got := c.csv(table); got != "no,gear\n5,Line\n6,GN\n" {
		t.Errorf("%s", got)
	}
	c.refresh(table, "no,gear\n7,x\n")
	if status := c.call("DELETE", path, nil, nil); status != 204 {
		t.Errorf("drop: %d", status)
	}
	if status := c.call("GET", path, nil, nil); status != 404 {
		t.Errorf("dropped, and yet: %d", status)
	}
	if status := c.call("POST", fmt.Sprintf("/tables/%d/refresh", table), answer{"uploads": []int64{}}, nil); status != 422 {
		t.Errorf("no file: %d", status)
	}
}
