package compare_test

import (
	"context"
	"fmt"
	"math/rand/v2"
	"testing"

	"grandledger/core/compare"
	"grandledger/core/coretest"
	"grandledger/core/entry"
	"grandledger/core/table"
	"grandledger/core/tidy"
)

// Two revisions against each other, cell by cell through their base rows.
func TestRevisionsAgainstCells(t *testing.T) {
	r := rand.New(rand.NewPCG(41, 7))
	changed := 0
	for range 200 {
		before := coretest.Table(r, 60, 3)
		after := before
		for range 1 + r.IntN(3) {
			var e entry.Entry = &entry.Tidy{Columns: []string{"a", "b"}, Steps: []tidy.Step{{Op: tidy.Trim}, {Op: tidy.Upper}}}
			switch r.IntN(4) {
			case 0:
				e = &entry.Duplicates{Key: []string{"a"}, Choice: entry.Choice{Keep: "last"}}
			case 1:
				e = &entry.Split{Column: "b", By: entry.ByMarks, Marks: []string{" "}, Rows: true}
			case 2:
				e = &entry.Columns{Columns: []entry.ColumnAs{{From: "a"}, {From: "c", As: "d"}}}
			}
			if res, err := entry.Apply(context.Background(), e, after, entry.Inputs{}); err == nil {
				after = res.Table
			}
		}
		d := compare.Revisions(before, after, before.Base())
		in := func(t *table.Table) map[uint32]bool {
			out := map[uint32]bool{}
			for row := range t.Rows() {
				out[t.BaseRow(row)] = true
			}
			return out
		}
		was, is := in(before), in(after)
		added, gone, cells := 0, 0, 0
		for base := range is {
			if !was[base] {
				added++
			}
		}
		for base := range was {
			if !is[base] {
				gone++
				continue
			}
			for _, c := range after.Columns() {
				if old, _, err := before.Column(c.Name); err == nil {
					a, heldA := old.Value(base)
					b, heldB := c.Value(base)
					if a != b || heldA != heldB {
						cells++
					}
				}
			}
		}
		if d.Added != added || d.SetAside != gone || d.Cells != cells || d.Before+d.Added-d.SetAside != d.After {
			t.Fatalf("%+v, want %d added, %d gone, %d cells", d, added, gone, cells)
		}
		for _, c := range d.Columns {
			if c.State == compare.Stays && c.Come < len(c.Values) || c.Went < len(c.Lost) {
				t.Fatalf("%+v", c)
			}
		}
		changed += cells
	}
	if changed == 0 {
		t.Error("nothing was ever changed")
	}
}

// The values that came and went, with their rows.
func TestRevisionsNameValues(t *testing.T) {
	before := coretest.Build([]string{"gear"}, []string{"GN"}, []string{"GN"}, []string{"Pots"}, []string{""})
	res, err := entry.Apply(context.Background(), &entry.Values{Column: "gear", Changes: []entry.Change{{From: "GN", To: "Gill net"}}}, before, entry.Inputs{})
	if err != nil {
		t.Fatal(err)
	}
	d := compare.Revisions(before, res.Table, 4)
	if got := fmt.Sprintf("%d %+v", d.Cells, d.Columns); got != "2 [{Column:gear State:stays Cells:2 Come:1 Went:1 Values:[{Value:Gill net Rows:2}] Lost:[{Value:GN Rows:2}]}]" {
		t.Error(got)
	}
	if same := compare.Revisions(before, before, 4); same.Cells+len(same.Columns)+same.Added+same.SetAside != 0 {
		t.Errorf("%+v", same)
	}
}
