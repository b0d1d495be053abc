package store

import (
	"cmp"
	"context"
	"errors"
	"fmt"

	"github.com/jackc/pgx/v5"

	"grandledger/core/entry"
	"grandledger/core/problem"
	"grandledger/core/table"
)

// Copying asks for a table with the rows of another.
type Copying struct {
	Table    int64  `json:"table"`
	Revision int64  `json:"revision"`
	Aside    int    `json:"aside,omitempty"` // an entry: the rows it set aside, and not those that stand
	Base     int    `json:"base"`            // base rows that both have
	Name     string `json:"-"`
}

// Copy opens a table with the rows of another as it stands at a revision, or with those that an
// entry set aside and that do not stand. Both share all their parts. With a key that was used before
// it gives the table opened then. Cost: O(rows); nothing is copied.
func (s *Store) Copy(ctx context.Context, key string, book int64, c Copying) (Table, error) {
	of, err := s.Table(ctx, c.Table)
	if err != nil {
		return Table{}, err
	} else if of.BookID != book {
		return Table{}, fmt.Errorf("table %d in book %d: %w", c.Table, book, ErrNotFound)
	}
	from, err := s.LoadOf(ctx, c.Table, c.Revision)
	if err != nil {
		return Table{}, err
	}
	t, words := from.Table, "Copied from "+of.Name
	if c.Aside != 0 {
		words = fmt.Sprintf("Took apart the rows that entry %d of %s set aside", c.Aside, of.Name)
		if t, err = s.apart(ctx, from.Table, c); err != nil {
			return Table{}, err
		}
	}
	c.Base = t.Base()
	var id int64
	var kept *Loaded
	err = s.inTx(ctx, func(tx pgx.Tx) error {
		done, err := Claim(ctx, tx, key, &id)
		if err != nil || done {
			return err
		}
		id, kept, err = s.CreateTable(ctx, tx, t, Opening{Book: book, Name: c.Name, Kind: "copy", Words: words, Params: c,
			Balance: entry.Balance{Added: t.Rows(), After: t.Rows()}, From: []*Loaded{from}})
		if err != nil {
			return err
		}
		return Answer(ctx, tx, key, id)
	})
	if err != nil {
		return Table{}, err
	}
	if kept != nil {
		s.Keep(kept)
	}
	return s.Table(ctx, id)
}

// apart gives the rows that an entry set aside and that do not stand, with the values they have now.
func (s *Store) apart(ctx context.Context, t *table.Table, c Copying) (*table.Table, error) {
	_, aside, err := s.aside(ctx, c.Table, c.Aside, true)
	if err != nil {
		return nil, err
	}
	stands := make([]bool, t.Base())
	for row := range t.Rows() {
		stands[t.BaseRow(row)] = true
	}
	rows := &table.Selection{}
	for _, base := range aside.Rows {
		if int(base) < len(stands) && !stands[base] {
			rows.Rows = append(rows.Rows, base)
		}
	}
	if len(rows.Rows) == 0 {
		return nil, problem.New("Open the journal to see which entry returned them", "the rows of entry %d stand in the table again", c.Aside)
	}
	return t.Select(rows), nil
}

// taken gives tables that rows of a table were taken apart into, to its entries.
func (s *Store) taken(ctx context.Context, tableID int64) func(string, int64) (*table.Table, int64, int, error) {
	return func(name string, revision int64) (*table.Table, int64, int, error) {
		var id, head int64
		var c Copying
		err := s.Pool.QueryRow(ctx, `select o.id, o.head, e.params from stewarded_table t join stewarded_table o on o.book_id = t.book_id and o.name = $2
			join entry e on e.table_id = o.id and e.number = 0 and e.kind = 'copy' and (e.params->>'table')::bigint = t.id where t.id = $1`, tableID, name).Scan(&id, &head, &c)
		if errors.Is(err, pgx.ErrNoRows) {
			return nil, 0, 0, problem.New("Choose a table that was copied or taken apart from this one", "no rows of this table were taken apart into %q", name)
		} else if err != nil {
			return nil, 0, 0, err
		}
		var since bool
		if err := s.Pool.QueryRow(ctx, `select exists(select from entry where table_id = $1 and kind = 'refresh' and state = 'posted' and before >= $2)`, tableID, c.Revision).Scan(&since); err != nil {
			return nil, 0, 0, err
		}
		if since {
			return nil, 0, 0, problem.New("Take the rows of this delivery apart", "a new delivery has come since %s was taken apart, so its rows are not those of this table any more", name)
		}
		l, err := s.LoadOf(ctx, id, cmp.Or(revision, head))
		if err != nil {
			return nil, 0, 0, err
		}
		return l.Table, l.Revision, c.Base, nil
	}
}
