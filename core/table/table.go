package table

import (
	"errors"
	"fmt"
	"slices"
	"sync"

	"grandledger/core/reading"
)

// MaxRows is how many base rows a table can hold (row numbers are 32 bits, with room
// for one more).
const MaxRows = 1<<32 - 2

// Codes is one physical code per base row.
type Codes struct{ At []uint32 }

// View maps physical codes to dictionary codes; At[Missing] is Missing.
type View struct{ At []uint32 }

// Selection lists the base rows that stand in a table, in the table's order.
type Selection struct{ Rows []uint32 }

// Column is a named column. Its parts are immutable and may be shared by revisions.
type Column struct {
	Name    string
	Codes   *Codes
	View    *View // nil: physical codes are dictionary codes
	Dict    *Dict
	Reading reading.Reading // as somebody said; none while nobody has, see Effective
}

// Code is the dictionary code at a base row.
func (c *Column) Code(base uint32) uint32 {
	code := c.Codes.At[base]
	if c.View != nil {
		return c.View.At[code]
	}
	return code
}

// Value is the text at a base row; false where the cell is missing.
func (c *Column) Value(base uint32) (string, bool) {
	code := c.Code(base)
	return c.Dict.Value(code), code != Missing
}

// physical is the number of physical codes, Missing included.
func (c *Column) physical() int {
	if c.View != nil {
		return len(c.View.At)
	}
	return c.Dict.Len() + 1
}

// Origin says where base rows came from: Rows[i] is the source's row number, from 1,
// for base row i, and 0 where the base row has none in this source. Rows nil means
// base row i is the source's row i+1.
type Origin struct {
	Source string
	Rows   *Codes
}

// Row is the source's row number for a base row, 0 for none.
func (o Origin) Row(base uint32) uint32 {
	if o.Rows == nil {
		return base + 1
	}
	return o.Rows.At[base]
}

// SameRows says whether the first rows of two tables came from the same rows of the same sources. Cost:
// O(rows) for each source.
func SameRows(a, b *Table, rows int) bool {
	if a.base < rows || b.base < rows || len(a.origins) != len(b.origins) {
		return false
	}
	for i, o := range a.origins {
		for base := range uint32(rows) {
			if o.Row(base) != b.origins[i].Row(base) {
				return false
			}
		}
	}
	return true
}

// Table is an immutable table: columns over the same base rows, and the selection of
// base rows that stand in it.
type Table struct {
	columns   []*Column
	base      int
	selection *Selection
	origins   []Origin
	counts    *counts
}

// New builds a table of all base rows. Every column must have one code per base row
// and a name of its own.
func New(columns []*Column, rows int, origins ...Origin) (*Table, error) {
	if rows > MaxRows {
		return nil, fmt.Errorf("a table holds at most %d rows", uint64(MaxRows))
	}
	if err := check(columns, rows); err != nil {
		return nil, err
	}
	return &Table{columns: columns, base: rows, origins: origins, counts: newCounts()}, nil
}

func check(columns []*Column, rows int) error {
	seen := make(map[string]bool, len(columns))
	for _, c := range columns {
		if len(c.Codes.At) != rows {
			return fmt.Errorf("column %q has %d cells, the table %d rows", c.Name, len(c.Codes.At), rows)
		}
		if c.Name == "" || seen[c.Name] {
			return fmt.Errorf("column name %q is empty or used twice", c.Name)
		}
		seen[c.Name] = true
	}
	return nil
}

// Columns lists the columns in order. The slice must not be changed.
func (t *Table) Columns() []*Column { return t.columns }

// Origins lists where the base rows came from.
func (t *Table) Origins() []Origin { return t.origins }

// Selection is nil when every base row stands in the table.
func (t *Table) Selection() *Selection { return t.selection }

// Base is the number of base rows, standing and set aside.
func (t *Table) Base() int { return t.base }

// Rows is the number of rows that stand in the table.
func (t *Table) Rows() int {
	if t.selection != nil {
		return len(t.selection.Rows)
	}
	return t.base
}

// BaseRow is the base row at a position, 0 <= position < Rows.
func (t *Table) BaseRow(position int) uint32 {
	if t.selection != nil {
		return t.selection.Rows[position]
	}
	return uint32(position)
}

// ErrNoColumn is wrapped by the error of Column.
var ErrNoColumn = errors.New("no such column")

// Column finds a column and its place by name.
func (t *Table) Column(name string) (*Column, int, error) {
	i := slices.IndexFunc(t.columns, func(c *Column) bool { return c.Name == name })
	if i < 0 {
		return nil, -1, fmt.Errorf("%w: %q", ErrNoColumn, name)
	}
	return t.columns[i], i, nil
}

// With gives the table with column i replaced; all else is shared.
func (t *Table) With(i int, c *Column) *Table {
	out := *t
	out.columns = slices.Clone(t.columns)
	out.columns[i] = c
	return &out
}

// WithColumns gives the table with other columns over the same rows; all else is shared.
func (t *Table) WithColumns(columns []*Column) (*Table, error) {
	if err := check(columns, t.base); err != nil {
		return nil, err
	}
	out := *t
	out.columns = columns
	return &out, nil
}

// Select gives the table with other rows standing in it; nil is all base rows.
func (t *Table) Select(s *Selection) *Table {
	out := *t
	out.selection = s
	out.counts = newCounts()
	return &out
}

// LogicalCodes gives the dictionary code of a column for each standing row, in order.
// It is the shared slice of the column where it can be, so it must not be changed.
// Cost: O(rows) at most.
func (t *Table) LogicalCodes(c *Column) []uint32 {
	if t.selection == nil && c.View == nil {
		return c.Codes.At
	}
	out := make([]uint32, t.Rows())
	for i := range out {
		out[i] = c.Code(t.BaseRow(i))
	}
	return out
}

// Counts is the number of standing rows per dictionary code of a column; index
// Missing counts missing cells. The rows are counted once per column and selection
// and remembered, so after a rewrite of values it costs O(distinct).
func (t *Table) Counts(c *Column) []uint32 {
	return c.logical(t.counts.of(c.Codes, func() []uint32 { return c.countPhysical(t.selection) }))
}

// count is the rows per dictionary code of the rows selected, nil for all base rows.
func count(c *Column, s *Selection) []uint32 { return c.logical(c.countPhysical(s)) }

func (c *Column) countPhysical(s *Selection) []uint32 {
	n := make([]uint32, c.physical())
	if s == nil {
		for _, code := range c.Codes.At {
			n[code]++
		}
		return n
	}
	for _, base := range s.Rows {
		n[c.Codes.At[base]]++
	}
	return n
}

// logical turns rows per physical code into rows per dictionary code.
func (c *Column) logical(physical []uint32) []uint32 {
	if c.View == nil {
		return physical
	}
	n := make([]uint32, c.Dict.Len()+1)
	for p, rows := range physical {
		n[c.View.At[p]] += rows
	}
	return n
}

// counts remembers the rows per physical code; shared by revisions with the same
// selection.
type counts struct {
	mu      sync.Mutex
	byCodes map[*Codes]*counted
}

type counted struct {
	once sync.Once
	rows []uint32
}

func newCounts() *counts { return &counts{byCodes: map[*Codes]*counted{}} }

func (c *counts) of(codes *Codes, count func() []uint32) []uint32 {
	c.mu.Lock()
	e := c.byCodes[codes]
	if e == nil {
		e = &counted{}
		c.byCodes[codes] = e
	}
	c.mu.Unlock()
	e.once.Do(func() { e.rows = count() })
	return e.rows
}
