package duplicate_test

import (
	"math/rand/v2"
	"slices"
	"strings"
	"testing"

	"grandledger/core/coretest"
	"grandledger/core/duplicate"
	"grandledger/core/table"
)

// Groups, kept and set-aside rows against a plain map over the text of the rows.
func TestAgainstRowByRow(t *testing.T) {
	r := rand.New(rand.NewPCG(21, 22))
	for round := range 300 {
		tab := coretest.Table(r, 200, 3)
		key := tab.Columns()[:1+r.IntN(3)]
		keep := []duplicate.Keep{duplicate.First, duplicate.Last}[round%2]
		g := duplicate.Find(tab, key)
		kept, aside := g.Split(tab, keep)

		groups := map[string][]int{}
		var order []string
		noKey := 0
		for row, cells := range coretest.Rows(tab) {
			k := strings.Join(cells[:len(key)], "\x00")
			if strings.Trim(k, "∅ \x00") == "" {
				noKey++
				k = "none" + string(rune(row))
			}
			if groups[k] == nil {
				order = append(order, k)
			}
			groups[k] = append(groups[k], row)
		}
		want := duplicate.Summary{NoKey: noKey}
		var wantKept []uint32
		for _, k := range order {
			rows := groups[k]
			if len(rows) > 1 {
				want.Groups++
				want.Repeats += len(rows) - 1
			}
			if !strings.HasPrefix(k, "none") {
				want.Largest = max(want.Largest, len(rows))
			}
			if keep == duplicate.First {
				wantKept = append(wantKept, uint32(rows[0]))
			} else {
				wantKept = append(wantKept, uint32(rows[len(rows)-1]))
			}
		}
		slices.Sort(wantKept)
		if got := g.Summary(); got != want {
			t.Fatalf("summary %+v, want %+v", got, want)
		}
		if !slices.Equal(kept.Rows, wantKept) || len(kept.Rows)+len(aside.Rows) != tab.Rows() {
			t.Fatalf("kept %v, want %v; %d aside of %d", kept.Rows, wantKept, len(aside.Rows), tab.Rows())
		}
	}
}

// Pairs of so many rows that they are numbered in partitions, against a map.
func TestNumberAgainstMap(t *testing.T) {
	r := rand.New(rand.NewPCG(23, 24))
	for _, c := range []struct{ rows, a, b int }{{0, 1, 1}, {1, 1, 1}, {8192, 3, 3}, {100_000, 2, 2}, {300_000, 1 << 20, 1 << 20}, {300_000, 500, 500}} {
		prior, codes := make([]uint32, c.rows), make([]uint32, c.rows)
		numbers := map[[2]uint32]uint32{}
		want := make([]uint32, c.rows)
		for i := range codes {
			prior[i], codes[i] = uint32(r.IntN(c.a)), uint32(r.IntN(c.b))
			key := [2]uint32{prior[i], codes[i]}
			if numbers[key] == 0 {
				numbers[key] = uint32(len(numbers) + 1)
			}
			want[i] = numbers[key]
		}
		if got, n := duplicate.Number(codes, prior); n != len(numbers) || !slices.Equal(got, want) {
			t.Errorf("%d rows of %d by %d: %d numbers, want %d, or not in order", c.rows, c.a, c.b, n, len(numbers))
		}
	}
}

func TestLargest(t *testing.T) {
	tab := coretest.Build([]string{"a"}, []string{"x"}, []string{"y"}, []string{"x"}, []string{"y"}, []string{"y"}, []string{"z"})
	g := duplicate.Find(tab, tab.Columns())
	got := g.Largest(0, 9, 2)
	if len(got) != 2 || got[0].Size != 3 || !slices.Equal(got[0].Rows, []int{1, 3}) || got[0].Last != 4 || !slices.Equal(got[1].Rows, []int{0, 2}) {
		t.Errorf("%+v", got)
	}
	if rest := g.Largest(1, 9, 2); len(rest) != 1 || rest[0].Size != 2 {
		t.Errorf("after the first: %+v", rest)
	}
}

func BenchmarkTwoColumns(b *testing.B) {
	r := rand.New(rand.NewPCG(1, 1))
	var columns []*table.Column
	const rows = 1_000_000
	for range 2 {
		d := table.NewDictBuilder()
		codes := make([]uint32, rows)
		for i := range codes {
			codes[i] = d.Add(string(rune('a' + r.IntN(5000))))
		}
		columns = append(columns, &table.Column{Name: string(rune('a' + len(columns))), Codes: &table.Codes{At: codes}, Dict: d.Dict()})
	}
	tab, err := table.New(columns, rows)
	if err != nil {
		b.Fatal(err)
	}
	for b.Loop() {
		duplicate.Find(tab, columns).Split(tab, duplicate.First)
	}
}
