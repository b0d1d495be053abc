package duplicate_test

import (
	"context"
	"errors"
	"fmt"
	"math/rand/v2"
	"slices"
	"strings"
	"testing"

	"grandledger/core/coretest"
	"grandledger/core/duplicate"
	"grandledger/core/problem"
	"grandledger/core/table"
	"grandledger/core/text"
)

// Rows nearly the same, against taking the columns out and comparing all texts.
func TestNearlyAgainstRowByRow(t *testing.T) {
	r := rand.New(rand.NewPCG(31, 32))
	found := 0
	for round := range 200 {
		tab := coretest.Table(r, 60, 4)
		most := 1 + r.IntN(3)
		got, err := duplicate.Nearly(context.Background(), tab, tab.Columns(), most)
		if err != nil {
			t.Fatal(err)
		}
		rows := coretest.Rows(tab)
		want := map[string][2]int{}
		for set := 1; set < 16; set++ {
			var names []string
			groups := map[string][]int{}
			for i, cells := range rows {
				rest := slices.Clone(cells)
				for c := range cells {
					if set>>c&1 == 1 {
						rest[c] = ""
					}
				}
				key := strings.Join(rest, "\x00")
				groups[key] = append(groups[key], i)
			}
			for c := range tab.Columns() {
				if set>>c&1 == 1 {
					names = append(names, tab.Columns()[c].Name)
				}
			}
			if len(names) > most {
				continue
			}
			for _, of := range groups {
				differ := true
				for c := range tab.Columns() {
					values := map[string]bool{}
					for _, i := range of {
						values[rows[i][c]] = true
					}
					differ = differ && (set>>c&1 == 0 || len(values) > 1)
				}
				if differ {
					so := want[strings.Join(names, " ")]
					want[strings.Join(names, " ")] = [2]int{so[0] + 1, so[1] + len(of)}
				}
			}
		}
		for _, n := range got {
			name := strings.Join(n.Columns, " ")
			if want[name] != [2]int{n.Groups, n.Rows} {
				t.Fatalf("round %d, but for %s: %+v, want %v\n%s", round, name, n, want[name], coretest.Text(tab))
			}
			for _, i := range n.First[1:] {
				for c, column := range tab.Columns() {
					if !slices.Contains(n.Columns, column.Name) && rows[i][c] != rows[n.First[0]][c] {
						t.Fatalf("rows %v differ in %s", n.First, column.Name)
					}
				}
			}
			found++
		}
		if len(got) != len(want) {
			t.Fatalf("round %d: %d ways, want %d", round, len(got), len(want))
		}
	}
	if found < 500 {
		t.Errorf("only %d ways found", found)
	}
}

// So many rows that they are looked at in parts.
func TestNearlyMany(t *testing.T) {
	const rows = 40_000
	b := []*table.DictBuilder{table.NewDictBuilder(), table.NewDictBuilder(), table.NewDictBuilder()}
	codes := make([][]uint32, 3)
	for i := range rows {
		for c, v := range []int{i / 2, i / 2 * 7, i} { // pairs of rows differ in the last column
			codes[c] = append(codes[c], b[c].Add(fmt.Sprint(v)))
		}
	}
	var columns []*table.Column
	for c := range codes {
		columns = append(columns, &table.Column{Name: string(rune('a' + c)), Codes: &table.Codes{At: codes[c]}, Dict: b[c].Dict()})
	}
	tab, err := table.New(columns, rows)
	if err != nil {
		t.Fatal(err)
	}
	got, err := duplicate.Nearly(context.Background(), tab, columns, 2)
	if err != nil || len(got) != 1 || got[0].Groups != rows/2 || got[0].Rows != rows || !slices.Equal(got[0].First, []int{0, 1}) {
		t.Errorf("%+v, %v", got, err)
	}
}

func TestNearlyRefused(t *testing.T) {
	tab := coretest.Build([]string{"a", "b"}, []string{"1", "2"})
	var p *problem.Problem
	for _, most := range []int{0, 2, 4} {
		if _, err := duplicate.Nearly(context.Background(), tab, tab.Columns(), most); !errors.As(err, &p) || p.Remedy == "" {
			t.Errorf("%d of two columns: %v", most, err)
		}
	}
	var wide []*table.Column
	for i := range 60 {
		c := *tab.Columns()[0]
		c.Name = fmt.Sprint(i)
		wide = append(wide, &c)
	}
	if _, err := duplicate.Nearly(context.Background(), tab, wide, 3); !errors.As(err, &p) {
		t.Errorf("three of sixty columns: %v", err)
	}
	ctx, cancel := context.WithCancel(context.Background())
	cancel()
	if _, err := duplicate.Nearly(ctx, tab, wide, 1); !errors.Is(err, context.Canceled) {
		t.Errorf("canceled: %v", err)
	}
}

// What columns are inside groups, against comparing all texts of each.
func TestInsideAgainstRowByRow(t *testing.T) {
	r := rand.New(rand.NewPCG(33, 34))
	for round := range 200 {
		tab := coretest.Table(r, 80, 3)
		g := duplicate.Find(tab, duplicate.Exactly(tab.Columns()[:1]), false)
		groups := map[string][]int{}
		rows := coretest.Rows(tab)
		for i, cells := range rows {
			if strings.Trim(cells[0], " ∅") != "" {
				groups[cells[0]] = append(groups[cells[0]], i)
			}
		}
		for c, got := range g.Inside(tab) {
			want := duplicate.Inside{Column: tab.Columns()[c].Name}
			for _, of := range groups {
				values, folds, blank := map[string]bool{}, map[string]bool{}, false
				for _, i := range of {
					v := rows[i][c]
					if strings.Trim(v, " ∅") == "" {
						blank = true
						continue
					}
					values[v], folds[text.Fold(v)] = true, true
				}
				switch {
				case len(of) < 2:
				case len(values) > 1 && len(folds) == 1:
					want.Forms++
					want.Differs++
				case len(values) > 1:
					want.Differs++
				case len(values) == 1 && blank:
					want.Fills++
				}
			}
			if got != want {
				t.Fatalf("round %d: %+v, want %+v\n%s", round, got, want, coretest.Text(tab))
			}
			listed := g.Largest(tab, duplicate.Rule{}, g.Disagreeing(tab, tab.Columns()[c]), 0, 1000, 1)
			if len(listed) != want.Differs {
				t.Fatalf("round %d: %d groups disagree in %s, want %d", round, len(listed), want.Column, want.Differs)
			}
		}
	}
}

// All columns, all but the running number, the id, and the pair of name and day are proposed.
func TestProposed(t *testing.T) {
	rows := [][]string{{"line", "licence", "skipper", "landed", "kg"}}
	for i := range 400 {
		rows = append(rows, []string{fmt.Sprint(i), fmt.Sprint("LK-", i/2*13%1000), fmt.Sprint("Skipper ", i%23), fmt.Sprintf("2031-10-%02d", 1+i/2%28), fmt.Sprintf("%d.5", i%310)})
	}
	got := duplicate.Proposed(coretest.Build(rows...))
	want := [][]string{{"line", "licence", "skipper", "landed", "kg"}, {"licence", "skipper", "landed", "kg"}, {"licence"}, {"skipper", "landed"}}
	if fmt.Sprint(got) != fmt.Sprint(want) {
		t.Errorf("%v, want %v", got, want)
	}
}
