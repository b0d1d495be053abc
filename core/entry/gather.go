package entry

import (
	"context"
	"encoding/json"
	"slices"
	"strings"

	"grandledger/core/duplicate"
	"grandledger/core/problem"
	"grandledger/core/reading"
	"grandledger/core/table"
	"grandledger/core/tally"
)

// Gather makes one row of the rows that are equal on a key: the cells of some columns become
// a list in the first of them, which keeps its other cells. It is the way back from rows that
// a list was split into.
type Gather struct {
	Key      []string `json:"key"`
	Columns  []string `json:"columns"`
	Distinct bool     `json:"distinct,omitempty"` // an item that comes again is left out
}

// Words names the columns.
func (e *Gather) Words() string {
	return "Gather " + listing(e.Columns) + " of the rows with the same " + listing(e.Key) + " into lists"
}

// Cost: O(base rows) for each column that is gathered and O(rows) for each other one.
func (e *Gather) apply(_ context.Context, t *table.Table, _ Inputs) (*Result, error) {
	if len(e.Key) == 0 || len(e.Columns) == 0 {
		return nil, problem.New("Choose what rows have in common, and what is listed", "there is nothing to gather by, or nothing to gather")
	}
	var key []*table.Column
	for _, name := range e.Key {
		c, _, err := column(t, name)
		if err != nil {
			return nil, err
		}
		if slices.Contains(e.Columns, name) {
			p := problem.New("Leave it out of one of them", "a column cannot be gathered by itself")
			p.Column = name
			return nil, p
		}
		key = append(key, c)
	}
	groups := duplicate.Find(t, duplicate.Exactly(key), false)
	kept, merged, _ := groups.Split(t, duplicate.Rule{Keep: duplicate.First})
	if len(merged.Rows) == 0 {
		return nil, problem.New("Choose fewer columns, or others", "no two rows have the same %s", listing(e.Key))
	}
	members := groups.Members()
	out := t.Select(kept)
	n := t.Rows()
	effect := Effect{Balance: Balance{Before: n, Merged: len(merged.Rows), After: len(kept.Rows)}}
	for _, name := range e.Columns {
		c, at, err := column(t, name)
		if err != nil {
			return nil, err
		}
		f := newFilling(t, c)
		for _, rows := range members {
			list := e.list(t, c, rows)
			base := t.BaseRow(int(rows[0]))
			f.codes[base] = f.add(list)
		}
		next := *c
		next.Codes, next.View, next.Dict = &table.Codes{At: f.codes}, nil, f.b.Dict()
		next.Reading = reading.Reading{Kind: reading.List}
		out = out.With(at, &next)
		counts := out.Counts(&next)
		effect.Columns = append(effect.Columns, ColumnEffect{Column: name, Cells: len(kept.Rows), DistinctBefore: distinct(t.Counts(c)), DistinctAfter: distinct(counts),
			Top: tally.Top(&next, counts, 20)})
	}
	for _, c := range t.Columns() {
		if slices.Contains(e.Key, c.Name) || slices.Contains(e.Columns, c.Name) {
			continue
		}
		if lost := differing(t, c, members); lost > 0 {
			effect.Columns = append(effect.Columns, ColumnEffect{Column: c.Name, Dropped: lost, DistinctBefore: distinct(t.Counts(c)), DistinctAfter: distinct(out.Counts(c))})
		}
	}
	return &Result{Table: out, Effect: effect}, nil
}

// list is the items of the cells of some rows, by position, as JSON; blank cells give none, and
// cells that are lists their items.
func (e *Gather) list(t *table.Table, c *table.Column, rows []uint32) string {
	items := []string{}
	r := c.Effective()
	for _, row := range rows {
		v, _ := c.Value(t.BaseRow(int(row)))
		if strings.TrimSpace(v) == "" {
			continue
		}
		of := []string{v}
		if r.Kind == reading.List {
			if parts, ok := r.Items(v); ok {
				of = parts
			}
		}
		for _, item := range of {
			if !e.Distinct || !slices.Contains(items, item) {
				items = append(items, item)
			}
		}
	}
	var out strings.Builder
	w := json.NewEncoder(&out)
	w.SetEscapeHTML(false)
	_ = w.Encode(items) // strings always can be
	return strings.TrimSuffix(out.String(), "\n")
}

// differing counts the cells that say something else than the first row of their group, which
// stays: what a merge gives up. Blank ones are not counted.
func differing(t *table.Table, c *table.Column, members [][]uint32) int {
	n := 0
	for _, rows := range members {
		first := c.Code(t.BaseRow(int(rows[0])))
		for _, row := range rows[1:] {
			if code := c.Code(t.BaseRow(int(row))); code != first && strings.TrimSpace(c.Dict.Value(code)) != "" {
				n++
			}
		}
	}
	return n
}
