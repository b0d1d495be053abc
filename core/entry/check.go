package entry

import (
	"context"

	"grandledger/core/condition"
	"grandledger/core/duplicate"
	"grandledger/core/problem"
	"grandledger/core/table"
)

// Check changes nothing: it stands in the journal so that replaying stops being quiet when
// what it says no longer holds. Either no row holds a condition, or no two rows have the
// same key.
type Check struct {
	None *condition.Condition `json:"none,omitempty"`
	Key  []string             `json:"key,omitempty"`
}

// Words says what must hold.
func (e *Check) Words() string {
	if e.None != nil {
		return "Check that there is no row where " + e.None.Words()
	}
	return "Check that no two rows have the same " + listing(e.Key)
}

// Cost: that of the condition, or O(rows x key columns).
func (e *Check) apply(ctx context.Context, t *table.Table, _ Inputs) (*Result, error) {
	found := 0
	switch {
	case (e.None == nil) == (len(e.Key) == 0):
		return nil, problem.New("Give a condition that no row may hold, or the columns of a key", "there is nothing to check, or two things")
	case e.None != nil:
		part, _, err := condition.Narrow(ctx, t, e.None)
		if err != nil {
			return nil, err
		}
		found = part.Rows()
	default:
		var key []*table.Column
		for _, name := range e.Key {
			c, _, err := column(t, name)
			if err != nil {
				return nil, err
			}
			key = append(key, c)
		}
		found = duplicate.Find(t, duplicate.Exactly(key), false).Summary().Repeats
	}
	if found > 0 {
		return nil, problem.New("Look at these rows, and mend them before this entry", "the check does not hold: %d rows are against it", found)
	}
	n := t.Rows()
	return &Result{Table: t, Effect: Effect{Balance: Balance{Before: n, After: n}}}, nil
}
