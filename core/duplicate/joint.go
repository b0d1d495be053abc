package duplicate

import "grandledger/core/table"

// Joint gives equal cells of a column of one table and a column of another equal codes: first those
// of the rows of the one, then those of the other. Cells that are missing, and where they are not
// compared to the letter blank ones, have code 0. Cost: O(rows), and O(bytes of the distinct values).
func Joint(a *table.Table, of *table.Column, b *table.Table, with *table.Column, as As) []uint32 {
	out := make([]uint32, 0, a.Rows()+b.Rows())
	numbers := map[string]uint32{}
	for _, side := range []struct {
		t *table.Table
		c *table.Column
	}{{a, of}, {b, with}} {
		codes := side.t.LogicalCodes(side.c)
		if as == Exact {
			if side.t == a && side.c == of {
				out = append(out, codes...)
				continue
			}
			to := Together(of.Dict, side.c.Dict)
			for _, code := range codes {
				out = append(out, to[code])
			}
			continue
		}
		text := Key{Column: side.c, As: as}.Text()
		to := make([]uint32, side.c.Dict.Len()+1)
		blank := map[uint32]bool{}
		for _, code := range side.c.Dict.Blank() {
			blank[code] = true
		}
		for code := uint32(1); code < uint32(len(to)); code++ {
			if blank[code] {
				continue
			}
			key := text(side.c.Dict.Value(code))
			if numbers[key] == 0 {
				numbers[key] = uint32(len(numbers) + 1)
			}
			to[code] = numbers[key]
		}
		for _, code := range codes {
			out = append(out, to[code])
		}
	}
	return out
}

// Together numbers the values of a second dictionary by the codes of the first, new ones behind
// them. Missing stays 0. Cost: a look-up for each value.
func Together(first, second *table.Dict) []uint32 {
	to := make([]uint32, second.Len()+1)
	next := uint32(first.Len() + 1)
	for code := uint32(1); code <= uint32(second.Len()); code++ {
		if known, ok := first.Find(second.Value(code)); ok {
			to[code] = known
		} else {
			to[code] = next
			next++
		}
	}
	return to
}
