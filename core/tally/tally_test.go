package tally_test

import (
	"math/rand/v2"
	"slices"
	"strconv"
	"strings"
	"testing"

	"grandledger/core/coretest"
	"grandledger/core/reading"
	"grandledger/core/table"
	"grandledger/core/tally"
	"grandledger/core/text"
)

func column(values ...string) *table.Table {
	rows := [][]string{{"c"}}
	for _, v := range values {
		rows = append(rows, []string{v})
	}
	return coretest.Build(rows...)
}

func TestTallyOrdersAndFinds(t *testing.T) {
	tab := column("b", "a", "b", "Möwe", "mowe", "", "∅", "b", "a")
	y := tally.New(tab, tab.Columns()[0], tally.ByCount)
	want := []tally.Line{{Value: "b", Rows: 3}, {Value: "a", Rows: 2}, {Value: "", Rows: 1}, {Value: "Möwe", Rows: 1}, {Value: "mowe", Rows: 1}}
	if got := y.Lines(0, 99); !slices.Equal(got, want) || y.Missing != 1 || y.Rows() != 8 {
		t.Errorf("by count: %v, %d missing", got, y.Missing)
	}
	if got := y.Lines(1, 2); !slices.Equal(got, want[1:3]) {
		t.Errorf("a page: %v", got)
	}
	if got := y.Find("mow").Lines(0, 9); !slices.Equal(got, want[3:]) {
		t.Errorf("found %v", got)
	}
	alpha := tally.New(tab, tab.Columns()[0], tally.ByAlphabet).Lines(0, 9)
	if got := alpha[len(alpha)-2:]; got[0].Value != "Möwe" || got[1].Value != "mowe" {
		t.Errorf("by alphabet: %v", alpha)
	}
}

func TestReadingsAreProposed(t *testing.T) {
	for _, c := range []struct {
		values  []string
		reading reading.Kind
		notRead int
	}{
		{[]string{"1", "2.5", "1,000", "3", "4", "5", "6", "7", "8", "12 t"}, reading.Number, 1},
		{[]string{"0017", "0018", "0019", "0020"}, reading.Code, 0},
		{[]string{"LK-004811", "LK-004812", "LK-004813"}, reading.Code, 0},
		{[]string{"2031-10-04", "4 Oct 2031", "", "∅"}, reading.Date, 0},
		{[]string{"4/10/2031", "5/10/2031"}, reading.Date, 2},
		{[]string{"yes", "no", "yes"}, reading.YesNo, 0},
		{[]string{"Gill net", "Trawl"}, reading.Text, 0},
		{[]string{"", "∅"}, reading.Text, 0},
	} {
		tab := column(c.values...)
		p := tally.Of(tab, tab.Columns()[0])
		if p.Reading != c.reading || p.NotRead != c.notRead {
			t.Errorf("%q reads as %s, %d unread; want %s, %d", c.values, p.Reading, p.NotRead, c.reading, c.notRead)
		}
	}
}

func TestProfileMeasures(t *testing.T) {
	tab := column("10", "1", "100", "1000", "", "10", "x", "0", "5", "7", "9", "11", "12")
	p := tally.Of(tab, tab.Columns()[0])
	if p.Lowest != "0" || p.Highest != "1000" || p.Median != "10" || p.NotRead != 1 || p.Blank != 1 || p.Distinct != 11 {
		t.Errorf("profile %+v", p)
	}
	if p.Log == nil || p.Log.From != 0 || p.Log.To != 3 || p.Log.Below != 1 {
		t.Errorf("logarithmic steps %+v", p.Log)
	}
	for _, h := range []*tally.Histogram{p.Even, p.Log} {
		n := h.Below
		for _, rows := range h.Rows {
			n += rows
		}
		if n != 11 {
			t.Errorf("the steps hold %d rows, want 11", n)
		}
	}
}

// Every figure of a profile, counted again row by row.
func TestProfileAgainstRows(t *testing.T) {
	r := rand.New(rand.NewPCG(7, 8))
	for range 200 {
		tab := coretest.Table(r, 80, 1)
		p := tally.Of(tab, tab.Columns()[0])
		rows := map[string]int{}
		folds := map[string]map[string]bool{}
		blank, missing, spaces := 0, 0, 0
		for _, row := range coretest.Rows(tab) {
			v := row[0]
			switch {
			case v == "∅":
				missing++
			case strings.TrimSpace(v) == "":
				blank++
			default:
				rows[v]++
				f := text.Fold(v)
				if folds[f] == nil {
					folds[f] = map[string]bool{}
				}
				folds[f][v] = true
				if strings.Join(strings.Fields(v), " ") != v {
					spaces++
				}
			}
		}
		alike := 0
		for _, values := range folds {
			if len(values) > 1 {
				alike += len(values)
			}
		}
		if p.Distinct != len(rows) || p.Blank != blank || p.Missing != missing || p.Spaces.Rows != spaces || p.Alike.Values != alike {
			t.Fatalf("%+v; counted %d distinct, %d blank, %d missing, %d with loose spaces, %d alike", p, len(rows), blank, missing, spaces, alike)
		}
	}
}

// Wherever a tally is looked at first, its lines are those of the whole list sorted.
func TestPagesOfATallyInAnyOrder(t *testing.T) {
	r := rand.New(rand.NewPCG(5, 6))
	rows := [][]string{{"c"}}
	for range 60_000 {
		rows = append(rows, []string{string(rune('a'+r.IntN(26))) + strings.Repeat("x", r.IntN(3)) + strconv.Itoa(r.IntN(40_000))})
	}
	for range 5_000 {
		rows = append(rows, []string{"often"})
	}
	tab := coretest.Build(rows...)
	for _, order := range []tally.Order{tally.ByCount, tally.ByAlphabet} {
		whole := tally.New(tab, tab.Columns()[0], order)
		want := whole.Lines(0, whole.Len())
		if !slices.IsSortedFunc(want, func(a, b tally.Line) int {
			if n := b.Rows - a.Rows; order == tally.ByCount && n != 0 {
				return n
			}
			if n := strings.Compare(text.Fold(a.Value), text.Fold(b.Value)); order == tally.ByAlphabet && n != 0 {
				return n
			}
			return strings.Compare(a.Value, b.Value)
		}) {
			t.Fatalf("by %s: not in order", order)
		}
		y := tally.New(tab, tab.Columns()[0], order)
		for range 200 {
			from, n := r.IntN(len(want)), 1+r.IntN(300)
			if got := y.Lines(from, n); !slices.Equal(got, want[from:min(from+n, len(want))]) {
				t.Fatalf("by %s: %d lines from %d on differ", order, n, from)
			}
		}
		if got := y.Find("often").Lines(0, 9); len(got) != 1 || got[0].Rows != 5_000 {
			t.Errorf("found %v", got)
		}
	}
}
