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
	Prefer  Keep = "prefer"  // the value of a column that comes first in an order
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

// Choice is a rule to keep a row by.
type Choice struct {
	Keep  Keep
	By    *table.Column // of newest, oldest, highest, lowest, prefer
	Order []string      // of prefer: values, the best first; all others come after them, alike
}

// Rule is what stays of the groups.
type Rule struct {
	Choices []Choice // each decides where those before it leave rows equal; none is the first row
	Only    Only
	Chosen  []bool // by row, nil for none: in a group with such rows these stay, whatever the choices
}

// reads says whether a choice asks how its column reads.
func (c Choice) reads() bool {
	return c.Keep == Newest || c.Keep == Oldest || c.Keep == Highest || c.Keep == Lowest
}

// Split gives the base rows that stay and those set aside, each in the order of t; unread is
// the rows in groups of two or more that a choice cannot compare. Cost: O(rows) for each choice,
// and O(rows x columns) for the fullest.
func (g *Groups) Split(t *table.Table, rule Rule) (kept, aside *table.Selection, unread int) {
	best, unread := g.best(t, rule)
	byHand := g.byHand(rule)
	kept, aside = &table.Selection{}, &table.Selection{}
	kept.Rows = make([]uint32, 0, t.Rows())
	for row, group := range g.of {
		several := group != 0 && g.sizes[group] > 1
		chosen := !several || best[group] == uint32(row)
		if several && byHand != nil && byHand[group] {
			chosen = rule.Chosen[row]
		}
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

// byHand says which groups have rows that were chosen; nil where none has.
func (g *Groups) byHand(rule Rule) []bool {
	if rule.Chosen == nil {
		return nil
	}
	out := make([]bool, len(g.sizes))
	for row, group := range g.of {
		out[group] = out[group] || rule.Chosen[row]
	}
	return out
}

// best finds the position of the row of each group that the choices keep.
func (g *Groups) best(t *table.Table, rule Rule) (best []uint32, unread int) {
	best = make([]uint32, len(g.sizes))
	seen := make([]bool, len(g.sizes))
	var scores [][]float64
	var reads []bool
	for _, c := range rule.Choices {
		if c.Keep == First {
			break // nothing behind it is ever asked
		}
		scores, reads = append(scores, g.scores(t, c)), append(reads, c.reads())
	}
	for row, group := range g.of {
		if group == 0 || g.sizes[group] < 2 {
			continue
		}
		better, lost, decided := !seen[group], false, !seen[group]
		for i, score := range scores {
			lost = lost || reads[i] && math.IsInf(score[row], -1)
			if at := score[best[group]]; !decided && score[row] != at {
				better, decided = score[row] > at, true
			}
		}
		if lost {
			unread++
		}
		if better {
			seen[group], best[group] = true, uint32(row)
		}
	}
	return best, unread
}

// scores says how well each row does by a choice. A cell that does not read does worst.
func (g *Groups) scores(t *table.Table, c Choice) []float64 {
	out := make([]float64, t.Rows())
	switch c.Keep {
	case Last:
		for row := range out {
			out[row] = float64(row)
		}
		return out
	case Prefer:
		places := make([]float64, c.By.Dict.Len()+1)
		for code := range places {
			places[code] = -float64(len(c.Order))
		}
		for i, v := range c.Order {
			if code, ok := c.By.Dict.Find(v); ok {
				places[code] = max(places[code], -float64(i))
			}
		}
		for row, code := range t.LogicalCodes(c.By) {
			out[row] = places[code]
		}
		return out
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
	if c.Keep == Oldest || c.Keep == Lowest {
		sign = -1
	}
	at := c.By.Read().At
	for row, code := range t.LogicalCodes(c.By) {
		out[row] = math.Inf(-1)
		if v := at[code]; !math.IsNaN(v) {
			out[row] = sign * v
		}
	}
	return out
}
