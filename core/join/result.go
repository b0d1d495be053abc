package join

import (
	"context"

	"golang.org/x/sync/errgroup"

	"grandledger/core/entry"
	"grandledger/core/problem"
	"grandledger/core/table"
)

// Result is the joined table with its row account.
type Result struct {
	Table   *table.Table
	Balance entry.Balance
	Aside   *table.Selection // base rows of the left table that are not kept; nil for none
}

// Result builds the joined table: left rows in their order, the partners of each in
// theirs, then right rows without a partner where they are kept. Dictionaries are
// shared with the sources. Every row knows its row in both sources.
//
// The balance counts from the left table: rows that matching multiplies or the right
// table alone brings are added, left rows that are not kept are set aside.
// Cost: O(result rows x columns).
func (m *Match) Result(ctx context.Context) (*Result, error) {
	n := m.Coverage.Result
	if n > table.MaxRows {
		return nil, problem.New("Join on more columns, or remove duplicates of the key first", "the join would have %d rows", n)
	}
	// Base rows plus one on each side; 0 is no partner.
	left, right := make([]uint32, 0, n), make([]uint32, 0, n)
	aside := &table.Selection{}
	for row, g := range m.group {
		if g == 0 {
			if m.spec.Rows == Both || m.spec.Rows == Right {
				aside.Rows = append(aside.Rows, m.left.Table.BaseRow(row))
			}
			if m.spec.Rows == Left || m.spec.Rows == All {
				left, right = append(left, m.left.Table.BaseRow(row)+1), append(right, 0)
			}
			continue
		}
		for _, partner := range m.rights[m.start[g]:m.start[g+1]] {
			left = append(left, m.left.Table.BaseRow(row)+1)
			right = append(right, m.right.Table.BaseRow(int(partner))+1)
		}
	}
	if m.spec.Rows == Right || m.spec.Rows == All {
		for row, matched := range m.rightMatched() {
			if !matched {
				left, right = append(left, 0), append(right, m.right.Table.BaseRow(row)+1)
			}
		}
	}
	columns, err := m.gather(ctx, left, right)
	if err != nil {
		return nil, err
	}
	origins := append(trace(m.left, left), trace(m.right, right)...)
	t, err := table.New(columns, len(left), origins...)
	if err != nil {
		return nil, err
	}
	if len(aside.Rows) == 0 {
		aside = nil
	}
	b := m.Balance()
	return &Result{t, b, aside}, b.Check(t.Rows())
}

// Balance is the row account of the result, known before it is built.
func (m *Match) Balance() entry.Balance {
	b := entry.Balance{Before: m.Coverage.LeftRows, After: m.Coverage.Result}
	if m.spec.Rows == Both || m.spec.Rows == Right {
		b.SetAside = b.Before - m.Coverage.LeftMatched
	}
	b.Added = b.After - b.Before + b.SetAside
	return b
}

// rightMatched says for each right position whether some left row is its partner.
func (m *Match) rightMatched() []bool {
	out := make([]bool, m.right.Table.Rows())
	for g := 1; g+1 < len(m.start); g++ {
		if m.met[g] {
			for _, row := range m.rights[m.start[g]:m.start[g+1]] {
				out[row] = true
			}
		}
	}
	return out
}

// gather spreads the brought columns over the result rows, columns side by side.
func (m *Match) gather(ctx context.Context, left, right []uint32) ([]*table.Column, error) {
	columns := make([]*table.Column, len(m.spec.Left)+len(m.spec.Right))
	work, ctx := errgroup.WithContext(ctx)
	work.SetLimit(2)
	for i := range columns {
		from, rows, b := m.left, left, Bring{}
		if i < len(m.spec.Left) {
			b = m.spec.Left[i]
		} else {
			from, rows, b = m.right, right, m.spec.Right[i-len(m.spec.Left)]
		}
		work.Go(func() error {
			c, _, err := from.Table.Column(b.Column)
			if err != nil {
				return err
			}
			codes := make([]uint32, len(rows))
			for at, base := range rows {
				if base > 0 {
					codes[at] = c.Code(base - 1)
				}
			}
			columns[i] = &table.Column{Name: b.As, Codes: &table.Codes{At: codes}, Dict: c.Dict, Reading: c.Reading}
			return ctx.Err()
		})
	}
	return columns, work.Wait()
}

// trace carries the origins of a side over to the result.
func trace(s Side, rows []uint32) []table.Origin {
	var out []table.Origin
	for _, o := range s.Table.Origins() {
		at := make([]uint32, len(rows))
		for i, base := range rows {
			if base > 0 {
				at[i] = o.Row(base - 1)
			}
		}
		out = append(out, table.Origin{Source: o.Source, Rows: &table.Codes{At: at}})
	}
	return out
}
