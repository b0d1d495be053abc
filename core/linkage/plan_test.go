package linkage

import (
	"context"
	"reflect"
	"testing"

	"grandledger/core/table"
)

// However a linkage is cut into shards, and whether they were written down in between, the result is the same; a plan is the same wherever it is made.
func TestShardsGiveTheSame(t *testing.T) {
	ctx := context.Background()
	tab, _ := people(1200)
	tables := []*table.Table{tab}
	whole, err := Link(ctx, tables, Spec{})
	if err != nil {
		t.Fatal(err)
	}
	var parts []*Compared
	n := uint32(tab.Rows())
	for _, cut := range [][2]uint32{{0, 1}, {1, 500}, {500, 501}, {501, n}} {
		plan, err := Prepare(ctx, tables, Spec{}) // each shard by a process of its own
		if err != nil {
			t.Fatal(err)
		}
		c, err := plan.compare(ctx, cut[0], cut[1])
		if err != nil {
			t.Fatal(err)
		}
		raw, err := c.MarshalBinary()
		if err != nil {
			t.Fatal(err)
		}
		back := &Compared{}
		if err := back.UnmarshalBinary(raw); err != nil {
			t.Fatal(err)
		}
		parts = append(parts, back)
		for _, broken := range [][]byte{raw[:len(raw)-1], raw[:10], append(raw[:8:8], raw[9:]...), nil} {
			if err := new(Compared).UnmarshalBinary(broken); err == nil {
				t.Errorf("%d bytes of %d were read", len(broken), len(raw))
			}
		}
	}
	plan, err := Prepare(ctx, tables, Spec{})
	if err != nil {
		t.Fatal(err)
	}
	got, err := plan.Finish(ctx, parts, nil)
	if err != nil {
		t.Fatal(err)
	}
	if !reflect.DeepEqual(got.Pairs, whole.Pairs) || !reflect.DeepEqual(got.Clusters, whole.Clusters) || got.Prior != whole.Prior || got.Compared != whole.Compared || !reflect.DeepEqual(got.Bins, whole.Bins) {
		t.Errorf("%d pairs and %d clusters, as a whole %d and %d", len(got.Pairs), len(got.Clusters), len(whole.Pairs), len(whole.Clusters))
	}
	for i, rule := range got.Rules {
		if rule.Pairs != whole.Rules[i].Pairs || rule.Largest != whole.Rules[i].Largest || rule.Narrowed != whole.Rules[i].Narrowed {
			t.Errorf("%+v, as a whole %+v", rule, whole.Rules[i])
		}
	}
	// Finished again with a decision, and again without, it is as before.
	a, b := Key(tab, whole.Pairs[0].LeftRow), Key(tab, whole.Pairs[0].RightRow)
	if other, err := plan.Finish(ctx, parts, []Decision{{a, b, false}}); err != nil || reflect.DeepEqual(other.Pairs, whole.Pairs) {
		t.Errorf("a decision changed nothing (%v)", err)
	}
	if again, err := plan.Finish(ctx, parts, nil); err != nil || !reflect.DeepEqual(again.Pairs, whole.Pairs) {
		t.Errorf("finished once more it differs (%v)", err)
	}
}
