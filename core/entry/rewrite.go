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

// column rewrites the values of one column. Cost: O(distinct), no row is touched.
func (w *rewriting) column(name string, to func(string) string) error {
	c, at, err := column(w.table, name)
	if err != nil {
		return err
	}
	next, recode := c.Rewrite(to)
	before := w.table.Counts(c)
	w.table = w.table.With(at, next)
	after := w.table.Counts(next)

	e := ColumnEffect{Column: name, DistinctBefore: distinct(before), DistinctAfter: distinct(after)}
	for code := uint32(1); code < uint32(len(before)); code++ {
		rows := int(before[code])
		if rows == 0 {
			continue
		}
		from, result := c.Dict.Value(code), next.Dict.Value(recode[code])
		if result != from {
			e.Cells += rows
			w.effect.Changed++
			w.effect.Pairs = append(w.effect.Pairs, Pair{name, from, result, rows, int(after[recode[code]]) > rows})
		}
	}
	w.effect.Columns = append(w.effect.Columns, e)
	slices.SortFunc(w.effect.Pairs, func(a, b Pair) int {
		return cmp.Or(cmp.Compare(b.Rows, a.Rows), cmp.Compare(a.From, b.From), cmp.Compare(a.Column, b.Column))
	})
	w.effect.Pairs = w.effect.Pairs[:min(len(w.effect.Pairs), MaxPairs)]
	return nil
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
