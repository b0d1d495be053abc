package entry

import (
	"context"
	"fmt"
	"slices"
	"strings"

	"grandledger/core/problem"
	"grandledger/core/table"
)

// Values replaces values of a column by others: one value corrected in the tally, or
// the variant spellings of a column mapped to their standard values. Every cell with
// the value changes.
type Values struct {
	Column  string   `json:"column"`
	Changes []Change `json:"changes"`
	// Crosswalk names the crosswalk in which the changes are remembered as decisions;
	// empty when they are corrections of this table alone.
	Crosswalk string `json:"crosswalk,omitempty"`
	// Into is the name of a new column beside it that gets the values; empty to change the column itself.
	Into string `json:"into,omitempty"`
}

// Change maps one value to another. Why is the evidence it was proposed on, if any.
type Change struct {
	From string `json:"from"`
	To   string `json:"to"`
	Why  string `json:"why,omitempty"`
}

// Words tells a single correction in full and counts a mapping.
func (e *Values) Words() string {
	if e.Into != "" {
		return e.words() + ", into the new column " + brief(e.Into)
	}
	return e.words()
}

func (e *Values) words() string {
	if len(e.Changes) == 1 {
		return fmt.Sprintf("Change “%s” to “%s” in %s", brief(e.Changes[0].From), brief(e.Changes[0].To), e.Column)
	}
	standards := map[string]bool{}
	for _, c := range e.Changes {
		standards[c.To] = true
	}
	if len(standards) == 1 {
		return fmt.Sprintf("Map %d spellings of %s to “%s”", len(e.Changes), e.Column, brief(e.Changes[0].To))
	}
	return fmt.Sprintf("Map %d spellings of %s to %d standard values", len(e.Changes), e.Column, len(standards))
}

func (e *Values) apply(_ context.Context, t *table.Table, _ Inputs) (*Result, error) {
	if len(e.Changes) == 0 {
		return nil, problem.New("Take at least one group, or change a value", "there is nothing to change")
	}
	to := make(map[string]string, len(e.Changes))
	for _, c := range e.Changes {
		if old, twice := to[c.From]; twice && old != c.To {
			p := problem.New("Choose one of the two", "%q is to become both %q and %q", brief(c.From), brief(old), brief(c.To))
			p.Column = e.Column
			return nil, p
		}
		to[c.From] = c.To
	}
	into := strings.TrimSpace(e.Into)
	_, at, err := column(t, e.Column)
	if err != nil {
		return nil, err
	}
	w := newRewriting(t)
	change := func(v string) string {
		if next, ok := to[v]; ok {
			return next
		}
		return v
	}
	if err := w.column(e.Column, func() func(string) string { return change }); err != nil {
		return nil, err
	}
	if into == "" {
		return w.result(), nil
	}
	made := *w.table.Columns()[at]
	made.Name = into
	w.effect.Columns[0] = added(w.table, &made)
	for i := range w.effect.Pairs {
		w.effect.Pairs[i].Column = into
	}
	out, err := shaped(t, slices.Insert(slices.Clone(t.Columns()), at+1, &made), &w.effect)
	if err != nil {
		return nil, err
	}
	return &Result{Table: out, Effect: w.effect}, nil
}

// brief cuts a value for a sentence.
func brief(v string) string {
	if r := []rune(v); len(r) > 60 {
		return string(r[:57]) + "…"
	}
	return v
}
