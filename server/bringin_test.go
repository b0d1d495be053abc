package server_test

import (
	"bytes"
	"context"
	"fmt"
	"net/http"
	"strings"
	"testing"

	"grandledger/core/coretest"
	"grandledger/formats"
)

type received struct {
	ID            int64
	SuggestedName string
	Preview       struct {
		How     map[string]any
		Names   []string
		Rows    [][]string
		Choices struct{ Files, Sheets, Lists, Lines []string }
	}
}

// A received file is shown in any way it is asked to be read, and what a way leaves open is
// filled in.
func TestPreviewInOtherWays(t *testing.T) {
	c := serve(t)
	var up received
	if status := c.call("POST", "/books/1/uploads?name=march_landings.csv.gz", "no;kg\n1;2\n", &up); status != 201 || up.SuggestedName != "March landings" {
		t.Fatalf("status %d, %+v", status, up)
	}
	var v struct {
		How   map[string]any
		Names []string
		Rows  [][]string
	}
	for _, k := range []struct {
		how   answer
		names string
		row   string
	}{
		{answer{"format": "delimited"}, "no|kg", "1|2"},
		{answer{"format": "delimited", "text": answer{"encoding": "utf-8", "delimiter": ",", "quote": "", "names": 0}}, "column 1", "no;kg"},
		{answer{"format": "fixed", "fixed": answer{"encoding": "utf-8", "cuts": []int{1}, "names": 0}}, "column 1|column 2", "n|o;kg"},
	} {
		status := c.call("POST", fmt.Sprintf("/uploads/%d/preview", up.ID), k.how, &v)
		if status != 200 || strings.Join(v.Names, "|") != k.names || strings.Join(v.Rows[0], "|") != k.row {
			t.Errorf("%v: status %d, %+v", k.how, status, v)
		}
	}
	for _, bad := range []answer{
		{"format": "parquet"}, {"format": "workbook"}, {"format": "json"}, {"format": "xml", "xml": answer{"records": "a/b"}}, {"format": "html"}, {"format": "arrow"},
		{"format": "delimited", "packed": "zip"}, {"format": "delimited", "text": answer{"encoding": "latin-9", "delimiter": ",", "quote": "", "names": 1}},
		{"format": "fixed", "fixed": answer{"encoding": "utf-8", "cuts": []int{4, 2}, "names": 1}},
	} {
		var p struct{ Detail, File, Remedy string }
		if status := c.call("POST", fmt.Sprintf("/uploads/%d/preview", up.ID), bad, &p); status != 422 || p.Remedy == "" || p.Detail == "" {
			t.Errorf("%v: status %d, %+v", bad, status, p)
		}
	}
}

// What cannot be brought in is refused before a job is made, all tables or none.
func TestBringInIsAllOrNothing(t *testing.T) {
	c := serve(t)
	var up received
	c.call("POST", "/books/1/uploads?name=a.csv", "no,kg\n1,2\n", &up)
	how := up.Preview.How
	for name, ask := range map[string][]answer{
		"no name":             {{"name": " ", "uploads": []int64{up.ID}, "how": how}},
		"no file":             {{"name": "a", "uploads": []int64{}, "how": how}},
		"a file that is gone": {{"name": "a", "uploads": []int64{99}, "how": how}},
		"one name twice":      {{"name": "a", "uploads": []int64{up.ID}, "how": how}, {"name": "a", "uploads": []int64{up.ID}, "how": how}},
		"the second is bad":   {{"name": "a", "uploads": []int64{up.ID}, "how": how}, {"name": "b", "uploads": []int64{99}, "how": how}},
	} {
		if status := c.call("POST", "/books/1/bring-in", ask, nil); status < 400 || status > 499 {
			t.Errorf("%s: status %d", name, status)
		}
	}
	var jobs []any
	if c.call("GET", "/books/1/jobs", nil, &jobs); len(jobs) != 0 {
		t.Errorf("jobs were made: %v", jobs)
	}
}

// Two files of one shape become one table that says where each row came from; one of another
// shape fails the job, which says which file, and both stay to be brought in otherwise.
func TestSeveralFilesBecomeOneTable(t *testing.T) {
	c := serve(t)
	var ups [3]received
	for i, text := range []string{"no,kg\n1,2\n", "kg,no\n4,3\n", "boat\nTern\n"} {
		c.call("POST", fmt.Sprintf("/books/1/uploads?name=%d.csv", i), text, &ups[i])
	}
	how := ups[0].Preview.How
	var made []struct{ ID int64 }
	c.call("POST", "/books/1/bring-in", []answer{{"name": "both", "uploads": []int64{ups[0].ID, ups[1].ID}, "how": how}}, &made)
	id := c.finished(made[0].ID)
	var csv string
	if c.call("GET", fmt.Sprintf("/tables/%d/publish", id), nil, &csv); csv != "file,no,kg\n0.csv,1,2\n1.csv,3,4\n" {
		t.Errorf("published %q", csv)
	}
	var rows struct{ Rows []struct{ Origin string } }
	if c.call("GET", fmt.Sprintf("/tables/%d/rows", id), nil, &rows); rows.Rows[1].Origin != "0.csv and 1 more 1" {
		t.Errorf("the second row came from %q", rows.Rows[1].Origin)
	}
	c.call("POST", "/books/1/uploads?name=0.csv", "no,kg\n1,2\n", &ups[0])
	c.call("POST", "/books/1/bring-in", []answer{{"name": "mixed", "uploads": []int64{ups[0].ID, ups[2].ID}, "how": how}}, &made)
	p := c.failed(made[0].ID)
	if p.File != "2.csv" || !strings.Contains(p.Detail, "no column in common with 0.csv") {
		t.Errorf("failed with %+v", p)
	}
	for _, up := range []received{ups[0], ups[2]} {
		if status := c.call("GET", fmt.Sprintf("/uploads/%d", up.ID), nil, nil); status != 200 {
			t.Errorf("upload %d: status %d", up.ID, status)
		}
		if status := c.call("DELETE", fmt.Sprintf("/uploads/%d", up.ID), nil, nil); status != 204 {
			t.Errorf("discarding upload %d: status %d", up.ID, status)
		}
	}
}

// Columns are left out, renamed and ordered on the way in, and the journal tells how.
func TestChosenColumns(t *testing.T) {
	c := serve(t)
	var up received
	c.call("POST", "/books/1/uploads?name=notes.jsonl", "{\"no\":1,\"catch\":[{\"kg\":2},{\"kg\":3}],\"x\":0}\n{\"no\":2}\n", &up)
	if strings.Join(up.Preview.Choices.Lists, "|") != "catch" {
		t.Errorf("lists %v", up.Preview.Choices.Lists)
	}
	how := answer{"format": "json", "json": answer{"spread": "catch"}, "columns": []answer{{"from": "catch.kg", "as": "weight"}, {"from": "no", "as": ""}}}
	var made []struct{ ID int64 }
	c.call("POST", "/books/1/bring-in", []answer{{"name": "notes", "uploads": []int64{up.ID}, "how": how}}, &made)
	id := c.finished(made[0].ID)
	var csv string
	if c.call("GET", fmt.Sprintf("/tables/%d/publish", id), nil, &csv); csv != "weight,no\n2,1\n3,1\n,2\n" {
		t.Errorf("published %q", csv)
	}
}

// What is published in each format is read back as the same table, under a fitting type.
func TestPublishInEveryFormat(t *testing.T) {
	c := serve(t)
	text := "no,vessel,kg\n0017,\"Möwe, grey\",12.50\n18,Tern,3.00\n"
	id := c.bringIn("landings", text)
	for format, kind := range map[string]string{"csv": "text/csv; charset=utf-8", "tsv": "text/tab-separated-values; charset=utf-8", "json": "application/json", "jsonl": "application/jsonl",
		"xlsx": "application/vnd.openxmlformats-officedocument.spreadsheetml.sheet", "ods": "application/vnd.oasis.opendocument.spreadsheet",
		"parquet": "application/vnd.apache.parquet", "arrow": "application/vnd.apache.arrow.file"} {
		res, err := http.Get(fmt.Sprintf("%s/api/tables/%d/publish?format=%s", c.url, id, format))
		if err != nil {
			t.Fatal(err)
		}
		var body bytes.Buffer
		_, err = body.ReadFrom(res.Body)
		res.Body.Close()
		if err != nil || res.StatusCode != 200 || res.Header.Get("Content-Type") != kind || !strings.Contains(res.Header.Get("Content-Disposition"), "landings."+format) {
			t.Errorf("%s: status %d, %v (%v)", format, res.StatusCode, res.Header, err)
			continue
		}
		src := formats.Source{Name: "x." + format, Size: int64(body.Len()), At: bytes.NewReader(body.Bytes())}
		v, err := formats.Look(context.Background(), src, nil)
		if err != nil {
			t.Errorf("%s: %v", format, err)
			continue
		}
		want := coretest.Build([]string{"no", "vessel", "kg"}, []string{"0017", "Möwe, grey", "12.50"}, []string{"18", "Tern", "3.00"})
		if fmt.Sprint(v.Rows) != fmt.Sprint(coretest.Rows(want)) {
			t.Errorf("%s reads back as %v", format, v.Rows)
		}
	}
	if status := c.call("GET", fmt.Sprintf("/tables/%d/publish?format=docx", id), nil, nil); status < 400 || status > 499 {
		t.Errorf("a format that is not known: status %d", status)
	}
}
