package join_test

import (
	"math/rand/v2"
	"slices"
	"testing"

	"grandledger/core/coretest"
	"grandledger/core/join"
	"grandledger/core/table"
)

func TestStack(t *testing.T) {
	march := coretest.Build([]string{"no", "kg"}, []string{"1", "3"}, []string{"2", "∅"})
	april := coretest.Build([]string{"kg", "file"}, []string{"3", "x"}, []string{"4", ""}).Select(&table.Selection{Rows: []uint32{1}})
	out, err := join.Stack([]join.Part{{Name: "march.csv", Table: march}, {Name: "april.csv", Table: april}}, "2 files", "file")
	if err != nil {
		t.Fatal(err)
	}
	var names []string
	for _, c := range out.Columns() {
		names = append(names, c.Name)
	}
	want := [][]string{{"march.csv", "1", "3", "∅"}, {"march.csv", "2", "∅", "∅"}, {"april.csv", "∅", "4", ""}}
	if got := coretest.Rows(out); !slices.EqualFunc(got, want, slices.Equal) || !slices.Equal(names, []string{"file (2)", "no", "kg", "file"}) {
		t.Errorf("stacked %q %q", names, got)
	}
	if o := out.Origins()[0]; o.Source != "2 files" || o.Row(1) != 2 || o.Row(2) != 2 {
		t.Errorf("origins %+v", o)
	}
}

// Whatever the parts, each row of the stack is a row of its part, cell by cell.
func TestStackKeepsEveryCell(t *testing.T) {
	r := rand.New(rand.NewPCG(3, 9))
	for range 100 {
		var parts []join.Part
		var want [][]string
		for _, name := range []string{"a", "b", "c"} {
			tab := coretest.Table(r, r.IntN(30), 3)
			parts = append(parts, join.Part{Name: name, Table: tab})
			for _, row := range coretest.Rows(tab) {
				want = append(want, append([]string{name}, row...))
			}
		}
		out, err := join.Stack(parts, "parts", "from")
		if err != nil {
			t.Fatal(err)
		}
		if got := coretest.Rows(out); !slices.EqualFunc(got, want, slices.Equal) {
			t.Fatalf("stacked %q, want %q", got, want)
		}
	}
}
