package entry

import (
	"cmp"
	"runtime"
	"slices"
	"sync"

	"grandledger/core/table"
)

// rewriting collects the effect of rewriting values column by column.
type rewriting struct {
	table  *table.Table
	effect Effect
	full   bool // the pairs are in order, and there are as many as are listed
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
	next, recode := c.Rewrite(func() func(uint32, string) string {
		to := each()
		return func(_ uint32, v string) string { return to(v) }
	})
	before := w.table.Counts(c)
	w.table = w.table.With(at, next)
	after := w.table.Counts(next)

	e := ColumnEffect{Column: name, DistinctBefore: distinct(before), DistinctAfter: distinct(after)}
	parts := make([]rewriting, min(runtime.GOMAXPROCS(0), 1+len(before)/changedAlone))
	cells := make([]int, len(parts))
	var work sync.WaitGroup
	for i := range parts {
		work.Go(func() {
			for code := max(1, len(before)*i/len(parts)); code < len(before)*(i+1)/len(parts); code++ {
				rows := int(before[code])
				if rows == 0 {
					continue
				}
				if from, to := c.Dict.Value(uint32(code)), next.Dict.Value(recode[code]); to != from {
					cells[i] += rows
					parts[i].changed(Pair{name, from, to, rows, int(after[recode[code]]) > rows})
				}
			}
		})
	}
	work.Wait()
	for i, part := range parts {
		e.Cells += cells[i]
		w.effect.Changed += part.effect.Changed
		w.effect.Pairs = append(w.effect.Pairs, part.effect.Pairs...)
	}
	w.effect.Columns = append(w.effect.Columns, e)
	w.cut()
	return nil
}

// changedAlone is how many values are looked at before another core is worth it.
const changedAlone = 1 << 17

// changed notes a value that changes. Of millions only the first ones are listed.
func (w *rewriting) changed(pair Pair) {
	w.effect.Changed++
	if w.full && byRows(pair, w.effect.Pairs[MaxPairs-1]) > 0 {
		return
	}
	if w.effect.Pairs = append(w.effect.Pairs, pair); len(w.effect.Pairs) > 8*MaxPairs {
		w.cut()
	}
}

// cut puts the pairs in order and keeps the first ones.
func (w *rewriting) cut() {
	slices.SortFunc(w.effect.Pairs, byRows)
	w.full = len(w.effect.Pairs) >= MaxPairs
	w.effect.Pairs = w.effect.Pairs[:min(len(w.effect.Pairs), MaxPairs)]
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
