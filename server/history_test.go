package server_test

import (
	"fmt"
	"net/url"
	"strings"
	"testing"
)

// A mark is set, and the table returns to it from behind it, from another branch and from before
// it; what was decided goes with it.
func TestMarks(t *testing.T) {
	c := serve(t)
	table := c.bringIn("landings", "no,gear\n1,GN \n1,gn\n2,Pots\n")
	path := fmt.Sprintf("/tables/%d/marks", table)
	c.post(table, "tidy", answer{"columns": []string{"gear"}, "steps": []answer{{"op": "trim"}}})
	c.post(table, "values", answer{"column": "gear", "changes": []answer{{"from": "GN", "to": "Gill net"}}, "crosswalk": "gear"})
	if status := c.call("PUT", path, answer{"name": "before repeats", "revision": c.revision(table)}, nil); status != 204 {
		t.Fatal(status)
	}
	at, marked := c.revision(table), c.csv(table)
	back := func() {
		t.Helper()
		if status := c.call("POST", path+"/"+url.PathEscape("before repeats"), answer{"revision": c.revision(table)}, nil); status != 200 || c.revision(table) != at || c.csv(table) != marked {
			t.Fatalf("%d: revision %d, want %d\n%s", status, c.revision(table), at, c.csv(table))
		}
	}
	c.post(table, "duplicates", answer{"key": []string{"no"}, "keep": "first"})
	c.post(table, "tidy", answer{"columns": []string{"gear"}, "steps": []answer{{"op": "upper"}}})
	back()
	// From before it: the entries are posted again, with their decisions.
	for range 2 {
		c.call("POST", fmt.Sprintf("/tables/%d/reverse", table), answer{"revision": c.revision(table)}, nil)
	}
	c.post(table, "tidy", answer{"columns": []string{"gear"}, "steps": []answer{{"op": "lower"}}}) // another branch
	back()
	var raw answer
	if c.call("GET", "/books/1/crosswalks/gear", nil, &raw); !strings.Contains(fmt.Sprint(raw), "Gill net") {
		t.Errorf("the decision did not come back: %v", raw)
	}
	// Across an amendment: what it superseded stands again.
	if status := c.call("POST", fmt.Sprintf("/tables/%d/amendment", table), answer{"revision": at, "steps": stays(2)}, nil); status != 201 {
		t.Fatal(status)
	}
	back()
	var marks []struct {
		Name   string
		Entry  int
		Stands bool
	}
	if c.call("GET", path, nil, &marks); fmt.Sprint(marks) != "[{before repeats 2 true}]" {
		t.Errorf("%v", marks)
	}
	for what, want := range map[string]int{"before repeats": 422, "nothing": 404} {
		if status := c.call("POST", path+"/"+url.PathEscape(what), answer{"revision": at}, nil); status != want {
			t.Errorf("return to %q: %d, want %d", what, status, want)
		}
	}
	if status := c.call("PUT", path, answer{"name": " ", "revision": at}, nil); status != 422 {
		t.Errorf("a mark without a name: %d", status)
	}
	if status := c.call("PUT", path, answer{"name": "x", "revision": at - 1}, nil); status != 409 {
		t.Errorf("a mark on a revision that does not stand: %d", status)
	}
	if status := c.call("DELETE", path+"/"+url.PathEscape("before repeats"), nil, nil); status != 204 {
		t.Errorf("remove: %d", status)
	}
	if c.call("GET", path, nil, &marks); len(marks) != 0 {
		t.Errorf("%v", marks)
	}
}

// What lies between two entries, and the life of one cell back to the row of the file.
func TestDifferenceAndLife(t *testing.T) {
	c := serve(t)
	table := c.bringIn("landings", "no,gear\n1,GN \n1,gn\n2,Pots\n")
	c.post(table, "tidy", answer{"columns": []string{"gear"}, "steps": []answer{{"op": "trim"}}})
	c.post(table, "columns", answer{"columns": []answer{{"from": "no"}, {"from": "gear", "as": "method"}}})
	c.post(table, "values", answer{"column": "method", "changes": []answer{{"from": "GN", "to": "Gill net, small"}}})
	c.post(table, "duplicates", answer{"key": []string{"no"}, "keep": "first"})
	c.post(table, "split", answer{"column": "method", "by": "marks", "marks": []string{","}, "rows": true})
	c.post(table, "tidy", answer{"columns": []string{"method"}, "steps": []answer{{"op": "upper"}}})
	var d struct {
		Before, Added, SetAside, After, Cells int
		Columns                               []struct {
			Column, State string
			Come, Went    int
			Values        []struct{ Value string }
		}
	}
	if status := c.call("GET", fmt.Sprintf("/tables/%d/difference?from=0&to=4", table), nil, &d); status != 200 || d.Before != 3 || d.SetAside != 1 || d.After != 2 || len(d.Columns) != 2 || d.Columns[0].Column != "method" || d.Columns[0].State != "came" || d.Columns[1].Went != 3 {
		t.Errorf("%d %+v", status, d)
	}
	if c.call("GET", fmt.Sprintf("/tables/%d/difference?from=4&to=6", table), nil, &d); d.Added != 1 || d.Cells != 2 || d.Columns[0].Values[0].Value != "GILL NET" {
		t.Errorf("%+v", d)
	}
	if status := c.call("GET", fmt.Sprintf("/tables/%d/difference?from=4&to=60", table), nil, nil); status != 404 {
		t.Error(status)
	}
	life := func(base int, column string) (int, string) {
		var lived []struct {
			Number   int
			From, To *string
		}
		status := c.call("GET", fmt.Sprintf("/tables/%d/life?revision=%d&row=%d&column=%s", table, c.revision(table), base, column), nil, &lived)
		out := ""
		for _, e := range lived {
			for _, v := range []*string{e.From, e.To} {
				if v == nil {
					v = new(string)
					*v = "∅"
				}
				out += fmt.Sprintf("%q ", *v)
			}
			out += fmt.Sprintf("by %d; ", e.Number)
		}
		return status, out
	}
	// The second row came from the first one of the file, by the split.
	for position, want := range map[int]string{
		0: `"Gill net" "GILL NET" by 6; "Gill net, small" "Gill net" by 5; "GN" "Gill net, small" by 3; "GN" "GN" by 2; "GN " "GN" by 1; "∅" "GN " by 0; `,
		3: `"small" "SMALL" by 6; "Gill net, small" "small" by 5; "GN" "Gill net, small" by 3; "GN" "GN" by 2; "GN " "GN" by 1; "∅" "GN " by 0; `,
		2: `"Pots" "POTS" by 6; "Pots" "Pots" by 2; "∅" "Pots" by 0; `,
	} {
		if status, got := life(position, "method"); status != 200 || got != want {
			t.Errorf("%d: %s, want %s", status, got, want)
		}
	}
	for _, of := range []string{"row=9&column=method", "row=0&column=gear"} {
		if status := c.call("GET", fmt.Sprintf("/tables/%d/life?revision=%d&%s", table, c.revision(table), of), nil, nil); status != 422 {
			t.Errorf("%s: %d", of, status)
		}
	}
}
