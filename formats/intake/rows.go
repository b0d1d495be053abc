package intake

import (
	"context"
	"errors"

	"grandledger/core/problem"
	"grandledger/core/table"
)

// Rows gathers a table cell by cell, for formats that are read so. Columns may come up at
// any row; the rows before have no cell there.
type Rows struct {
	columns []*Column
	place   map[string]int
	n       int
	limit   int
	block   []byte     // cells not yet encoded
	spans   [][]uint64 // by column, rows from first on; table.Absent where a cell is not set
	first   int
}

// ErrEnough ends a reading that has all the rows it was asked for.
var ErrEnough = errors.New("enough rows")

// NewRows starts with the given columns; names must be different. limit is Options.Rows.
func NewRows(names []string, limit int) *Rows {
	r := &Rows{place: map[string]int{}, limit: limit}
	for _, name := range names {
		r.open(name)
	}
	return r
}

func (r *Rows) open(name string) int {
	i := len(r.columns)
	r.place[name] = i
	r.columns = append(r.columns, NewColumn(name, r.first))
	r.spans = append(r.spans, nil)
	return i
}

// Len is the number of rows ended.
func (r *Rows) Len() int { return r.n }

// Columns is the number of columns.
func (r *Rows) Columns() int { return len(r.columns) }

// Column gives the place of a column by name, making it where it is new.
func (r *Rows) Column(name string) (int, error) {
	if i, ok := r.place[name]; ok {
		return i, nil
	}
	if len(r.columns) >= MaxColumns {
		return 0, TooManyColumns(MaxColumns + 1)
	}
	return r.open(name), nil
}

// Set gives the row at hand a cell.
func (r *Rows) Set(column int, value string) error {
	if len(value) > MaxCell {
		p := problem.New("Leave the column out", "a cell is longer than %d MiB", MaxCell>>20)
		p.Row, p.Column = r.n+1, r.columns[column].Name
		return p
	}
	s := r.spans[column]
	for len(s) < r.n-r.first {
		s = append(s, table.Absent)
	}
	span := uint64(len(r.block))<<32 | uint64(len(value))
	r.block = append(r.block, value...)
	if len(s) > r.n-r.first {
		s[len(s)-1] = span // set twice: the last one counts
	} else {
		s = append(s, span)
	}
	r.spans[column] = s
	return nil
}

// End ends the row at hand; ErrEnough says that no more are wanted.
func (r *Rows) End(ctx context.Context) error {
	r.n++
	if err := Room(r.n, len(r.columns)); err != nil {
		return err
	}
	if len(r.block) >= BlockSize || r.n-r.first >= 1<<16 {
		if err := ctx.Err(); err != nil {
			return err
		}
		if err := r.encode(); err != nil {
			return err
		}
	}
	if r.n == r.limit {
		return ErrEnough
	}
	return nil
}

func (r *Rows) encode() error {
	for i, c := range r.columns {
		if err := c.Encode(r.block, nil, r.spans[i]); err != nil {
			return err
		}
		c.Absent(r.n - c.Len())
		r.spans[i] = r.spans[i][:0]
	}
	r.block, r.first = r.block[:0], r.n
	return nil
}

// Table ends the gathering.
func (r *Rows) Table(o Options, report *Report) (*table.Table, error) {
	if err := r.encode(); err != nil {
		return nil, err
	}
	if len(r.columns) == 0 {
		return nil, problem.New("Choose another part of the file", "no column was found")
	}
	return Finish(r.columns, r.n, "valid UTF-8", o, report)
}
