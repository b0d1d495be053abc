package entry

import (
	"cmp"
	"context"
	"fmt"
	"slices"

	"grandledger/core/problem"
	"grandledger/core/table"
)

// Return puts back rows that an earlier entry set aside, where they stood before.
// Their values are as the entries posted since then leave them: a spelling that was
// corrected meanwhile comes back corrected.
type Return struct {
	Entry int `json:"entry"` // number of the entry that set the rows aside
}

// Words names the entry the rows come back from.
func (e *Return) Words() string {
	return fmt.Sprintf("Return the rows that entry %d set aside", e.Entry)
}

// Cost: O(rows).
func (e *Return) apply(_ context.Context, t *table.Table, in Inputs) (*Result, error) {
	if in.Aside == nil {
		return nil, problem.New("", "no rows are set aside here")
	}
	aside, err := in.Aside(e.Entry)
	if err != nil {
		return nil, err
	}
	stands := make([]bool, t.Base())
	for i := range t.Rows() {
		stands[t.BaseRow(i)] = true
	}
	rows := make([]uint32, 0, t.Rows()+len(aside.Rows))
	for i := range t.Rows() {
		rows = append(rows, t.BaseRow(i))
	}
	for _, base := range aside.Rows {
		if !stands[base] {
			rows = append(rows, base)
		}
	}
	added := len(rows) - t.Rows()
	if added == 0 {
		return nil, problem.New("Open the journal to see which entry returned them", "the rows of entry %d already stand in the table", e.Entry)
	}
	sortBySource(t, rows)
	r := &Result{Table: t.Select(&table.Selection{Rows: rows})}
	r.Effect.Balance = Balance{Before: t.Rows(), Added: added, After: len(rows)}
	return r, nil
}

// sortBySource puts base rows in the order of the source, rows that one row of the source
// became behind one another.
func sortBySource(t *table.Table, rows []uint32) {
	if origins := t.Origins(); len(origins) == 1 && origins[0].Rows != nil {
		from := origins[0]
		slices.SortFunc(rows, func(a, b uint32) int { return cmp.Or(cmp.Compare(from.Row(a), from.Row(b)), cmp.Compare(a, b)) })
		return
	}
	slices.Sort(rows)
}
