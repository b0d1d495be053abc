package compare_test

import (
	"errors"
	"fmt"
	"math/rand/v2"
	"slices"
	"strings"
	"testing"

	"grandledger/core/compare"
	"grandledger/core/coretest"
	"grandledger/core/duplicate"
	"grandledger/core/problem"
	"grandledger/core/reading"
	"grandledger/core/table"
	"grandledger/core/tally"
	"grandledger/core/text"
)

// Two random tables compared by a key, against looking for each row's partner one by one.
func TestTablesAgainstRowByRow(t *testing.T) {
	r := rand.New(rand.NewPCG(41, 42))
	changed := 0
	for round := range 400 {
		before, after := coretest.Table(r, 30, 3), coretest.Table(r, 30, 3+r.IntN(2))
		spec := compare.Spec{Cells: []duplicate.As{duplicate.Exact, duplicate.Folded}[r.IntN(2)]}
		key := [][]int{nil, {0}, {0, 1}}[r.IntN(3)]
		as := []duplicate.As{duplicate.Exact, duplicate.Words}[r.IntN(2)]
		for _, i := range key {
			spec.Key = append(spec.Key, compare.Pair{Before: string(rune('a' + i)), After: string(rune('a' + i)), As: as})
		}
		got, err := compare.OfTables(before, after, spec)
		if err != nil {
			t.Fatal(err)
		}
		rowsA, rowsB := coretest.Rows(before), coretest.Rows(after)
		cell := func(v string) string {
			if spec.Cells == duplicate.Folded {
				return text.Fold(strings.Trim(v, "∅ "))
			}
			return v
		}
		same := func(a, b []string) (whole bool, cells []string) {
			for i := range 3 {
				if cell(a[i]) != cell(b[i]) {
					cells = append(cells, string(rune('a'+i)))
				}
			}
			return cells == nil, cells
		}
		keyed := func(a, b []string) bool {
			if key == nil {
				whole, _ := same(a, b)
				return whole
			}
			blank := true
			for _, i := range key {
				x, y := a[i], b[i]
				blank = blank && strings.Trim(x, "∅ ") == ""
				if as == duplicate.Words {
					x, y = text.WordKey(strings.Trim(x, "∅")), text.WordKey(strings.Trim(y, "∅"))
				}
				if x != y {
					return false
				}
			}
			return !blank
		}
		partner, taken := make([]int, len(rowsA)), make([]bool, len(rowsB))
		for i := range partner {
			partner[i] = -1
		}
		for _, strict := range []bool{true, false} {
			for i, a := range rowsA {
				for j, b := range rowsB {
					if whole, _ := same(a, b); partner[i] < 0 && !taken[j] && keyed(a, b) && (whole || !strict) {
						partner[i], taken[j] = j, true
					}
				}
			}
		}
		var wantChanged, wantBefore, wantAfter []string
		for i, j := range partner {
			if j < 0 {
				wantBefore = append(wantBefore, fmt.Sprint(i, -1, []string{}))
				continue
			}
			if whole, cells := same(rowsA[i], rowsB[j]); !whole {
				wantChanged = append(wantChanged, fmt.Sprint(i, j, cells))
			}
		}
		for j, is := range taken {
			if !is {
				wantAfter = append(wantAfter, fmt.Sprint(-1, j, []string{}))
			}
		}
		for which, want := range map[compare.Which][]string{compare.WhichChanged: wantChanged, compare.WhichBefore: wantBefore, compare.WhichAfter: wantAfter} {
			rows, n := got.Rows(which, "", 0, 100)
			var ours []string
			for _, row := range rows {
				ours = append(ours, fmt.Sprint(row.Before, row.After, got.Cells(row)))
			}
			if !slices.Equal(ours, want) || n != len(want) {
				t.Fatalf("round %d, key %v %q, %s: %v, want %v\n%s\n%s", round, key, as, which, ours, want, coretest.Text(before), coretest.Text(after))
			}
		}
		if got.Same+got.Changed+got.OnlyBefore != got.Before || got.Same+got.Changed+got.OnlyAfter != got.After {
			t.Fatalf("it does not add up: %+v", got)
		}
		for _, c := range got.Columns[:3] {
			if _, n := got.Rows(compare.WhichChanged, c.Column, 0, 1); n != c.Cells {
				t.Fatalf("%d rows differ in %s, %d cells", n, c.Column, c.Cells)
			}
		}
		changed += got.Changed
	}
	if changed < 200 {
		t.Errorf("only %d rows changed", changed)
	}
}

func TestTablesRefused(t *testing.T) {
	a, b := coretest.Build([]string{"x"}, []string{"1"}), coretest.Build([]string{"y"}, []string{"1"})
	var p *problem.Problem
	if _, err := compare.OfTables(a, b, compare.Spec{}); !errors.As(err, &p) || p.Remedy == "" {
		t.Errorf("nothing in common: %v", err)
	}
	if _, err := compare.OfTables(a, b, compare.Spec{Key: []compare.Pair{{Before: "x", After: "x"}}}); !errors.As(err, &p) || p.Column != "x" {
		t.Errorf("a column there is not: %v", err)
	}
	got, err := compare.OfTables(a, b, compare.Spec{Key: []compare.Pair{{Before: "x", After: "y"}}})
	if err != nil || got.Same != 1 || len(got.Columns) != 2 {
		t.Errorf("columns called otherwise: %+v, %v", got, err)
	}
}

func TestCounts(t *testing.T) {
	a := coretest.Build([]string{"port", "kg"}, []string{"Kestrel", "1.5"}, []string{"Kestrel", "2"}, []string{"Gull", "4"}, []string{"∅", "1"}, []string{"", "1"})
	b := coretest.Build([]string{"port", "kg"}, []string{"Kestrel", "3.5"}, []string{"Gull", "4"}, []string{"Skerry", "9"})
	got, err := compare.CountsOf(numbers(a), numbers(b), compare.Pair{Before: "port", After: "port"}, []tally.Measure{{Column: "kg", Of: tally.Sum}, {Column: "kg", Of: tally.Mean}}, 10)
	want := "{[{ 2 0 [2.0 1.000] [ ]} {Kestrel 2 1 [3.5 1.750] [3.5 3.500]} {Skerry 0 1 [ ] [9.0 9.000]} {Gull 1 1 [4.0 4.000] [4.0 4.000]}] 4 3}"
	if err != nil || fmt.Sprint(*got) != want {
		t.Errorf("%v, %v", fmt.Sprint(*got), err)
	}
	var p *problem.Problem
	if _, err := compare.CountsOf(a, b, compare.Pair{Before: "port", After: "harbour"}, nil, 10); !errors.As(err, &p) || p.Column != "harbour" {
		t.Errorf("%v", err)
	}
}

// numbers reads the last column as numbers.
func numbers(t *table.Table) *table.Table {
	c := *t.Columns()[1]
	c.Reading = reading.Plain(reading.Number)
	return t.With(1, &c)
}
