package entry

import (
	"context"

	"grandledger/core/duplicate"
	"grandledger/core/problem"
	"grandledger/core/table"
)

// Duplicates keeps one row of each group of rows that are equal on the key, and sets
// the others aside.
type Duplicates struct {
	Key  []string       `json:"key"`
	Keep duplicate.Keep `json:"keep"` // the first or the last row of each group
}

// Words names the key and the row that stays.
func (e *Duplicates) Words() string {
	return "Set aside repeats of " + listing(e.Key) + ", keeping the " + string(e.Keep) + " row of each group"
}

// Cost: O(rows x key columns).
func (e *Duplicates) apply(_ context.Context, t *table.Table, _ Inputs) (*Result, error) {
	if e.Keep != duplicate.First && e.Keep != duplicate.Last {
		return nil, problem.New("Keep the first or the last row", "there is no rule to keep a row called %q", e.Keep)
	}
	var key []*table.Column
	for _, name := range e.Key {
		c, _, err := column(t, name)
		if err != nil {
			return nil, err
		}
		key = append(key, c)
	}
	if len(key) == 0 {
		return nil, problem.New("Choose the columns that make two rows the same", "no key column was chosen")
	}
	kept, aside := duplicate.Find(t, key).Split(t, e.Keep)
	r := &Result{Table: t}
	r.Effect.Balance = Balance{Before: t.Rows(), SetAside: len(aside.Rows), After: len(kept.Rows)}
	if len(aside.Rows) > 0 {
		r.Table, r.Aside = t.Select(kept), aside
	}
	return r, nil
}
