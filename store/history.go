package store

import (
	"context"
	"errors"
	"fmt"
	"time"

	"github.com/jackc/pgx/v5"

	"grandledger/core/compare"
	"grandledger/core/entry"
	"grandledger/core/problem"
	"grandledger/core/survivorship"
	"grandledger/core/table"
)

// After loads a table as it stood after an entry.
func (s *Store) After(ctx context.Context, tableID int64, number int) (*Loaded, error) {
	var after int64
	err := s.Pool.QueryRow(ctx, `select after from entry where table_id = $1 and number = $2`, tableID, number).Scan(&after)
	if errors.Is(err, pgx.ErrNoRows) {
		return nil, fmt.Errorf("entry %d of table %d: %w", number, tableID, ErrNotFound)
	} else if err != nil {
		return nil, err
	}
	return s.Load(ctx, after)
}

// Difference compares how a table stood after two of its entries.
func (s *Store) Difference(ctx context.Context, tableID int64, from, to int) (*compare.Difference, error) {
	var sides [2]*Loaded
	for i, number := range []int{from, to} {
		var err error
		if sides[i], err = s.After(ctx, tableID, number); err != nil {
			return nil, err
		}
	}
	deliveries, opening := 0, 0
	err := s.Pool.QueryRow(ctx, `select count(*) filter (where kind = 'refresh'), (select base_rows from entry o join revision r on r.id = o.after where o.table_id = $1 and o.number = 0)
		from entry where table_id = $1 and number > least($2::int, $3) and number <= greatest($2::int, $3)`, tableID, from, to).Scan(&deliveries, &opening)
	if err != nil {
		return nil, err
	}
	if deliveries > 0 {
		return nil, problem.New("Open the entry of the delivery, which says what came and went", "a new delivery lies between entries %d and %d, so no row of one is a row of the other", from, to)
	}
	shared := min(sides[0].Table.Base(), sides[1].Table.Base())
	if !table.SameRows(sides[0].Table, sides[1].Table, shared) {
		shared = opening // rows that entries made are not the same where the journal was amended between
	}
	return compare.Revisions(sides[0].Table, sides[1].Table, shared), nil
}

// Lived is what an entry did to a cell.
type Lived struct {
	Number int
	Words  string
	At     time.Time
	From   *string           // nil where the cell was not there before
	To     *string           // nil where the entry set its row aside
	Rule   survivorship.Rule // of a value made of several
	Made   []Cell            // of which
}

// Cell is a cell with the number of its row in the first source, 0 for none.
type Cell struct {
	Row   int
	Value string
}

// Life lists the entries that changed a cell, the latest first, back to the opening entry.
// The cell is of a base row of a revision. Cost: a look at each entry that led there,
// and loading the revisions between.
func (s *Store) Life(ctx context.Context, tableID, revision int64, row int, column string) ([]Lived, error) {
	l, err := s.LoadOf(ctx, tableID, revision)
	if err != nil {
		return nil, err
	}
	if row < 0 || row >= l.Table.Base() {
		return nil, problem.New("Choose a row of the table", "there is no row %d", row)
	}
	if _, _, err := l.Table.Column(column); err != nil {
		return nil, problem.New("Choose a column the table has", "the table has no column %q", column)
	}
	base := uint32(row)
	out := []Lived{}
	for at := revision; ; {
		var e Lived
		var before *int64
		var kind string
		var params []byte
		err := s.Pool.QueryRow(ctx, `select number, words, posted_at, before, kind, params from entry where table_id = $1 and after = $2 and kind <> 'amend' order by number desc limit 1`,
			tableID, at).Scan(&e.Number, &e.Words, &e.At, &before, &kind, &params)
		if errors.Is(err, pgx.ErrNoRows) {
			return out, nil
		} else if err != nil {
			return nil, err
		}
		to := valueOf(l.Table, base, column)
		if e.Number == 0 || before == nil || kind == "refresh" {
			e.To = to
			return append(out, e), nil
		}
		was, err := s.Load(ctx, *before)
		if err != nil {
			return nil, err
		}
		name := nameBefore(kind, params, column, was.Table)
		made := int(base) >= was.Table.Base() // by a split into rows: it goes on with the row it came from
		if made {
			var ok bool
			if base, ok = cameFrom(was.Table, l.Table, base); !ok {
				e.To = to
				return append(out, e), nil
			}
		}
		if _, _, err := was.Table.Column(name); err != nil {
			e.To = to
			return append(out, e), nil
		}
		e.From, e.To = valueOf(was.Table, base, name), to
		if err := e.trace(kind, params, was.Table, base, name); err != nil {
			return nil, err
		}
		if made || name != column || e.Made != nil || !same(e.From, e.To) {
			out = append(out, e)
		}
		l, at, column = was, *before, name
	}
}

// trace says what a value was made of, where the entry combined rows.
func (e *Lived) trace(kind string, params []byte, before *table.Table, base uint32, column string) error {
	decoded, err := entry.Decode(kind, params)
	if err != nil {
		return err
	}
	m, ok := decoded.(*entry.Merge)
	if !ok {
		return nil
	}
	rule, from, err := m.Traced(before, base, column)
	if err != nil || len(from) < 2 {
		return nil // the row was not combined with others
	}
	e.Rule = rule
	for _, f := range from[:min(len(from), maxMade)] {
		row := 0
		if origins := before.Origins(); len(origins) > 0 {
			row = int(origins[0].Row(f.Base))
		}
		e.Made = append(e.Made, Cell{row, f.Value})
	}
	return nil
}

// maxMade is how many cells a value is traced to.
const maxMade = 100

// cameFrom finds the base row before an entry that has the same source rows as one after it;
// false where it came from none, as a row that was typed.
func cameFrom(before, after *table.Table, base uint32) (uint32, bool) {
	for old := range uint32(before.Base()) {
		like, any := true, false
		for i, o := range before.Origins() {
			row := after.Origins()[i].Row(base)
			like = like && o.Row(old) == row
			any = any || row > 0
		}
		if like && any {
			return old, true
		}
	}
	return 0, false
}

func same(a, b *string) bool { return a == b || a != nil && b != nil && *a == *b }

// valueOf is the text of a cell, nil where there is none.
func valueOf(t *table.Table, base uint32, column string) *string {
	c, _, err := t.Column(column)
	if err != nil {
		return nil
	}
	if v, ok := c.Value(base); ok {
		return &v
	}
	return nil
}

// nameBefore is what a column was called before an entry.
func nameBefore(kind string, params []byte, column string, before *table.Table) string {
	e, err := entry.Decode(kind, params)
	if err != nil {
		return column
	}
	if c, ok := entry.Inner(e).(*entry.Columns); ok {
		for _, as := range c.Columns {
			if as.As == column || as.As == "" && as.From == column {
				return as.From
			}
		}
	}
	return column
}
