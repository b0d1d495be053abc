package server_test

import (
	"fmt"
	"strings"
	"testing"
)

type amendment struct {
	Revision int64
	Rows     int
	Entries  []struct{ Number int }
	Steps    []struct {
		Number  int
		Now     *struct{ Changed int }
		Problem *struct{ Detail string }
	}
}

// Entries are switched off and moved: what each comes to is shown first, those done again get
// numbers of their own, and reversing leads back to where the table stood.
func TestAmend(t *testing.T) {
	c := serve(t)
	table := c.bringIn("landings", "no,gear\n1,GN\n1,gn \n2,Pots\n")
	c.post(table, "tidy", answer{"columns": []string{"gear"}, "steps": []answer{{"op": "trim"}}})
	c.post(table, "values", answer{"column": "gear", "changes": []answer{{"from": "GN", "to": "Gill net"}}, "crosswalk": "gear"})
	c.post(table, "duplicates", answer{"key": []string{"no"}, "keep": "last"})
	c.post(table, "tidy", answer{"columns": []string{"gear"}, "steps": []answer{{"op": "upper"}}})
	before, at := c.csv(table), c.revision(table)
	if before != "no,gear\n1,GN\n2,POTS\n" {
		t.Fatal(before)
	}
	path := fmt.Sprintf("/tables/%d/amendment", table)
	var a amendment
	if c.call("GET", path, nil, &a); len(a.Entries) != 4 || len(a.Steps) != 0 || a.Rows != 2 {
		t.Errorf("as it stands: %+v", a)
	}
	// Upper case before the mapping: the mapping finds what it did not find before.
	if status := c.call("POST", path+"/draft", answer{"revision": at, "steps": stays(1, 4, 2)}, &a); status != 200 || a.Rows != 3 || len(a.Steps) != 2 || a.Steps[0].Number != 4 || a.Steps[1].Now.Changed != 1 {
		t.Errorf("status %d, %+v", status, a)
	}
	var e struct {
		Number int
		Words  string
	}
	if status := c.call("POST", path, answer{"revision": at, "steps": stays(1, 4, 2)}, &e); status != 201 || e.Number != 5 || e.Words != "Switched off 1 of entries 2 to 4" {
		t.Fatalf("status %d, %+v", status, e)
	}
	if got := c.csv(table); got != "no,gear\n1,Gill net\n1,Gill net\n2,POTS\n" {
		t.Errorf("%s", got)
	}
	if got := strings.Join(c.states(table), " "); got != "0:posted 1:posted 2:superseded 3:superseded 4:superseded 5:posted 6:posted 7:posted" {
		t.Errorf("the journal is %s", got)
	}
	// Amended once more, from the first entry on, and all off.
	if status := c.call("POST", path, answer{"revision": c.revision(table), "steps": stays()}, &e); status != 201 || e.Words != "Switched off entries 1 to 7" {
		t.Fatalf("status %d, %+v", status, e)
	}
	if got := c.csv(table); got != "no,gear\n1,GN\n1,gn \n2,Pots\n" {
		t.Errorf("%s", got)
	}
	for range 4 { // the second amendment, the two entries done again, the first amendment
		if status := c.call("POST", fmt.Sprintf("/tables/%d/reverse", table), answer{"revision": c.revision(table)}, nil); status != 200 {
			t.Fatalf("reverse: %d", status)
		}
	}
	if got := strings.Join(c.states(table)[:5], " "); c.csv(table) != before || c.revision(table) != at || got != "0:posted 1:posted 2:posted 3:posted 4:posted" {
		t.Errorf("reversed, the journal is %s and the table\n%s", got, c.csv(table))
	}
	var known struct{ Lines []answer }
	if c.call("GET", "/books/1/crosswalks/gear", nil, &known); len(known.Lines) == 0 {
		var raw answer
		c.call("GET", "/books/1/crosswalks/gear", nil, &raw)
		if !strings.Contains(fmt.Sprint(raw), "Gill net") {
			t.Errorf("the decision did not come back: %v", raw)
		}
	}
	// Posting the first amendment again takes its entries back once more.
	if status := c.call("POST", fmt.Sprintf("/tables/%d/entries/5/repost", table), answer{"revision": at}, nil); status != 200 {
		t.Errorf("repost: %d", status)
	}
	if got := strings.Join(c.states(table)[:6], " "); got != "0:posted 1:posted 2:superseded 3:superseded 4:superseded 5:posted" {
		t.Errorf("posted again, the journal is %s", got)
	}
}

func TestAmendRefuses(t *testing.T) {
	c := serve(t)
	table := c.bringIn("landings", "no,gear\n1,GN\n1,gn\n")
	c.post(table, "duplicates", answer{"key": []string{"no"}, "keep": "first"})
	c.post(table, "return", answer{"entry": 1})
	path := fmt.Sprintf("/tables/%d/amendment", table)
	var a amendment
	if c.call("POST", path+"/draft", answer{"revision": c.revision(table), "steps": stays(2)}, &a); a.Steps[0].Problem == nil || !strings.Contains(a.Steps[0].Problem.Detail, "entry 1 sets no rows aside") {
		t.Errorf("%+v", a)
	}
	for body, says := range map[string]string{`{"revision":%d,"steps":[{"entry":2}]}`: "cannot be done there", `{"revision":%d,"steps":[{"entry":1},{"entry":2}]}`: "as it does",
		`{"revision":%d,"steps":[{"entry":1},{"entry":7}]}`: "entry 7 is not one", `{"revision":%d,"steps":[{"entry":2},{"entry":2},{"entry":1}]}`: "comes twice",
		`{"revision":%d,"steps":[{"entry":1},{"entry":-1}]}`: "inserted without parameters", `{"revision":%d,"steps":[{"entry":1,"kind":"tidy","params":{}}]}`: "of another kind",
		`{"revision":%d,"steps":[{"entry":-1,"kind":"dance","params":{}}]}`: "no kind of entry", `{"revision":%d,"steps":[{"entry":-1,"kind":"return","params":{"entry":2}}]}`: "the entry that is inserted (return) cannot be done there"} {
		var p struct{ Detail string }
		if status := c.call("POST", path, fmt.Sprintf(body, c.revision(table)), &p); status != 422 || !strings.Contains(p.Detail, says) {
			t.Errorf("%s: %d %+v", body, status, p)
		}
	}
	at := c.revision(table)
	c.post(table, "tidy", answer{"columns": []string{"gear"}, "steps": []answer{{"op": "upper"}}})
	if status := c.call("POST", path, answer{"revision": at, "steps": stays(1)}, nil); status != 409 {
		t.Errorf("on a revision that no longer stands: %d", status)
	}
}

// Several entries are reversed at once, back to one, and posted again with those behind it;
// where one does not stand nothing is reversed.
func TestReverseMany(t *testing.T) {
	c := serve(t)
	table := c.bringIn("landings", "no,gear\n1,gn \n1,gn\n")
	opening := c.csv(table)
	c.post(table, "tidy", answer{"columns": []string{"gear"}, "steps": []answer{{"op": "trim"}}})
	c.post(table, "duplicates", answer{"key": []string{"no"}, "keep": "first"})
	c.post(table, "tidy", answer{"columns": []string{"gear"}, "steps": []answer{{"op": "upper"}}})
	end, at := c.csv(table), c.revision(table)
	var e struct{ Number int }
	if status := c.call("POST", fmt.Sprintf("/tables/%d/reverse", table), answer{"revision": at, "to": 1}, &e); status != 200 || e.Number != 1 || c.csv(table) != opening {
		t.Fatalf("status %d, entry %d", status, e.Number)
	}
	if got := strings.Join(c.states(table), " "); got != "0:posted 1:reversed 2:reversed 3:reversed" {
		t.Errorf("the journal is %s", got)
	}
	if status := c.call("POST", fmt.Sprintf("/tables/%d/reverse", table), answer{"revision": c.revision(table), "to": 1}, nil); status != 422 {
		t.Errorf("reversed what does not stand: %d", status)
	}
	if status := c.call("POST", fmt.Sprintf("/tables/%d/entries/1/repost", table), answer{"revision": c.revision(table), "following": true}, nil); status != 200 || c.csv(table) != end || c.revision(table) != at {
		t.Errorf("status %d: %s", status, c.csv(table))
	}
	var p struct{ Detail string }
	if status := c.call("POST", fmt.Sprintf("/tables/%d/reverse", table), answer{"revision": at, "to": 7}, &p); status != 422 || c.revision(table) != at {
		t.Errorf("status %d, %+v", status, p)
	}
}

// stays are the steps of an amendment in which entries stay as they are.
func stays(numbers ...int) []answer {
	out := []answer{}
	for _, n := range numbers {
		out = append(out, answer{"entry": n})
	}
	return out
}

// An entry is changed and another inserted before it: the later ones are done again, the decisions
// of the changed one are its new ones, and reversing brings all back.
func TestAmendChangesAndInserts(t *testing.T) {
	c := serve(t)
	table := c.bringIn("landings", "no,gear\n1, GN\n2,Pots\n3,gn\n")
	c.post(table, "values", answer{"column": "gear", "changes": []answer{{"from": "GN", "to": "Gill net"}}, "crosswalk": "gear"})
	c.post(table, "formula", answer{"formula": `upper(gear)`, "name": "large"})
	path := fmt.Sprintf("/tables/%d/amendment", table)
	var a struct {
		Entries []struct {
			Kind    string
			Params  answer
			Columns []string
		}
		Steps []struct {
			Number   int
			Words    string
			Was, Now *answer
		}
	}
	if c.call("GET", path, nil, &a); len(a.Entries) != 2 || a.Entries[1].Kind != "formula" || a.Entries[1].Params["name"] != "large" || fmt.Sprint(a.Entries[1].Columns) != "[no gear]" {
		t.Errorf("%+v", a)
	}
	at := c.revision(table)
	body := answer{"revision": at, "steps": []answer{
		{"entry": -1, "kind": "tidy", "params": answer{"columns": []string{"gear"}, "steps": []answer{{"op": "trim"}}}},
		{"entry": 1, "kind": "values", "params": answer{"column": "gear", "changes": []answer{{"from": "GN", "to": "Gillnet"}, {"from": "gn", "to": "Gillnet"}}, "crosswalk": "gear"}},
		{"entry": 2}}}
	if status := c.call("POST", path+"/draft", body, &a); status != 200 || len(a.Steps) != 3 || a.Steps[0].Was != nil || a.Steps[0].Now == nil || a.Steps[1].Words != "Map 2 spellings of gear to “Gillnet”" {
		t.Fatalf("%d %+v", status, a)
	}
	var e struct{ Words string }
	if status := c.call("POST", path, body, &e); status != 201 || e.Words != "Amended entries 1 to 2: 1 changed, 1 inserted" {
		t.Fatalf("%d %+v", status, e)
	}
	if got := c.csv(table); got != "no,gear,large\n1,Gillnet,GILLNET\n2,Pots,POTS\n3,Gillnet,GILLNET\n" {
		t.Error(got)
	}
	crosswalk := func() string {
		var raw answer
		c.call("GET", "/books/1/crosswalks/gear", nil, &raw)
		return fmt.Sprint(raw)
	}
	if got := crosswalk(); !strings.Contains(got, "Gillnet") || strings.Contains(got, "Gill net") {
		t.Errorf("the crosswalk is %s", got)
	}
	if status := c.call("POST", fmt.Sprintf("/tables/%d/reverse", table), answer{"revision": c.revision(table), "to": 3}, nil); status != 200 || c.revision(table) != at {
		t.Errorf("reverse: %d", status)
	}
	if got := crosswalk(); !strings.Contains(got, "Gill net") || strings.Contains(got, "Gillnet") {
		t.Errorf("reversed, the crosswalk is %s", got)
	}
	// Entries that only follow on the others are posted as they are.
	body = answer{"revision": at, "steps": append(stays(1, 2), answer{"entry": -4, "kind": "tidy", "params": answer{"columns": []string{"gear"}, "steps": []answer{{"op": "trim"}, {"op": "upper"}}}},
		answer{"entry": -5, "kind": "duplicates", "params": answer{"key": []string{"gear"}, "keep": "first"}},
		answer{"entry": -6, "kind": "return", "params": answer{"entry": -5}})}
	if status := c.call("POST", path, body, nil); status != 201 {
		t.Fatalf("%d", status)
	}
	if got := strings.Join(c.states(table), " "); !strings.HasSuffix(got, "7:posted 8:posted 9:posted") || strings.Contains(got, "superseded") {
		t.Errorf("the journal is %s", got)
	}
}
