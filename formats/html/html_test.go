package html

import (
	"context"
	"errors"
	"slices"
	"strings"
	"testing"

	"grandledger/core/coretest"
	"grandledger/core/problem"
	"grandledger/formats/grid"
	"grandledger/formats/intake"
)

const page = `<html><body><table><tr><td>layout<table><caption>Landings <b>2031</b></caption>
<thead><tr><th rowspan=2>no<th colspan="2">catch</tr><tr><th>species</th><th>kg</th></tr></thead>
<tbody><tr><td>1</td><td>cod<br>fresh</td><td> 3&nbsp;t <script>x()</script></td></tr>
<tr><td>2<td>hake &amp; ling</table></td></tr></table><table><tr><td>only</td></tr></table>`

func TestTables(t *testing.T) {
	tables, err := Tables(strings.NewReader(page))
	if err != nil || len(tables) != 2 || tables[0].Name != "Landings 2031" || tables[1].Name != "table 2" || Largest(tables) != 0 {
		t.Fatalf("found %+v (%v)", tables, err)
	}
	tab, report, err := Read(context.Background(), strings.NewReader(page), grid.Range{Names: 2}, intake.Options{})
	if err != nil {
		t.Fatal(err)
	}
	var names []string
	for _, c := range tab.Columns() {
		names = append(names, c.Name)
	}
	want := [][]string{{"1", "cod\nfresh", "3 t"}, {"2", "hake & ling", ""}}
	if got := coretest.Rows(tab); !slices.EqualFunc(got, want, slices.Equal) || !slices.Equal(names, []string{"no", "catch species", "catch kg"}) {
		t.Errorf("read %q %q", names, got)
	}
	if len(report.Notes) != 1 {
		t.Errorf("notes %v", report.Notes)
	}
}

func TestRefusals(t *testing.T) {
	for _, c := range []struct{ page, sheet, what string }{
		{"<p>no table", "", "no table"},
		{page, "Quotas", `no table "Quotas"`},
		{"<table><tr>" + strings.Repeat("<td colspan=1000>x", 20), "", "columns"},
		{strings.Repeat("<p>long</p>", maxPage/10), "", "longer than"},
	} {
		_, _, err := Read(context.Background(), strings.NewReader(c.page), grid.Range{Sheet: c.sheet}, intake.Options{File: "x.html"})
		var p *problem.Problem
		if !errors.As(err, &p) || !strings.Contains(p.What, c.what) || p.File != "x.html" || p.Remedy == "" {
			t.Errorf("%.30q: %v", c.page, err)
		}
	}
}

func FuzzRead(f *testing.F) {
	f.Add(page)
	f.Fuzz(func(t *testing.T, page string) {
		_, _, err := Read(context.Background(), strings.NewReader(page), grid.Range{}, intake.Options{})
		var p *problem.Problem
		if err != nil && !errors.As(err, &p) {
			t.Fatalf("%v is no problem", err)
		}
	})
}
