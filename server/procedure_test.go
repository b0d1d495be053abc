package server_test

import (
	"bytes"
	"context"
	"errors"
	"fmt"
	"strings"
	"testing"

	"grandledger/core/table"
	"grandledger/formats"
	"grandledger/formats/csv"
	"grandledger/formats/intake"
	"grandledger/procedure"
)

// A journal exported as a procedure and run on the same file, without a database, gives the
// same table to the byte, whatever was amended, narrowed, set aside and returned before.
func TestProcedure(t *testing.T) {
	c := serve(t)
	text := "no,gear,landed\n1,GN ,4/10/2031\n1,gn,5/10/2031\n2,Pots,14/10/2031\n3,\"Net, gill\",\n"
	table := c.bringIn("landings", text)
	c.post(table, "tidy", answer{"columns": []string{"gear"}, "steps": []answer{{"op": "trim"}}, "where": answer{"op": "is", "column": "no", "values": []string{"1"}}})
	c.post(table, "duplicates", answer{"key": []string{"no"}, "keep": "first"})
	c.post(table, "reading", answer{"column": "landed", "reading": answer{"kind": "date", "order": "dmy"}})
	c.post(table, "values", answer{"column": "gear", "changes": []answer{{"from": "GN", "to": "Gill net"}}, "crosswalk": "gear"})
	c.post(table, "formula", answer{"formula": `landed.Month()`, "name": "month"})
	c.post(table, "return", answer{"entry": 2})
	c.post(table, "split", answer{"column": "gear", "by": "marks", "marks": []string{","}})
	if status := c.call("POST", fmt.Sprintf("/tables/%d/amendment", table), answer{"revision": c.revision(table), "steps": stays(1, 3, 2, 4, 5, 6, 7)}, nil); status != 201 {
		t.Fatalf("amend: %d", status)
	}
	want := c.csv(table)
	if status := c.call("PUT", fmt.Sprintf("/tables/%d/entries/1/reason", table), answer{"reason": " Asked for by the harbour. "}, nil); status != 200 {
		t.Errorf("reason: %d", status)
	}
	if status := c.call("PUT", fmt.Sprintf("/tables/%d/entries/99/reason", table), answer{"reason": "x"}, nil); status != 404 {
		t.Errorf("the reason of no entry: %d", status)
	}
	if status := c.call("PUT", fmt.Sprintf("/tables/%d/entries/1/reason", table), answer{"reason": strings.Repeat("x", 4001)}, nil); status < 400 {
		t.Errorf("a reason too long: %d", status)
	}
	var raw, md string
	if status := c.call("GET", fmt.Sprintf("/tables/%d/procedure", table), nil, &raw); status != 200 {
		t.Fatalf("status %d: %s", status, raw)
	}
	p, err := procedure.Read(strings.NewReader(raw))
	if err != nil {
		t.Fatal(err)
	}
	in := strings.NewReader(text)
	tab, _, err := formats.Read(context.Background(), []formats.Source{{Name: "landings.csv", Size: int64(len(text)), At: in}}, p.Source.How, intake.Options{})
	if err != nil {
		t.Fatal(err)
	}
	_, result, err := p.Run(context.Background(), tab, nil)
	if err != nil {
		t.Fatal(err)
	}
	var out bytes.Buffer
	if _, err := csv.Write(context.Background(), &out, result, csv.WriteOptions{}); err != nil || out.String() != want {
		t.Errorf("run:\n%s\nposted:\n%s(%v)", out.String(), want, err)
	}
	if status := c.call("GET", fmt.Sprintf("/tables/%d/procedure?format=md", table), nil, &md); status != 200 || !strings.Contains(md, "# Journal of landings") || !strings.Contains(md, "superseded") || !strings.Contains(md, "- Reason: Asked for by the harbour.\n") {
		t.Errorf("status %d: %s", status, md)
	}
}

// A formula that looks into another table keeps the revision it looked into, and the procedure
// brings that table along; a procedure fits a table whose columns are called otherwise, and a
// check that does not hold ends it.
func TestProcedureOfSeveralTables(t *testing.T) {
	c := serve(t)
	register, landings := "name,port\nTern, PK \nAuk,GP\n", "no,vessel\n1,Tern\n2,Auk\n3,Shag\n"
	vessels := c.bringIn("Vessels", register)
	landed := c.bringIn("landings", landings)
	c.post(vessels, "tidy", answer{"columns": []string{"port"}, "steps": []answer{{"op": "trim"}}})
	look := answer{"formula": `lookup("Vessels", "port", "name", vessel)`, "name": "home port"}
	c.post(landed, "formula", look)
	c.post(landed, "check", answer{"key": []string{"no"}})
	want := "no,vessel,home port\n1,Tern,PK\n2,Auk,GP\n3,Shag,\n"
	if got := c.csv(landed); got != want {
		t.Fatal(got)
	}
	export := func(format string) (int, string) {
		var raw string
		status := c.call("GET", fmt.Sprintf("/tables/%d/procedure?format=%s", landed, format), nil, &raw)
		return status, raw
	}
	_, raw := export("yaml")
	p, err := procedure.Read(strings.NewReader(raw))
	if err != nil || len(p.Tables) != 1 {
		t.Fatalf("%s (%v)", raw, err)
	}
	read := func(text string, of procedure.Table) *table.Table {
		tab, _, err := formats.Read(context.Background(), []formats.Source{{Name: "x.csv", Size: int64(len(text)), At: strings.NewReader(text)}}, of.Source.How, intake.Options{})
		if err != nil {
			t.Fatal(err)
		}
		return tab
	}
	others := func(string) (*table.Table, error) {
		_, result, err := p.Tables[0].Run(context.Background(), read(register, p.Tables[0]), nil)
		return result, err
	}
	_, result, err := p.Run(context.Background(), read(landings, p.Table), others)
	var out bytes.Buffer
	if err != nil {
		t.Fatal(err)
	}
	if _, err := csv.Write(context.Background(), &out, result, csv.WriteOptions{}); err != nil || out.String() != want {
		t.Errorf("%s (%v)", out.String(), err)
	}
	var unmet procedure.Unmet
	if _, _, err := p.Run(context.Background(), read(landings+"3,Auk\n", p.Table), others); !errors.As(err, &unmet) || !strings.Contains(err.Error(), "1 rows are against it") {
		t.Errorf("the check: %v", err)
	}
	// The other table goes on: what was looked up stays, and the procedure says what to do.
	c.post(vessels, "tidy", answer{"columns": []string{"port"}, "steps": []answer{{"op": "lower"}}})
	if got := c.csv(landed); got != want {
		t.Error(got)
	}
	if status, raw := export("json"); status != 422 || !strings.Contains(raw, "has changed since") {
		t.Errorf("%d %s", status, raw)
	}
	// Fitted to a table whose columns are called otherwise.
	other := c.bringIn("sales", "number,Vessel\n9,Auk\n")
	var fitted struct {
		Steps   []answer
		Columns []struct{ Name, Column string }
	}
	path := fmt.Sprintf("/tables/%d/procedure", other)
	if status := c.call("POST", path, answer{"text": raw}, &fitted); status != 200 || fmt.Sprint(fitted.Columns) != "[{vessel Vessel} {no }]" {
		t.Fatalf("%d %+v", status, fitted)
	}
	c.call("POST", path, answer{"text": raw, "columns": answer{"vessel": "Vessel", "no": "number"}}, &fitted)
	var steps []answer
	for _, s := range fitted.Steps {
		steps = append(steps, answer{"entry": s["entry"], "kind": s["kind"], "params": s["params"]})
	}
	if status := c.call("POST", fmt.Sprintf("/tables/%d/amendment", other), answer{"revision": c.revision(other), "steps": steps}, nil); status != 201 {
		t.Fatalf("%d", status)
	}
	if got := c.csv(other); got != "number,Vessel,home port\n9,Auk,gp\n" {
		t.Error(got)
	}
	if status := c.call("POST", path, answer{"text": "version: 3"}, nil); status != 422 {
		t.Errorf("a newer version: %d", status)
	}
}
