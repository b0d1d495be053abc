package entry

import (
	"context"
	"strings"

	"grandledger/core/problem"
	"grandledger/core/table"
	"grandledger/core/tidy"
)

// Tidy rewrites the text of one or more columns by steps, in order.
type Tidy struct {
	Columns []string    `json:"columns"`
	Steps   []tidy.Step `json:"steps"`
}

// maxSteps is how many steps an entry has at most.
const maxSteps = 30

// Words names what is tidied and where.
func (e *Tidy) Words() string {
	var did []string
	for _, s := range e.Steps {
		did = append(did, s.Words())
	}
	w := listing(did) + " in " + listing(e.Columns)
	return strings.ToUpper(w[:1]) + w[1:]
}

// Cost: O(bytes of the distinct values) for each step.
func (e *Tidy) apply(ctx context.Context, t *table.Table, _ Inputs) (*Result, error) {
	if len(e.Columns) == 0 {
		return nil, problem.New("Choose at least one column", "no column was chosen")
	}
	if len(e.Steps) == 0 || len(e.Steps) > maxSteps {
		return nil, problem.New("Choose what to tidy", "there is nothing to tidy, or more than %d steps", maxSteps)
	}
	if _, err := tidy.All(e.Steps); err != nil {
		return nil, err
	}
	each := func() func(string) string { // letter case is not for several goroutines at once
		do, _ := tidy.All(e.Steps)
		return do
	}
	w := newRewriting(t)
	for _, name := range e.Columns {
		if err := ctx.Err(); err != nil {
			return nil, err
		}
		if err := w.column(name, each); err != nil {
			return nil, err
		}
	}
	return w.result(), nil
}

// listing writes "a", "a and b", "a, b and c".
func listing(items []string) string {
	if len(items) < 2 {
		return strings.Join(items, "")
	}
	return strings.Join(items[:len(items)-1], ", ") + " and " + items[len(items)-1]
}
