package entry

import (
	"context"
	"fmt"
	"slices"

	"grandledger/core/problem"
	"grandledger/core/table"
)

// Add adds rows that somebody typed, behind the others.
type Add struct {
	Rows []map[string]string `json:"rows"` // cells by column; one that is not given is blank
}

// maxAdded is how many rows one entry adds by hand.
const maxAdded = 1000

// Words counts the rows.
func (e *Add) Words() string {
	if len(e.Rows) == 1 {
		return "Add a row by hand"
	}
	return fmt.Sprintf("Add %d rows by hand", len(e.Rows))
}

// Cost: O(base rows) and O(distinct) for each column.
func (e *Add) apply(_ context.Context, t *table.Table, _ Inputs) (*Result, error) {
	if len(e.Rows) == 0 || len(e.Rows) > maxAdded {
		return nil, problem.New(fmt.Sprintf("Type at least one row, and at most %d; bring more in as a table", maxAdded), "%d rows cannot be added by hand", len(e.Rows))
	}
	for i, row := range e.Rows {
		blank := true
		for name, cell := range row {
			if _, _, err := column(t, name); err != nil {
				return nil, err
			}
			blank = blank && cell == ""
		}
		if blank {
			p := problem.New("Type into one of its cells", "the row is blank")
			p.Row = i + 1
			return nil, p
		}
	}
	base, n := t.Base(), len(e.Rows)
	columns := slices.Clone(t.Columns())
	for i, c := range columns {
		b := table.NewDictBuilder()
		for code := uint32(1); code <= uint32(c.Dict.Len()); code++ {
			b.Add(c.Dict.Value(code))
		}
		codes := make([]uint32, base+n)
		for at := range base {
			codes[at] = c.Code(uint32(at))
		}
		for at, row := range e.Rows {
			codes[base+at] = b.Add(row[c.Name])
		}
		next := *c
		next.Codes, next.View, next.Dict = &table.Codes{At: codes}, nil, b.Dict()
		columns[i] = &next
	}
	var origins []table.Origin
	for _, o := range t.Origins() {
		from := make([]uint32, base+n) // 0 for those of no source
		for at := range base {
			from[at] = o.Row(uint32(at))
		}
		origins = append(origins, table.Origin{Source: o.Source, Rows: &table.Codes{At: from}})
	}
	out, err := table.New(columns, base+n, origins...)
	if err != nil {
		return nil, problem.New("Narrow the table first", "%v", err)
	}
	rows := make([]uint32, 0, t.Rows()+n)
	for row := range t.Rows() {
		rows = append(rows, t.BaseRow(row))
	}
	for at := range n {
		rows = append(rows, uint32(base+at))
	}
	out = out.Select(&table.Selection{Rows: rows})
	effect := Effect{Balance: Balance{Before: t.Rows(), Added: n, After: len(rows)}}
	for i, c := range columns {
		was := t.Columns()[i]
		effect.Columns = append(effect.Columns, ColumnEffect{Column: c.Name, Cells: n, DistinctBefore: distinct(t.Counts(was)), DistinctAfter: distinct(out.Counts(c))})
	}
	return &Result{Table: out, Effect: effect}, nil
}
