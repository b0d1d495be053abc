package server_test

import (
	"bytes"
	"context"
	"fmt"
	"strings"
	"testing"

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
	if status := c.call("POST", fmt.Sprintf("/tables/%d/amendment", table), answer{"revision": c.revision(table), "order": []int{1, 3, 2, 4, 5, 6, 7}}, nil); status != 201 {
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
	_, result, err := p.Run(context.Background(), tab)
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
