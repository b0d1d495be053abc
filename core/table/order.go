package table

import (
	"cmp"
	"slices"

	"grandledger/core/reading"
	"grandledger/core/text"
)

// SortKey is a column to sort by.
type SortKey struct {
	Column     *Column
	Descending bool
}

// Sorted gives the positions of the standing rows in the order of the keys, the first
// counting most; equal rows stay in the table's order. Values are compared by the reading of
// the column, numbers and dates by where they lie; what does not read comes after them by its
// folded spelling. In columns of text, numbers come first. Blank cells and cells that do not
// exist come last either way.
//
// Cost: O(distinct log distinct) for each column and two passes over the rows.
func Sorted(t *Table, keys []SortKey) []uint32 {
	rows := make([]uint32, t.Rows())
	for i := range rows {
		rows[i] = uint32(i)
	}
	next := make([]uint32, len(rows))
	for _, k := range slices.Backward(keys) {
		ranks, n := k.Column.ranks(k.Descending)
		starts := make([]uint32, n+1)
		codes := t.LogicalCodes(k.Column)
		for _, code := range codes {
			starts[ranks[code]+1]++
		}
		for i := 1; i <= n; i++ {
			starts[i] += starts[i-1]
		}
		for _, row := range rows {
			at := &starts[ranks[codes[row]]]
			next[*at] = row
			*at++
		}
		rows, next = next, rows
	}
	return rows
}

// Ranks gives each code its place in the order of the values, as Sorted has it. Cost:
// O(distinct log distinct).
func (c *Column) Ranks() []uint32 {
	ranks, _ := c.ranks(false)
	return ranks
}

// ranks gives each code its place in the order of the values, from 0, and how many places
// there are; blank values and Missing share the last two.
func (c *Column) ranks(descending bool) (ranks []uint32, places int) {
	d := c.Dict
	read := c.axis()
	type item struct {
		code uint32
		at   float64 // NaN for text
		key  string
	}
	blank := make([]bool, d.Len()+1)
	for _, code := range d.Blank() {
		blank[code] = true
	}
	items := make([]item, 0, d.Len())
	ranks = make([]uint32, d.Len()+1)
	for code := uint32(1); code <= uint32(d.Len()); code++ {
		if blank[code] {
			continue
		}
		it := item{code: code, at: read.At[code]}
		if !read.OK[code] {
			it.key = text.Fold(d.Value(code))
		}
		items = append(items, it)
	}
	slices.SortFunc(items, func(a, b item) int {
		switch {
		case read.OK[a.code] != read.OK[b.code]:
			return map[bool]int{true: -1, false: 1}[read.OK[a.code]]
		case read.OK[a.code] && a.at != b.at:
			return cmp.Compare(a.at, b.at)
		}
		return cmp.Or(cmp.Compare(a.key, b.key), cmp.Compare(d.Value(a.code), d.Value(b.code)))
	})
	if descending {
		slices.Reverse(items)
	}
	for i, it := range items {
		ranks[it.code] = uint32(i)
	}
	for _, code := range d.Blank() {
		ranks[code] = uint32(len(items))
	}
	ranks[Missing] = uint32(len(items)) + 1
	return ranks, len(items) + 2
}

// axis is the reading that a column is ordered by: its own, where it measures, and otherwise
// that of plain numbers.
func (c *Column) axis() *Read {
	if c.Effective().Measures() {
		return c.Read()
	}
	return c.Dict.ReadAs(reading.Plain(reading.Number))
}
