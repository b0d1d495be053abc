package duplicate

import (
	"cmp"
	"slices"

	"grandledger/core/reading"
	"grandledger/core/table"
)

// How many keys are proposed of each width, and how many columns of which pairs are tried.
const (
	proposedSingle = 3
	proposedPairs  = 3
	pairedColumns  = 6
	nearlyTells    = 0.5 // of the rows that a key of a proposal has to tell apart
	sampled        = 20_000
)

// Proposed gives keys to find duplicates by: all columns; all but those that tell every row
// apart by themselves, as running numbers do; the columns that tell most rows apart; and the pairs
// of others that do. Numbers with decimals are measured, not keys, and are in no short one.
//
// Cost: O(rows) for each column, and O(sample) for each pair.
func Proposed(t *table.Table) [][]string {
	var all, repeating []string
	type candidate struct {
		*table.Column
		place, distinct int
	}
	var singles, others []candidate
	for i, c := range t.Columns() {
		all = append(all, c.Name)
		counts := t.Counts(c)
		held, distinct := 0, 0
		for code, rows := range counts {
			if code > 0 && rows > 0 {
				distinct++
				held += int(rows)
			}
		}
		if distinct < t.Rows() {
			repeating = append(repeating, c.Name)
		}
		r := c.Effective()
		if distinct == t.Rows() || held*2 < t.Rows() || r.Kind == reading.Number && !r.Whole {
			continue
		}
		if float64(distinct) >= nearlyTells*float64(t.Rows()) {
			singles = append(singles, candidate{c, i, distinct})
		} else if distinct > 1 {
			others = append(others, candidate{c, i, distinct})
		}
	}
	more := func(a, b candidate) int { return cmp.Compare(b.distinct, a.distinct) }
	slices.SortStableFunc(singles, more)
	slices.SortStableFunc(others, more)
	out := [][]string{all}
	if len(repeating) > 1 && len(repeating) < len(all) {
		out = append(out, repeating)
	}
	for _, c := range singles[:min(len(singles), proposedSingle)] {
		out = append(out, []string{c.Name})
	}
	type pair struct {
		names []string
		tells int
	}
	var pairs []pair
	others = others[:min(len(others), pairedColumns)]
	rows := min(t.Rows(), sampled)
	for i, a := range others {
		for _, b := range others[i+1:] {
			seen := map[[2]uint32]bool{}
			for n := range rows {
				base := t.BaseRow(int(int64(n) * int64(t.Rows()) / int64(rows)))
				seen[[2]uint32{a.Code(base), b.Code(base)}] = true
			}
			if float64(len(seen)) >= nearlyTells*float64(rows) {
				first, second := a, b
				if b.place < a.place {
					first, second = b, a
				}
				pairs = append(pairs, pair{[]string{first.Name, second.Name}, len(seen)})
			}
		}
	}
	slices.SortStableFunc(pairs, func(a, b pair) int { return cmp.Compare(b.tells, a.tells) })
	for _, p := range pairs[:min(len(pairs), proposedPairs)] {
		out = append(out, p.names)
	}
	return out
}
