package server_test

import (
	"encoding/json"
	"fmt"
	"net/url"
	"testing"
)

// A condition narrows every view and an entry, is counted part by part, and is kept under
// a name.
func TestConditionsNarrowEveryView(t *testing.T) {
	c := serve(t)
	id := c.bringIn("landings", "no,port,gear,kg\n1,PK,gn ,5\n2,GP,gn ,40\n3,PK,trawl,7\n4,PK,gn ,\n")
	path := fmt.Sprintf("/tables/%d", id)
	condition := answer{"op": "all", "of": []answer{{"op": "is", "column": "port", "values": []string{"PK"}}, {"op": "contains", "text": "gn"}}}
	text, _ := json.Marshal(condition)
	where := "where=" + url.QueryEscape(string(text))

	var counted struct {
		Words string
		Total int
		Count struct {
			Rows int
			Of   []struct{ Rows int }
		}
	}
	c.call("POST", path+"/condition", condition, &counted)
	if counted.Total != 4 || counted.Count.Rows != 2 || counted.Count.Of[0].Rows != 3 || counted.Count.Of[1].Rows != 3 || counted.Words != "port is “PK” and any column contains “gn”" {
		t.Errorf("counted %+v", counted)
	}
	var register []struct {
		Column   string
		Rows     int
		Distinct int
	}
	if c.call("GET", path+"/register?"+where, nil, &register); register[0].Rows != 2 || register[1].Distinct != 1 {
		t.Errorf("register %+v", register)
	}
	var tally struct{ Rows, Total int }
	if c.call("GET", path+"/tally?column=gear&"+where, nil, &tally); tally.Rows != 2 || tally.Total != 1 {
		t.Errorf("tally %+v", tally)
	}
	var rows struct {
		Total int
		Rows  []struct{ Cells []*string }
	}
	if c.call("GET", path+"/rows?sort=-no&"+where, nil, &rows); rows.Total != 2 || *rows.Rows[0].Cells[0] != "4" {
		t.Errorf("rows %+v", rows)
	}
	if c.call("GET", path+"/rows?sort=kg&sort=no", nil, &rows); rows.Total != 4 || *rows.Rows[0].Cells[0] != "1" || *rows.Rows[2].Cells[0] != "2" {
		t.Errorf("sorted by reading: %+v", rows)
	}
	var csv string
	if c.call("GET", path+"/publish?"+where, nil, &csv); csv != "no,port,gear,kg\n1,PK,gn ,5\n4,PK,gn ,\n" {
		t.Errorf("published %q", csv)
	}
	if c.call("GET", path+"/publish?format=jsonl&"+where, nil, &csv); csv != "{\"no\":1,\"port\":\"PK\",\"gear\":\"gn \",\"kg\":5}\n{\"no\":4,\"port\":\"PK\",\"gear\":\"gn \",\"kg\":null}\n" {
		t.Errorf("published %q", csv)
	}

	var tab struct{ Revision int64 }
	c.call("GET", path, nil, &tab)
	var posted struct {
		Words  string
		Effect struct{ Columns []struct{ Cells int } }
	}
	status := c.call("POST", path+"/entries", answer{"revision": tab.Revision, "kind": "tidy", "params": answer{"columns": []string{"gear"}, "steps": []answer{{"op": "trim"}}, "where": condition}}, &posted)
	if status != 201 || posted.Effect.Columns[0].Cells != 2 {
		t.Errorf("status %d, %+v", status, posted)
	}
	c.call("GET", path, nil, &tab)
	var aside struct {
		Effect struct{ Balance struct{ SetAside, After int } }
	}
	status = c.call("POST", path+"/entries", answer{"revision": tab.Revision, "kind": "rows", "params": answer{"holding": condition, "keep": true}}, &aside)
	if status != 201 || aside.Effect.Balance.SetAside != 2 || aside.Effect.Balance.After != 2 {
		t.Errorf("status %d, %+v", status, aside)
	}

	for _, name := range []string{"of Port Kestrel", "of Port Kestrel", "b"} {
		if status := c.call("PUT", "/books/1/conditions", answer{"name": name, "condition": condition}, nil); status != 204 {
			t.Errorf("kept with status %d", status)
		}
	}
	c.call("DELETE", "/books/1/conditions?name=b", nil, nil)
	var kept []struct {
		Name      string
		Condition struct{ Of []any }
	}
	if c.call("GET", "/books/1/conditions", nil, &kept); len(kept) != 1 || kept[0].Name != "of Port Kestrel" || len(kept[0].Condition.Of) != 2 {
		t.Errorf("kept %+v", kept)
	}
	var detail struct {
		Longest string
		Shapes  []struct {
			Shape string
			Rows  int
		}
	}
	if c.call("GET", path+"/detail?column=gear&revision=0", nil, &detail); detail.Longest != "gn" || len(detail.Shapes) != 1 || detail.Shapes[0].Rows != 2 {
		t.Errorf("detail %+v", detail)
	}
	var cross struct {
		Rows  [][]int
		Total int
	}
	if c.call("GET", path+"/cross?lines=port&columns=gear", nil, &cross); cross.Total != 2 || len(cross.Rows) != 2 || cross.Rows[0][0] != 2 {
		t.Errorf("cross table %+v", cross)
	}
	if status := c.call("GET", path+"/timeline?column=no&by=month", nil, nil); status != 200 {
		t.Errorf("timeline: status %d", status)
	}
	if status := c.call("GET", path+"/cross?lines=port&columns=q", nil, nil); status != 422 {
		t.Errorf("cross with a column that is not there: status %d", status)
	}
	for _, bad := range []string{"{", `{"op":"like"}`, `{"op":"is","column":"q","values":["x"]}`, `{"op":"pattern","column":"no","text":"("}`} {
		if status := c.call("GET", path+"/register?where="+url.QueryEscape(bad), nil, nil); status != 422 {
			t.Errorf("%s: status %d", bad, status)
		}
	}
}
