package store

import (
	"context"
	"fmt"

	"github.com/jackc/pgx/v5"

	"grandledger/core/problem"
	"grandledger/core/watch"
)

// Watch is a rule that a table is to hold.
type Watch struct {
	ID   int64
	Rule watch.Rule
}

// maxWatches is how many watches a table can have.
const maxWatches = 100

// Watches lists the watches of a table, the oldest first.
func (s *Store) Watches(ctx context.Context, tableID int64) ([]Watch, error) {
	if _, err := s.Table(ctx, tableID); err != nil {
		return nil, err
	}
	rows, _ := s.Pool.Query(ctx, `select id, rule from watch where table_id = $1 order by id`, tableID)
	return pgx.CollectRows(rows, pgx.RowToStructByPos[Watch])
}

// AddWatch watches a rule from now on. Watching it twice changes nothing.
func (s *Store) AddWatch(ctx context.Context, tableID int64, rule watch.Rule) (Watch, error) {
	w := Watch{Rule: rule}
	if err := rule.Check(); err != nil {
		return w, err
	}
	err := s.inTx(ctx, func(tx pgx.Tx) error {
		tag, err := tx.Exec(ctx, `select from stewarded_table where id = $1 for update`, tableID)
		if err != nil {
			return err
		} else if tag.RowsAffected() == 0 {
			return fmt.Errorf("table %d: %w", tableID, ErrNotFound)
		}
		var have int
		if err := tx.QueryRow(ctx, `select count(*) from watch where table_id = $1`, tableID).Scan(&have); err != nil {
			return err
		}
		if have >= maxWatches {
			return problem.New("Drop one that is not needed any more", "the table has %d watches already", maxWatches)
		}
		err = tx.QueryRow(ctx, `insert into watch (table_id, rule) values ($1, $2) on conflict (table_id, rule) do update set rule = excluded.rule returning id`, tableID, rule).Scan(&w.ID)
		if err != nil {
			return err
		}
		return Tell(ctx, tx, "table", tableID)
	})
	return w, err
}

// DropWatch watches a rule no longer.
func (s *Store) DropWatch(ctx context.Context, tableID, id int64) error {
	return s.inTx(ctx, func(tx pgx.Tx) error {
		tag, err := tx.Exec(ctx, `delete from watch where table_id = $1 and id = $2`, tableID, id)
		if err != nil {
			return err
		} else if tag.RowsAffected() == 0 {
			return fmt.Errorf("watch %d of table %d: %w", id, tableID, ErrNotFound)
		}
		return Tell(ctx, tx, "table", tableID)
	})
}

// Known gives what a crosswalk of a book has: spellings and standard values alike.
func (s *Store) Known(ctx context.Context, book int64) func(crosswalk string) (func(string) bool, error) {
	return func(name string) (func(string) bool, error) {
		same, _, err := s.Crosswalk(ctx, book, name)
		if err != nil {
			return nil, err
		}
		known := make(map[string]bool, 2*len(same))
		for _, d := range same {
			known[d.Variant], known[d.Standard] = true, true
		}
		return func(v string) bool { return known[v] }, nil
	}
}
