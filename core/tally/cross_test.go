package tally_test

import (
	"math/rand/v2"
	"slices"
	"testing"

	"grandledger/core/coretest"
	"grandledger/core/tally"
)

// Every cell of a cross table, counted again row by row.
func TestCrossAgainstRows(t *testing.T) {
	r := rand.New(rand.NewPCG(4, 4))
	for range 200 {
		tab := coretest.Table(r, 80, 2)
		x := tally.CrossOf(tab, tab.Columns()[0], tab.Columns()[1], 1+r.IntN(6), 1+r.IntN(4))
		want := make([][]int, len(x.Lines)+1)
		for i := range want {
			want[i] = make([]int, len(x.Columns)+1)
		}
		at := func(lines []tally.Line, v string) int {
			if v == "∅" {
				v = ""
			}
			if i := slices.IndexFunc(lines, func(l tally.Line) bool { return l.Value == v }); i >= 0 {
				return i
			}
			return len(lines)
		}
		for _, row := range coretest.Rows(tab) {
			want[at(x.Lines, row[0])][at(x.Columns, row[1])]++
		}
		if !slices.EqualFunc(x.Rows, want, slices.Equal) || x.Total != tab.Rows() {
			t.Fatalf("%+v, want %v of %q", x, want, coretest.Rows(tab))
		}
		for i, l := range x.Lines {
			sum := 0
			for _, n := range x.Rows[i] {
				sum += n
			}
			if sum != l.Rows || i > 0 && l.Rows > x.Lines[i-1].Rows {
				t.Fatalf("line %+v holds %d rows", l, sum)
			}
		}
	}
}

func TestTimeline(t *testing.T) {
	tab := column("2031-01-30", "2031-01-30", "1 Feb 2031", "2031-05-03", "", "soon", "∅")
	months, err := tally.Over(tab, tab.Columns()[0], "month")
	want := []tally.Period{{Period: "2031-01", Rows: 2}, {Period: "2031-02", Rows: 1}, {Period: "2031-03"}, {Period: "2031-04"}, {Period: "2031-05", Rows: 1}}
	if err != nil || !slices.Equal(months.Periods, want) || months.Unread != 1 || !slices.Equal(months.Gaps, []tally.Gap{{From: "2031-03", To: "2031-04", Periods: 2}}) {
		t.Errorf("%+v (%v)", months, err)
	}
	days, err := tally.Over(tab, tab.Columns()[0], "day")
	if err != nil || len(days.Periods) != 94 || len(days.Gaps) != 2 {
		t.Errorf("%d days, gaps %v (%v)", len(days.Periods), days.Gaps, err)
	}
	if years, err := tally.Over(tab, tab.Columns()[0], "year"); err != nil || len(years.Periods) != 1 || years.Periods[0].Rows != 4 {
		t.Errorf("%+v (%v)", years, err)
	}
	far := column("1031-01-01", "2031-01-01")
	for _, by := range []string{"day", "week"} {
		if _, err := tally.Over(far, far.Columns()[0], by); err == nil {
			t.Errorf("by %s is not refused", by)
		}
	}
}
