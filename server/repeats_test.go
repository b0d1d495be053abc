package server_test

import (
	"encoding/json"
	"fmt"
	"net/url"
	"strings"
	"testing"
)

const notes = "no,skipper,landed,kg,remark\n1,Ana Larsen,2031-01-02,10.5,\n2,Bo Dahl,2031-01-03,7,iced\n1,ana larsen,2031-01-05,2,part load\n3,Cy Moe,2031-01-04,many,\n2,Bo Dahl,2031-01-03,7,\n1,Dan Vik,2031-01-02,1,\n"

type group struct {
	Size    int
	Rows    []struct{ Row int }
	Kept    []struct{ Row int }
	Becomes *struct{ Cells []*string }
}

// rule is a query with the parameters of a duplicates entry.
func rule(params answer) string {
	raw, _ := json.Marshal(params)
	return "rule=" + url.QueryEscape(string(raw))
}

// Groups come with what each becomes, what differs in them, and beside those of other keys.
func TestRepeats(t *testing.T) {
	c := serve(t)
	id := c.bringIn("notes", notes)
	var got struct {
		Summary struct{ Groups, Repeats, Largest, NoKey, Remain int }
		Groups  []group
	}
	byNo := rule(answer{"key": []string{"no"}, "keep": "first", "chosen": []answer{{"remark": "part load"}}})
	merge, _ := json.Marshal(answer{"key": []string{"no"}, "columns": []answer{{"column": "skipper", "rule": "join-distinct"}}, "separator": " | "})
	c.call("GET", fmt.Sprintf("/tables/%d/repeats?%s&merge=%s", id, byNo, url.QueryEscape(string(merge))), nil, &got)
	if got.Summary.Groups != 2 || got.Summary.Repeats != 3 || got.Summary.Remain != 3 || len(got.Groups) != 2 {
		t.Fatalf("%+v", got)
	}
	first := got.Groups[0]
	if first.Size != 3 || len(first.Kept) != 1 || first.Kept[0].Row != 2 || first.Becomes == nil || *first.Becomes.Cells[1] != "Ana Larsen | ana larsen | Dan Vik" {
		t.Errorf("%+v", first)
	}
	c.call("GET", fmt.Sprintf("/tables/%d/repeats?%s&differs=skipper", id, byNo), nil, &got)
	if len(got.Groups) != 1 || got.Groups[0].Size != 3 {
		t.Errorf("groups in which skipper differs: %+v", got.Groups)
	}
	var inside []struct {
		Column                string
		Differs, Forms, Fills int
	}
	c.call("GET", fmt.Sprintf("/tables/%d/repeats/inside?%s", id, byNo), nil, &inside)
	if fmt.Sprint(inside) != "[{no 0 0 0} {skipper 1 0 0} {landed 1 0 0} {kg 1 0 0} {remark 0 0 2}]" {
		t.Errorf("%v", inside)
	}
	var keys [][]string
	c.call("GET", fmt.Sprintf("/tables/%d/repeats/keys", id), nil, &keys)
	if len(keys) < 2 || len(keys[0]) != 5 {
		t.Errorf("%v", keys)
	}
	var near struct {
		Sets []struct {
			Columns      []string
			Groups, Rows int
		}
	}
	c.call("GET", fmt.Sprintf("/tables/%d/nearly?columns=no&columns=skipper&columns=landed&columns=kg&columns=remark", id), nil, &near)
	if len(near.Sets) != 1 || near.Sets[0].Columns[0] != "remark" || near.Sets[0].Rows != 2 {
		t.Errorf("%+v", near)
	}
	for path, says := range map[string]string{
		"/repeats?" + rule(answer{"key": []string{"gear"}, "keep": "first"}): "no column",
		"/repeats?rule=x": "cannot be read",
		"/repeats?" + rule(answer{"key": []string{"no"}, "keep": "prefer", "by": "skipper"}): "no value of skipper is preferred",
		"/nearly?columns=no&most=1":       "cannot be nearly the same",
		"/nearly?columns=no&columns=gear": "no column",
	} {
		var p struct{ Detail string }
		if status := c.call("GET", fmt.Sprintf("/tables/%d%s", id, path), nil, &p); status < 400 || !strings.Contains(p.Detail, says) {
			t.Errorf("%s: %d, %q", path, status, p.Detail)
		}
	}
}

// A group combined to one row: sums are exact, and the life of a cell says what it was made of.
func TestMergeAndItsTrace(t *testing.T) {
	c := serve(t)
	id := c.bringIn("notes", notes)
	c.post(id, "reading", answer{"column": "kg", "reading": answer{"kind": "number", "decimal": "."}})
	c.post(id, "merge", answer{"key": []string{"no"}, "columns": []answer{{"column": "kg", "rule": "sum"}}, "others": "last"})
	want := "no,skipper,landed,kg,remark\n1,Dan Vik,2031-01-02,13.5,part load\n2,Bo Dahl,2031-01-03,14.0,iced\n3,Cy Moe,2031-01-04,many,\n"
	if got := strings.ReplaceAll(c.csv(id), "\r", ""); got != want {
		t.Fatalf("combined:\n%s", got)
	}
	var life []struct {
		Number int
		Rule   string
		Made   []struct {
			Row   int
			Value string
		}
	}
	c.call("GET", fmt.Sprintf("/tables/%d/life?revision=%d&row=0&column=kg", id, c.revision(id)), nil, &life)
	if len(life) == 0 || life[0].Rule != "sum" || fmt.Sprint(life[0].Made) != "[{1 10.5} {3 2} {6 1}]" {
		t.Errorf("%+v", life)
	}
	var p struct{ Detail, Remedy, Column string }
	if status := c.call("POST", fmt.Sprintf("/tables/%d/draft", id), answer{"revision": c.revision(id), "kind": "merge", "params": answer{"key": []string{"no"}, "others": "sum"}}, &p); status != 422 {
		t.Errorf("no two rows are equal any more: %d %+v", status, p)
	}
}

// Rows set aside become a table of their own, are worked on there, and put back as they are there.
func TestTakeApartAndPutBack(t *testing.T) {
	c := serve(t)
	id := c.bringIn("notes", notes)
	before := c.csv(id)
	c.post(id, "duplicates", answer{"key": []string{"no"}, "keep": "first"})
	var made struct {
		ID, CopyOf int64
		Rows       int
		Apart      bool
	}
	body := answer{"table": id, "revision": c.revision(id), "aside": 1, "name": "Repeats"}
	if status := c.call("POST", "/books/1/copies", body, &made); status != 201 || made.Rows != 3 || made.CopyOf != id || !made.Apart {
		t.Fatalf("status %d, %+v", status, made)
	}
	c.keys-- // the same request again
	var again struct{ ID int64 }
	if c.call("POST", "/books/1/copies", body, &again); again.ID != made.ID {
		t.Errorf("a repeated request made table %d", again.ID)
	}
	c.post(made.ID, "tidy", answer{"columns": []string{"skipper"}, "steps": []answer{{"op": "upper"}}})
	c.post(made.ID, "duplicates", answer{"key": []string{"no"}, "keep": "last"})
	c.post(id, "putback", answer{"table": "Repeats"})
	want := "no,skipper,landed,kg,remark\n1,Ana Larsen,2031-01-02,10.5,\n2,Bo Dahl,2031-01-03,7,iced\n3,Cy Moe,2031-01-04,many,\n2,BO DAHL,2031-01-03,7,\n1,DAN VIK,2031-01-02,1,\n"
	if got := strings.ReplaceAll(c.csv(id), "\r", ""); got != want {
		t.Errorf("put back:\n%s", got)
	}
	var p struct{ Detail, Remedy string }
	if status := c.call("POST", fmt.Sprintf("/tables/%d/draft", id), answer{"revision": c.revision(id), "kind": "putback", "params": answer{"table": "Repeats"}}, &p); status != 422 || !strings.Contains(p.Detail, "stand in this table already") {
		t.Errorf("%d %+v", status, p)
	}
	// Work done on a copy leaves the table as it is; both are compared.
	other := c.bringIn("other", notes)
	c.call("POST", "/books/1/copies", answer{"table": other, "revision": c.revision(other), "name": "Cleaned"}, &made)
	c.post(made.ID, "duplicates", answer{"key": []string{"no"}, "keep": "last"})
	if c.csv(other) != before {
		t.Error("the table that was copied has changed")
	}
	if status := c.call("POST", fmt.Sprintf("/tables/%d/draft", other), answer{"revision": c.revision(other), "kind": "putback", "params": answer{"table": "Repeats"}}, &p); status != 422 || !strings.Contains(p.Detail, "no rows of this table") {
		t.Errorf("rows of another table: %d %+v", status, p)
	}
	// After another delivery the rows are not those of the table any more.
	c.call("POST", "/books/1/copies", answer{"table": other, "revision": c.revision(other), "name": "Before it"}, &made)
	c.refresh(other, notes+"9,Eve Sund,2031-01-09,1,\n")
	c.call("POST", fmt.Sprintf("/tables/%d/delivery", other), answer{"revision": c.revision(other)}, nil)
	c.post(other, "duplicates", answer{"key": []string{"no"}, "keep": "last"})
	if status := c.call("POST", fmt.Sprintf("/tables/%d/draft", other), answer{"revision": c.revision(other), "kind": "putback", "params": answer{"table": "Before it"}}, &p); status != 422 || !strings.Contains(p.Detail, "a new delivery has come") {
		t.Errorf("after a delivery: %d %+v", status, p)
	}
}

// A table as it came and as it stands, row by row and by counts.
func TestComparedTables(t *testing.T) {
	c := serve(t)
	id := c.bringIn("notes", notes)
	c.post(id, "tidy", answer{"columns": []string{"skipper"}, "steps": []answer{{"op": "upper"}}})
	c.post(id, "rows", answer{"holding": answer{"op": "is", "column": "no", "values": []string{"3"}}, "keep": false})
	asked := answer{"before": answer{"table": id, "entry": 0}, "after": answer{"table": id},
		"key": []answer{{"before": "no", "after": "no"}, {"before": "landed", "after": "landed"}}}
	var got struct {
		Before, After, Same, Changed, OnlyBefore, OnlyAfter int
		Columns                                             []struct {
			Column string
			Cells  int
		}
	}
	c.call("POST", "/books/1/comparison", asked, &got)
	if got.Before != 6 || got.After != 5 || got.Changed != 5 || got.OnlyBefore != 1 || got.OnlyAfter != 0 || got.Columns[1].Cells != 5 {
		t.Errorf("%+v", got)
	}
	asked["cells"] = "folded"
	c.call("POST", "/books/1/comparison", asked, &got)
	if got.Same != 5 || got.Changed != 0 {
		t.Errorf("folded: %+v", got)
	}
	delete(asked, "cells")
	var rows struct {
		Total int
		Rows  []struct {
			Before, After *struct{ Cells []*string }
			Cells         []string
		}
	}
	c.call("POST", "/books/1/comparison/rows?which=changed&column=skipper&from=1&count=1", asked, &rows)
	if rows.Total != 5 || len(rows.Rows) != 1 || *rows.Rows[0].Before.Cells[1] != "Bo Dahl" || *rows.Rows[0].After.Cells[1] != "BO DAHL" || fmt.Sprint(rows.Rows[0].Cells) != "[skipper]" {
		t.Errorf("%+v", rows)
	}
	var counts struct {
		Values, Differ int
		Lines          []struct {
			Value         string
			Before, After int
			FiguresBefore []string
		}
	}
	c.call("POST", "/books/1/comparison/counts?before=no&after=no&measures=rows:kg", asked, &counts)
	if counts.Values != 3 || counts.Differ != 1 || counts.Lines[0].Value != "3" || counts.Lines[0].After != 0 || counts.Lines[0].FiguresBefore[0] != "1" {
		t.Errorf("%+v", counts)
	}
	var p struct{ Detail string }
	if status := c.call("POST", "/books/1/comparison/counts?before=no&after=gear", asked, &p); status != 422 || !strings.Contains(p.Detail, `no column "gear"`) {
		t.Errorf("%d %q", status, p.Detail)
	}
	if status := c.call("POST", "/books/1/comparison", answer{"before": answer{"table": 99}, "after": answer{"table": id}}, &p); status != 404 {
		t.Errorf("a table there is not: %d", status)
	}
}

func TestCheckRecord(t *testing.T) {
	c := serve(t)
	id := c.bringIn("notes", notes)
	var got struct {
		Verdict string
		Exact   int
		Matches []struct {
			Row   struct{ Source int }
			Cells map[string]string
		}
	}
	for record, want := range map[string]string{
		`{"no":"2","skipper":"Bo Dahl"}`:         "there 2 2",
		`{"skipper":"MOE CY","landed":""}`:       "perhaps 0 1",
		`{"skipper":"Cy. Moe"}`:                  "perhaps 0 1",
		`{"skipper":"Nobody","remark":"unseen"}`: "new 0 0",
	} {
		c.call("POST", fmt.Sprintf("/tables/%d/check", id), `{"record":`+record+`}`, &got)
		if said := fmt.Sprint(got.Verdict, " ", got.Exact, " ", len(got.Matches)); said != want {
			t.Errorf("%s: %s, want %s", record, said, want)
		}
	}
	var p struct{ Detail string }
	if status := c.call("POST", fmt.Sprintf("/tables/%d/check", id), `{"record":{"gear":"x"}}`, &p); status != 422 || !strings.Contains(p.Detail, "no column") {
		t.Errorf("%d %q", status, p.Detail)
	}
}

// A delivery that breaks a watch is held, with its rows beside those that stand, until it is accepted.
func TestWatches(t *testing.T) {
	c := serve(t)
	id := c.bringIn("licences", "no,skipper\n1,Ana\n2,Bo\n")
	watch := func(rule answer) (w struct {
		ID      int64
		Words   string
		Finding struct {
			Holds   bool
			Against int
		}
	}, status int) {
		status = c.call("POST", fmt.Sprintf("/tables/%d/watches", id), rule, &w)
		return w, status
	}
	unique, status := watch(answer{"kind": "unique", "key": []string{"no"}})
	if status != 201 || !unique.Finding.Holds || unique.Words != "no is unique" {
		t.Fatalf("%d %+v", status, unique)
	}
	if twice, _ := watch(answer{"kind": "unique", "key": []string{"no"}}); twice.ID != unique.ID {
		t.Errorf("watched twice: %d and %d", unique.ID, twice.ID)
	}
	for _, bad := range []answer{{"kind": "unique"}, {"kind": "unique", "key": []string{"gear"}}, {"kind": "total", "column": "skipper", "least": "1"}} {
		if _, status := watch(bad); status != 422 {
			t.Errorf("%v: status %d", bad, status)
		}
	}
	if known, status := watch(answer{"kind": "known", "column": "skipper", "crosswalk": "Skippers"}); status != 201 || known.Finding.Holds || known.Finding.Against != 2 {
		t.Errorf("%d %+v", status, known)
	} else if status := c.call("DELETE", fmt.Sprintf("/tables/%d/watches/%d", id, known.ID), nil, nil); status != 204 {
		t.Errorf("drop: %d", status)
	}

	c.refresh(id, "no,skipper\n1,Ana\n2,Bo\n2,Cy\n3,Dan\n")
	var d struct {
		Watches []struct {
			Watch            struct{ ID int64 }
			Coming, Standing []struct{ Cells []string }
		}
	}
	c.call("GET", fmt.Sprintf("/tables/%d/delivery", id), nil, &d)
	if len(d.Watches) != 1 || fmt.Sprint(d.Watches[0].Coming, d.Watches[0].Standing) != "[{[2 Bo]} {[2 Cy]}] [{[2 Bo]}]" {
		t.Fatalf("%+v", d)
	}
	var p struct{ Detail, Remedy string }
	if status := c.call("POST", fmt.Sprintf("/tables/%d/delivery", id), answer{"revision": c.revision(id)}, &p); status != 422 || !strings.Contains(p.Detail, "the delivery is held: it breaks the watch that no is unique") {
		t.Errorf("%d %+v", status, p)
	}
	if status := c.call("POST", fmt.Sprintf("/tables/%d/delivery", id), answer{"revision": c.revision(id), "accept": []int64{unique.ID}}, nil); status != 201 {
		t.Errorf("accepted: status %d", status)
	}
	var all []struct{ Finding struct{ Holds bool } }
	c.call("GET", fmt.Sprintf("/tables/%d/watches", id), nil, &all)
	var rows struct {
		Total int
		Rows  []struct{ Cells []string }
	}
	c.call("GET", fmt.Sprintf("/tables/%d/watches/%d?from=1", id, unique.ID), nil, &rows)
	if len(all) != 1 || all[0].Finding.Holds || rows.Total != 2 || fmt.Sprint(rows.Rows) != "[{[2 Cy]}]" {
		t.Errorf("%+v %+v", all, rows)
	}
	if status := c.call("GET", fmt.Sprintf("/tables/%d/watches/999", id), nil, nil); status != 404 {
		t.Errorf("a watch there is not: %d", status)
	}
}
