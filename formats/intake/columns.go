package intake

import (
	"bytes"
	"runtime"
	"slices"
	"strings"
	"sync"
	"unicode/utf8"

	"golang.org/x/sync/errgroup"

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

// Heaviest lists the places of columns, those with the most values first: they take longest,
// and begun last would keep the others waiting.
func Heaviest(columns []*Column) []int {
	order := make([]int, len(columns))
	for i := range order {
		order[i] = i
	}
	slices.SortStableFunc(order, func(a, b int) int { return columns[b].dict.Len() - columns[a].dict.Len() })
	return order
}

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
	made := make([]*table.Column, len(columns))
	repairs := make([]repaired, len(columns))
	var work errgroup.Group
	work.SetLimit(runtime.GOMAXPROCS(0))
	var settled sync.Mutex
	done := 0
	for i, c := range columns {
		work.Go(func() error {
			defer func() {
				settled.Lock()
				defer settled.Unlock()
				if done++; o.Settling != nil {
					o.Settling(done, len(columns))
				}
			}()
			dict := c.dict.Finish(c.codes)
			made[i] = repairs[i].repair(&table.Column{Name: c.Name, Codes: &table.Codes{At: slices.Clip(c.codes)}, Dict: dict})
			columns[i] = nil
			return nil
		})
	}
	_ = work.Wait() // nothing in it fails
	var invalid, nul Tallied
	for _, r := range repairs {
		for _, row := range r.invalid {
			invalid.Add(row)
		}
		for _, row := range r.nul {
			nul.Add(row)
		}
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

// repaired lists the rows that one column needed repairs in.
type repaired struct{ invalid, nul []int }

// repair replaces bytes that are not UTF-8 and removes NUL. Cost: O(distinct); rows are
// only looked at to name them.
func (r *repaired) repair(c *table.Column) *table.Column {
	if arena, _ := c.Dict.Raw(); utf8.Valid(arena) && bytes.IndexByte(arena, 0) < 0 && startsWhole(c.Dict) {
		return c
	}
	bad := map[uint32]*[]int{}
	for code := uint32(1); code <= uint32(c.Dict.Len()); code++ {
		v := c.Dict.Value(code)
		switch {
		case !utf8.ValidString(v):
			bad[code] = &r.invalid
		case strings.IndexByte(v, 0) >= 0:
			bad[code] = &r.nul
		}
	}
	if len(bad) == 0 {
		return c
	}
	for row, code := range c.Codes.At {
		if rows := bad[code]; rows != nil {
			*rows = append(*rows, row)
		}
	}
	c, _ = c.Rewrite(table.Each(Clean))
	return c
}

// startsWhole says that no value begins inside a character: values that are broken in two
// may lie side by side and look whole.
func startsWhole(d *table.Dict) bool {
	arena, ends := d.Raw()
	for _, at := range ends {
		if int(at) < len(arena) && !utf8.RuneStart(arena[at]) {
			return false
		}
	}
	return true
}
