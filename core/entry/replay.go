package entry

import (
	"context"
	"errors"
	"fmt"

	"grandledger/core/problem"
	"grandledger/core/table"
)

// Step is an entry of a journal to be done again.
type Step struct {
	Number int
	Kind   string
	Params []byte
}

// Outcome is what a step comes to: a result, or the problem for which it does not apply.
type Outcome struct {
	Entry   Entry
	Result  *Result
	Problem *problem.Problem
}

// Replay does the entries of a journal again, one after another, on another table. A step
// that does not apply is left out and says why; those after it go on without it. Rows that
// an earlier step set aside are known to later ones by the earlier one's number, those of
// entries before all steps by earlier.
//
// Cost: that of the entries.
func Replay(ctx context.Context, t *table.Table, steps []Step, earlier Inputs) ([]Outcome, *table.Table, error) {
	asides := map[int]*table.Selection{}
	in := Inputs{Tables: earlier.Tables, Taken: earlier.Taken, Aside: func(number int) (*table.Selection, error) {
		if rows := asides[number]; rows != nil {
			return rows, nil
		}
		if earlier.Aside != nil {
			return earlier.Aside(number)
		}
		return nil, problem.New("Leave it out", "entry %d sets no rows aside now", number)
	}}
	out := make([]Outcome, len(steps))
	for i, s := range steps {
		if err := ctx.Err(); err != nil {
			return nil, nil, err
		}
		e, err := Decode(s.Kind, s.Params)
		if err != nil {
			return nil, nil, fmt.Errorf("entry %d: %w", s.Number, err)
		}
		out[i].Entry = e
		r, err := Apply(ctx, e, t, in)
		if errors.As(err, &out[i].Problem) {
			continue
		} else if err != nil {
			return nil, nil, fmt.Errorf("entry %d: %w", s.Number, err)
		}
		out[i].Result, t, asides[s.Number] = r, r.Table, r.Aside
	}
	return out, t, nil
}

// Renumbered gives the entry with the numbers of other entries it speaks of changed.
func Renumbered(e Entry, to map[int]int) Entry {
	switch e := e.(type) {
	case *narrowed:
		return &narrowed{Renumbered(e.Entry, to), e.where}
	case *Return:
		if next, ok := to[e.Entry]; ok {
			return &Return{Entry: next}
		}
	}
	return e
}
