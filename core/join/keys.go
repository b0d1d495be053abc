package join

import (
	"slices"

	"grandledger/core/duplicate"
	"grandledger/core/table"
)

// groups numbers distinct keys from 1. With one key column the number is the right
// dictionary's code; with more, pairs of (number so far, code) are numbered in turn.
type groups struct {
	n    int
	each []map[uint64]uint32 // one for each column after the first
}

// keys gives the key group of each row of t, 0 for a row without a key. Equal values of either side have equal numbers, of each column those of the left and of the right
// one; side says which are of t. With known nil the keys are numbered afresh; otherwise only keys known there count.
func keys(t *table.Table, columns []*table.Column, numbers [][2][]uint32, side int, known *groups) ([]uint32, *groups) {
	g := known
	if g == nil {
		g = &groups{n: int(slices.Max(numbers[0][side])), each: make([]map[uint64]uint32, len(columns)-1)}
	}
	out := make([]uint32, t.Rows())
	held := make([]bool, t.Rows()) // rows with a key cell that is not blank
	for i, c := range columns {
		to := numbers[i][side]
		traits := c.Dict.Facts().Traits
		codes := t.LogicalCodes(c)
		if i > 0 && known == nil {
			g.each[i-1] = map[uint64]uint32{}
		}
		for row, code := range codes {
			if traits[code]&table.IsBlankValue == 0 && code != table.Missing {
				held[row] = true
			}
			switch {
			case i == 0:
				out[row] = to[code]
			case out[row] == 0 || to[code] == 0:
				out[row] = 0
			default:
				out[row] = g.number(i-1, uint64(out[row])<<32|uint64(to[code]), known == nil)
			}
		}
		if i > 0 {
			g.n = len(g.each[i-1])
		}
	}
	for row := range out {
		if !held[row] {
			out[row] = 0
		}
	}
	return out, g
}

func (g *groups) number(i int, key uint64, add bool) uint32 {
	n, ok := g.each[i][key]
	if !ok && add {
		n = uint32(len(g.each[i]) + 1)
		g.each[i][key] = n
	}
	return n
}

// translate gives for each code of one dictionary the code of the same value in
// another, 0 where it has none. Cost: one look-up a distinct value.
func translate(from, to *table.Dict) []uint32 {
	out := make([]uint32, from.Len()+1)
	for code := uint32(1); code < uint32(len(out)); code++ {
		if from == to {
			out[code] = code
		} else if there, ok := to.Find(from.Value(code)); ok {
			out[code] = there
		}
	}
	return out
}

// alike numbers the values of two columns so that those that compare equal have the same number; what the right column does not have is 0. Cost: one look-up a distinct value.
func alike(left, right *table.Column, on On, standard map[string]string) (ofLeft, ofRight []uint32) {
	if on.As == duplicate.Exact && standard == nil {
		ofRight = make([]uint32, right.Dict.Len()+1)
		for code := range ofRight {
			ofRight[code] = uint32(code)
		}
		return translate(left.Dict, right.Dict), ofRight
	}
	numbers := map[string]uint32{}
	side := func(c *table.Column, add bool) []uint32 {
		text := func(v string) string { return v }
		if on.As != duplicate.Exact {
			text = duplicate.Key{Column: c, As: on.As}.Text()
		}
		out := make([]uint32, c.Dict.Len()+1)
		for code := uint32(1); code < uint32(len(out)); code++ {
			v := c.Dict.Value(code)
			if s, ok := standard[v]; ok {
				v = s
			}
			k := text(v)
			if numbers[k] == 0 && add {
				numbers[k] = uint32(len(numbers) + 1)
			}
			out[code] = numbers[k]
		}
		return out
	}
	ofRight = side(right, true)
	return side(left, false), ofRight
}
