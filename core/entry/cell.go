package entry

import (
	"context"
	"fmt"

	"grandledger/core/problem"
	"grandledger/core/table"
)

// Cell changes one cell: that of a column in one row, which is known by its number in the
// first source, as positions move.
type Cell struct {
	Column string `json:"column"`
	Row    int    `json:"row"`  // of the source, from 1
	From   string `json:"from"` // what the cell holds; on another delivery it may hold something else
	To     string `json:"to"`
}

// Words names the row and both values.
func (e *Cell) Words() string {
	return fmt.Sprintf("Change “%s” to “%s” in %s of source row %d", brief(e.From), brief(e.To), e.Column, e.Row)
}

// Cost: O(base rows).
func (e *Cell) apply(_ context.Context, t *table.Table, _ Inputs) (*Result, error) {
	c, at, err := column(t, e.Column)
	if err != nil {
		return nil, err
	}
	refuse := func(what string, args ...any) error {
		p := problem.New("Look at the row as it stands now", what, args...)
		p.Column, p.Row = c.Name, e.Row
		return p
	}
	if e.From == e.To {
		return nil, refuse("the cell would hold what it holds")
	}
	if len(t.Origins()) == 0 {
		return nil, refuse("the rows of this table are of no source")
	}
	from := t.Origins()[0]
	f := newFilling(t, c)
	to, done := f.add(e.To), false
	f.each(func(base, code uint32) uint32 {
		if done || int64(from.Row(base)) != int64(e.Row) || c.Dict.Value(code) != e.From {
			return code
		}
		done = true
		return to
	})
	if !done {
		return nil, refuse("no row that stands is row %d of %s and holds “%s” there", e.Row, from.Source, brief(e.From))
	}
	return f.result(at), nil
}
