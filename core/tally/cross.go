package tally

import (
	"slices"

	"grandledger/core/table"
)

// Cross counts the rows by the values of two columns. The most frequent values of each have
// a line or a column of their own; all others are together in the last one.
type Cross struct {
	Lines   []Line  `json:"lines"`   // values of the first column with their rows
	Columns []Line  `json:"columns"` // values of the second
	Rows    [][]int `json:"rows"`    // by line and column; one more of each for all other values
	Total   int     `json:"total"`
}

// CrossOf counts. Blank cells and cells that do not exist count as the value "". Cost:
// O(rows) and O(distinct).
func CrossOf(t *table.Table, a, b *table.Column, lines, columns int) *Cross {
	out := &Cross{Total: t.Rows()}
	var place [2][]int
	for i, side := range []struct {
		c    *table.Column
		most int
		into *[]Line
	}{{a, lines, &out.Lines}, {b, columns, &out.Columns}} {
		place[i], *side.into = places(t, side.c, side.most)
	}
	cells := make([]int, (len(out.Lines)+1)*(len(out.Columns)+1))
	width := len(out.Columns) + 1
	codes := t.LogicalCodes(b)
	for row, code := range t.LogicalCodes(a) {
		cells[place[0][code]*width+place[1][codes[row]]]++
	}
	for line := range slices.Chunk(cells, width) {
		out.Rows = append(out.Rows, line)
	}
	return out
}

// places gives each code its place among the most frequent values, or the place behind
// them, and those values.
func places(t *table.Table, c *table.Column, most int) ([]int, []Line) {
	counts := slices.Clone(t.Counts(c))
	empty, _ := c.Dict.Find("") // Missing where there is no empty value
	if empty != table.Missing {
		counts[empty] += counts[table.Missing]
		counts[table.Missing] = 0
	}
	var codes []uint32
	for code, rows := range counts {
		if rows > 0 {
			codes = append(codes, uint32(code))
		}
	}
	sorted, bounds := byRows(codes, counts, func(x, y uint32) int { return byCount(c.Dict, counts, x, y) })
	l := newLazily(sorted, bounds, func(x, y uint32) bool { return byCount(c.Dict, counts, x, y) < 0 })
	n := min(most, len(sorted))
	l.settle(0, n)
	place := make([]int, len(counts))
	for i := range place {
		place[i] = n
	}
	lines := make([]Line, n)
	for i, code := range sorted[:n] {
		place[code] = i
		lines[i] = Line{c.Dict.Value(code), int(counts[code])}
	}
	if empty != table.Missing {
		place[table.Missing] = place[empty]
	}
	return place, lines
}
