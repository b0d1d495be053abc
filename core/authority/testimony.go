package authority

import (
	"slices"

	"grandledger/core/linkage"
	"grandledger/core/table"
)

// Propose says which columns of a table testify to which properties of a register, beside a column of names: those that a linkage of the two would compare.
// It proposes nothing where they have nothing in common. Cost: O(distinct) for each column.
func Propose(t *table.Table, column string, r *Register) []Testimony {
	attributes, err := linkage.Propose([]*table.Table{t, r.Table})
	if err != nil {
		return nil
	}
	var out []Testimony
	for _, a := range attributes {
		if slices.Contains(a.Columns[0], column) || slices.Contains(a.Columns[1], r.ID) || slices.ContainsFunc(a.Columns[1], func(c string) bool { return slices.Contains(r.Names, c) }) {
			continue
		}
		out = append(out, Testimony{Columns: a.Columns[0], Properties: a.Columns[1]})
	}
	return out
}
