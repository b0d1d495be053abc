package compare

import (
	"cmp"
	"slices"

	"grandledger/core/duplicate"
	"grandledger/core/table"
	"grandledger/core/tally"
)

// Difference is what lies between two revisions of a table. Rows are known by their base row,
// so that a cell that changed is told from a row that came.
type Difference struct {
	Before   int                `json:"before"` // rows of the first
	Added    int                `json:"added"`
	SetAside int                `json:"setAside"`
	After    int                `json:"after"`   // rows of the second
	Cells    int                `json:"cells"`   // cells that hold something else
	Columns  []ColumnDifference `json:"columns"` // those that differ, in the order of the second, then those that went
}

// ColumnDifference is one column in both revisions.
type ColumnDifference struct {
	Column string       `json:"column"`
	State  State        `json:"state"`
	Cells  int          `json:"cells"` // of rows that stand in both, those that hold something else
	Come   int          `json:"come"`  // distinct values that only the second has
	Went   int          `json:"went"`  // distinct values that only the first has
	Values []tally.Line `json:"values"`
	Lost   []tally.Line `json:"lost"`
}

// maxDiffering is how many values that came, and that went, a column lists.
const maxDiffering = 20

// Revisions compares two revisions; of each, the first shared base rows are the same rows, and
// the others stand in one of them alone.
//
// Cost: O(base rows) for each column that is not the very same, and O(distinct).
func Revisions(before, after *table.Table, shared int) *Difference {
	d := &Difference{Before: before.Rows(), After: after.Rows(), Columns: []ColumnDifference{}}
	stands := make([]bool, shared) // in the first
	for row := range before.Rows() {
		if base := int(before.BaseRow(row)); base < shared {
			stands[base] = true
		}
	}
	var both []uint32
	for row := range after.Rows() {
		if base := after.BaseRow(row); int(base) < shared && stands[base] {
			both = append(both, base)
		}
	}
	d.Added, d.SetAside = d.After-len(both), d.Before-len(both)
	for _, now := range after.Columns() {
		was, _, err := before.Column(now.Name)
		c := ColumnDifference{Column: now.Name, State: Stays}
		switch {
		case err != nil:
			c.State = Came
			c.Come, c.Values = only(after, now, nil, nil)
		case *was == *now && before.Selection() == after.Selection():
			continue
		default:
			c.Cells = differing(was, now, both)
			c.Come, c.Values = only(after, now, before, was)
			c.Went, c.Lost = only(before, was, after, now)
		}
		if c.State == Stays && c.Cells+c.Come+c.Went == 0 {
			continue
		}
		d.Cells += c.Cells
		d.Columns = append(d.Columns, c)
	}
	for _, was := range before.Columns() {
		if _, _, err := after.Column(was.Name); err != nil {
			c := ColumnDifference{Column: was.Name, State: Went}
			c.Went, c.Lost = only(before, was, nil, nil)
			d.Columns = append(d.Columns, c)
		}
	}
	for i := range d.Columns { // lists, for JSON
		if d.Columns[i].Values == nil {
			d.Columns[i].Values = []tally.Line{}
		}
		if d.Columns[i].Lost == nil {
			d.Columns[i].Lost = []tally.Line{}
		}
	}
	return d
}

// differing counts the rows whose cell holds something else.
func differing(was, now *table.Column, rows []uint32) int {
	if was.Codes == now.Codes && was.View == now.View && was.Dict == now.Dict {
		return 0
	}
	to := duplicate.Together(was.Dict, now.Dict)
	n := 0
	for _, base := range rows {
		if to[now.Code(base)] != was.Code(base) {
			n++
		}
	}
	return n
}

// only lists the values of a column that stand in its table and not in the other one, most rows
// first, and counts them all.
func only(t *table.Table, c *table.Column, other *table.Table, than *table.Column) (int, []tally.Line) {
	var there []uint32
	if than != nil {
		there = other.Counts(than)
	}
	var out []tally.Line
	for code, rows := range t.Counts(c) {
		if code == 0 || rows == 0 {
			continue
		}
		v := c.Dict.Value(uint32(code))
		if than != nil {
			if known, ok := than.Dict.Find(v); ok && there[known] > 0 {
				continue
			}
		}
		out = append(out, tally.Line{Value: v, Rows: int(rows)})
	}
	n := len(out)
	slices.SortFunc(out, func(a, b tally.Line) int { return cmp.Or(cmp.Compare(b.Rows, a.Rows), cmp.Compare(a.Value, b.Value)) })
	return n, slices.Clone(out[:min(n, maxDiffering)])
}
