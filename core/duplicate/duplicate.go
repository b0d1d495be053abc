// Package duplicate finds rows that are equal on a key of columns, exactly, and
// splits them into the rows kept and the rows set aside.
//
// A row whose every key cell is blank or missing has no key, and with a key of which blanks
// never match one of which any is: it is never a repeat of anything, it is kept, and it is
// counted.
package duplicate

import (
	"cmp"
	"slices"

	"grandledger/core/survivorship"
	"grandledger/core/table"
)

// Groups is the rows of a table by equal key.
type Groups struct {
	of    []uint32 // group of each row position; 0 for a row without a key
	sizes []uint32 // rows of each group, from 1
	NoKey int      // rows without a key
}

// Find groups the rows of t by the key; with apart, blank cells never match. Cost: O(rows x columns) time on all cores, O(bytes of
// the distinct values) for each column that is not compared exactly, 4 bytes a row and a group,
// and 16 bytes a row for its time where the key has several columns.
func Find(t *table.Table, key []Key, apart bool) *Groups {
	g := &Groups{}
	groups := 0
	for _, k := range key {
		g.of, groups = Number(k.codes(t), g.of)
	}
	blank := WithoutKey(t, key, apart)
	g.sizes = make([]uint32, groups+1)
	for row, group := range g.of {
		if blank != nil && blank[row] {
			g.of[row] = 0
			g.NoKey++
			continue
		}
		g.sizes[group]++
	}
	return g
}

// Summary counts the groups of two or more rows.
type Summary struct {
	Groups  int    `json:"groups"`  // groups with repeats
	Repeats int    `json:"repeats"` // rows beyond the first of each group
	Largest int    `json:"largest"` // rows of the largest group
	NoKey   int    `json:"noKey"`   // rows whose key is blank throughout
	Remain  int    `json:"remain"`  // rows that stay where one of each group does
	Sizes   []Size `json:"sizes"`   // how large the groups are
}

// Size counts the groups of two or more rows of like size.
type Size struct {
	From   int `json:"from"` // rows of a group, at least
	To     int `json:"to"`   // and at most
	Groups int `json:"groups"`
	Rows   int `json:"rows"` // of these groups together
}

// bounds are the sizes up to which groups are counted together.
var bounds = [...]int{2, 3, 4, 5, 10, 100, 1000, 10_000, table.MaxRows}

// Summary counts. Cost: O(groups).
func (g *Groups) Summary() Summary {
	s := Summary{NoKey: g.NoKey, Sizes: []Size{}}
	var sizes [len(bounds)]Size
	for _, size := range g.sizes {
		if size > 1 {
			s.Groups++
			s.Repeats += int(size) - 1
			i, _ := slices.BinarySearch(bounds[:], int(size))
			sizes[i].Groups++
			sizes[i].Rows += int(size)
		}
		s.Largest = max(s.Largest, int(size))
	}
	s.Remain = len(g.of) - s.Repeats
	for i, of := range sizes {
		if of.Groups > 0 {
			of.From, of.To = 2, bounds[i]
			if i > 0 {
				of.From = bounds[i-1] + 1
			}
			of.To = min(of.To, s.Largest)
			s.Sizes = append(s.Sizes, of)
		}
	}
	return s
}

// Member is what a row is in its group.
type Member struct {
	Number int // of the group among those of two or more, in order of first appearance; 0 in none of these
	Place  int // of the row in its group, from 1; 0 without a key
	Size   int // rows of the group; 0 without a key
}

// Each goes through the rows in order. Cost: O(rows).
func (g *Groups) Each(of func(row int, m Member)) {
	numbers, places := make([]int, len(g.sizes)), make([]int, len(g.sizes))
	next := 0
	for row, group := range g.of {
		if group == 0 {
			of(row, Member{})
			continue
		}
		if g.sizes[group] > 1 && numbers[group] == 0 {
			next++
			numbers[group] = next
		}
		places[group]++
		of(row, Member{numbers[group], places[group], int(g.sizes[group])})
	}
}

// Members says which rows are together; a row without a key is alone. Cost: O(rows), 4 bytes a row
// and 8 a group.
func (g *Groups) Members() survivorship.Groups {
	out := survivorship.Groups{Group: make([]uint32, len(g.of)), First: make([]uint32, 0, len(g.sizes)), Starts: make([]uint32, 1, len(g.sizes)+1)}
	at := make([]uint32, len(g.sizes)) // place of each group, from 1
	for row, group := range g.of {
		if group == 0 || at[group] == 0 {
			size := uint32(1)
			if group != 0 {
				size = g.sizes[group]
			}
			out.First = append(out.First, uint32(row))
			out.Starts = append(out.Starts, out.Starts[len(out.Starts)-1]+size)
			at[group] = uint32(len(out.First))
		}
		out.Group[row] = at[group] - 1
	}
	return out
}

// Group is one group of equal rows: how many, the positions of the first of them, and
// of those that a rule keeps.
type Group struct {
	Size int
	Rows []int
	Kept []int
}

// Largest lists groups with repeats, largest first and then in order of appearance: n
// of them after skipping from, with up to perGroup positions each; of gives the groups that are
// meant, nil all. Cost: O(rows), and that of the rule.
func (g *Groups) Largest(t *table.Table, rule Rule, of []bool, from, n, perGroup int) []Group {
	var ids []uint32
	for id, size := range g.sizes {
		if size > 1 && (of == nil || of[id]) {
			ids = append(ids, uint32(id))
		}
	}
	slices.SortStableFunc(ids, func(a, b uint32) int { return cmp.Compare(g.sizes[b], g.sizes[a]) })
	ids = ids[min(from, len(ids)):min(from+n, len(ids))]
	best, _ := g.best(t, rule)
	byHand := g.byHand(rule)
	place := make([]int32, len(g.sizes))
	out := make([]Group, len(ids))
	for i, id := range ids {
		place[id] = int32(i) + 1
		out[i] = Group{Size: int(g.sizes[id]), Rows: []int{}}
		if byHand == nil || !byHand[id] {
			out[i].Kept = []int{int(best[id])}
		}
	}
	for row, group := range g.of {
		at := place[group]
		if at == 0 {
			continue
		}
		shown := &out[at-1]
		if len(shown.Rows) < perGroup {
			shown.Rows = append(shown.Rows, row)
		}
		if byHand != nil && byHand[group] && rule.Chosen[row] && len(shown.Kept) < perGroup {
			shown.Kept = append(shown.Kept, row)
		}
	}
	return out
}
