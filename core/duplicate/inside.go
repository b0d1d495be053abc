package duplicate

import (
	"runtime"
	"sync"

	"grandledger/core/table"
	"grandledger/core/text"
)

// Inside says what a column is within the groups of two or more rows.
type Inside struct {
	Column  string `json:"column"`
	Differs int    `json:"differs"` // groups in which cells that are not blank differ
	Forms   int    `json:"forms"`   // of them, those that differ in case, spacing, punctuation and accents alone
	Fills   int    `json:"fills"`   // groups in which they agree, and some cells are blank
}

// Inside looks at every column. What is equal on the key and differs elsewhere is no mere repeat: it
// carries something new, or one id stands for different things. Cost: O(rows) for each column, on
// all cores.
func (g *Groups) Inside(t *table.Table) []Inside {
	out := make([]Inside, len(t.Columns()))
	next := make(chan int, len(out))
	for i := range out {
		next <- i
	}
	close(next)
	var all sync.WaitGroup
	for range runtime.GOMAXPROCS(0) {
		all.Go(func() {
			for i := range next {
				out[i] = g.inside(t, t.Columns()[i])
			}
		})
	}
	all.Wait()
	return out
}

// What a group has been seen to hold.
const (
	holdsBlank  = 1 << iota
	holdsOther  // cells that differ
	holdsUnlike // cells that differ in more than form
)

func (g *Groups) inside(t *table.Table, c *table.Column) Inside {
	out := Inside{Column: c.Name}
	blank := make([]bool, c.Dict.Len()+1)
	blank[table.Missing] = true
	for _, code := range c.Dict.Blank() {
		blank[code] = true
	}
	first, seen := make([]uint32, len(g.sizes)), make([]uint8, len(g.sizes))
	for row, code := range t.LogicalCodes(c) {
		group := g.of[row]
		switch {
		case group == 0 || g.sizes[group] < 2:
		case blank[code]:
			seen[group] |= holdsBlank
		case first[group] == 0:
			first[group] = code
		case first[group] != code && seen[group]&holdsUnlike == 0:
			seen[group] |= holdsOther
			if text.Fold(c.Dict.Value(first[group])) != text.Fold(c.Dict.Value(code)) {
				seen[group] |= holdsUnlike
			}
		}
	}
	for group, holds := range seen {
		switch {
		case holds&holdsUnlike != 0:
			out.Differs++
		case holds&holdsOther != 0:
			out.Differs++
			out.Forms++
		case holds&holdsBlank != 0 && first[group] != 0:
			out.Fills++
		}
	}
	return out
}

// Disagreeing says which groups hold cells that differ in a column, blank ones aside: one id for
// different things, where the column should not differ. Cost: O(rows).
func (g *Groups) Disagreeing(t *table.Table, c *table.Column) []bool {
	out := make([]bool, len(g.sizes))
	first := make([]uint32, len(g.sizes))
	blank := map[uint32]bool{table.Missing: true}
	for _, code := range c.Dict.Blank() {
		blank[code] = true
	}
	for row, code := range t.LogicalCodes(c) {
		group := g.of[row]
		if group == 0 || blank[code] {
			continue
		}
		if first[group] == 0 {
			first[group] = code
		}
		out[group] = out[group] || first[group] != code
	}
	return out
}
