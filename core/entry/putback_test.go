package entry_test

import (
	"context"
	"errors"
	"slices"
	"testing"

	"grandledger/core/coretest"
	"grandledger/core/duplicate"
	"grandledger/core/entry"
	"grandledger/core/problem"
	"grandledger/core/table"
	"grandledger/core/tidy"
)

// Rows set aside are worked on as a table of their own, and come back changed: one corrected, one
// set aside there, one cut in two, with a column they were given.
func TestPutBack(t *testing.T) {
	ctx := context.Background()
	source := coretest.Build([]string{"id", "gear"}, []string{"1", "net"}, []string{"1", "POTS"}, []string{"2", "net"}, []string{"1", "a b"}, []string{"1", "gone"})
	do := func(tab *table.Table, in entry.Inputs, e entry.Entry) *entry.Result {
		t.Helper()
		res, err := entry.Apply(ctx, e, tab, in)
		if err != nil {
			t.Fatal(err)
		}
		return res
	}
	first := do(source, entry.Inputs{}, &entry.Duplicates{Key: []string{"id"}, Choice: entry.Choice{Keep: duplicate.First}})
	apart := first.Table.Select(first.Aside)
	apart = do(apart, entry.Inputs{}, &entry.Tidy{Columns: []string{"gear"}, Steps: []tidy.Step{{Op: tidy.Lower}}}).Table
	apart = do(apart, entry.Inputs{}, &entry.Split{Column: "gear", By: entry.ByMarks, Marks: []string{" "}, Rows: true}).Table
	apart = do(apart, entry.Inputs{}, &entry.Mark{Key: []string{"gear"}, Shows: entry.WhetherRepeats, Name: "again"}).Table
	apart = do(apart, entry.Inputs{}, &entry.Duplicates{Key: []string{"gear"}, Choice: entry.Choice{Keep: duplicate.First}, Chosen: nil, Only: duplicate.Unique}).Table
	whole := apart
	in := entry.Inputs{Taken: func(name string, revision int64) (*table.Table, int64, int, error) {
		return apart, 7, source.Base(), nil
	}}
	for _, c := range []struct {
		behind bool
		want   [][]string
	}{
		{false, [][]string{{"1", "net", "∅"}, {"1", "pots", "no"}, {"2", "net", "∅"}, {"1", "a", "no"}, {"1", "b", "no"}, {"1", "gone", "no"}}},
		{true, [][]string{{"1", "net", "∅"}, {"2", "net", "∅"}, {"1", "pots", "no"}, {"1", "a", "no"}, {"1", "b", "no"}, {"1", "gone", "no"}}},
	} {
		e := &entry.PutBack{Table: "apart", Behind: c.behind}
		res := do(first.Table, in, e)
		if got := coretest.Rows(res.Table); !slices.EqualFunc(got, c.want, slices.Equal) || e.Revision != 7 || res.Effect.Balance.Added != 4 {
			t.Errorf("behind %v: %q, want %q; %+v", c.behind, got, c.want, res.Effect.Balance)
		}
		var p *problem.Problem
		apart = apart.Select(&table.Selection{Rows: []uint32{1}})
		if _, err := entry.Apply(ctx, e, res.Table, in); !errors.As(err, &p) || p.Remedy == "" {
			t.Errorf("rows that stand already: %v", err)
		}
		apart = whole
	}
	var p *problem.Problem
	if _, err := entry.Apply(ctx, &entry.PutBack{Table: "apart"}, first.Table, entry.Inputs{}); !errors.As(err, &p) || p.Remedy == "" {
		t.Errorf("on another delivery: %v", err)
	}
}
