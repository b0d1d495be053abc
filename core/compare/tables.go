package compare

import (
	"slices"

	"grandledger/core/duplicate"
	"grandledger/core/problem"
	"grandledger/core/table"
)

// Spec says which rows of two tables are the same, and when their cells are.
type Spec struct {
	// Key is the columns that tell a row; with none a row is the same where all cells of the
	// columns that both tables have are.
	Key   []Pair       `json:"key"`
	Cells duplicate.As `json:"cells,omitempty"` // how the other cells are compared
}

// Pair is a column of either table.
type Pair struct {
	Before string       `json:"before"`
	After  string       `json:"after"`
	As     duplicate.As `json:"as,omitempty"`
}

// Tables is two tables, row by row. Same + Changed + OnlyBefore = Before, and with OnlyAfter After.
type Tables struct {
	Before     int          `json:"before"` // rows
	After      int          `json:"after"`
	Same       int          `json:"same"`       // rows found in both, all cells the same
	Changed    int          `json:"changed"`    // rows found in both, some cells not
	OnlyBefore int          `json:"onlyBefore"` // rows found in the first alone
	OnlyAfter  int          `json:"onlyAfter"`
	NoKey      [2]int       `json:"noKey"`    // of those, rows whose key is blank
	Repeated   [2]int       `json:"repeated"` // rows that share their key with another one of their table
	Columns    []PairColumn `json:"columns"`  // those of the first, then those that only the second has

	partner []uint32 // of each row of the first, from 1; 0 for none
	changed []uint32 // rows of the first
	first   []uint32 // rows of the first alone
	second  []uint32 // rows of the second alone
	differs []uint64 // of each changed row, a bit for each of Columns that differs, in width words
	width   int
}

// PairColumn is one column in both tables.
type PairColumn struct {
	Column string `json:"column"`
	State  State  `json:"state"`
	Cells  int    `json:"cells"` // of rows found in both, those that hold something else
}

// OfTables compares two tables. Rows that share a key are paired with one that is the same in all
// cells where there is one, and otherwise in the order they stand.
//
// Cost: O(rows x columns of both) and O(bytes of the distinct values); 4 bytes a row and column
// that both have, for its time.
func OfTables(before, after *table.Table, spec Spec) (*Tables, error) {
	out := &Tables{Before: before.Rows(), After: after.Rows(), Columns: []PairColumn{}}
	if !slices.Contains([]duplicate.As{duplicate.Exact, duplicate.Folded, duplicate.Words, duplicate.Read}, spec.Cells) {
		return nil, problem.New("Compare them folded, by their words, as they are read or to the letter", "cells cannot be compared as %q", spec.Cells)
	}
	var whole []uint32   // equal for rows that are the same throughout
	var cells [][]uint32 // of both tables, by column; nil where one has not got it
	for _, c := range before.Columns() {
		with, _, err := after.Column(c.Name)
		if err != nil {
			out.Columns, cells = append(out.Columns, PairColumn{Column: c.Name, State: Went}), append(cells, nil)
			continue
		}
		codes := duplicate.Joint(before, c, after, with, spec.Cells)
		cells = append(cells, codes)
		out.Columns = append(out.Columns, PairColumn{Column: c.Name, State: Stays})
		whole, _ = duplicate.Number(codes, whole)
	}
	for _, c := range after.Columns() {
		if _, _, err := before.Column(c.Name); err != nil {
			out.Columns = append(out.Columns, PairColumn{Column: c.Name, State: Came})
		}
	}
	key := whole
	if len(spec.Key) > 0 {
		var err error
		if key, err = out.keys(before, after, spec.Key); err != nil {
			return nil, err
		}
	}
	if key == nil {
		return nil, problem.New("Choose a column of each table that tells a row", "the tables have no column in common")
	}
	if whole == nil {
		whole = key
	}
	out.pair(key, whole)
	out.count(cells)
	return out, nil
}

// keys gives rows of equal key the same number, 0 to those without one, and counts what that does
// not tell apart.
func (m *Tables) keys(before, after *table.Table, pairs []Pair) ([]uint32, error) {
	var key []uint32
	var sides [2][]duplicate.Key
	for _, p := range pairs {
		var columns [2]*table.Column
		for i, side := range []*table.Table{before, after} {
			name := []string{p.Before, p.After}[i]
			c, _, err := side.Column(name)
			if err != nil {
				bad := problem.New("Choose a column the table has", "the %s table has no column %q", []string{"first", "second"}[i], name)
				bad.Column = name
				return nil, bad
			}
			columns[i] = c
			sides[i] = append(sides[i], duplicate.Key{Column: c, As: p.As})
		}
		if !slices.Contains([]duplicate.As{duplicate.Exact, duplicate.Folded, duplicate.Words, duplicate.Read}, p.As) {
			return nil, problem.New("Compare them folded, by their words, as they are read or to the letter", "%s cannot be compared as %q", p.Before, p.As)
		}
		key, _ = duplicate.Number(duplicate.Joint(before, columns[0], after, columns[1], p.As), key)
	}
	for i, side := range []*table.Table{before, after} {
		from := []int{0, before.Rows()}[i]
		for row, is := range duplicate.WithoutKey(side, sides[i], false) {
			if is {
				key[from+row] = 0
				m.NoKey[i]++
			}
		}
	}
	return key, nil
}

// pair finds a partner for each row of the first table: first the same throughout, then by the key.
func (m *Tables) pair(key, whole []uint32) {
	m.partner = make([]uint32, m.Before)
	taken := make([]bool, m.After)
	for _, by := range [][]uint32{whole, key} {
		most := uint32(0)
		for _, k := range by {
			most = max(most, k)
		}
		// The rows of the second table with the same number, in order, as a list through them.
		first, last, next := make([]uint32, most+1), make([]uint32, most+1), make([]uint32, m.After)
		for row := range m.After {
			k := by[m.Before+row]
			if k == 0 || key[m.Before+row] == 0 || taken[row] {
				continue
			}
			if first[k] == 0 {
				first[k] = uint32(row + 1)
			} else {
				next[last[k]-1] = uint32(row + 1)
			}
			last[k] = uint32(row + 1)
		}
		for row := range m.Before {
			k := by[row]
			if k == 0 || key[row] == 0 || m.partner[row] != 0 || first[k] == 0 {
				continue
			}
			// Rows that are the same throughout may still have different keys, where the key is of
			// columns with other names.
			if at := first[k] - 1; key[m.Before+int(at)] == key[row] {
				m.partner[row] = first[k]
				taken[at] = true
				first[k] = next[at]
			}
		}
	}
	for i, from := range []int{0, m.Before} {
		n := []int{m.Before, m.After}[i]
		sizes := make([]int, len(key)+1)
		for _, k := range key[from : from+n] {
			sizes[k]++
		}
		for k, size := range sizes {
			if k != 0 && size > 1 {
				m.Repeated[i] += size
			}
		}
	}
	for row, is := range taken {
		if !is {
			m.second = append(m.second, uint32(row))
		}
	}
}

// count counts what differs between partners.
func (m *Tables) count(cells [][]uint32) {
	m.width = (len(m.Columns) + 63) / 64
	mask := make([]uint64, m.width)
	for row, partner := range m.partner {
		if partner == 0 {
			m.first = append(m.first, uint32(row))
			continue
		}
		clear(mask)
		differs := false
		for i, codes := range cells {
			if codes != nil && codes[row] != codes[m.Before+int(partner)-1] {
				m.Columns[i].Cells++
				mask[i/64] |= 1 << (i % 64)
				differs = true
			}
		}
		if differs {
			m.changed = append(m.changed, uint32(row))
			m.differs = append(m.differs, mask...)
		}
	}
	m.OnlyBefore, m.OnlyAfter, m.Changed = len(m.first), len(m.second), len(m.changed)
	m.Same = m.Before - m.OnlyBefore - m.Changed
}

// Which says which rows are listed.
type Which string

// The rows that can be listed.
const (
	WhichChanged Which = "changed"
	WhichBefore  Which = "before" // found in the first alone
	WhichAfter   Which = "after"
)

// Row is a row of both tables, by position; -1 where it is in one alone.
type Row struct {
	Before, After int

	changed int // among those that changed
}

// Rows lists rows in order, n of them after skipping from, and says how many there are; with column
// only changed ones that differ in it. Cost: O(rows).
func (m *Tables) Rows(which Which, column string, from, n int) ([]Row, int) {
	out, total := []Row{}, 0
	list := func(row Row) {
		if total >= from && len(out) < n {
			out = append(out, row)
		}
		total++
	}
	switch which {
	case WhichBefore:
		for _, row := range m.first {
			list(Row{Before: int(row), After: -1})
		}
	case WhichAfter:
		for _, row := range m.second {
			list(Row{Before: -1, After: int(row)})
		}
	default:
		at := slices.IndexFunc(m.Columns, func(c PairColumn) bool { return c.Column == column })
		for i, row := range m.changed {
			if at < 0 || m.differ(i, at) {
				list(Row{int(row), int(m.partner[row]) - 1, i})
			}
		}
	}
	return out, total
}

// differ says whether a changed row differs in a column.
func (m *Tables) differ(changed, column int) bool {
	return m.differs[changed*m.width+column/64]>>(column%64)&1 == 1
}

// Cells names the columns in which a changed row differs.
func (m *Tables) Cells(r Row) []string {
	out := []string{}
	for i, c := range m.Columns {
		if r.Before >= 0 && r.After >= 0 && m.differ(r.changed, i) {
			out = append(out, c.Column)
		}
	}
	return out
}
