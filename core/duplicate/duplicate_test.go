package duplicate_test

import (
	"cmp"
	"fmt"
	"math"
	"math/rand/v2"
	"reflect"
	"slices"
	"strings"
	"testing"

	"grandledger/core/coretest"
	"grandledger/core/duplicate"
	"grandledger/core/reading"
	"grandledger/core/table"
	"grandledger/core/text"
)

// Groups, kept and set-aside rows against a plain map over the text of the rows.
func TestAgainstRowByRow(t *testing.T) {
	r := rand.New(rand.NewPCG(21, 22))
	for round := range 300 {
		tab := coretest.Table(r, 200, 3)
		key := tab.Columns()[:1+r.IntN(3)]
		keep := []duplicate.Keep{duplicate.First, duplicate.Last}[round%2]
		g := duplicate.Find(tab, duplicate.Exactly(key), false)
		kept, aside, _ := g.Split(tab, duplicate.Rule{Choices: []duplicate.Choice{{Keep: keep}}})

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
		want.Remain = len(wantKept)
		got := g.Summary()
		inGroups := 0
		for _, size := range got.Sizes {
			inGroups += size.Groups
		}
		if got.Sizes = nil; !reflect.DeepEqual(got, want) || inGroups != want.Groups {
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
	g := duplicate.Find(tab, duplicate.Exactly(tab.Columns()), false)
	got := g.Largest(tab, duplicate.Rule{Choices: []duplicate.Choice{{Keep: duplicate.Last}}}, nil, 0, 9, 2)
	if len(got) != 2 || got[0].Size != 3 || !slices.Equal(got[0].Rows, []int{1, 3}) || got[0].Kept[0] != 4 || !slices.Equal(got[1].Rows, []int{0, 2}) {
		t.Errorf("%+v", got)
	}
	if rest := g.Largest(tab, duplicate.Rule{Choices: []duplicate.Choice{{Keep: duplicate.Last}}}, nil, 1, 9, 2); len(rest) != 1 || rest[0].Size != 2 {
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
		duplicate.Find(tab, duplicate.Exactly(columns), false).Split(tab, duplicate.Rule{})
	}
}

// Every way to compare, every rule and everything that can stay, against a plain map and a sort of
// each group.
func TestRulesAgainstRowByRow(t *testing.T) {
	r := rand.New(rand.NewPCG(25, 26))
	forms := [][]string{{"Gill net", "gill  net", "GILL-NET", "net, gill", "Pots", "pots.", "", " "}, {"1.0", "1", "2", "2.50", "2.5", "many", ""}, {"3 Oct 2031", "2031-10-03", "2031-10-04", "", "soon", "2030-01-01"}}
	for range 600 {
		lines := [][]string{{"gear", "kg", "landed"}}
		for range 1 + r.IntN(60) {
			var row []string
			for _, of := range forms {
				row = append(row, of[r.IntN(len(of))])
			}
			lines = append(lines, row)
		}
		tab := coretest.Build(lines...)
		as := []duplicate.As{duplicate.Exact, duplicate.Folded, duplicate.Words, duplicate.Read}[r.IntN(4)]
		column := r.IntN(3)
		number := reading.Reading{Kind: reading.Number, Decimal: ".", Group: ","}
		date := reading.Reading{Kind: reading.Date, Order: reading.DayFirst}
		for i, read := range []reading.Reading{{Kind: reading.Text}, number, date} {
			c := *tab.Columns()[i]
			c.Reading = read
			tab = tab.With(i, &c)
		}
		apart := r.IntN(2) == 0
		g := duplicate.Find(tab, []duplicate.Key{{Column: tab.Columns()[column], As: as}}, apart)
		rule := duplicate.Rule{Only: []duplicate.Only{duplicate.OneEach, duplicate.Repeats, duplicate.Firsts, duplicate.Unique}[r.IntN(4)]}
		for range 1 + r.IntN(3) {
			choice := duplicate.Choice{Keep: []duplicate.Keep{duplicate.First, duplicate.Last, duplicate.Newest, duplicate.Oldest, duplicate.Highest, duplicate.Lowest, duplicate.Fullest, duplicate.Prefer}[r.IntN(8)]}
			switch choice.Keep {
			case duplicate.Newest, duplicate.Oldest:
				choice.By = tab.Columns()[2]
			case duplicate.Highest, duplicate.Lowest:
				choice.By = tab.Columns()[1]
			case duplicate.Prefer:
				choice.By, choice.Order = tab.Columns()[0], []string{"Pots", "nothing", "gill  net"}
			}
			rule.Choices = append(rule.Choices, choice)
		}
		if r.IntN(3) == 0 {
			rule.Chosen = make([]bool, tab.Rows())
			for i := range rule.Chosen {
				rule.Chosen[i] = r.IntN(9) == 0
			}
		}
		kept, aside, unread := g.Split(tab, rule)

		rows := lines[1:]
		groups := map[string][]int{}
		for i, row := range rows {
			v := row[column]
			k := v
			switch as {
			case duplicate.Folded:
				k = text.Fold(v)
			case duplicate.Words:
				k = text.WordKey(v)
			case duplicate.Read:
				if at, ok := tab.Columns()[column].Reading.Reader()(v); ok && !math.IsNaN(at) {
					k = fmt.Sprint("at ", at)
				}
			}
			if strings.TrimSpace(v) == "" {
				k = fmt.Sprint("none ", i)
			}
			groups[k] = append(groups[k], i)
		}
		stays := make([]bool, len(rows))
		wantUnread := 0
		for _, of := range groups {
			if len(of) == 1 {
				stays[of[0]] = rule.Only == duplicate.OneEach || rule.Only == duplicate.Unique
				continue
			}
			score := func(c duplicate.Choice, i int) float64 {
				switch c.Keep {
				case duplicate.First:
					return float64(-i)
				case duplicate.Last:
					return float64(i)
				case duplicate.Fullest:
					n := 0
					for _, v := range rows[i] {
						if strings.TrimSpace(v) != "" {
							n++
						}
					}
					return float64(n)
				case duplicate.Prefer:
					if at := slices.Index(c.Order, rows[i][0]); at >= 0 {
						return float64(-at)
					}
					return -3
				}
				at, ok := c.By.Reading.Reader()(rows[i][slices.IndexFunc(tab.Columns(), func(o *table.Column) bool { return o.Name == c.By.Name })])
				if !ok || math.IsNaN(at) {
					return math.Inf(-1)
				}
				if c.Keep == duplicate.Oldest || c.Keep == duplicate.Lowest {
					return -at
				}
				return at
			}
			better := func(a, b int) int {
				for _, c := range rule.Choices {
					if by := cmp.Compare(score(c, a), score(c, b)); by != 0 {
						return by
					}
				}
				return 0
			}
			best := of[0]
			byHand := false
			for _, i := range of {
				if better(i, best) > 0 {
					best = i
				}
				byHand = byHand || rule.Chosen != nil && rule.Chosen[i]
				for _, c := range rule.Choices {
					if c.Keep == duplicate.First {
						break // nothing behind it is asked
					}
					if math.IsInf(score(c, i), -1) {
						wantUnread++
						break
					}
				}
			}
			for _, i := range of {
				stays[i] = rule.Only == duplicate.Repeats || (i == best && !byHand || byHand && rule.Chosen[i]) && (rule.Only == duplicate.OneEach || rule.Only == duplicate.Firsts)
			}
		}
		var want []uint32
		for i, stay := range stays {
			if stay {
				want = append(want, uint32(i))
			}
		}
		if !slices.Equal(kept.Rows, want) || unread != wantUnread || len(kept.Rows)+len(aside.Rows) != len(rows) {
			t.Fatalf("%q of column %d, %+v, apart %v: kept %v, want %v; %d unread, want %d\n%q", as, column, rule, apart, kept.Rows, want, unread, wantUnread, rows)
		}
	}
}
