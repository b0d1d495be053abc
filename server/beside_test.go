package server_test

import (
	"fmt"
	"strings"
	"testing"
)

// Columns that were pasted are put beside those of a table, in one entry that can be
// reversed; the received file goes with it.
func TestBeside(t *testing.T) {
	c := serve(t)
	table := c.bringIn("landings", "no,gear\n1,GN\n2,Pots\n2,Pots\n3,Line\n")
	c.post(table, "duplicates", answer{"key": []string{"no"}, "keep": "first"})
	take := func(text string) (id int64) {
		var up struct{ ID int64 }
		c.call("POST", "/books/1/uploads?name=pasted.tsv", text, &up)
		return up.ID
	}
	var p struct{ Detail, Column string }
	short := take("quay\tberth\nEast\tB1\nWest\tB2\n")
	path := fmt.Sprintf("/tables/%d/draft", table)
	if status := c.call("POST", path, answer{"revision": c.revision(table), "kind": "beside", "params": answer{"upload": short}}, &p); status != 422 || p.Detail != "it has 2 cells, the table has 3 rows" || p.Column != "quay" {
		t.Errorf("status %d, %+v", status, p)
	}
	id := take("quay\tberth\nEast\tB1\nWest\tB2\n\"North\npier\"\tB3\n")
	c.post(table, "beside", answer{"upload": id})
	if got := c.csv(table); got != "no,gear,quay,berth\n1,GN,East,B1\n2,Pots,West,B2\n3,Line,\"North\npier\",B3\n" {
		t.Errorf("%s", got)
	}
	if status := c.call("GET", fmt.Sprintf("/uploads/%d", id), nil, nil); status != 404 {
		t.Errorf("the received file is still there: %d", status)
	}
	var journal []struct{ Words string }
	c.call("GET", fmt.Sprintf("/tables/%d/entries", table), nil, &journal)
	if got := journal[2].Words; got != "Put quay and berth of pasted.tsv beside the columns" {
		t.Error(got)
	}
	c.call("POST", fmt.Sprintf("/tables/%d/reverse", table), answer{"revision": c.revision(table)}, nil)
	if got := c.csv(table); !strings.HasPrefix(got, "no,gear\n") {
		t.Errorf("%s", got)
	}
}

// A reading is looked at, answered and posted; what the figures say follows it.
func TestReading(t *testing.T) {
	c := serve(t)
	table := c.bringIn("landings", "landed,kg\n4/10/2031,\"1,5 kg\"\n3/2/2031,\"2,25 kg\"\n5/5/2031,12 lb\n")
	var r struct {
		Declared bool
		Words    string
		Proposal struct {
			Ask *struct {
				Rows    int
				Choices []struct{ Reading any }
			}
		}
	}
	c.call("GET", fmt.Sprintf("/tables/%d/reading?column=landed", table), nil, &r)
	if r.Declared || r.Proposal.Ask == nil || r.Proposal.Ask.Rows != 2 {
		t.Fatalf("%+v", r)
	}
	c.post(table, "reading", answer{"column": "landed", "reading": r.Proposal.Ask.Choices[0].Reading})
	c.post(table, "reading", answer{"column": "kg", "reading": answer{"kind": "number", "decimal": ",", "unit": "kg"}})
	var lines []struct {
		Column, Reading, ReadAs, Lowest, Highest string
		Declared                                 bool
		NotRead                                  int
	}
	c.call("GET", fmt.Sprintf("/tables/%d/register", table), nil, &lines)
	if l := lines[0]; !l.Declared || l.ReadAs != "dates, day first" || l.Lowest != "2031-02-03" || l.Highest != "2031-10-04" || l.NotRead != 0 {
		t.Errorf("%+v", l)
	}
	if l := lines[1]; l.Reading != "number" || l.Lowest != "1,5 kg" || l.Highest != "2,25 kg" || l.NotRead != 1 {
		t.Errorf("%+v", l)
	}
	var rows struct {
		Total int
		Rows  []struct{ Cells []string }
	}
	c.call("GET", fmt.Sprintf("/tables/%d/rows?where=%s", table, `{"op":"unread","column":"kg"}`), nil, &rows)
	if rows.Total != 1 || rows.Rows[0].Cells[1] != "12 lb" {
		t.Errorf("%+v", rows)
	}
	c.call("GET", fmt.Sprintf("/tables/%d/rows?sort=-landed", table), nil, &rows)
	if rows.Rows[0].Cells[0] != "4/10/2031" || rows.Rows[2].Cells[0] != "3/2/2031" {
		t.Errorf("%+v", rows)
	}
}
