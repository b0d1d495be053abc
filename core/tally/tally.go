// Package tally counts: the distinct values of a column with their rows, and the
// profile that makes up a line of the column register. Every figure is over all rows.
package tally

import (
	"cmp"
	"container/heap"
	"slices"
	"strings"

	"grandledger/core/table"
	"grandledger/core/text"
)

// Line is one distinct value and the rows it stands in.
type Line struct {
	Value string `json:"value"`
	Rows  int    `json:"rows"`
}

// Order is how a tally is sorted.
type Order string

// The orders of a tally.
const (
	ByCount    Order = "count"    // most rows first, equal counts by alphabet
	ByAlphabet Order = "alphabet" // by folded spelling, then by bytes
)

// Tally is the distinct values of a column in an order. It holds codes alone, so a
// tally of a million values is small and a page of it is cut in no time.
type Tally struct {
	column  *table.Column
	counts  []uint32
	codes   []uint32
	Missing int // rows without a cell; they are no value and not among the lines
}

// New counts and sorts. Cost: O(distinct log distinct).
func New(t *table.Table, c *table.Column, order Order) *Tally {
	counts := t.Counts(c)
	y := &Tally{column: c, counts: counts, Missing: int(counts[table.Missing])}
	for code := uint32(1); code < uint32(len(counts)); code++ {
		if counts[code] > 0 {
			y.codes = append(y.codes, code)
		}
	}
	if order == ByCount {
		slices.SortFunc(y.codes, func(a, b uint32) int { return byCount(c.Dict, counts, a, b) })
		return y
	}
	keys := make([]string, len(counts))
	for _, code := range y.codes {
		keys[code] = text.Fold(c.Dict.Value(code))
	}
	slices.SortFunc(y.codes, func(a, b uint32) int {
		if n := cmp.Compare(keys[a], keys[b]); n != 0 {
			return n
		}
		return cmp.Compare(c.Dict.Value(a), c.Dict.Value(b))
	})
	return y
}

func byCount(d *table.Dict, counts []uint32, a, b uint32) int {
	if n := cmp.Compare(counts[b], counts[a]); n != 0 {
		return n
	}
	return cmp.Compare(d.Value(a), d.Value(b))
}

// Len is the number of distinct values, blank values among them.
func (y *Tally) Len() int { return len(y.codes) }

// Lines gives n lines from a place on.
func (y *Tally) Lines(from, n int) []Line {
	from = min(max(from, 0), len(y.codes))
	to := min(from+max(n, 0), len(y.codes))
	out := make([]Line, 0, to-from)
	for _, code := range y.codes[from:to] {
		out = append(out, Line{y.column.Dict.Value(code), int(y.counts[code])})
	}
	return out
}

// Find keeps the values that contain what is looked for, letter case aside; a value
// that only folds to it (accents, punctuation) counts as well. Cost: O(distinct).
func (y *Tally) Find(what string) *Tally {
	if what == "" {
		return y
	}
	out := &Tally{column: y.column, counts: y.counts}
	lower, fold := strings.ToLower(what), text.Fold(what)
	for _, code := range y.codes {
		v := y.column.Dict.Value(code)
		if strings.Contains(strings.ToLower(v), lower) || fold != "" && strings.Contains(text.Fold(v), fold) {
			out.codes = append(out.codes, code)
		}
	}
	return out
}

// Rows is the number of rows under the values of this tally.
func (y *Tally) Rows() int {
	n := 0
	for _, code := range y.codes {
		n += int(y.counts[code])
	}
	return n
}

// Top gives the n most frequent values, blank ones left out. Cost: O(distinct log n).
func Top(c *table.Column, counts []uint32, n int) []Line {
	facts := c.Dict.Facts()
	h := &smallest{dict: c.Dict, counts: counts}
	for code := uint32(1); code < uint32(len(counts)); code++ {
		if counts[code] == 0 || facts.Traits[code]&table.IsBlankValue != 0 {
			continue
		}
		if h.Len() < n {
			heap.Push(h, code)
		} else if counts[code] >= counts[h.codes[0]] && byCount(c.Dict, counts, code, h.codes[0]) < 0 {
			h.codes[0] = code
			heap.Fix(h, 0)
		}
	}
	slices.SortFunc(h.codes, func(a, b uint32) int { return byCount(c.Dict, counts, a, b) })
	out := make([]Line, len(h.codes))
	for i, code := range h.codes {
		out[i] = Line{c.Dict.Value(code), int(counts[code])}
	}
	return out
}

// smallest is a heap with the least frequent of the kept values on top.
type smallest struct {
	dict   *table.Dict
	counts []uint32
	codes  []uint32
}

func (h *smallest) Len() int           { return len(h.codes) }
func (h *smallest) Less(i, j int) bool { return byCount(h.dict, h.counts, h.codes[i], h.codes[j]) > 0 }
func (h *smallest) Swap(i, j int)      { h.codes[i], h.codes[j] = h.codes[j], h.codes[i] }
func (h *smallest) Push(x any)         { h.codes = append(h.codes, x.(uint32)) }
func (h *smallest) Pop() any {
	last := h.codes[len(h.codes)-1]
	h.codes = h.codes[:len(h.codes)-1]
	return last
}
