package tally

import (
	"cmp"
	"slices"

	"grandledger/core/table"
)

// Beside is the values of one column beside those of another, of the same table or not.
type Beside struct {
	lines  []BesideLine // most rows here first, then most rows there, then by bytes
	Counts []SideCount
}

// BesideLine is a value with its rows on both sides.
type BesideLine struct {
	Value string `json:"value"`
	Here  int    `json:"here"`
	There int    `json:"there"`
}

// Side says where values stand.
type Side string

// The sides.
const (
	Both  Side = "both"
	Here  Side = "here"  // and not there
	There Side = "there" // and not here
)

// SideCount is how many values stand on a side, and in how many rows of either column.
type SideCount struct {
	Side   Side `json:"side"`
	Values int  `json:"values"`
	Here   int  `json:"here"`
	There  int  `json:"there"`
}

// Compare puts the tally of a column beside that of another; values are the same where they
// are equal to the letter. Blank values are left out. Cost: O(distinct log distinct).
func Compare(t *table.Table, c *table.Column, u *table.Table, d *table.Column) *Beside {
	out := &Beside{}
	here, there := t.Counts(c), slices.Clone(u.Counts(d))
	blank := func(c *table.Column) map[uint32]bool {
		is := map[uint32]bool{table.Missing: true}
		for _, code := range c.Dict.Blank() {
			is[code] = true
		}
		return is
	}
	none := blank(c)
	for code, rows := range here {
		if rows == 0 || none[uint32(code)] {
			continue
		}
		line := BesideLine{Value: c.Dict.Value(uint32(code)), Here: int(rows)}
		if other, ok := d.Dict.Find(line.Value); ok {
			line.There = int(there[other])
			there[other] = 0
		}
		out.lines = append(out.lines, line)
	}
	none = blank(d)
	for code, rows := range there {
		if rows > 0 && !none[uint32(code)] {
			out.lines = append(out.lines, BesideLine{Value: d.Dict.Value(uint32(code)), There: int(rows)})
		}
	}
	slices.SortFunc(out.lines, func(a, b BesideLine) int {
		return cmp.Or(cmp.Compare(b.Here, a.Here), cmp.Compare(b.There, a.There), cmp.Compare(a.Value, b.Value))
	})
	out.Counts = []SideCount{{Side: Both}, {Side: Here}, {Side: There}}
	for _, l := range out.lines {
		n := &out.Counts[slices.Index([]Side{Both, Here, There}, l.side())]
		n.Values++
		n.Here += l.Here
		n.There += l.There
	}
	return out
}

func (l BesideLine) side() Side {
	switch {
	case l.There == 0:
		return Here
	case l.Here == 0:
		return There
	}
	return Both
}

// Lines gives n lines from a place on of those on a side, all sides where it is empty, and
// how many there are. Cost: O(distinct).
func (b *Beside) Lines(side Side, from, n int) (lines []BesideLine, found int) {
	lines = []BesideLine{}
	for _, l := range b.lines {
		if side != "" && l.side() != side {
			continue
		}
		if found++; found > from && len(lines) < n {
			lines = append(lines, l)
		}
	}
	return lines, found
}
