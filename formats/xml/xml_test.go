package xml

import (
	"context"
	"errors"
	"os"
	"slices"
	"strings"
	"testing"

	"grandledger/core/coretest"
	"grandledger/core/problem"
	"grandledger/core/table"
	"grandledger/formats/intake"
)

const text = `<?xml version="1.0" encoding="UTF-8"?>
<l:landings xmlns:l="urn:x"><made on="2031-10-04"/>
 <l:note no="1"><vessel id="7"><name>Möwe &amp; Co</name></vessel><species>cod</species><species>hake</species><kg/></l:note>
 <l:note no="2"><vessel><name><![CDATA[ Tern ]]></name></vessel>loose</l:note>
</l:landings>`

func names(t *table.Table) (out []string) {
	for _, c := range t.Columns() {
		out = append(out, c.Name)
	}
	return out
}

func read(text, records string) (*table.Table, *intake.Report, error) {
	return Read(context.Background(), strings.NewReader(text), Shape{records}, intake.Options{File: "x.xml"})
}

func TestRecords(t *testing.T) {
	tab, _, err := read(text, "landings/note")
	if err != nil {
		t.Fatal(err)
	}
	want := [][]string{{"1", "7", "Möwe & Co", `["cod","hake"]`, "", "∅"}, {"2", "∅", "Tern", "∅", "∅", "loose"}}
	if got := coretest.Rows(tab); !slices.EqualFunc(got, want, slices.Equal) {
		t.Errorf("read %q", got)
	}
	if got := names(tab); !slices.Equal(got, []string{"@no", "vessel/@id", "vessel/name", "species", "kg", "text"}) {
		t.Errorf("columns %q", got)
	}
	if got := Find([]byte(text)); len(got) == 0 || got[0] != (Found{"landings/note", 2}) {
		t.Errorf("found %v", got)
	}
}

// A bank's published camt.053 sample: entries by path, in the encoding it states.
func TestStatementOfABank(t *testing.T) {
	data, err := os.ReadFile("testdata/camt053.xml")
	if err != nil {
		t.Fatal(err)
	}
	found := Find(data)
	if !slices.ContainsFunc(found, func(f Found) bool { return f.Path == "Document/BkToCstmrStmt/Stmt/Ntry" }) {
		t.Fatalf("found %v", found)
	}
	tab, _, err := read(string(data), "Document/BkToCstmrStmt/Stmt/Ntry")
	if err != nil {
		t.Fatal(err)
	}
	if n := strings.Count(string(data), "<Ntry>"); tab.Rows() != n || !slices.Contains(names(tab), "Amt/@Ccy") {
		t.Errorf("%d rows of %d, columns %q", tab.Rows(), n, names(tab))
	}
}

func TestRefusals(t *testing.T) {
	for name, c := range map[string]struct{ text, path, what string }{
		"no such path":  {text, "landings/boat", "no element"},
		"cut off":       {text[:250], "landings/note", "broken at line"},
		"entity bomb":   {`<!DOCTYPE x [<!ENTITY a "aaaa"><!ENTITY b "&a;&a;">]><x><y>&b;</y></x>`, "x/y", "broken"},
		"outside file":  {`<!DOCTYPE x [<!ENTITY a SYSTEM "file:///etc/passwd">]><x><y>&a;</y></x>`, "x/y", "broken"},
		"deep":          {"<x>" + strings.Repeat("<y>", 5000), "x/z", "100 deep"},
		"deep record":   {"<x>" + strings.Repeat("<y>", 5000), "x/y", "100 deep"},
		"a wide record": {"<x><y>" + strings.Repeat("<z/>", maxValues+1) + "</y></x>", "x/y", "more than"},
	} {
		_, _, err := read(c.text, c.path)
		var p *problem.Problem
		if !errors.As(err, &p) || !strings.Contains(p.What, c.what) || p.File != "x.xml" || p.Remedy == "" {
			t.Errorf("%s: %v", name, err)
		}
	}
}

func FuzzRead(f *testing.F) {
	f.Add(text, "landings/note")
	f.Fuzz(func(t *testing.T, text, path string) {
		_, _, err := read(text, path)
		var p *problem.Problem
		if err != nil && !errors.As(err, &p) {
			t.Fatalf("%v is no problem", err)
		}
		Find([]byte(text))
	})
}
