package entry

import (
	"context"
	"fmt"

	"grandledger/core/problem"
	"grandledger/core/table"
)

// Beside puts columns that were pasted, or read from a small file, beside those of a table,
// row by row in the order the rows stand. Rows set aside have no cell in them.
type Beside struct {
	From    string         `json:"from"` // where they came from
	Columns []BesideColumn `json:"columns"`
}

// BesideColumn is a column with a cell for each row.
type BesideColumn struct {
	Name  string   `json:"name"`
	Cells []string `json:"cells"`
}

// Words counts a long list of columns.
func (e *Beside) Words() string {
	var names []string
	for _, c := range e.Columns[:min(len(e.Columns), 3)] {
		names = append(names, c.Name)
	}
	if more := len(e.Columns) - len(names); more > 0 {
		names = append(names, fmt.Sprintf("%d more columns", more))
	}
	return "Put " + listing(names) + " of " + e.From + " beside the columns"
}

// Cost: O(base rows) for each column.
func (e *Beside) apply(_ context.Context, t *table.Table, _ Inputs) (*Result, error) {
	if len(e.Columns) == 0 {
		return nil, problem.New("Paste at least one column", "there is no column to put beside the others")
	}
	columns := append([]*table.Column{}, t.Columns()...)
	n := t.Rows()
	effect := Effect{Balance: Balance{Before: n, After: n}}
	for _, c := range e.Columns {
		if len(c.Cells) != n {
			p := problem.New("Paste one cell for each row, in the order the rows stand", "it has %d cells, the table has %d rows", len(c.Cells), n)
			p.Column = c.Name
			return nil, p
		}
		b := table.NewDictBuilder()
		codes := &table.Codes{At: make([]uint32, t.Base())}
		for row, cell := range c.Cells {
			codes.At[t.BaseRow(row)] = b.Add(cell)
		}
		columns = append(columns, &table.Column{Name: c.Name, Codes: codes, Dict: b.Dict()})
		effect.Columns = append(effect.Columns, ColumnEffect{Column: c.Name, Cells: n, DistinctAfter: b.Dict().Len()})
	}
	out, err := t.WithColumns(columns)
	if err != nil {
		return nil, problem.New("Give it another name before it is pasted", "%v", err)
	}
	return &Result{Table: out, Effect: effect}, nil
}
