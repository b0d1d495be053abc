package watch_test

import (
	"context"
	"errors"
	"fmt"
	"testing"

	"grandledger/core/condition"
	"grandledger/core/coretest"
	"grandledger/core/duplicate"
	"grandledger/core/problem"
	"grandledger/core/reading"
	"grandledger/core/table"
	"grandledger/core/watch"
)

func landings() *table.Table {
	t := coretest.Build([]string{"licence", "species", "kg"}, []string{"LK-1", "Cod", "10.50"}, []string{"LK-2", "cod", "20"}, []string{"lk 1", "Ling", "1"},
		[]string{"", "", "many"}, []string{"LK-2", "Ling", ""})
	c := *t.Columns()[2]
	c.Reading = reading.Plain(reading.Number)
	return t.With(2, &c)
}

func TestWatches(t *testing.T) {
	known := func(name string) (func(string) bool, error) {
		return func(v string) bool { return name == "Species" && (v == "Cod" || v == "cod") }, nil
	}
	for _, c := range []struct {
		rule  watch.Rule
		words string
		want  string
	}{
		{watch.Rule{Kind: watch.Unique, Key: []string{"licence"}}, "licence is unique", "false 2 [1 4]"},
		{watch.Rule{Kind: watch.Unique, Key: []string{"licence", "species"}}, "licence + species are unique together", "true 0 []"},
		{watch.Rule{Kind: watch.Unique, Key: []string{"licence"}, As: map[string]duplicate.As{"licence": duplicate.Folded}}, "licence (folded) is unique", "false 4 [0 2 1 4]"},
		{watch.Rule{Kind: watch.Known, Column: "species", Crosswalk: "Species"}, "every species is in the crosswalk Species", "false 2 [2 4]"},
		{watch.Rule{Kind: watch.Total, Column: "kg", Least: "31.50", Most: "31.5"}, "the total of kg is between 31.50 and 31.5", "true 0 []"},
		{watch.Rule{Kind: watch.Total, Column: "kg", Most: "31.49"}, "the total of kg is at most 31.49", "false 3 []"},
		{watch.Rule{Kind: watch.Total, Column: "kg", Least: "-1"}, "the total of kg is at least -1", "true 0 []"},
		{watch.Rule{Kind: watch.None, Where: &condition.Condition{Op: condition.Blank, Column: "species"}}, "there is no row where species is blank", "false 1 [3]"},
	} {
		f, err := c.rule.Look(context.Background(), landings(), known)
		if err != nil {
			t.Errorf("%s: %v", c.words, err)
			continue
		}
		if got := fmt.Sprint(f.Holds, " ", f.Against, " ", f.Rows(0, 10)); got != c.want || c.rule.Words() != c.words {
			t.Errorf("%s: %s, want %s (%s)", c.words, got, c.want, c.rule.Words())
		}
		if all, rest := f.Rows(0, 10), f.Rows(1, 1); len(all) > 1 && rest[0] != all[1] {
			t.Errorf("%s: the second row is %v of %v", c.words, rest, all)
		}
		if c.rule.Kind == watch.Total && (f.Figure != "31.50" || f.Unread != 1) {
			t.Errorf("%+v", f)
		}
	}
}

func TestWatchesRefused(t *testing.T) {
	for _, r := range []watch.Rule{{}, {Kind: watch.Unique}, {Kind: watch.Known, Column: "species"}, {Kind: watch.Total, Column: "kg"}, {Kind: watch.Total, Column: "kg", Least: "ten"}, {Kind: watch.None},
		{Kind: watch.Unique, Key: []string{"no"}}, {Kind: watch.Total, Column: "species", Least: "1"}} {
		var p *problem.Problem
		if _, err := r.Look(context.Background(), landings(), nil); !errors.As(err, &p) || p.Remedy == "" {
			t.Errorf("%+v: %v", r, err)
		}
	}
}
