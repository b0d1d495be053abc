package intake

import (
	"slices"
	"strings"
	"unicode/utf8"

	"grandledger/core/problem"
	"grandledger/core/table"
)

// Column gathers the cells of one column as codes.
type Column struct {
	Name  string
	codes []uint32
	dict  *table.DictBuilder
}

// NewColumn makes a column whose first rows, if any, have no cell.
func NewColumn(name string, absent int) *Column {
	return &Column{Name: name, codes: make([]uint32, absent), dict: table.NewDictBuilder()}
}

// Len is the number of rows gathered.
func (c *Column) Len() int { return len(c.codes) }

// Empty says that no row has a cell.
func (c *Column) Empty() bool { return c.dict.Len() == 0 }

// Reserve makes sure of room for the rows to come now; where there is none, it makes room
// for as many as are expected in all, so that growing does not copy again and again.
func (c *Column) Reserve(now, all int) {
	if now > cap(c.codes) {
		grown := make([]uint32, len(c.codes), max(now, all))
		copy(grown, c.codes)
		c.codes = grown
	}
}

// Encode appends cells that spans cut from a block or its side buffer (see
// table.DictBuilder.Encode).
func (c *Column) Encode(block, side []byte, spans []uint64) error {
	if !c.dict.Room(c.codes, len(block)+len(side)) {
		p := problem.New("Leave the column out, or split the file", "the column holds more than 4 GiB of distinct text")
		p.Column = c.Name
		return p
	}
	c.codes = c.dict.Encode(c.codes, block, side, spans)
	return nil
}

// Absent appends rows that have no cell.
func (c *Column) Absent(rows int) { c.codes = append(c.codes, make([]uint32, rows)...) }

// Expect guesses the rows of a whole file from the share of its bytes read so far.
func Expect(rows int, read, size int64, ended bool) int {
	switch {
	case ended:
		return rows
	case size > read && read > 0:
		return max(rows, int(float64(rows)*float64(size)/float64(read)*1.02)+1024)
	}
	return rows * 3 / 2
}

// Finish ends a reading: it makes the table of the columns and adds to the report what
// their values needed. The columns are used up. encoding is named in the notes.
func Finish(columns []*Column, rows int, encoding string, o Options, report *Report) (*table.Table, error) {
	var made []*table.Column
	var invalid, nul Tallied
	for i, c := range columns {
		dict := c.dict.Finish(c.codes)
		col := &table.Column{Name: c.Name, Codes: &table.Codes{At: slices.Clip(c.codes)}, Dict: dict, Reading: table.ReadText}
		made = append(made, repair(col, &invalid, &nul))
		columns[i] = nil
	}
	report.Note(invalid, "a row had bytes that are not "+encoding+"; they are shown as \uFFFD", "rows had bytes that are not "+encoding+"; they are shown as \uFFFD")
	report.Note(nul, "a row had NUL bytes, which were removed", "rows had NUL bytes, which were removed")
	if rows == 0 {
		report.Notes = append(report.Notes, Note{Count: 1, What: "there are names of columns and no rows"})
	}
	report.Rows, report.Columns = rows, len(made)
	return table.New(made, rows, table.Origin{Source: o.File})
}

// Clean makes text that JSON and PostgreSQL can hold: valid UTF-8 without NUL.
func Clean(v string) string {
	return strings.ReplaceAll(strings.ToValidUTF8(v, "\uFFFD"), "\x00", "")
}

// repair replaces bytes that are not UTF-8 and removes NUL. Cost: O(distinct); rows are
// only looked at to name them.
func repair(c *table.Column, invalid, nul *Tallied) *table.Column {
	bad := map[uint32]*Tallied{}
	for code := uint32(1); code <= uint32(c.Dict.Len()); code++ {
		v := c.Dict.Value(code)
		switch {
		case !utf8.ValidString(v):
			bad[code] = invalid
		case strings.IndexByte(v, 0) >= 0:
			bad[code] = nul
		}
	}
	if len(bad) == 0 {
		return c
	}
	for row, code := range c.Codes.At {
		if kind := bad[code]; kind != nil {
			kind.Add(row)
		}
	}
	c, _ = c.Rewrite(Clean)
	return c
}
