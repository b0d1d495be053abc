package tally_test

import (
	"context"
	"fmt"
	"math/rand/v2"
	"slices"
	"strings"
	"testing"

	"grandledger/core/coretest"
	"grandledger/core/tally"
)

// Vessels have a home harbour and an id; a landing is told apart by vessel and day.
func TestTogether(t *testing.T) {
	r := rand.New(rand.NewPCG(4, 4))
	rows := [][]string{{"no", "vessel", "harbour", "day", "boat", "always"}}
	for day := range 40 {
		for v := range 30 {
			harbour := []string{"PK", "GP", "SB"}[v%3]
			if day == 7 && v == 4 {
				harbour = "PK" // one landing elsewhere
			}
			rows = append(rows, []string{fmt.Sprint(len(rows)), fmt.Sprint("V", v), harbour, fmt.Sprintf("2031-03-%02d.%d", 1+day%28, day/28), fmt.Sprint("V", v), "x"})
		}
	}
	rows = append(rows, slices.Clone(rows[len(rows)-1]))
	rows[len(rows)-1][0] = rows[1][0]
	r.Shuffle(len(rows)-1, func(i, j int) { rows[i+1], rows[j+1] = rows[j+1], rows[i+1] })
	got, err := tally.TogetherOf(context.Background(), coretest.Build(rows...))
	if err != nil {
		t.Fatal(err)
	}
	want := &tally.Together{
		Keys: []tally.Key{{Columns: []string{"no"}, Shared: 2}, {Columns: []string{"vessel", "day"}, Shared: 2}, {Columns: []string{"day", "boat"}, Shared: 2}},
		Depends: []tally.Dependency{{From: "boat", To: "vessel", Values: 30}, {From: "boat", To: "harbour", Values: 30, Exceptions: 1},
			{From: "vessel", To: "harbour", Values: 30, Exceptions: 1}, {From: "vessel", To: "boat", Values: 30}},
		Same: []tally.Same{{A: "vessel", B: "boat", Holding: len(rows) - 1}},
	}
	slices.SortFunc(want.Depends, func(a, b tally.Dependency) int { return strings.Compare(a.From+a.To, b.From+b.To) })
	slices.SortFunc(got.Depends, func(a, b tally.Dependency) int { return strings.Compare(a.From+a.To, b.From+b.To) })
	if fmt.Sprint(*got) != fmt.Sprint(*want) {
		t.Errorf("%+v\nwant %+v", *got, *want)
	}
}

// On random tables every figure agrees with plain counting in maps.
func TestTogetherAgainstCounting(t *testing.T) {
	r := rand.New(rand.NewPCG(6, 5))
	keys, depends := 0, 0
	for range 400 {
		tab := coretest.Table(r, 40, 3)
		got, err := tally.TogetherOf(context.Background(), tab)
		if err != nil {
			t.Fatal(err)
		}
		rows := coretest.Rows(tab)
		at := func(name string) int { return int(name[0] - 'a') }
		blank := func(v string) bool { return v == "∅" || strings.TrimSpace(v) == "" }
		cell := func(row []string, name string) string {
			if v := row[at(name)]; !blank(v) {
				return v
			}
			return ""
		}
		for _, k := range got.Keys {
			keys++
			n, none := map[string]int{}, 0
			for _, row := range rows {
				var parts []string
				for _, c := range k.Columns {
					parts = append(parts, cell(row, c))
				}
				if key := strings.Join(parts, "\x00"); strings.Trim(key, "\x00") == "" {
					none++
				} else {
					n[key]++
				}
			}
			shared := 0
			for _, rows := range n {
				if rows > 1 {
					shared += rows
				}
			}
			if shared != k.Shared || none != k.Blank {
				t.Fatalf("%+v, counted %d shared and %d blank in %q", k, shared, none, rows)
			}
		}
		for _, d := range got.Depends {
			depends++
			n := map[string]map[string]int{}
			for _, row := range rows {
				if from := cell(row, d.From); from != "" {
					if n[from] == nil {
						n[from] = map[string]int{}
					}
					n[from][cell(row, d.To)]++
				}
			}
			exceptions := 0
			for _, to := range n {
				most, all := 0, 0
				for _, rows := range to {
					most, all = max(most, rows), all+rows
				}
				exceptions += all - most
			}
			if exceptions != d.Exceptions || len(n) != d.Values {
				t.Fatalf("%+v, counted %d exceptions of %d values in %q", d, exceptions, len(n), rows)
			}
		}
	}
	if keys == 0 || depends == 0 {
		t.Errorf("nothing was compared: %d keys, %d dependencies", keys, depends)
	}
}
