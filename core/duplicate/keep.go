package duplicate

import (
	"math"

	"grandledger/core/table"
)

// Keep says which row of a group stays.
type Keep string

// The rules to keep a row by. Where several rows of a group are equal by the rule, the first of
// them stays; a cell that does not read comes after all that do.
const (
	First   Keep = "first"
	Last    Keep = "last"
	Newest  Keep = "newest"  // the latest date of a column
	Oldest  Keep = "oldest"  // the earliest
	Highest Keep = "highest" // the largest number of a column
	Lowest  Keep = "lowest"  // the smallest
	Fullest Keep = "fullest" // the fewest blank cells
)

// Only says what stays when it is not one row of each group.
type Only string

// What stays.
const (
	OneEach Only = ""        // one row of each group, and rows that repeat nothing
	Repeats Only = "repeats" // all rows of groups of two or more
	Firsts  Only = "firsts"  // one row of each such group
	Unique  Only = "unique"  // rows that repeat nothing
)

// Rule is what stays of the groups.
type Rule struct {
	Keep Keep
	By   *table.Column // of newest, oldest, highest, lowest
	Only Only
}

// Split gives the base rows that stay and those set aside, each in the order of t; unread is
// the rows in groups of two or more that the rule cannot compare. Cost: O(rows), and
// O(rows x columns) for the fullest.
func (g *Groups) Split(t *table.Table, rule Rule) (kept, aside *table.Selection, unread int) {
	best, unread := g.best(t, rule)
	kept, aside = &table.Selection{}, &table.Selection{}
	kept.Rows = make([]uint32, 0, t.Rows())
	for row, group := range g.of {
		several := group != 0 && g.sizes[group] > 1
		chosen := !several || best[group] == uint32(row)
		stays := false
		switch rule.Only {
		case OneEach:
			stays = chosen
		case Repeats:
			stays = several
		case Firsts:
			stays = several && chosen
		case Unique:
			stays = !several
		}
		if stays {
			kept.Rows = append(kept.Rows, t.BaseRow(row))
		} else {
			aside.Rows = append(aside.Rows, t.BaseRow(row))
		}
	}
	return kept, aside, unread
}

// best finds the position of the row of each group that the rule keeps.
func (g *Groups) best(t *table.Table, rule Rule) (best []uint32, unread int) {
	best = make([]uint32, len(g.sizes))
	seen := make([]bool, len(g.sizes))
	score := g.scores(t, rule)
	for row, group := range g.of {
		if group == 0 || g.sizes[group] < 2 {
			continue
		}
		if score != nil && math.IsInf(score[row], -1) {
			unread++
		}
		if !seen[group] || rule.Keep == Last || score != nil && score[row] > score[best[group]] {
			seen[group], best[group] = true, uint32(row)
		}
	}
	return best, unread
}

// scores says how well each row does by the rule; nil for the first and the last. A cell that does
// not read does worst.
func (g *Groups) scores(t *table.Table, rule Rule) []float64 {
	out := make([]float64, t.Rows())
	switch rule.Keep {
	case First, Last:
		return nil
	case Fullest:
		for _, c := range t.Columns() {
			filled := make([]float64, c.Dict.Len()+1)
			for code := 1; code < len(filled); code++ {
				filled[code] = 1
			}
			for _, code := range c.Dict.Blank() {
				filled[code] = 0
			}
			for row, code := range t.LogicalCodes(c) {
				out[row] += filled[code]
			}
		}
		return out
	}
	sign := 1.0
	if rule.Keep == Oldest || rule.Keep == Lowest {
		sign = -1
	}
	at := rule.By.Read().At
	for row, code := range t.LogicalCodes(rule.By) {
		out[row] = math.Inf(-1)
		if v := at[code]; !math.IsNaN(v) {
			out[row] = sign * v
		}
	}
	return out
}
