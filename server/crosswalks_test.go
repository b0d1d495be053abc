package server_test

import (
	"fmt"
	"strings"
	"testing"
)

type walk struct {
	Closed    bool
	Lines     []struct{ Variant, Standard, Why string }
	Standards []struct{ Value, Code, Note, Broader string }
	Uses      []struct {
		Table      int64
		Column     string
		Coverage   struct{ Values, Known, Rows, KnownRows, Pending, PendingRows int }
		Unknown    []struct{ Value string }
		Deliveries []struct{ Known int }
	}
}

func (c *client) walk(name string) (w walk) {
	c.call("GET", "/books/1/crosswalks/"+name, nil, &w)
	return w
}

// A crosswalk is edited as a list, renamed and merged, read from and written to files; tables that apply it are told what they lack.
func TestCrosswalk(t *testing.T) {
	c := serve(t)
	kestrel := c.bringIn("kestrel", "gear\nGN\nGill net\ntrawl\nGN\npots\n")
	c.bringIn("gull", "gear\nGN\nTrawl\n")
	c.post(kestrel, "values", answer{"column": "gear", "crosswalk": "gear", "changes": []answer{{"from": "GN", "to": "Gill net", "why": "initials"}}})
	w := c.walk("gear")
	if len(w.Uses) != 2 || w.Uses[1].Coverage.Pending != 0 || w.Uses[1].Coverage.Known != 1 || w.Uses[1].Coverage.Values != 3 || w.Uses[0].Coverage.PendingRows != 1 || len(w.Uses[1].Unknown) != 2 || w.Uses[1].Deliveries[0].Known != 2 {
		t.Fatalf("%+v", w)
	}
	// By hand: a line more, a code and a broader value; a second standard value for a variant is told and not taken.
	var changed struct {
		Added     int
		Conflicts []struct{ Variant, Known, New string }
	}
	body := answer{"lines": []answer{{"variant": "trawl", "standard": "Trawl"}, {"variant": "GN", "standard": "Grey nurse"}}, "standards": []answer{{"value": "Gill net", "code": "G1", "broader": "Net"}, {"value": "Net"}}}
	if status := c.call("POST", "/books/1/crosswalks/gear/decisions", body, &changed); status != 200 || changed.Added != 1 || fmt.Sprint(changed.Conflicts) != "[{GN Gill net Grey nurse}]" {
		t.Errorf("%d %+v", status, changed)
	}
	var raw string
	if status := c.call("PUT", "/books/1/crosswalks/gear/standards", answer{"value": "Net", "broader": "Gill net"}, &raw); status != 422 || !strings.Contains(raw, "broader than itself") {
		t.Errorf("a circle: %d %s", status, raw)
	}
	// Renamed: its variants follow, in every table that is then brought up to date.
	if status := c.call("POST", "/books/1/crosswalks/gear/standards", answer{"from": "Gill net", "to": "Gillnet"}, nil); status != 204 {
		t.Fatal(status)
	}
	w = c.walk("gear")
	if got := fmt.Sprint(w.Lines, w.Standards); got != "[{GN Gillnet initials} {trawl Trawl } {Gill net Gillnet renamed}] [{Gillnet G1  Net} {Net   } {Trawl   }]" {
		t.Error(got)
	}
	if k := w.Uses[1].Coverage; k.Pending != 2 || k.PendingRows != 4 || w.Uses[0].Coverage.PendingRows != 1 {
		t.Errorf("after renaming: %+v", w.Uses)
	}
	var found struct {
		Groups []struct {
			Standard, Doubt string
			Members         []struct{ Value, Rung string }
		}
	}
	c.call("GET", fmt.Sprintf("/tables/%d/spellings?column=gear&accept=crosswalk", kestrel), nil, &found)
	if len(found.Groups) != 2 || found.Groups[0].Standard != "Gillnet" || found.Groups[0].Members[0].Rung != "crosswalk" || found.Groups[0].Doubt != "" {
		t.Errorf("%+v", found)
	}
	// Into a new column, so that the old one stays; and the rows stay as many as they are.
	c.post(kestrel, "values", answer{"column": "gear", "crosswalk": "gear", "into": "gear, standard", "changes": []answer{{"from": "Gill net", "to": "Gillnet"}, {"from": "trawl", "to": "Trawl"}}})
	c.call("GET", fmt.Sprintf("/tables/%d/publish", kestrel), nil, &raw)
	if raw != "gear,\"gear, standard\"\nGill net,Gillnet\nGill net,Gillnet\ntrawl,Trawl\nGill net,Gillnet\npots,pots\n" {
		t.Errorf("%q", raw)
	}
	// Out and in again, in each format, into a crosswalk of another name.
	for i, format := range []string{"csv", "xlsx", "json", "ttl", "sssom.tsv"} {
		if status := c.call("GET", "/books/1/crosswalks/gear/file?format="+format, nil, &raw); status != 200 {
			t.Fatal(format, status)
		}
		name := fmt.Sprint("copy", i)
		if status := c.call("POST", "/books/1/crosswalks/"+name+"/file?name=x."+format, raw, &changed); status != 200 || changed.Added != 3 || len(changed.Conflicts) != 0 {
			t.Errorf("%s: %d %+v", format, status, changed)
		}
		if got := c.walk(name); len(got.Lines) != 3 || len(got.Standards) != 3 || got.Closed {
			t.Errorf("%s: %+v", format, got)
		}
	}
	// One column alone lists what is right, and all that is; then values are tied to these alone.
	if status := c.call("POST", "/books/1/crosswalks/gear/file?name=right.csv", "gear\nPot\nTrawl\n", &changed); status != 200 || !c.walk("gear").Closed {
		t.Errorf("%d", status)
	}
	c.call("GET", fmt.Sprintf("/tables/%d/spellings?column=gear&accept=forms", kestrel), nil, &found)
	if fmt.Sprint(found.Groups) != "[{Gillnet  [{Gill net crosswalk}]} {Pot  [{pots forms}]} {Trawl  [{trawl crosswalk}]}]" {
		t.Errorf("%+v", found.Groups)
	}
	// It applies to a column of another name as well.
	other := c.bringIn("skerry", "tackle\nGN\nnets\n")
	c.call("GET", fmt.Sprintf("/tables/%d/spellings?column=tackle&accept=crosswalk&crosswalk=gear", other), nil, &found)
	if fmt.Sprint(found.Groups) != "[{Gillnet  [{GN crosswalk}]}]" {
		t.Errorf("%+v", found.Groups)
	}
	c.post(other, "values", answer{"column": "tackle", "crosswalk": "gear", "changes": []answer{{"from": "GN", "to": "Gillnet"}}})
	if w := c.walk("gear"); len(w.Uses) != 4 || w.Uses[3].Column != "tackle" {
		t.Errorf("%+v", w.Uses)
	}
	// What was decided is undone singly.
	if status := c.call("POST", "/books/1/crosswalks/gear/forget", answer{"value": "trawl"}, nil); status != 204 || len(c.walk("gear").Lines) != 2 {
		t.Error(status, c.walk("gear").Lines)
	}
	if status := c.call("POST", "/books/1/crosswalks/gear/file?name=bad.ttl", "<a> <b> .", &raw); status != 422 || !strings.Contains(raw, "bad.ttl") {
		t.Errorf("%d %s", status, raw)
	}
}

// What two tables decided alike stands while one of them does, on the evidence it was first decided on.
func TestDecisionOfTwoTables(t *testing.T) {
	c := serve(t)
	first, second := c.bringIn("kestrel", "gear\nGN\n"), c.bringIn("gull", "gear\nGN\n")
	for i, table := range []int64{first, second} {
		c.post(table, "values", answer{"column": "gear", "crosswalk": "gear", "changes": []answer{{"from": "GN", "to": "Gill net", "why": []string{"initials", "in the crosswalk"}[i]}}})
	}
	for _, step := range []struct {
		table int64
		want  string
	}{{first, "[{GN Gill net initials}]"}, {second, "[]"}} {
		if status := c.call("POST", fmt.Sprintf("/tables/%d/reverse", step.table), answer{"revision": c.revision(step.table)}, nil); status != 200 {
			t.Fatal(status)
		}
		if got := fmt.Sprint(c.walk("gear").Lines); got != step.want {
			t.Errorf("%s, want %s", got, step.want)
		}
	}
}

// The book's own short forms are known to every column; other columns of the rows testify.
func TestShortFormsAndTestimony(t *testing.T) {
	c := serve(t)
	var rows strings.Builder
	rows.WriteString("vessel,licence,harbour\n")
	for i := range 2400 {
		fmt.Fprintf(&rows, "Boat %c%c,L%02d,Port Kestrel\n", 'A'+i%20, 'a'+i%20, i%20)
		if i < 12 {
			rows.WriteString("Silver Petrel,L77,Gull Point\n")
		}
	}
	rows.WriteString("Silver Petrell,L77,Gull Point\nSilver Petrl,L99,Gull Point\nHbr launch,L50,Gull Point\nHarbour launch,L50,Gull Point\nHarbour launch,L50,Gull Point\n")
	table := c.bringIn("boats", rows.String())
	type members struct {
		Groups []struct {
			Standard, Doubt string
			Members         []struct {
				Value        string
				For, Against []string
			}
		}
	}
	var found members
	c.call("GET", fmt.Sprintf("/tables/%d/spellings?column=vessel&accept=slips", table), nil, &found)
	if len(found.Groups) != 1 || found.Groups[0].Standard != "Silver Petrel" {
		t.Fatalf("%+v", found)
	}
	g := found.Groups[0]
	if fmt.Sprint(g.Members) != "[{Silver Petrel [] []} {Silver Petrell [same licence in its one row] []} {Silver Petrl [] [another licence]}]" || !strings.Contains(g.Doubt, "“Silver Petrl” has another licence") {
		t.Errorf("%+v", g)
	}
	if status := c.call("PUT", "/books/1/forms", answer{"forms": answer{"hbr": "harbour"}}, nil); status != 204 {
		t.Fatal(status)
	}
	c.call("GET", fmt.Sprintf("/tables/%d/spellings?column=vessel&accept=forms", table), nil, &found)
	if len(found.Groups) != 1 || found.Groups[0].Standard != "Harbour launch" {
		t.Errorf("%+v", found)
	}
	var raw string
	if status := c.call("PUT", "/books/1/forms", answer{"forms": answer{"hbr": " "}}, &raw); status != 422 {
		t.Errorf("%d %s", status, raw)
	}
}
