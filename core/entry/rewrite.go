package entry

import (
	"cmp"
	"slices"

	"grandledger/core/table"
)

// rewriting collects the effect of rewriting values column by column.
type rewriting struct {
	table  *table.Table
	effect Effect
}

func newRewriting(t *table.Table) *rewriting {
	n := t.Rows()
	return &rewriting{table: t, effect: Effect{Balance: Balance{Before: n, After: n}}}
}

// column rewrites the values of one column; each gives a function for one goroutine. Cost:
// O(distinct) on all cores, no row is touched.
func (w *rewriting) column(name string, each func() func(string) string) error {
	c, at, err := column(w.table, name)
	if err != nil {
		return err
	}
	before := w.table.Counts(c)
	var parts []*changedValues
	next, recode := c.Rewrite(func() func(uint32, string) string {
		part, to := &changedValues{}, each()
		parts = append(parts, part)
		return func(code uint32, v string) string {
			next := to(v)
			if rows := int(before[code]); rows > 0 && next != v {
				part.note(code, rows, v, next)
			}
			return next
		}
	})
	w.table = w.table.With(at, next)
	after := w.table.Counts(next)

	e := ColumnEffect{Column: name, DistinctBefore: distinct(before), DistinctAfter: distinct(after)}
	for _, part := range parts {
		e.Cells += part.cells
		w.effect.Changed += part.values
		for _, p := range part.pairs {
			w.effect.Pairs = append(w.effect.Pairs, Pair{name, p.from, p.to, p.rows, int(after[recode[p.code]]) > p.rows})
		}
	}
	w.effect.Columns = append(w.effect.Columns, e)
	slices.SortFunc(w.effect.Pairs, byRows)
	w.effect.Pairs = w.effect.Pairs[:min(len(w.effect.Pairs), MaxPairs)]
	return nil
}

// changedValues are the values that one goroutine changes. Of millions only the first ones are listed.
type changedValues struct {
	values, cells int
	pairs         []changed
	full          bool // the pairs were in order, and there were as many as are listed
}

// changed is a value that changes, before it is known what else becomes the same.
type changed struct {
	code     uint32
	rows     int
	from, to string
}

func (c *changedValues) note(code uint32, rows int, from, to string) {
	c.values++
	c.cells += rows
	if c.full {
		if last := &c.pairs[MaxPairs-1]; rows < last.rows || rows == last.rows && from > last.from {
			return
		}
	}
	if len(c.pairs) >= 8*MaxPairs {
		slices.SortFunc(c.pairs, func(a, b changed) int { return cmp.Or(cmp.Compare(b.rows, a.rows), cmp.Compare(a.from, b.from)) })
		c.pairs, c.full = c.pairs[:MaxPairs], true
	}
	c.pairs = append(c.pairs, changed{code, rows, from, to})
}

// byRows orders pairs: most rows first, equal ones by alphabet.
func byRows(a, b Pair) int {
	return cmp.Or(cmp.Compare(b.Rows, a.Rows), cmp.Compare(a.From, b.From), cmp.Compare(a.Column, b.Column))
}

func (w *rewriting) result() *Result { return &Result{Table: w.table, Effect: w.effect} }

func distinct(counts []uint32) int {
	n := 0
	for _, rows := range counts[1:] {
		if rows > 0 {
			n++
		}
	}
	return n
}
