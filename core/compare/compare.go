// Package compare says what a new delivery of a source brings against the last one: rows
// that came and went, columns that came and went, values that are new, readings that broke.
package compare

import (
	"grandledger/core/duplicate"
	"grandledger/core/reading"
	"grandledger/core/table"
)

// Comparison is a new delivery against the last one. Before + Come - Gone = After.
type Comparison struct {
	Before  int            `json:"before"` // rows of the last delivery
	Come    int            `json:"come"`   // rows that the last one did not have
	Gone    int            `json:"gone"`   // rows that the new one does not have
	After   int            `json:"after"`  // rows of the new delivery
	Columns []ColumnChange `json:"columns"`
}

// ColumnChange is one column in both deliveries; those of the new one first, then those that
// are no longer there.
type ColumnChange struct {
	Column    string `json:"column"`
	State     State  `json:"state"`
	NewValues int    `json:"newValues"` // distinct values that the last one did not have
	LostRows  int    `json:"lostRows"`  // rows of the new delivery that are not of the reading in force
	WasLost   int    `json:"wasLost"`   // rows of the last delivery that were not
	Broke     bool   `json:"broke"`     // the share of such rows has grown to more than a hundredth and doubled
	Reading   string `json:"reading"`   // the reading in force, in words
	Likely    string `json:"likely"`    // the column that went whose values a column that came has, if any
}

// State says in which of the deliveries a column is.
type State string

// The states of a column.
const (
	Stays State = "stays"
	Came  State = "came"
	Went  State = "went"
)

// Of compares two deliveries. Rows are the same where all cells of the columns they share
// are; a row that stands twice is the same as one that does. in gives the reading in force of
// a column, if there is one beside what the last delivery suggests.
//
// The base rows that are gone come beside it, in order; of equal rows the last ones are gone.
//
// Cost: O(rows x columns) and 16 bytes a row.
func Of(before, after *table.Table, in func(column string) (reading.Reading, bool)) (*Comparison, *table.Selection) {
	c := &Comparison{Before: before.Rows(), After: after.Rows(), Columns: []ColumnChange{}}
	var group []uint32
	groups := 0
	for _, now := range after.Columns() {
		was, _, err := before.Column(now.Name)
		if err != nil {
			c.Columns = append(c.Columns, ColumnChange{Column: now.Name, State: Came, Likely: likely(before, after, now)})
			continue
		}
		to := duplicate.Together(was.Dict, now.Dict)
		codes := make([]uint32, 0, before.Rows()+after.Rows())
		codes = append(codes, before.LogicalCodes(was)...)
		for _, code := range after.LogicalCodes(now) {
			codes = append(codes, to[code])
		}
		group, groups = duplicate.Number(codes, group)
		c.Columns = append(c.Columns, change(before, after, was, now, to, in))
	}
	for _, was := range before.Columns() {
		if _, _, err := after.Column(was.Name); err != nil {
			c.Columns = append(c.Columns, ColumnChange{Column: was.Name, State: Went})
		}
	}
	if group == nil { // no column in common: no row is the same
		group, groups = make([]uint32, c.Before+c.After), 1
		for i := range group[c.Before:] {
			group[c.Before+i] = 1
		}
	}
	have := make([]uint32, groups+1) // rows of the new delivery that no row of the last one is paired with
	for _, g := range group[c.Before:] {
		have[g]++
	}
	gone := &table.Selection{}
	c.Come = c.After
	for row, g := range group[:c.Before] {
		if have[g] > 0 {
			have[g]--
			c.Come--
		} else {
			gone.Rows = append(gone.Rows, before.BaseRow(row))
		}
	}
	c.Gone = len(gone.Rows)
	return c, gone
}

// likely finds the column that went which shares most values with one that came, and at least
// half of them. Cost: a look-up for each distinct value and column that went.
func likely(before, after *table.Table, now *table.Column) string {
	best, name := 1, ""
	for _, was := range before.Columns() {
		if _, _, err := after.Column(was.Name); err == nil {
			continue
		}
		shared, held := 0, 0
		for code, rows := range after.Counts(now) {
			if v := now.Dict.Value(uint32(code)); rows > 0 && v != "" {
				held++
				if _, ok := was.Dict.Find(v); ok {
					shared++
				}
			}
		}
		if shared*2 >= held && shared > best {
			best, name = shared, was.Name
		}
	}
	return name
}

func change(before, after *table.Table, was, now *table.Column, to []uint32, in func(string) (reading.Reading, bool)) ColumnChange {
	r, ok := in(now.Name)
	if !ok {
		r = was.Effective()
	}
	out := ColumnChange{Column: now.Name, State: Stays, Reading: r.Words()}
	for code, rows := range after.Counts(now) {
		if rows > 0 && code > 0 && to[code] > uint32(was.Dict.Len()) {
			out.NewValues++
		}
	}
	out.WasLost, out.LostRows = lost(before, was, r), lost(after, now, r)
	share, shareWas := ratio(out.LostRows, after.Rows()), ratio(out.WasLost, before.Rows())
	out.Broke = share > 0.01 && share > 2*shareWas
	return out
}

func ratio(a, b int) float64 { return float64(a) / float64(max(b, 1)) }

// lost counts the rows that hold something which is not of a reading.
func lost(t *table.Table, c *table.Column, r reading.Reading) int {
	read := c.Dict.ReadAs(r)
	counts := t.Counts(c)
	n := 0
	for code := 1; code < len(counts); code++ {
		if !read.OK[code] {
			n += int(counts[code])
		}
	}
	for _, code := range c.Dict.Blank() {
		if !read.OK[code] {
			n -= int(counts[code])
		}
	}
	return n
}
