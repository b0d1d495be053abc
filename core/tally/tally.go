// Package tally counts: the distinct values of a column with their rows, and the
// profile that makes up a line of the column register. Every figure is over all rows.
package tally

import (
	"cmp"
	"container/heap"
	"runtime"
	"slices"
	"strings"
	"sync"

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
	ByShape    Order = "shape"    // shapes of most rows first, then as by count
)

// Part is the values of a column that are read, are not, or are blank.
type Part string

// The parts of a tally.
const (
	All    Part = ""
	Read   Part = "read"
	Unread Part = "unread"
	Blanks Part = "blank"
)

// Tally is the distinct values of a column in an order. It holds codes alone, and puts
// them in order only where they are looked at. It is safe for use by several goroutines.
type Tally struct {
	column  *table.Column
	counts  []uint32
	order   Order
	mu      sync.Mutex
	codes   *lazily
	shapes  []string // by code; nil unless that is the order
	Missing int      // rows without a cell; they are no value and not among the lines
}

// New counts. Cost: O(distinct), and for the alphabet the folding of every value; a page of
// lines costs a few passes over the values more the first time.
func New(t *table.Table, c *table.Column, order Order) *Tally {
	counts := t.Counts(c)
	var codes []uint32
	for code := uint32(1); code < uint32(len(counts)); code++ {
		if counts[code] > 0 {
			codes = append(codes, code)
		}
	}
	return of(c, counts, codes, order)
}

func of(c *table.Column, counts, codes []uint32, order Order) *Tally {
	y := &Tally{column: c, counts: counts, order: order, Missing: int(counts[table.Missing])}
	if order == ByShape {
		y.byShape(codes)
		return y
	}
	if order == ByCount {
		codes, bounds := byRows(codes, counts, func(a, b uint32) int { return byCount(c.Dict, counts, a, b) })
		y.codes = newLazily(codes, bounds, func(a, b uint32) bool { return byCount(c.Dict, counts, a, b) < 0 })
		return y
	}
	keys := prefixes(c.Dict, codes)
	y.codes = newLazily(codes, nil, func(a, b uint32) bool {
		if keys[a] != keys[b] {
			return keys[a] < keys[b]
		}
		v, w := c.Dict.Value(a), c.Dict.Value(b)
		if n := cmp.Compare(text.Fold(v), text.Fold(w)); n != 0 {
			return n < 0
		}
		return v < w
	})
	return y
}

// byShape orders by the rows of each shape. Cost: the shape of every value.
func (y *Tally) byShape(codes []uint32) {
	y.shapes = make([]string, y.column.Dict.Len()+1)
	rows := map[string]int{}
	for _, code := range codes {
		y.shapes[code] = text.Shape(y.column.Dict.Value(code))
		rows[y.shapes[code]] += int(y.counts[code])
	}
	y.codes = newLazily(codes, nil, func(a, b uint32) bool {
		s, t := y.shapes[a], y.shapes[b]
		if s != t {
			return cmp.Or(cmp.Compare(rows[t], rows[s]), cmp.Compare(s, t)) < 0
		}
		return byCount(y.column.Dict, y.counts, a, b) < 0
	})
}

// PartCount is how many values and rows a part of a tally holds.
type PartCount struct {
	Part   Part `json:"part"`
	Values int  `json:"values"`
	Rows   int  `json:"rows"` // of blanks, those without a cell among them
}

// Parts counts the parts, by the reading of the column. Cost: O(distinct).
func (y *Tally) Parts() []PartCount {
	is := y.parts()
	counts := map[Part]*PartCount{}
	out := []PartCount{{Part: Read}, {Part: Unread}, {Part: Blanks, Rows: y.Missing}}
	for i := range out {
		counts[out[i].Part] = &out[i]
	}
	y.mu.Lock()
	defer y.mu.Unlock()
	for _, code := range y.codes.codes {
		p := counts[is(code)]
		p.Values++
		p.Rows += int(y.counts[code])
	}
	return out
}

func (y *Tally) parts() func(code uint32) Part {
	blank := map[uint32]bool{}
	for _, code := range y.column.Dict.Blank() {
		blank[code] = true
	}
	read := y.column.Read()
	return func(code uint32) Part {
		switch {
		case len(blank) > 0 && blank[code]:
			return Blanks
		case read.OK[code]:
			return Read
		}
		return Unread
	}
}

// Only keeps the values of a part. Cost: O(distinct).
func (y *Tally) Only(part Part) *Tally {
	if part == All {
		return y
	}
	is := y.parts()
	y.mu.Lock()
	codes := slices.Clone(y.codes.codes)
	y.mu.Unlock()
	codes = slices.DeleteFunc(codes, func(code uint32) bool { return is(code) != part })
	slices.Sort(codes)
	return of(y.column, y.counts, codes, y.order)
}

// often is the number of rows from which values are sorted outright: there are few of them.
const often = 4096

// byRows puts codes in order of their rows, most first, and gives the places where the
// rows change. Only values of many rows are compared; the others are counted into place.
func byRows(codes, counts []uint32, compare func(a, b uint32) int) (sorted []uint32, bounds []int) {
	var starts [often + 1]int
	var top []uint32
	for _, code := range codes {
		if counts[code] >= often {
			top = append(top, code)
		} else {
			starts[counts[code]]++
		}
	}
	slices.SortFunc(top, compare)
	at := len(top)
	for n := often - 1; n >= 0; n-- {
		if starts[n] > 0 {
			if at > 0 {
				bounds = append(bounds, at)
			}
			starts[n], at = at, at+starts[n]
		}
	}
	sorted = make([]uint32, len(codes))
	copy(sorted, top)
	for _, code := range codes {
		if n := counts[code]; n < often {
			sorted[starts[n]] = code
			starts[n]++
		}
	}
	return sorted, bounds
}

// prefixes gives for each code the first eight bytes of its folded value, as a number of
// the same order. Cost: the folding, on all cores.
func prefixes(d *table.Dict, codes []uint32) []uint64 {
	keys := make([]uint64, d.Len()+1)
	var work sync.WaitGroup
	parts := runtime.GOMAXPROCS(0)
	for part := range parts {
		work.Go(func() {
			for _, code := range codes[len(codes)*part/parts : len(codes)*(part+1)/parts] {
				fold := text.Fold(d.Value(code))
				for i := range min(len(fold), 8) {
					keys[code] |= uint64(fold[i]) << (56 - 8*i)
				}
			}
		})
	}
	work.Wait()
	return keys
}

func byCount(d *table.Dict, counts []uint32, a, b uint32) int {
	if n := cmp.Compare(counts[b], counts[a]); n != 0 {
		return n
	}
	return cmp.Compare(d.Value(a), d.Value(b))
}

// Len is the number of distinct values, blank values among them.
func (y *Tally) Len() int { return len(y.codes.codes) }

// Before is the rows under the lines before a place. Cost: O(place).
func (y *Tally) Before(place int) int {
	y.mu.Lock()
	defer y.mu.Unlock()
	codes := y.codes.codes
	if place = min(max(place, 0), len(codes)); place < len(codes) {
		y.codes.settle(place, place+1) // whatever their order, these are the lines before it
	}
	n := 0
	for _, code := range codes[:place] {
		n += int(y.counts[code])
	}
	return n
}

// Shape is the shape of a line where that is the order, otherwise "".
func (y *Tally) Shape(value string) string {
	if code, ok := y.column.Dict.Find(value); ok && y.shapes != nil {
		return y.shapes[code]
	}
	return ""
}

// Lines gives n lines from a place on.
func (y *Tally) Lines(from, n int) []Line {
	y.mu.Lock()
	defer y.mu.Unlock()
	codes := y.codes.codes
	from = min(max(from, 0), len(codes))
	to := min(from+max(n, 0), len(codes))
	y.codes.settle(from, to)
	out := make([]Line, 0, to-from)
	for _, code := range codes[from:to] {
		out = append(out, Line{y.column.Dict.Value(code), int(y.counts[code])})
	}
	return out
}

// Find keeps the values that contain what is looked for, letter case aside; a value
// that only folds to it (accents, punctuation) counts as well. Cost: O(distinct), on all
// cores.
func (y *Tally) Find(what string) *Tally {
	if what == "" {
		return y
	}
	y.mu.Lock()
	codes := slices.Clone(y.codes.codes)
	y.mu.Unlock()
	slices.Sort(codes)
	lower, fold := strings.ToLower(what), text.Fold(what)
	parts := runtime.GOMAXPROCS(0)
	found := make([][]uint32, parts)
	var work sync.WaitGroup
	for part := range parts {
		work.Go(func() {
			for _, code := range codes[len(codes)*part/parts : len(codes)*(part+1)/parts] {
				v := y.column.Dict.Value(code)
				if strings.Contains(strings.ToLower(v), lower) || fold != "" && strings.Contains(text.Fold(v), fold) {
					found[part] = append(found[part], code)
				}
			}
		})
	}
	work.Wait()
	return of(y.column, y.counts, slices.Concat(found...), y.order)
}

// Rows is the number of rows under the values of this tally.
func (y *Tally) Rows() int {
	n := 0
	for _, code := range y.codes.codes {
		n += int(y.counts[code])
	}
	return n
}

// Top gives the n most frequent values, blank ones left out. Cost: O(distinct log n).
func Top(c *table.Column, counts []uint32, n int) []Line {
	blank := map[uint32]bool{}
	for _, code := range c.Dict.Blank() {
		blank[code] = true
	}
	h := &smallest{dict: c.Dict, counts: counts}
	for code := uint32(1); code < uint32(len(counts)); code++ {
		if counts[code] == 0 || h.Len() == n && counts[code] < counts[h.codes[0]] || blank[code] {
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
