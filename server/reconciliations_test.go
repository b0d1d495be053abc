package server_test

import (
	"fmt"
	"net/url"
	"strings"
	"testing"
)

type statementView struct {
	Statement struct {
		Ours, Theirs, Difference, Unexplained string
		Classes                               []struct {
			Class, Difference string
			Count             int
		}
		Open, Offered, Settled []int
	}
	Classes       []string
	Closed, Stale bool
	Signed        string
}

type groupsView struct {
	Total  int
	Groups []struct {
		Set, Pass    int
		Reason       string
		Settled      bool
		Difference   string
		Decision     int64
		Ours, Theirs []struct {
			Key, Amount, Date, Reference, Text string
			Row                                int
		}
	}
}

// Two ledgers from the first look to a closed statement: what settles by itself, what is settled by hand, kept open and explained, taken back, closed only when nothing is undecided, frozen, and opened again.
func TestReconciliation(t *testing.T) {
	c := serve(t)
	ours := c.bringIn("books", "date,amount,reference,counterparty\n2031-01-02,100.00,INV-1001,Ice\n2031-01-03,-45.50,INV-1002,Nets\n2031-01-04,12.30,INV-1003,Fuel\n2031-01-05,7.00,INV-1004,Crew\n2031-01-20,55.00,,Haulage\n2031-01-21,80.00,INV-1007,Store\n2031-01-22,3.10,INV-1008,Gulls\n")
	theirs := c.bringIn("bank", "booked,value,ref,text\n2031-01-02,100.00,1001,ICE\n2031-01-05,-45.50,1002,NETS\n2031-01-04,13.20,1003,FUEL\n2031-01-09,99.00,1099,CREW\n2031-01-20,54.00,,Fee and haulage\n2031-01-21,95.00,1007,STORE\n")
	var made struct{ Id int64 }
	if status := c.call("POST", "/books/1/reconciliations", answer{"name": "January", "ours": ours, "theirs": theirs}, &made); status != 201 {
		t.Fatal(status)
	}
	path := fmt.Sprintf("/reconciliations/%d", made.Id)
	look := func() (v statementView) {
		t.Helper()
		var raw string
		if status := c.call("GET", path, nil, &v); status != 200 || v.Statement.Unexplained != "0.00" {
			t.Fatalf("%d %+v %s", status, v, raw)
		}
		return v
	}
	groups := func(class string) (g groupsView) {
		t.Helper()
		if status := c.call("GET", path+"/items?class="+url.QueryEscape(class), nil, &g); status != 200 {
			t.Fatal(status)
		}
		return g
	}
	v := look()
	if v.Statement.Ours != "211.90" || v.Statement.Theirs != "315.70" || v.Statement.Settled[0] != 3 || v.Statement.Offered[0] != 1 {
		t.Errorf("%+v", v.Statement)
	}
	decide := func(kind string, ours, theirs []string, note string) (number int64) {
		t.Helper()
		var raw string
		var made struct{ Number int64 }
		if status := c.call("POST", path+"/decisions", answer{"kind": kind, "ours": ours, "theirs": theirs, "note": note, "by": "ada"}, &made); status != 201 {
			t.Fatalf("%d %s", status, raw)
		}
		return made.Number
	}
	offered := groups("offered, to be looked at").Groups[0]
	var raw string
	if status := c.call("POST", path+"/closing", answer{"signed": "ada"}, &raw); status != 422 || !strings.Contains(raw, "offered and not decided") {
		t.Errorf("%d %s", status, raw)
	}
	kept := decide("break", []string{offered.Ours[0].Key}, []string{offered.Theirs[0].Key}, "two deliveries")
	open := groups("in our books alone, outstanding with them")
	found := ""
	for _, g := range open.Groups {
		if g.Reason == "two deliveries" && g.Decision == kept {
			found = g.Ours[0].Key
		}
	}
	if found != offered.Ours[0].Key {
		t.Errorf("%+v", open)
	}
	haulage := ""
	for _, g := range open.Groups {
		if g.Ours[0].Text == "Haulage" {
			haulage = g.Ours[0].Key
		}
	}
	var fee string
	for _, g := range groups("in theirs alone, not in our books").Groups {
		if g.Theirs[0].Text == "Fee and haulage" {
			fee = g.Theirs[0].Key
		}
	}
	number := decide("settle", []string{haulage}, []string{fee}, "a fee of 1.00")
	g := groups("settled, the amounts differ")
	if g.Total != 2 || g.Groups[0].Difference != "1.00" || g.Groups[0].Reason != "settled by hand: a fee of 1.00" || g.Groups[0].Decision != number {
		t.Errorf("%+v", g)
	}
	if status := c.call("DELETE", fmt.Sprintf("%s/decisions/%d", path, number), nil, nil); status != 204 {
		t.Error(status)
	}
	if g = groups("settled, the amounts differ"); g.Total != 1 {
		t.Errorf("%+v", g)
	}
	decide("settle", []string{haulage}, []string{fee}, "a fee of 1.00")
	for want, body := range map[string]answer{"is signed": {"signed": " "}, "items are open": {"signed": "ada"}} {
		if status := c.call("POST", path+"/closing", body, &raw); status != 422 || !strings.Contains(raw, want) {
			t.Errorf("%v: %d %s", body, status, raw)
		}
	}
	if status := c.call("POST", path+"/closing", answer{"signed": "ada", "note": "outstanding at the end of the month"}, &raw); status != 204 {
		t.Fatalf("%d %s", status, raw)
	}
	if status := c.call("POST", path+"/decisions", answer{"kind": "explain", "ours": []string{haulage}, "theirs": []string{}, "note": "x"}, &raw); status != 422 || !strings.Contains(raw, "is closed") {
		t.Errorf("%d %s", status, raw)
	}
	c.post(ours, "rows", answer{"keep": false, "holding": answer{"op": "is", "column": "counterparty", "values": []string{"Gulls"}}})
	if v = look(); !v.Closed || !v.Stale || v.Signed != "ada" || v.Statement.Ours != "211.90" {
		t.Errorf("%+v", v)
	}
	if status := c.call("DELETE", path+"/closing", nil, nil); status != 204 {
		t.Error(status)
	}
	if v = look(); v.Closed || v.Statement.Ours != "208.80" {
		t.Errorf("%+v", v)
	}
	for what, want := range map[string]string{"statement": `"in theirs alone, not in our books",2,-194.00`, "items": "ours,3,settled,", "page": "<h1>January</h1>"} {
		if status := c.call("GET", path+"/export?what="+what, nil, &raw); status != 200 || !strings.Contains(raw, want) {
			t.Errorf("%s: %d %.300s", what, status, raw)
		}
	}
	window := answer{"window": 0}
	if status := c.call("PUT", path+"/spec", window, &raw); status != 204 {
		t.Fatalf("%d %s", status, raw)
	}
	if v = look(); v.Statement.Settled[0] != 3 {
		t.Errorf("with a window of no days: %+v", v.Statement)
	}
	for want, body := range map[string]answer{"against itself": {"name": "x", "ours": ours, "theirs": ours}, "already": {"name": "January", "ours": ours, "theirs": theirs}} {
		if status := c.call("POST", "/books/1/reconciliations", body, &raw); status != 422 || !strings.Contains(raw, want) {
			t.Errorf("%v: %d %s", body, status, raw)
		}
	}
}
