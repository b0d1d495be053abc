package join

import (
	"cmp"
	"slices"
	"strings"

	"grandledger/core/table"
	"grandledger/core/text"
)

// Unmatched is a key that finds no partner, the rows it stands in, and the nearest key
// of the other side: one that differs in letter case, spacing, punctuation or accents.
type Unmatched struct {
	Key  []string `json:"key"`
	Rows int      `json:"rows"`
	Near []string `json:"near,omitempty"`
}

// UnmatchedLeft lists the n left keys without a partner that stand in most rows, and
// counts all of them.
func (m *Match) UnmatchedLeft(n int) ([]Unmatched, int) {
	return unmatched(m.left.Table, m.keyLeft, m.right.Table, m.keyRight, func(row int) bool { return m.group[row] > 0 }, n)
}

// UnmatchedRight is UnmatchedLeft for the other side.
func (m *Match) UnmatchedRight(n int) ([]Unmatched, int) {
	matched := m.rightMatched()
	return unmatched(m.right.Table, m.keyRight, m.left.Table, m.keyLeft, func(row int) bool { return matched[row] }, n)
}

// Cost: O(rows), and O(rows of the other side) to find near keys.
func unmatched(t *table.Table, key []*table.Column, other *table.Table, otherKey []*table.Column, matched func(int) bool, n int) ([]Unmatched, int) {
	type seen struct {
		row  int
		rows int
	}
	byKey := map[string]*seen{}
	var order []*seen
	id := make([]byte, 0, 4*len(key))
	for row := range t.Rows() {
		if matched(row) {
			continue
		}
		id = id[:0]
		for _, c := range key {
			code := c.Code(t.BaseRow(row))
			id = append(id, byte(code), byte(code>>8), byte(code>>16), byte(code>>24))
		}
		s := byKey[string(id)]
		if s == nil {
			s = &seen{row: row}
			byKey[string(id)] = s
			order = append(order, s)
		}
		s.rows++
	}
	slices.SortStableFunc(order, func(a, b *seen) int { return cmp.Compare(b.rows, a.rows) })
	out := make([]Unmatched, 0, min(n, len(order)))
	for _, s := range order[:min(n, len(order))] {
		out = append(out, Unmatched{Key: values(t, key, s.row), Rows: s.rows})
	}
	near(out, other, otherKey)
	return out, len(order)
}

// near looks for keys of the other side whose every part folds to the same.
func near(out []Unmatched, other *table.Table, key []*table.Column) {
	wanted := map[string][]int{}
	for i, u := range out {
		folded := foldKey(u.Key)
		wanted[folded] = append(wanted[folded], i)
	}
	if len(key) == 1 { // per distinct value, not per row
		counts := other.Counts(key[0])
		hashes := map[uint64]bool{}
		for _, u := range out {
			hashes[table.FoldHash(u.Key[0])] = true
		}
		for code, fold := range key[0].Dict.Facts().Fold {
			if counts[code] > 0 && hashes[fold] {
				offer(out, wanted, []string{key[0].Dict.Value(uint32(code))})
			}
		}
		return
	}
	done := map[string]bool{}
	for row := range other.Rows() {
		k := values(other, key, row)
		if joined := strings.Join(k, "\x00"); !done[joined] {
			done[joined] = true
			offer(out, wanted, k)
		}
	}
}

func offer(out []Unmatched, wanted map[string][]int, k []string) {
	for _, i := range wanted[foldKey(k)] {
		if out[i].Near == nil && !slices.Equal(out[i].Key, k) {
			out[i].Near = k
		}
	}
}

func foldKey(k []string) string {
	folded := make([]string, len(k))
	for i, v := range k {
		folded[i] = text.Fold(v)
	}
	return strings.Join(folded, "\x00")
}

func values(t *table.Table, key []*table.Column, row int) []string {
	out := make([]string, len(key))
	for i, c := range key {
		out[i], _ = c.Value(t.BaseRow(row))
	}
	return out
}
