package table_test

import (
	"cmp"
	"math/rand/v2"
	"slices"
	"strings"
	"testing"

	"grandledger/core/coretest"
	"grandledger/core/reading"
	"grandledger/core/table"
	"grandledger/core/text"
)

func TestSortedByReading(t *testing.T) {
	tab := coretest.Build([]string{"a"}, []string{"10"}, []string{"9"}, []string{""}, []string{"möwe"}, []string{"2031-10-04"}, []string{"∅"}, []string{"Mowe"}, []string{"1,000"}, []string{"3 Oct 2031"}, []string{"Auk"})
	show := func(descending bool) string {
		var out []string
		for _, at := range table.Sorted(tab, []table.SortKey{{Column: tab.Columns()[0], Descending: descending}}) {
			out = append(out, coretest.Rows(tab)[at][0])
		}
		return strings.Join(out, "|")
	}
	if got, want := show(false), "9|10|1,000|2031-10-04|3 Oct 2031|Auk|Mowe|möwe||∅"; got != want {
		t.Errorf("%s\nwant %s", got, want)
	}
	if got, want := show(true), "möwe|Mowe|Auk|3 Oct 2031|2031-10-04|1,000|10|9||∅"; got != want {
		t.Errorf("%s\nwant %s", got, want)
	}
	said := *tab.Columns()[0]
	said.Reading = reading.Plain(reading.Date)
	tab = tab.With(0, &said)
	if got, want := show(false), "3 Oct 2031|2031-10-04|1,000|10|9|Auk|Mowe|möwe||∅"; got != want {
		t.Errorf("read as dates: %s\nwant %s", got, want)
	}
}

// Several keys, against a stable sort of the rows by the same rule.
func TestSortedAgainstStableSort(t *testing.T) {
	r := rand.New(rand.NewPCG(1, 2))
	type reader = func(string) (float64, bool)
	class := func(v string, read reader) int {
		switch {
		case v == "∅":
			return 4
		case strings.TrimSpace(v) == "":
			return 3
		}
		if _, ok := read(v); ok {
			return 0
		}
		return 2
	}
	compare := func(a, b string, read reader, down bool) int {
		ca, cb := class(a, read), class(b, read)
		if ca >= 3 || cb >= 3 {
			return cmp.Compare(min(max(ca, 2), 4), min(max(cb, 2), 4))
		}
		n := ca - cb
		if n == 0 && ca == 0 {
			x, _ := read(a)
			y, _ := read(b)
			n = cmp.Compare(x, y)
		} else if n == 0 {
			n = cmp.Compare(text.Fold(a), text.Fold(b))
		}
		if n = cmp.Or(n, cmp.Compare(a, b)); down {
			return -n
		}
		return n
	}
	for range 200 {
		tab := coretest.Table(r, 60, 3)
		rows := coretest.Rows(tab)
		down := [2]bool{r.IntN(2) == 0, r.IntN(2) == 0}
		got := table.Sorted(tab, []table.SortKey{{Column: tab.Columns()[1], Descending: down[0]}, {Column: tab.Columns()[0], Descending: down[1]}})
		var reads [2]reader
		for i := range reads {
			reads[i] = reading.Plain(reading.Number).Reader()
			if r := tab.Columns()[i].Effective(); r.Measures() {
				reads[i] = r.Reader()
			}
		}
		want := make([]uint32, len(rows))
		for i := range want {
			want[i] = uint32(i)
		}
		slices.SortStableFunc(want, func(a, b uint32) int {
			return cmp.Or(compare(rows[a][1], rows[b][1], reads[1], down[0]), compare(rows[a][0], rows[b][0], reads[0], down[1]))
		})
		if !slices.Equal(got, want) {
			t.Fatalf("sorted %v, want %v of %q", got, want, rows)
		}
	}
}
