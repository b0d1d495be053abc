package server_test

import (
	"fmt"
	"strings"
	"testing"
)

type linkageView struct {
	Id                                                                    int64
	Records, Compared, Links, Review, Decided, Clusters, Golden, Possible int
	Attributes                                                            []struct{ Name, Kind string }
	Rules                                                                 []struct{ Words string }
}

type pairsView struct {
	Total int
	Pairs []struct {
		Left, Right struct {
			Name, Key string
			Row       int
		}
		Weight, Probability float64
		Decided             bool
		Findings            []struct {
			Attribute string
			Bits      float64
			Words     string
		}
	}
}

// Two tables are linked, a pair is decided and that holds on every later look and delivery, and the golden records become a table that balances.
func TestLinkages(t *testing.T) {
	c := serve(t)
	var a, b strings.Builder
	a.WriteString("id,vessel,harbour,built\n")
	b.WriteString("no,boat,port,year built\n")
	for i := range 120 {
		name := fmt.Sprintf("%s %s%c", []string{"Silver", "Golden", "Little", "Grey", "Northern"}[i%5], []string{"Petrel", "Gannet", "Skua", "Heron"}[i/5%4], 'a'+i/20)
		fmt.Fprintf(&a, "%d,%s,Harbour %d,%d\n", i, name, i%7, 1950+i)
		if i < 100 {
			fmt.Fprintf(&b, "%d,%s,harbour %d,%d\n", 1000+i, strings.ToUpper(name), i%7, 1950+i)
		} else {
			fmt.Fprintf(&b, "%d,Boat %c%c,Harbour 9,%d\n", 1000+i, 'A'+i%26, 'a'+i%24, 1900)
		}
	}
	left, right := c.bringIn("vessels", a.String()), c.bringIn("register", b.String())
	var made struct{ Id int64 }
	if status := c.call("POST", "/books/1/linkages", answer{"name": "Vessels", "tables": []int64{left, right}}, &made); status != 201 {
		t.Fatal(status)
	}
	path := fmt.Sprintf("/linkages/%d", made.Id)
	var l linkageView
	if status := c.call("GET", path, nil, &l); status != 200 || l.Records != 240 || l.Links < 98 || l.Links > 102 || l.Golden != 240-l.Clusters || len(l.Attributes) < 2 || len(l.Rules) == 0 {
		t.Fatalf("%d %+v", status, l)
	}
	var pairs pairsView
	c.call("GET", path+"/pairs?which=links&count=10", nil, &pairs)
	if pairs.Total != l.Links || len(pairs.Pairs) != 10 {
		t.Fatalf("%d of %d", len(pairs.Pairs), pairs.Total)
	}
	p := pairs.Pairs[0]
	sum := 0.0
	for _, f := range p.Findings {
		sum += f.Bits
	}
	if sum-p.Weight > .01 || p.Weight-sum > .01 {
		t.Errorf("the findings add up to %f, the weight is %f", sum, p.Weight)
	}
	decide := func(same any) {
		t.Helper()
		pair := answer{"a": p.Left.Key, "b": p.Right.Key}
		if same != nil {
			pair["same"] = same
		}
		if status := c.call("POST", path+"/decisions", answer{"pairs": []answer{pair}, "withdraw": same == nil}, nil); status != 204 {
			t.Fatal(status)
		}
	}
	links := l.Links
	decide(false)
	if c.call("GET", path, nil, &l); l.Links != links-1 {
		t.Errorf("%d links after one was kept apart of %d", l.Links, links)
	}
	decide(true)
	if c.call("GET", path, nil, &l); l.Links != links || l.Decided != 1 {
		t.Errorf("%+v", l)
	}
	decide(nil)
	if c.call("GET", path, nil, &l); l.Links != links || l.Decided != 0 {
		t.Errorf("%+v", l)
	}
	var table struct {
		Id   int64
		Rows int
	}
	if status := c.call("POST", path+"/golden", answer{"name": "Golden vessels"}, &table); status != 201 || table.Rows != l.Golden {
		t.Fatalf("%d %+v", status, table)
	}
	var journal []struct {
		Words  string
		Effect struct {
			Balance struct{ Before, Merged, After int }
		}
	}
	c.call("GET", fmt.Sprintf("/tables/%d/entries", table.Id), nil, &journal)
	if e := journal[0]; e.Effect.Balance.Before-e.Effect.Balance.Merged != e.Effect.Balance.After || !strings.Contains(e.Words, "golden records from 240 records of vessels and register, linked as Vessels") {
		t.Errorf("%+v", journal)
	}
	var raw string
	for body, want := range map[string]answer{
		"already":     {"name": "Vessels", "tables": []int64{left}},
		"not of 0":    {"name": "None", "tables": []int64{}},
		"there twice": {"name": "Twice", "tables": []int64{left, left}},
		"no such":     {"name": "Gone", "tables": []int64{999}},
	} {
		if status := c.call("POST", "/books/1/linkages", want, &raw); status < 400 || body != "no such" && !strings.Contains(raw, body) {
			t.Errorf("%v: %d %s", want, status, raw)
		}
	}
	if status := c.call("GET", "/linkages/999", nil, &raw); status != 404 {
		t.Errorf("%d %s", status, raw)
	}
	lone := c.bringIn("lone", "id,x\n1,a\n2,a\n")
	c.call("POST", "/books/1/linkages", answer{"name": "Lone", "tables": []int64{lone}}, &made)
	if status := c.call("GET", fmt.Sprintf("/linkages/%d", made.Id), nil, &raw); status != 422 || !strings.Contains(raw, "there is nothing to compare") {
		t.Errorf("%d %s", status, raw)
	}
}
