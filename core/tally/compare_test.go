package tally_test

import (
	"cmp"
	"context"
	"math/rand/v2"
	"slices"
	"strings"
	"testing"

	"grandledger/core/condition"
	"grandledger/core/coretest"
	"grandledger/core/reading"
	"grandledger/core/table"
	"grandledger/core/tally"
)

// Two tallies side by side, against counting in maps.
func TestCompareAgainstCounting(t *testing.T) {
	r := rand.New(rand.NewPCG(8, 1))
	count := func(tab *table.Table, at int) map[string]int {
		n := map[string]int{}
		for _, row := range coretest.Rows(tab) {
			if row[at] != "∅" && strings.TrimSpace(row[at]) != "" {
				n[row[at]]++
			}
		}
		return n
	}
	for range 300 {
		a, b := coretest.Table(r, 50, 2), coretest.Table(r, 50, 2)
		next, _ := b.Columns()[1].Rewrite(table.Each(strings.ToUpper))
		b = b.With(1, next)
		here, there := count(a, 0), count(b, 1)
		var want []tally.BesideLine
		for v, n := range here {
			want = append(want, tally.BesideLine{Value: v, Here: n, There: there[v]})
		}
		for v, n := range there {
			if here[v] == 0 {
				want = append(want, tally.BesideLine{Value: v, There: n})
			}
		}
		slices.SortFunc(want, func(x, y tally.BesideLine) int {
			return cmp.Or(cmp.Compare(y.Here, x.Here), cmp.Compare(y.There, x.There), cmp.Compare(x.Value, y.Value))
		})
		got := tally.Compare(a, a.Columns()[0], b, b.Columns()[1])
		if lines, found := got.Lines("", 0, 1000); !slices.Equal(lines, want) || found != len(want) {
			t.Fatalf("%v\nwant %v", lines, want)
		}
		values := 0
		for _, side := range got.Counts {
			lines, found := got.Lines(side.Side, 0, 1000)
			if found != side.Values || len(lines) != found {
				t.Fatalf("%+v lists %d", side, len(lines))
			}
			values += side.Values
		}
		if page, _ := got.Lines("", 2, 3); len(want) >= 5 && !slices.Equal(page, want[2:5]) || values != len(want) {
			t.Fatalf("a page: %v, %d values", page, values)
		}
	}
}

// The parts of a tally, its order by shape and what stands before a line.
func TestPartsAndShapes(t *testing.T) {
	tab := column("PK 12", "PK 12", "GP 7", "möwen", "", "  ", "∅", "x", "GP 9", "12", "13", "14", "15", "16", "17", "18", "19", "20", "21", "22")
	said := *tab.Columns()[0]
	said.Reading = reading.Plain(reading.Number)
	tab = tab.With(0, &said)
	y := tally.New(tab, &said, tally.ByCount)
	want := []tally.PartCount{{Part: tally.Read, Values: 11, Rows: 11}, {Part: tally.Unread, Values: 5, Rows: 6}, {Part: tally.Blanks, Values: 2, Rows: 3}}
	if got := y.Parts(); !slices.Equal(got, want) {
		t.Errorf("%+v", got)
	}
	for _, p := range want {
		only := y.Only(p.Part)
		if only.Len() != p.Values || p.Part != tally.Blanks && only.Rows() != p.Rows {
			t.Errorf("%s: %d values in %d rows", p.Part, only.Len(), only.Rows())
		}
	}
	shapes := tally.New(tab, &said, tally.ByShape)
	var got []string
	for i, l := range shapes.Lines(0, 99) {
		if shape := shapes.Shape(l.Value); i == 0 || shape != got[len(got)-1] {
			got = append(got, shape)
		}
	}
	if strings.Join(got, "|") != "99|AA 9|AA 99||  |a|a…" {
		t.Errorf("%q", got)
	}
	for _, order := range []tally.Order{tally.ByCount, tally.ByAlphabet, tally.ByShape} {
		y := tally.New(tab, &said, order)
		sum := 0
		for i := range y.Len() {
			if before := tally.New(tab, &said, order).Before(i); before != sum {
				t.Errorf("%s: %d rows before line %d, want %d", order, before, i, sum)
			}
			sum += y.Lines(i, 1)[0].Rows
		}
	}
}

// Figures by a category that is narrowed, blank cells among it; what cannot be measured says so.
func TestMeasuresBy(t *testing.T) {
	tab := coretest.Build([]string{"port", "kg"}, []string{"PK", "0.1"}, []string{"PK", "0.2"}, []string{"", "5"}, []string{"∅", "7"}, []string{"GP", "n/a"}, []string{"PK", ""}, []string{"GP", "1"}, []string{"SB", "9"})
	said := *tab.Columns()[1]
	said.Reading = reading.Plain(reading.Number)
	tab = tab.With(1, &said)
	tab, _, err := condition.Narrow(context.Background(), tab, &condition.Condition{Op: condition.Is, Column: "port", Values: []string{"SB"}, Not: true})
	if err != nil {
		t.Fatal(err)
	}
	got, err := tally.MeasuresBy(tab, tab.Columns()[0], []tally.Measure{{Column: "kg", Of: tally.Sum}, {Of: tally.Rows}, {Column: "kg", Of: tally.Mean}, {Column: "kg", Of: tally.Low}}, 2)
	if err != nil {
		t.Fatal(err)
	}
	if got.Others != 1 || got.Unread[0] != 1 || len(got.Lines) != 2 {
		t.Errorf("%+v", got)
	}
	if l := got.Lines[0]; l.Value != "PK" || strings.Join(l.Written, "|") != "0.3|3|0.150|0.1" {
		t.Errorf("%+v", l)
	}
	if l := got.Lines[1]; l.Value != "" || l.Rows != 2 || l.Written[0] != "12.0" {
		t.Errorf("%+v", l)
	}
	for says, m := range map[string]tally.Measure{"it is read as": {Column: "port", Of: tally.Sum}, `no figure called "spread"`: {Column: "kg", Of: "spread"}} {
		if _, err := tally.MeasuresBy(tab, tab.Columns()[0], []tally.Measure{m}, 5); err == nil || !strings.Contains(err.Error(), says) {
			t.Errorf("%+v: %v", m, err)
		}
	}
	if _, err := tally.MeasuresBy(tab, tab.Columns()[0], nil, 5); err == nil {
		t.Error("no measure at all is taken")
	}
}
