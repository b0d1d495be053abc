// Package duplicate finds rows that are equal on a key of columns, exactly, and
// splits them into the rows kept and the rows set aside.
//
// A row whose every key cell is blank or missing has no key: it is never a repeat of
// anything, it is kept, and it is counted.
package duplicate

import (
	"cmp"
	"math/bits"
	"slices"

	"grandledger/core/table"
)

// Keep says which row of a group stays.
type Keep string

// The rules to keep a row by.
const (
	First Keep = "first"
	Last  Keep = "last"
)

// Groups is the rows of a table by equal key.
type Groups struct {
	of    []uint32 // group of each row position; 0 for a row without a key
	sizes []uint32 // rows of each group, from 1
	NoKey int      // rows without a key
}

// Find groups the rows of t by the key. Cost: O(rows x columns) time, 4 bytes a row
// and 12 bytes a group.
func Find(t *table.Table, key []*table.Column) *Groups {
	g := &Groups{}
	groups := 0
	for i, c := range key {
		codes := t.LogicalCodes(c)
		if i == 0 {
			g.of, groups = Number(codes, nil, c.Dict.Len()+1)
		} else {
			g.of, groups = Number(codes, g.of, groups)
		}
	}
	blank := withoutKey(t, key)
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

// withoutKey says which rows are blank throughout the key; nil where there is a column
// without blanks, and so no such row.
func withoutKey(t *table.Table, key []*table.Column) []bool {
	for _, c := range key {
		counts := t.Counts(c)
		none := counts[table.Missing] == 0
		for _, code := range c.Dict.Blank() {
			none = none && counts[code] == 0
		}
		if none {
			return nil
		}
	}
	blank := make([]bool, t.Rows())
	for i := range blank {
		blank[i] = true
	}
	for _, c := range key {
		is := make([]bool, c.Dict.Len()+1)
		is[table.Missing] = true
		for _, code := range c.Dict.Blank() {
			is[code] = true
		}
		for row, code := range t.LogicalCodes(c) {
			blank[row] = blank[row] && is[code]
		}
	}
	return blank
}

// Number gives each distinct pair (prior, code) a number from 1 in order of first
// appearance, and says how many there are; prior nil stands for all the same. expect is about
// how many numbers there will be, and with prior nil one more than the largest code. Cost:
// O(rows).
func Number(codes, prior []uint32, expect int) ([]uint32, int) {
	out := make([]uint32, len(codes))
	if prior == nil {
		renumber := make([]uint32, expect)
		next := uint32(0)
		for row, code := range codes {
			if renumber[code] == 0 {
				next++
				renumber[code] = next
			}
			out[row] = renumber[code]
		}
		return out, int(next)
	}
	p := newPairs(max(expect, len(codes)))
	const ahead = 16 // rows whose slots are touched early, so that cache misses overlap
	var touched uint64
	for row, code := range codes {
		if row+ahead < len(codes) {
			touched += p.slots[mix(uint64(prior[row+ahead])<<32|uint64(codes[row+ahead]))>>p.shift].key
		}
		out[row] = p.add(uint64(prior[row])<<32 | uint64(code))
	}
	p.touched = touched
	return out, p.n
}

// pairs numbers 64-bit keys by open addressing. Keys are never 0, as groups count from 1.
type pairs struct {
	slots   []pairSlot
	shift   uint
	n       int
	touched uint64
}

type pairSlot struct {
	key    uint64
	number uint32
}

func newPairs(expect int) *pairs {
	width := max(bits.Len(uint(expect*2)), 4)
	return &pairs{slots: make([]pairSlot, 1<<width), shift: uint(64 - width)}
}

// mix is Fibonacci hashing (Knuth, The Art of Computer Programming 3, 6.4) after one
// xor-shift, so that the high bits depend on all of the key.
func mix(key uint64) uint64 { return (key ^ key>>29) * 0x9E3779B97F4A7C15 }

func (p *pairs) add(key uint64) uint32 {
	mask := uint64(len(p.slots) - 1)
	i := mix(key) >> p.shift
	for ; p.slots[i].key != key; i = (i + 1) & mask {
		if p.slots[i].key == 0 {
			p.n++
			p.slots[i] = pairSlot{key, uint32(p.n)}
			number := p.slots[i].number
			if p.n*2 > len(p.slots) {
				p.grow()
			}
			return number
		}
	}
	return p.slots[i].number
}

func (p *pairs) grow() {
	old := p.slots
	p.slots = make([]pairSlot, len(old)*2)
	p.shift--
	mask := uint64(len(p.slots) - 1)
	for _, s := range old {
		if s.key != 0 {
			i := mix(s.key) >> p.shift
			for p.slots[i].key != 0 {
				i = (i + 1) & mask
			}
			p.slots[i] = s
		}
	}
}

// Summary counts the groups of two or more rows.
type Summary struct {
	Groups  int `json:"groups"`  // groups with repeats
	Repeats int `json:"repeats"` // rows beyond the first of each group
	Largest int `json:"largest"` // rows of the largest group
	NoKey   int `json:"noKey"`   // rows whose key is blank throughout
}

// Summary counts. Cost: O(groups).
func (g *Groups) Summary() Summary {
	s := Summary{NoKey: g.NoKey}
	for _, size := range g.sizes {
		if size > 1 {
			s.Groups++
			s.Repeats += int(size) - 1
		}
		s.Largest = max(s.Largest, int(size))
	}
	return s
}

// Split gives the base rows kept and those set aside, each in the order of t.
// Cost: O(rows).
func (g *Groups) Split(t *table.Table, keep Keep) (kept, aside *table.Selection) {
	kept, aside = &table.Selection{}, &table.Selection{}
	kept.Rows = make([]uint32, 0, t.Rows())
	seen := make([]uint32, len(g.sizes))
	for row, group := range g.of {
		stays := group == 0
		if !stays {
			seen[group]++
			stays = keep == First && seen[group] == 1 || keep == Last && seen[group] == g.sizes[group]
		}
		if stays {
			kept.Rows = append(kept.Rows, t.BaseRow(row))
		} else {
			aside.Rows = append(aside.Rows, t.BaseRow(row))
		}
	}
	return kept, aside
}

// Group is one group of equal rows: how many, the positions of the first of them, and
// the position of the last.
type Group struct {
	Size int   `json:"size"`
	Rows []int `json:"rows"`
	Last int   `json:"last"`
}

// Largest lists groups with repeats, largest first and then in order of appearance: n
// of them after skipping from, with up to perGroup positions each. Cost: O(rows).
func (g *Groups) Largest(from, n, perGroup int) []Group {
	var ids []uint32
	for id, size := range g.sizes {
		if size > 1 {
			ids = append(ids, uint32(id))
		}
	}
	slices.SortStableFunc(ids, func(a, b uint32) int { return cmp.Compare(g.sizes[b], g.sizes[a]) })
	ids = ids[min(from, len(ids)):min(from+n, len(ids))]
	place := make([]int32, len(g.sizes))
	out := make([]Group, len(ids))
	for i, id := range ids {
		place[id] = int32(i) + 1
		out[i] = Group{Size: int(g.sizes[id]), Rows: []int{}}
	}
	for row, group := range g.of {
		if at := place[group]; at > 0 {
			g := &out[at-1]
			if len(g.Rows) < perGroup {
				g.Rows = append(g.Rows, row)
			}
			g.Last = row
		}
	}
	return out
}
