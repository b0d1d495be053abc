package linkage

import (
	"context"
	"math"
	"slices"
	"strings"
	"testing"

	"grandledger/core/table"
)

// A record that is looked up has the weights of the linkage: looked up as it stands, it finds the records it was linked with at the weight of their pair; and one
// with values never seen is compared all the same.
func TestMatchAgainstThePairs(t *testing.T) {
	tab, _ := people(1500)
	res, err := Link(context.Background(), []*table.Table{tab}, Spec{})
	if err != nil {
		t.Fatal(err)
	}
	m := res.Matcher()
	record := func(row int) map[string]string {
		out := map[string]string{}
		for _, a := range res.Spec.Attributes {
			out[a.Name] = cells(tab, a.Columns[0], row)[0]
		}
		return out
	}
	looked := 0
	for _, p := range res.Pairs {
		if p.implied || p.Verdict != Linked {
			continue
		}
		looked++
		found, err := m.Match(record(p.LeftRow), 20)
		if err != nil {
			t.Fatal(err)
		}
		self := slices.IndexFunc(found, func(f Match) bool { return f.Row == Row{0, p.LeftRow} })
		if self < 0 || found[0].Weight-found[self].Weight > 3 { // a rarer name a slip apart may weigh more than itself
			t.Fatalf("row %d finds %+v; %v %v", p.LeftRow, found, record(p.LeftRow), record(found[0].Row.Row))
		}
		weight := math.NaN()
		for _, f := range found {
			if f.Row == (Row{0, p.RightRow}) {
				weight = f.Weight
			}
		}
		if !(math.Abs(weight-p.Weight) < 1e-3) {
			t.Fatalf("rows %d and %d: %f, as a pair %f", p.LeftRow, p.RightRow, weight, p.Weight)
		}
	}
	if looked < 500 {
		t.Fatalf("%d pairs were looked up", looked)
	}
	slip := record(7)
	slip["surname"] += "x"
	slip["place"] = "a place never " + slip["place"]
	found, err := m.Match(slip, 3)
	if err != nil || len(found) == 0 || found[0].Row != (Row{0, 7}) {
		t.Errorf("%v %v", found, err)
	}
	swap := record(9)
	swap["given name"], swap["surname"] = swap["surname"], swap["given name"]
	if found, err = m.Match(swap, 3); err != nil || !slices.ContainsFunc(found, func(f Match) bool { return f.Row == Row{0, 9} && f.Weight > 40 }) {
		t.Errorf("%v %v", found, err)
	}
	for said, record := range map[string]map[string]string{"says nothing": {"surname": " "}, "no attribute": {"shoe": "42"}, "does not read as": {"born": "soon"}} {
		if _, err := m.Match(record, 3); err == nil || !strings.Contains(err.Error(), said) {
			t.Errorf("%v: %v", record, err)
		}
	}
}

// What it takes to look one record up among 100,000.
func BenchmarkMatch(b *testing.B) {
	tab, _ := people(66_000)
	res, err := Link(context.Background(), []*table.Table{tab}, Spec{})
	if err != nil {
		b.Fatal(err)
	}
	m := res.Matcher()
	b.ResetTimer()
	for i := range b.N {
		record := map[string]string{}
		for _, a := range res.Spec.Attributes {
			record[a.Name] = cells(tab, a.Columns[0], i%tab.Rows())[0]
			if a.Kind == Family || a.Kind == Place {
				record[a.Name] += "x"
			}
		}
		delete(record, "born")
		if _, err := m.Match(record, 10); err != nil {
			b.Fatal(err)
		}
	}
}
