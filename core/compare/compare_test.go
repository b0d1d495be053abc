package compare

import (
	"math/rand/v2"
	"strings"
	"testing"

	"grandledger/core/coretest"
	"grandledger/core/reading"
	"grandledger/core/table"
)

func none(string) (reading.Reading, bool) { return reading.Reading{}, false }

// Rows that came and went, against counting them in a map; what is the same both ways.
func TestRowsAgainstCounting(t *testing.T) {
	r := rand.New(rand.NewPCG(7, 7))
	for range 300 {
		before, after := coretest.Table(r, 80, 3), coretest.Table(r, 80, 3)
		if r.IntN(3) == 0 {
			next, _ := before.Columns()[1].Rewrite(table.Each(strings.ToUpper))
			before = before.With(1, next)
		}
		left := map[string]int{}
		for _, row := range coretest.Rows(before) {
			left[strings.Join(row, "\x00")]++
		}
		lost, come := before.Rows(), 0
		for _, row := range coretest.Rows(after) {
			if key := strings.Join(row, "\x00"); left[key] > 0 {
				left[key]--
				lost--
			} else {
				come++
			}
		}
		c, gone := Of(before, after, none)
		if len(gone.Rows) != c.Gone {
			t.Fatalf("%d rows gone, %+v", len(gone.Rows), c)
		}
		if c.Come != come || c.Gone != lost || c.Before+c.Come-c.Gone != c.After || c.After != after.Rows() {
			t.Fatalf("%+v, counted %d come and %d gone", c, come, lost)
		}
		if back, _ := Of(after, before, none); back.Come != c.Gone || back.Gone != c.Come {
			t.Fatalf("one way %+v, the other %+v", c, back)
		}
		if same, _ := Of(after, after, none); same.Come != 0 || same.Gone != 0 {
			t.Fatalf("a table against itself: %+v", same)
		}
	}
}

func TestColumns(t *testing.T) {
	before := coretest.Build([]string{"no", "kg", "gear"}, []string{"1", "10", "net"}, []string{"2", "20", "net"}, []string{"3", "30", "pots"})
	after := coretest.Build([]string{"no", "kg", "boat"}, []string{"1", "10", "x"}, []string{"4", "ten", "y"}, []string{"5", "", "y"}, []string{"3", "30", "z"})
	c, _ := Of(before, after, none)
	want := []ColumnChange{
		{Column: "no", State: Stays, NewValues: 2, Reading: "whole numbers"},
		{Column: "kg", State: Stays, NewValues: 2, LostRows: 1, Broke: true, Reading: "whole numbers"},
		{Column: "boat", State: Came}, {Column: "gear", State: Went},
	}
	for i, w := range want {
		if c.Columns[i] != w {
			t.Errorf("%+v, want %+v", c.Columns[i], w)
		}
	}
	if c.Come != 2 || c.Gone != 1 {
		t.Errorf("%+v", c)
	}
	named := coretest.Build([]string{"no", "Gear type"}, []string{"1", "net"}, []string{"2", "pots"}, []string{"3", "line"})
	if c, _ := Of(before, named, none); c.Columns[1].Likely != "gear" || c.Columns[0].Likely != "" {
		t.Errorf("%+v", c.Columns)
	}
	said, _ := Of(before, after, func(name string) (reading.Reading, bool) { return reading.Plain(reading.Text), name == "kg" })
	if said.Columns[1].Broke || said.Columns[1].Reading != "text" {
		t.Errorf("%+v", said.Columns[1])
	}
	if apart, _ := Of(before, coretest.Build([]string{"q"}, []string{"1"}), none); apart.Come != 1 || apart.Gone != 3 {
		t.Errorf("nothing in common: %+v", apart)
	}
}
