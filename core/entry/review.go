package entry

import (
	"context"
	"slices"
	"strings"

	"grandledger/core/problem"
	"grandledger/core/table"
)

// Review moves the values of a column that do not read into a column of their own, the review
// list: the column reads throughout, and nothing is lost.
type Review struct {
	Column string `json:"column"`
	Name   string `json:"name"` // of the review list
}

// Words names both.
func (e *Review) Words() string {
	return "Move what of " + e.Column + " does not read to " + e.Name
}

// Cost: O(distinct), no row is touched.
func (e *Review) apply(_ context.Context, t *table.Table, _ Inputs) (*Result, error) {
	c, at, err := column(t, e.Column)
	if err != nil {
		return nil, err
	}
	if strings.TrimSpace(e.Name) == "" {
		return nil, problem.New("Give it a name", "the review list has no name")
	}
	reads := c.Effective().Reader()
	unread := func(v string) bool {
		if strings.TrimSpace(v) == "" {
			return false
		}
		_, ok := reads(v)
		return !ok
	}
	w := newRewriting(t)
	keep := func(v string) string {
		if unread(v) {
			return ""
		}
		return v
	}
	err = w.column(e.Column, func() func(string) string { return keep })
	if err != nil {
		return nil, err
	}
	if w.effect.Changed == 0 {
		p := problem.New("Choose another column, or another reading", "every value of it reads")
		p.Column = c.Name
		return nil, p
	}
	kept := *w.table.Columns()[at]
	kept.Reading = c.Effective() // said, so that it stays when nothing else tells
	list := derived(c, strings.TrimSpace(e.Name), func(_ uint32, v string) string {
		if unread(v) {
			return v
		}
		return ""
	})
	w.effect.Columns = append(w.effect.Columns, added(t, list))
	columns := slices.Clone(t.Columns())
	columns[at] = &kept
	out, err := shaped(t, slices.Insert(columns, at+1, list), &w.effect)
	if err != nil {
		return nil, err
	}
	return &Result{Table: out, Effect: w.effect}, nil
}
