package entry

import (
	"context"
	"slices"

	"grandledger/core/duplicate"
	"grandledger/core/problem"
	"grandledger/core/reading"
	"grandledger/core/survivorship"
	"grandledger/core/table"
)

// Gather makes one row of the rows that are equal on a key: the cells of some columns become
// a list in the first of them, which keeps its other cells; where one is blank, the next that is
// not stands for it. It is the way back from rows that a list was split into.
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
func (e *Gather) apply(ctx context.Context, t *table.Table, _ Inputs) (*Result, error) {
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
	groups := duplicate.Find(t, duplicate.Exactly(key), false).Members()
	if groups.Len() == t.Rows() {
		return nil, problem.New("Choose fewer columns, or others", "no two rows have the same %s", listing(e.Key))
	}
	m := newMerge(t, groups)
	rule := survivorship.List
	if e.Distinct {
		rule = survivorship.ListDistinct
	}
	for _, name := range e.Columns {
		m.column(name, rule, "")
	}
	for _, c := range t.Columns() {
		if !slices.Contains(e.Key, c.Name) && !slices.Contains(e.Columns, c.Name) {
			m.column(c.Name, survivorship.First, "")
		}
	}
	r, err := m.result(ctx)
	if err != nil {
		return nil, err
	}
	for _, name := range e.Columns {
		c, at, _ := r.Table.Column(name)
		next := *c
		next.Reading = reading.Reading{Kind: reading.List}
		r.Table = r.Table.With(at, &next)
	}
	return r, nil
}
