package entry

import (
	"context"

	"grandledger/core/condition"
	"grandledger/core/problem"
	"grandledger/core/table"
)

// Rows keeps the rows that hold a condition, or sets them aside.
type Rows struct {
	Holding *condition.Condition `json:"holding"`
	Keep    bool                 `json:"keep"` // keep the rows that hold it; otherwise they are set aside
}

// Words says the condition.
func (e *Rows) Words() string {
	if e.Holding == nil {
		return "Set aside rows"
	}
	if e.Keep {
		return "Keep only the rows where " + e.Holding.Words()
	}
	return "Set aside the rows where " + e.Holding.Words()
}

// Cost: that of the condition, and O(rows).
func (e *Rows) apply(ctx context.Context, t *table.Table, _ Inputs) (*Result, error) {
	if e.Holding == nil {
		return nil, problem.New("Give at least one condition", "there is no condition")
	}
	set, _, err := condition.Rows(ctx, t, e.Holding)
	if err != nil {
		return nil, err
	}
	held, others := set.Selection(t), set.Others(t)
	kept, aside := others, held
	if e.Keep {
		kept, aside = held, others
	}
	r := &Result{Table: t}
	r.Effect.Balance = Balance{Before: t.Rows(), SetAside: len(aside.Rows), After: len(kept.Rows)}
	if len(aside.Rows) > 0 {
		r.Table, r.Aside = t.Select(kept), aside
	}
	return r, nil
}
