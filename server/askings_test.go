package server_test

import (
	"context"
	"fmt"
	"net"
	"net/http"
	"net/url"
	"strings"
	"testing"

	"grandledger/asking"
	"grandledger/core/coretest"
	"grandledger/standin"
)

// standinAt is where tests may start an authority: an address of this machine that the server is allowed to ask.
var standinAt = func() string {
	l, err := net.Listen("tcp", "127.0.0.1:0")
	if err != nil {
		panic(err)
	}
	defer l.Close()
	return l.Addr().String()
}()

type askingView struct {
	Id, Register, Job int64
	Name, Authority   string
	With              []struct{ Columns, Properties []string }
	Counts            []struct {
		State        string
		Values, Rows int
	}
	Blank, Unasked int
	Properties     []string
}

type valuesView struct {
	Total  int
	Values []struct {
		Of                          []string
		Rows                        int
		State, Identifier, Standard string
		Decided                     bool
		Candidates                  []struct {
			Entry struct {
				Identifier, Name string
				Facts            []struct{ Property, Value string }
			}
			Weight   float64
			Findings []struct{ Bits float64 }
		}
	}
}

// registerRows are entries of a register, two of which share a name.
func registerRows() [][]string {
	rows := [][]string{{"reg", "vessel", "built"}}
	for i := range 60 {
		rows = append(rows, []string{fmt.Sprintf("V%03d", i), []string{"Silver", "Golden", "Little", "Grey", "Northern", "Bonny"}[i%6] + " " + []string{"Petrel", "Gannet", "Skua", "Heron", "Tern", "Fulmar", "Dawn", "Tide", "Fathom", "Selkie"}[i/6], fmt.Sprint(1950 + i)})
	}
	return append(rows, []string{"V100", "Silver Petrel", "2010"})
}

const boats = "boat,year,kg\nSILVER PETREL,2010,1\nGoldn Gannet,1957,2\nGoldn Gannet,1957,3\nNorthern Selkie,2008,4\n,1999,5\nZzyzx Qwv,1901,6\nGrey Tern,1977,7\n"

// A column is tied to a table of the book used as a register: what is sure is identified, decisions are kept and taken back, and identifiers, standard names and facts come home in an entry that
// balances, stands and can be reversed.
func TestAskARegister(t *testing.T) {
	c := serve(t)
	var csv strings.Builder
	for _, row := range registerRows() {
		csv.WriteString(strings.Join(row, ",") + "\n")
	}
	landings, register := c.bringIn("landings", boats), c.bringIn("register", csv.String())
	var made struct {
		Id   int64
		Name string
	}
	if status := c.call("POST", "/books/1/askings", answer{"table": landings, "column": "boat", "register": register, "with": []answer{{"columns": []string{"year"}, "properties": []string{"built"}}}}, &made); status != 201 || made.Name != "boat, by register" {
		t.Fatalf("%d %+v", status, made)
	}
	path := fmt.Sprintf("/askings/%d", made.Id)
	var a askingView
	if status := c.call("GET", path, nil, &a); status != 200 || len(a.With) != 1 || a.With[0].Properties[0] != "built" || a.Blank != 1 {
		t.Fatalf("%d %+v", status, a)
	}
	values, rows := 0, a.Blank
	for _, n := range a.Counts {
		values, rows = values+n.Values, rows+n.Rows
	}
	if values != 5 || rows != 7 {
		t.Errorf("%d values in %d rows: %+v", values, rows, a)
	}
	all := map[string]valuesView{}
	for _, state := range []string{"identified", "undecided", "not listed"} {
		var v valuesView
		c.call("GET", path+"/values?state="+url.QueryEscape(state), nil, &v)
		all[state] = v
		for _, of := range v.Values {
			for _, candidate := range of.Candidates {
				sum := 0.0
				for _, f := range candidate.Findings {
					sum += f.Bits
				}
				if sum-candidate.Weight > .01 || candidate.Weight-sum > .01 {
					t.Errorf("%v: the findings add up to %f of %f", of.Of, sum, candidate.Weight)
				}
			}
		}
	}
	var lost []string
	for _, v := range all["not listed"].Values {
		lost = v.Of
	}
	if len(lost) == 0 || lost[0] != "Zzyzx Qwv" {
		t.Fatalf("%+v", all["not listed"])
	}
	decide := func(of []string, rest answer, withdraw bool) {
		t.Helper()
		rest["of"] = of
		var raw string
		if status := c.call("POST", path+"/decisions", answer{"values": []answer{rest}, "withdraw": withdraw}, &raw); status != 204 {
			t.Fatalf("%d %s", status, raw)
		}
	}
	decide(lost, answer{"state": "not listed", "identifier": "local-1", "standard": "Zzyzx", "note": "built abroad"}, false)
	decide([]string{"Grey Tern", "1977"}, answer{"state": "undecided"}, false)
	var v valuesView
	if c.call("GET", path+"/values?state=undecided", nil, &v); v.Total == 0 {
		t.Error("nothing is undecided")
	}
	decide([]string{"Grey Tern", "1977"}, answer{"state": "identified", "identifier": "V027", "standard": "Grey Tern"}, false)
	var found []struct{ Identifier string }
	if c.call("GET", path+"/entries?text=v100", nil, &found); len(found) != 1 || found[0].Identifier != "V100" {
		t.Errorf("%v", found)
	}
	n := c.post(landings, "identify", answer{"asking": made.Id, "properties": []string{"built"}})
	text := c.csv(landings)
	lines := strings.Split(strings.TrimSpace(text), "\n")
	if lines[0] != "boat,year,kg,boat identifier,boat standard,built of register" || lines[1] != "SILVER PETREL,2010,1,V100,Silver Petrel,2010" || lines[6] != "Zzyzx Qwv,1901,6,local-1,Zzyzx," || lines[7] != "Grey Tern,1977,7,V027,Grey Tern,1977" || !strings.HasPrefix(lines[5], ",1999,5,,,") {
		t.Errorf("entry %d:\n%s", n, text)
	}
	var raw string
	for want, body := range map[string]answer{
		"no column":            {"table": landings, "column": "gone", "register": register},
		"Choose one of them":   {"table": landings, "column": "boat"},
		"not the address":      {"table": landings, "column": "boat", "address": "ftp://x"},
		"in a private network": {"table": landings, "column": "boat", "address": "http://127.0.0.1:9/"},
	} {
		if status := c.call("POST", "/books/1/askings", body, &raw); status != 422 || !strings.Contains(raw, want) {
			t.Errorf("%v: %d %s", body, status, raw)
		}
	}
	if status := c.call("GET", "/askings/999", nil, &raw); status != 404 {
		t.Errorf("%d %s", status, raw)
	}
}

// A service is asked in the background, answers are kept, and the column goes from asking to facts brought home over HTTP.
func TestAskAService(t *testing.T) {
	c := serve(t)
	stand, err := standin.New("Vessel register", "vessel", coretest.Build(registerRows()...), "reg", "vessel", standin.Trouble{Errors: 3})
	if err != nil {
		t.Fatal(err)
	}
	l, err := net.Listen("tcp", standinAt)
	if err != nil {
		t.Fatal(err)
	}
	h := &http.Server{Handler: stand}
	go h.Serve(l)
	defer h.Close()
	landings := c.bringIn("landings", boats)
	var made struct{ Id int64 }
	if status := c.call("POST", "/books/1/askings", answer{"table": landings, "column": "boat", "address": "http://" + standinAt + "/", "with": []answer{{"columns": []string{"year"}, "properties": []string{"built"}}}}, &made); status != 201 {
		t.Fatal(status)
	}
	path := fmt.Sprintf("/askings/%d", made.Id)
	var a askingView
	if c.call("GET", path, nil, &a); a.Unasked != 5 || a.Authority != "Vessel register" {
		t.Fatalf("%+v", a)
	}
	var job struct{ Id int64 }
	if status := c.call("POST", path+"/ask", answer{}, &job); status != 202 {
		t.Fatal(status)
	}
	c.finished(job.Id)
	if c.call("GET", path, nil, &a); a.Unasked != 0 {
		t.Fatalf("%+v", a)
	}
	asked := stand.Asked()
	c.call("POST", path+"/ask", answer{}, &job)
	c.finished(job.Id)
	if stand.Asked() != asked {
		t.Errorf("what was answered was asked again: %d requests", stand.Asked()-asked)
	}
	c.post(landings, "identify", answer{"asking": made.Id, "properties": []string{"built"}})
	if lines := strings.Split(c.csv(landings), "\n"); lines[1] != "SILVER PETREL,2010,1,V100,Silver Petrel,2010" {
		t.Errorf("%s", lines[1])
	}
}

// A table of the book answers others once it is opened: asked over HTTP by our own client, as any other service is.
func TestTableAsAnAuthority(t *testing.T) {
	c := serve(t)
	var csv strings.Builder
	for _, row := range registerRows() {
		csv.WriteString(strings.Join(row, ",") + "\n")
	}
	register := c.bringIn("register", csv.String())
	base := strings.TrimSuffix(c.url, "/")
	host := strings.TrimPrefix(base, "http://")
	s, err := asking.Open(fmt.Sprintf("%s/authority/%d", base, register), asking.Options{Allow: []string{host}})
	if err != nil {
		t.Fatal(err)
	}
	ctx := context.Background()
	if _, err := s.Manifest(ctx); err == nil || !strings.Contains(err.Error(), "404") {
		t.Errorf("a table that was not opened answers: %v", err)
	}
	path := fmt.Sprintf("/tables/%d/authority", register)
	if status := c.call("PUT", path, answer{"served": true}, nil); status != 204 {
		t.Fatal(status)
	}
	m, err := s.Manifest(ctx)
	if err != nil || m.Name != "register" || m.Versions[0] != "0.2" || !strings.HasPrefix(m.Page("V001"), base) {
		t.Fatalf("%+v %v", m, err)
	}
	if p, err := s.Properties(ctx, m, "register"); err != nil || len(p) != 2 {
		t.Errorf("%v %v", p, err)
	}
	found := map[int][]asking.Candidate{}
	queries := []asking.Query{{Query: "GOLDEN PETREL"}, {Query: "Goldn Petrel"}, {Query: "Silver Petrel", Properties: []asking.Property{{ID: "built", Value: "2010"}}}, {Query: "Qwertz Uiop"}}
	if err := s.Ask(ctx, queries, func(i int, of []asking.Candidate) error { found[i] = of; return nil }); err != nil {
		t.Fatal(err)
	}
	if len(found) != 4 || found[0][0].ID != "V001" || !found[0][0].Match || found[1][0].ID != "V001" || found[1][0].Match || found[2][0].ID != "V100" || !found[2][0].Match || len(found[3]) != 0 {
		t.Errorf("%+v", found)
	}
	facts := map[string]map[string][]string{}
	if err := s.Facts(ctx, []string{"V003", "gone"}, []string{"built"}, func(id string, of map[string][]string) error { facts[id] = of; return nil }); err != nil || len(facts) != 1 || facts["V003"]["built"][0] != "1953" {
		t.Errorf("%v %v", facts, err)
	}
	for path, want := range map[string]int{"/page?id=V003": 200, "/page?id=gone": 404, "/elsewhere": 404, "?queries=nonsense": 400, "?extend=nonsense": 400} {
		got, err := http.Get(fmt.Sprintf("%s/authority/%d%s", base, register, path))
		if err != nil {
			t.Fatal(err)
		}
		got.Body.Close()
		if got.StatusCode != want {
			t.Errorf("%s: %d", path, got.StatusCode)
		}
	}
	if got, err := http.Get(base + "/authority/999"); err != nil || got.StatusCode != 404 {
		t.Errorf("%v %v", got, err)
	}
}
