package entry

import (
	"context"
	"slices"
	"strings"

	"grandledger/core/duplicate"
	"grandledger/core/problem"
	"grandledger/core/table"
)

// Combine puts the values of several columns into one new column, blank ones passed over.
type Combine struct {
	Columns   []string `json:"columns"` // in the order in which they are put together
	Separator string   `json:"separator"`
	Name      string   `json:"name"`
	Drop      bool     `json:"drop,omitempty"` // the columns themselves go
}

// Words names the columns.
func (e *Combine) Words() string {
	return "Combine " + listing(e.Columns) + " into " + e.Name
}

// Cost: O(base rows) for each column, and O(bytes) of the different combinations.
func (e *Combine) apply(ctx context.Context, t *table.Table, _ Inputs) (*Result, error) {
	if len(e.Columns) < 2 {
		return nil, problem.New("Choose at least two columns", "there is nothing to combine")
	}
	if strings.TrimSpace(e.Name) == "" || len(e.Separator) > 100 {
		return nil, problem.New("Give the new column a name, and a separator of at most 100 bytes", "the new column has no name, or its separator is too long")
	}
	all := t.Select(nil)
	var columns []*table.Column
	var group []uint32
	groups, last := 0, 0
	for _, name := range e.Columns {
		if err := ctx.Err(); err != nil {
			return nil, err
		}
		c, at, err := column(t, name)
		if err != nil {
			return nil, err
		}
		columns = append(columns, c)
		last = max(last, at)
		group, groups = duplicate.Number(all.LogicalCodes(c), group)
	}
	first := make([]uint32, groups+1) // a base row of each combination
	for base, g := range slices.Backward(group) {
		first[g] = uint32(base)
	}
	b := table.NewDictBuilder()
	view := &table.View{At: make([]uint32, groups+1)}
	for g := 1; g <= groups; g++ {
		var parts []string
		for _, c := range columns {
			if v, ok := c.Value(first[g]); ok && strings.TrimSpace(v) != "" {
				parts = append(parts, v)
			}
		}
		view.At[g] = b.Add(strings.Join(parts, e.Separator))
	}
	made := &table.Column{Name: strings.TrimSpace(e.Name), Codes: &table.Codes{At: group}, View: view, Dict: b.Dict()}
	n := t.Rows()
	effect := Effect{Balance: Balance{Before: n, After: n}}
	var kept []*table.Column
	for at, c := range t.Columns() {
		gone := e.Drop && slices.Contains(e.Columns, c.Name)
		if gone {
			effect.Columns = append(effect.Columns, ColumnEffect{Column: c.Name, Cells: n, DistinctBefore: distinct(t.Counts(c))})
		} else {
			kept = append(kept, c)
		}
		if at == last {
			kept = append(kept, made)
		}
	}
	effect.Columns = append(effect.Columns, added(t, made))
	out, err := shaped(t, kept, &effect)
	if err != nil {
		return nil, err
	}
	return &Result{Table: out, Effect: effect}, nil
}
