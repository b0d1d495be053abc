package duplicate

import (
	"cmp"
	"context"
	"math/bits"
	"runtime"
	"slices"

	"grandledger/core/problem"
	"grandledger/core/table"
)

// Near is rows that are equal in all columns but some, in each of which they differ.
type Near struct {
	Columns []string `json:"columns"` // those that differ
	Groups  int      `json:"groups"`
	Rows    int      `json:"rows"`  // of these groups
	First   []int    `json:"first"` // positions of the first rows of the first group, one of each kind
}

// The bounds of a search for nearly equal rows.
const (
	MaxNear = 3    // columns that may differ
	maxSets = 2000 // ways to choose them
	shown   = 4    // rows of a first group
)

// Nearly finds the rows that are equal in all of the columns but up to most, and says which these
// are, most rows first. Rows equal throughout count as one kind: a group has two kinds or more.
//
// Each row is the sum of a hash of each of its cells; without some columns it is that sum less
// theirs, so that rows equal but for them fall together, whichever they are. What falls together is
// compared cell by cell.
//
// Cost: O(rows) for each way to choose the columns left out, on all cores; 24 bytes a row.
func Nearly(ctx context.Context, t *table.Table, columns []*table.Column, most int) ([]Near, error) {
	if most < 1 || most > MaxNear || len(columns) <= most {
		return nil, problem.New("Compare more columns, of which 1 to 3 may differ", "rows cannot be nearly the same in %d of %d columns", most, len(columns))
	}
	n := &nearly{t: t, columns: columns}
	sets := n.sets(most)
	if len(sets) > maxSets {
		return nil, problem.New("Compare fewer columns, or let fewer differ", "there are %d ways for up to %d of %d columns to differ, and %d are looked at", len(sets), most, len(columns), maxSets)
	}
	n.prepare()
	out := []Near{}
	for _, set := range sets {
		if err := ctx.Err(); err != nil {
			return nil, err
		}
		if near := n.without(set); near.Groups > 0 {
			out = append(out, near)
		}
	}
	slices.SortStableFunc(out, func(a, b Near) int {
		return cmp.Or(cmp.Compare(len(a.Columns), len(b.Columns)), cmp.Compare(b.Rows, a.Rows))
	})
	return out, nil
}

type nearly struct {
	t       *table.Table
	columns []*table.Column
	codes   [][]uint32 // by column and row
	kinds   []kind     // of rows equal throughout
	keys    []uint64   // of each kind
}

// kind is rows equal in all columns.
type kind struct {
	row  uint32 // the first of them
	rows uint32
}

// sets lists the ways to choose up to most columns, as places.
func (n *nearly) sets(most int) [][]int {
	var out [][]int
	var choose func(set []int, from int)
	choose = func(set []int, from int) {
		if len(set) > 0 {
			out = append(out, slices.Clone(set))
		}
		if len(set) == most || len(out) > maxSets {
			return
		}
		for i := from; i < len(n.columns); i++ {
			choose(append(set, i), i+1)
		}
	}
	choose(nil, 0)
	return out
}

// cell is the hash of a cell.
func cell(column int, code uint32) uint64 { return mix(uint64(column+1)<<32 | uint64(code)) }

// prepare finds the kinds of rows and what each sums up to.
func (n *nearly) prepare() {
	var of []uint32
	groups := 0
	for _, c := range n.columns {
		codes := n.t.LogicalCodes(c)
		n.codes = append(n.codes, codes)
		of, groups = Number(codes, of)
	}
	n.kinds, n.keys = make([]kind, groups), make([]uint64, groups)
	for row, group := range of {
		k := &n.kinds[group-1]
		if k.rows == 0 {
			k.row = uint32(row)
		}
		k.rows++
	}
	workers := runtime.GOMAXPROCS(0)
	side(workers, func(w int) {
		for i := groups * w / workers; i < groups*(w+1)/workers; i++ {
			for column, codes := range n.codes {
				n.keys[i] += cell(column, codes[n.kinds[i].row])
			}
		}
	})
}

// without finds the groups of kinds that differ in exactly the columns of a set.
func (n *nearly) without(set []int) Near {
	parts := max(1, 1<<max(0, bits.Len(uint(len(n.kinds)/partition))))
	shift := 64 - bits.Len(uint(parts-1))
	starts := make([]int, parts+1)
	keys := make([]uint64, len(n.kinds))
	for i, k := range n.kinds {
		key := n.keys[i]
		for _, column := range set {
			key -= cell(column, n.codes[column][k.row])
		}
		keys[i] = mix(key)
		starts[keys[i]>>shift+1]++
	}
	for i := range parts {
		starts[i+1] += starts[i]
	}
	order, next := make([]uint32, len(n.kinds)), slices.Clone(starts)
	for i, key := range keys {
		order[next[key>>shift]] = uint32(i)
		next[key>>shift]++
	}
	workers := runtime.GOMAXPROCS(0)
	found := make([]Near, workers)
	side(workers, func(w int) {
		var index []slot
		for part := w; part < parts; part += workers {
			n.groups(set, keys, repeated(keys, order[starts[part]:starts[part+1]], &index), &found[w])
		}
	})
	out := Near{First: []int{}}
	for _, column := range set {
		out.Columns = append(out.Columns, n.columns[column].Name)
	}
	for _, f := range found {
		out.Groups += f.Groups
		out.Rows += f.Rows
		if len(f.First) > 0 && (len(out.First) == 0 || f.First[0] < out.First[0]) {
			out.First = f.First
		}
	}
	return out
}

// slot is a key of a partition, and how many kinds have it.
type slot struct {
	key   uint64
	kinds uint32
}

// repeated keeps those of the kinds of a partition whose key others have too, at the beginning.
func repeated(keys []uint64, kinds []uint32, index *[]slot) []uint32 {
	size := 2 << bits.Len(uint(len(kinds)))
	if len(*index) < size {
		*index = make([]slot, size)
	}
	slots, mask := (*index)[:size], uint64(size-1)
	clear(slots)
	at := func(key uint64) *slot {
		i := key & mask // the high bits chose the partition
		for slots[i].kinds != 0 && slots[i].key != key {
			i = (i + 1) & mask
		}
		return &slots[i]
	}
	for _, k := range kinds {
		s := at(keys[k])
		s.key = keys[k]
		s.kinds++
	}
	out := kinds[:0]
	for _, k := range kinds {
		if at(keys[k]).kinds > 1 {
			out = append(out, k)
		}
	}
	return out
}

// groups counts the groups among kinds whose keys begin alike, and puts them in order.
func (n *nearly) groups(set []int, keys []uint64, kinds []uint32, found *Near) {
	slices.SortFunc(kinds, func(a, b uint32) int { return cmp.Or(cmp.Compare(keys[a], keys[b]), cmp.Compare(a, b)) })
	for from := 0; from < len(kinds); {
		to := from + 1
		for to < len(kinds) && keys[kinds[to]] == keys[kinds[from]] {
			to++
		}
		if group := kinds[from:to]; to-from > 1 && n.equalBut(set, group) && n.differ(set, group) {
			found.Groups++
			for _, k := range group {
				found.Rows += int(n.kinds[k].rows)
			}
			if first := int(n.kinds[group[0]].row); len(found.First) == 0 || first < found.First[0] {
				found.First = found.First[:0]
				for _, k := range group[:min(shown, len(group))] {
					found.First = append(found.First, int(n.kinds[k].row))
				}
			}
		}
		from = to
	}
}

// equalBut says whether kinds are equal in all columns but those of a set. That they are not, and
// still fall together, has not been seen; the group is then left out.
func (n *nearly) equalBut(set []int, group []uint32) bool {
	for column, codes := range n.codes {
		if slices.Contains(set, column) {
			continue
		}
		for _, k := range group[1:] {
			if codes[n.kinds[k].row] != codes[n.kinds[group[0]].row] {
				return false
			}
		}
	}
	return true
}

// differ says whether kinds differ in every column of a set.
func (n *nearly) differ(set []int, group []uint32) bool {
	for _, column := range set {
		codes := n.codes[column]
		if !slices.ContainsFunc(group[1:], func(k uint32) bool { return codes[n.kinds[k].row] != codes[n.kinds[group[0]].row] }) {
			return false
		}
	}
	return true
}
