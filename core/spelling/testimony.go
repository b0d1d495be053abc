package spelling

import (
	"cmp"
	"fmt"
	"math"
	"slices"

	"grandledger/core/table"
)

// Limits of what other columns are asked.
const (
	maxWitnesses = 6    // columns
	maxHeard     = 2000 // groups
)

// Testify asks the other columns of the rows whether the values of groups are one thing, and notes for each member what speaks for and
// against it. A column testifies for where the rows of a member have the values that those of the standard value have much
// more often than chance would; against where all rows of the standard value say the same and none of the member's does.
//
// Cost: O(rows) for each of at most six columns, those in which two rows seldom agree by chance and yet values repeat.
func Testify(t *table.Table, c *table.Column, groups []Group) {
	groups = groups[:min(len(groups), maxHeard)]
	at := map[string]int{} // of each value of a group, its place in rows
	for _, g := range groups {
		for _, m := range g.Members {
			at[m.Value] = len(at)
		}
	}
	if len(at) == 0 {
		return
	}
	place := make([]int32, c.Dict.Len()+1) // by code, from 1
	for code := uint32(1); code <= uint32(c.Dict.Len()); code++ {
		if i, ok := at[c.Dict.Value(code)]; ok {
			place[code] = int32(i) + 1
		}
	}
	for _, w := range witnesses(t, c) {
		said := make([][]uint32, len(at)) // what the rows of each value say in this column
		for row := range t.Rows() {
			base := t.BaseRow(row)
			if i := place[c.Code(base)]; i > 0 {
				if code := w.column.Code(base); code != table.Missing && !w.blank[code] {
					said[i-1] = append(said[i-1], code)
				}
			}
		}
		for i := range groups {
			w.hear(&groups[i], at, said)
		}
	}
}

// witness is a column that may testify.
type witness struct {
	column *table.Column
	counts []uint32
	blank  map[uint32]bool
	rows   float64 // that say something
	chance float64 // that two rows say the same
}

// witnesses picks the columns to ask, those in which agreement says most first.
func witnesses(t *table.Table, c *table.Column) []witness {
	var out []witness
	for _, other := range t.Columns() {
		if other == c {
			continue
		}
		w := witness{column: other, counts: t.Counts(other), blank: map[uint32]bool{table.Missing: true}}
		for _, code := range other.Dict.Blank() {
			w.blank[code] = true
		}
		values := 0.0
		for code, n := range w.counts {
			if n > 0 && !w.blank[uint32(code)] {
				values++
				w.rows += float64(n)
				w.chance += float64(n) * float64(n)
			}
		}
		if w.rows == 0 {
			continue
		}
		w.chance /= w.rows * w.rows
		if w.chance <= 0.2 && w.rows >= 1.3*values {
			out = append(out, w)
		}
	}
	slices.SortStableFunc(out, func(a, b witness) int { return cmp.Compare(a.chance, b.chance) })
	return out[:min(len(out), maxWitnesses)]
}

// hear notes what a column says of the members of a group.
func (w witness) hear(g *Group, at map[string]int, said [][]uint32) {
	i, ok := at[g.Standard]
	if !ok || len(said[i]) == 0 {
		return
	}
	own := map[uint32]int{}
	for _, code := range said[i] {
		own[code]++
	}
	most, expected := 0, 0.0 // rows of its most frequent value; the share of all rows with any of its values
	for code, n := range own {
		most = max(most, n)
		expected += float64(w.counts[code]) / w.rows
	}
	steady, mostly := len(said[i]) > 1 && most == len(said[i]), 2*most >= len(said[i])
	for m := range g.Members {
		member := &g.Members[m]
		codes := said[at[member.Value]]
		if member.Value == g.Standard || len(codes) == 0 {
			continue
		}
		same := 0
		for _, code := range codes {
			if own[code] > 0 {
				same++
			}
		}
		switch {
		case mostly && 2*same >= len(codes) && byChance(same, len(codes), expected) < 0.01:
			member.For = append(member.For, fmt.Sprintf("same %s in %s", w.column.Name, ofRows(same, len(codes))))
		case same == 0 && steady:
			member.Against = append(member.Against, "another "+w.column.Name)
		}
	}
}

// byChance is the probability that at least so many of n rows agree where each does with probability p (binomial).
func byChance(same, n int, p float64) float64 {
	tail, term := 0.0, math.Pow(1-p, float64(n))
	for k := 0; k <= n && p < 1; k++ {
		if k >= same {
			tail += term
		}
		term *= float64(n-k) / float64(k+1) * p / (1 - p)
	}
	if p >= 1 {
		return 1
	}
	return tail
}

func ofRows(n, of int) string {
	switch {
	case of == 1:
		return "its one row"
	case n == of:
		return fmt.Sprintf("all %d rows", of)
	}
	return fmt.Sprintf("%d of %d rows", n, of)
}
