package duplicate_test

import (
	"context"
	"errors"
	"fmt"
	"math/rand/v2"
	"testing"

	"grandledger/core/coretest"
	"grandledger/core/duplicate"
	"grandledger/core/problem"
	"grandledger/core/table"
)

func TestProbe(t *testing.T) {
	rows := [][]string{{"licence", "skipper", "port", "length"}}
	for i := range 500 {
		rows = append(rows, []string{fmt.Sprintf("LK-%04d", i), fmt.Sprintf("Skipper %c%c Larsen", 'a'+i%26, 'a'+i/26), []string{"Port Kestrel", "Gull Point"}[i%2], fmt.Sprintf("%d.0", 5+i%40)})
	}
	rows = append(rows, []string{"LK-9001", "Ana María Petersen", "Port Kestrel", "12.50"}, []string{"", "Ana María Petersen", "Gull Point", ""})
	tab := coretest.Build(rows...)
	p := duplicate.NewProbe(tab)
	type record = map[string]string
	for _, c := range []struct {
		of    record
		exact int
		want  string // the first row and how its cells agree; "" for none
	}{
		{record{"licence": "LK-9001", "skipper": "Ana María Petersen", "port": "Port Kestrel"}, 1, "500 map[licence:same port:same skipper:same]"},
		{record{"licence": "lk 9001", "skipper": "ANA MARIA PETERSEN", "length": "12.5"}, 0, "500 map[length:form licence:form skipper:form]"},
		{record{"skipper": "petersen, ANA MARIA"}, 0, "500 map[skipper:form]"},
		{record{"licence": "LK-9010", "skipper": "Ana Maria Peterson"}, 0, "500 map[licence:close skipper:close]"},
		{record{"skipper": "Ana Maria Petersen", "licence": ""}, 0, "500 map[skipper:form]"},
		{record{"licence": "LK-7777", "skipper": "Ana María Petersen", "port": "Gull Point"}, 0, "501 map[licence:blank port:same skipper:same]"},
		{record{"licence": "LK-7777", "skipper": "Nobody Known", "port": "Gull Point"}, 0, ""},
		{record{"port": "Gull Point"}, 251, "1 map[port:same]"},
	} {
		got, err := p.Find(context.Background(), c.of, 3)
		if err != nil {
			t.Fatal(err)
		}
		first := ""
		if len(got.Matches) > 0 {
			first = fmt.Sprint(got.Matches[0].Row, " ", got.Matches[0].Cells)
		}
		if got.Exact != c.exact || first != c.want || len(got.Matches) > 3 {
			t.Errorf("%v: %d exact, %s, want %d, %s", c.of, got.Exact, first, c.exact, c.want)
		}
	}
	var bad *problem.Problem
	for _, of := range []record{nil, {"skipper": " "}, {"vessel": "x"}} {
		if _, err := p.Find(context.Background(), of, 3); !errors.As(err, &bad) || bad.Remedy == "" {
			t.Errorf("%v: %v", of, err)
		}
	}
}

// Every row of random tables is found by its own cells, and all rows that have the same.
func TestProbeFindsEachRow(t *testing.T) {
	r := rand.New(rand.NewPCG(61, 62))
	for range 100 {
		tab := coretest.Table(r, 40, 3)
		p := duplicate.NewProbe(tab)
		rows := coretest.Rows(tab)
		for i, cells := range rows {
			record, want := map[string]string{}, 0
			for c, v := range cells {
				if v != "∅" && v != "" && v != "  " {
					record[tab.Columns()[c].Name] = v
				}
			}
			if len(record) == 0 {
				continue
			}
			for _, other := range rows {
				same := true
				for c, v := range cells {
					same = same && (record[tab.Columns()[c].Name] == "" || other[c] == v)
				}
				if same {
					want++
				}
			}
			got, err := p.Find(context.Background(), record, 50)
			if err != nil || got.Exact != want || len(got.Matches) < want {
				t.Fatalf("row %d, %v: %+v, want %d; %v\n%s", i, record, got, want, err, coretest.Text(tab))
			}
		}
	}
}

func BenchmarkProbe(b *testing.B) {
	const rows = 1_000_000
	r := rand.New(rand.NewPCG(1, 2))
	names := []string{"licence", "skipper", "vessel", "port", "landed", "kg", "gear", "remark"}
	distinct := []int{rows, 200_000, 50_000, 40, 3000, 20_000, 60, rows}
	var columns []*table.Column
	for i, name := range names {
		d := table.NewDictBuilder()
		codes := make([]uint32, rows)
		for row := range codes {
			n := r.IntN(distinct[i])
			codes[row] = d.Add(fmt.Sprintf("%s %06d %c%c%c", name, n, 'a'+n%26, 'a'+n/26%26, 'a'+n/676%26))
		}
		columns = append(columns, &table.Column{Name: name, Codes: &table.Codes{At: codes}, Dict: d.Dict()})
	}
	tab, err := table.New(columns, rows)
	if err != nil {
		b.Fatal(err)
	}
	p := duplicate.NewProbe(tab)
	record := map[string]string{}
	for i, c := range columns {
		record[c.Name], _ = c.Value(uint32(i))
	}
	for b.Loop() {
		if _, err := p.Find(context.Background(), record, 10); err != nil {
			b.Fatal(err)
		}
	}
}
