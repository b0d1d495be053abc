package store

import (
	"context"
	"errors"
	"fmt"
	"slices"
	"time"

	"github.com/jackc/pgx/v5"

	"grandledger/core/problem"
)

// Mark is a name for how a table stood.
type Mark struct {
	Name   string
	Entry  int // the last entry then
	MadeAt time.Time
	Stands bool // the table stands so now
}

// maxMarks is how many marks a table has at most.
const maxMarks = 200

// Marks lists the marks of a table, the oldest first.
func (s *Store) Marks(ctx context.Context, tableID int64) ([]Mark, error) {
	rows, _ := s.Pool.Query(ctx, `select m.name, (select max(number) from entry e where e.table_id = m.table_id and e.after = m.revision and e.kind <> 'amend'), m.made_at, m.revision = t.head
		from mark m join stewarded_table t on t.id = m.table_id where m.table_id = $1 order by m.made_at, m.name`, tableID)
	return pgx.CollectRows(rows, pgx.RowToStructByPos[Mark])
}

// SetMark marks how the table stands at a revision. The same mark set again is moved there.
func (s *Store) SetMark(ctx context.Context, tableID, revision int64, name string) error {
	name, err := properName(name, "mark")
	if err != nil {
		return err
	}
	return s.inTx(ctx, func(tx pgx.Tx) error {
		if _, err := s.lock(ctx, tx, tableID, revision, true); err != nil {
			return err
		}
		var n int
		if err := tx.QueryRow(ctx, `select count(*) from mark where table_id = $1 and name <> $2`, tableID, name).Scan(&n); err != nil {
			return err
		}
		if n >= maxMarks {
			return problem.New("Remove one of them first", "the table has %d marks already", maxMarks)
		}
		if _, err := tx.Exec(ctx, `insert into mark (table_id, name, revision) values ($1, $2, $3)
			on conflict (table_id, name) do update set revision = excluded.revision, made_at = now()`, tableID, name, revision); err != nil {
			return err
		}
		return Tell(ctx, tx, "table", tableID)
	})
}

// RemoveMark forgets a mark; the table stays as it is.
func (s *Store) RemoveMark(ctx context.Context, tableID int64, name string) error {
	return s.inTx(ctx, func(tx pgx.Tx) error {
		tag, err := tx.Exec(ctx, `delete from mark where table_id = $1 and name = $2`, tableID, name)
		if err == nil && tag.RowsAffected() == 0 {
			err = fmt.Errorf("mark %q of table %d: %w", name, tableID, ErrNotFound)
		}
		if err != nil {
			return err
		}
		return Tell(ctx, tx, "table", tableID)
	})
}

// ReturnTo brings a table back to how it stood at a mark: entries posted since are reversed, and
// those reversed since are posted again, all or none. It gives the last of them.
func (s *Store) ReturnTo(ctx context.Context, key string, tableID, revision int64, name string) (*Entry, error) {
	return s.once(ctx, key, func(tx pgx.Tx) (int, error) {
		if _, err := s.lock(ctx, tx, tableID, revision, true); err != nil {
			return 0, err
		}
		var to int64
		err := tx.QueryRow(ctx, `select revision from mark where table_id = $1 and name = $2`, tableID, name).Scan(&to)
		if errors.Is(err, pgx.ErrNoRows) {
			return 0, fmt.Errorf("mark %q of table %d: %w", name, tableID, ErrNotFound)
		} else if err != nil {
			return 0, err
		}
		if to == revision {
			return 0, problem.New("Nothing is to do", "the table stands as at %q", name)
		}
		back, forward, err := between(ctx, tx, tableID, revision, to)
		if err != nil {
			return 0, err
		}
		head, number := revision, 0
		for head != back {
			if number, head, err = reverseLast(ctx, tx, tableID, head, 0); err != nil {
				return 0, err
			}
		}
		for _, number = range forward {
			if head, err = repostOne(ctx, tx, tableID, head, number); err != nil {
				return 0, err
			}
		}
		return number, s.move(ctx, tx, tableID, head)
	}, tableID)
}

// between gives the revision to go back to on the way from one to another, and the reversed
// entries to post again from there.
func between(ctx context.Context, tx pgx.Tx, tableID, from, to int64) (back int64, forward []int, err error) {
	// As reversing goes: an amendment that is reversed lets what it superseded stand again, so
	// superseded entries are on the way too.
	rows, _ := tx.Query(ctx, `select number, before, after, state, kind from entry where table_id = $1 and number > 0 order by number`, tableID)
	type step struct {
		Number        int
		Before, After int64
		State, Kind   string
	}
	all, err := pgx.CollectRows(rows, pgx.RowToStructByPos[step])
	if err != nil {
		return 0, nil, err
	}
	reach := map[int64]bool{from: true}
	state := map[int]string{}
	for _, e := range all {
		state[e.Number] = e.State
	}
	for head := from; ; {
		i := -1
		for j := len(all) - 1; j >= 0 && i < 0; j-- {
			if all[j].After == head && state[all[j].Number] == "posted" {
				i = j
			}
		}
		if i < 0 {
			break
		}
		state[all[i].Number] = "reversed"
		head = all[i].Before
		reach[head] = true
		if all[i].Kind == "amend" || all[i].Kind == "refresh" {
			rows, _ := tx.Query(ctx, `select number from entry where table_id = $1 and superseded_by = $2`, tableID, all[i].Number)
			restored, err := pgx.CollectRows(rows, pgx.RowTo[int])
			if err != nil {
				return 0, nil, err
			}
			for _, number := range restored {
				state[number] = "posted"
			}
		}
	}
	for at := to; !reach[at]; {
		i := -1
		for j := len(all) - 1; j >= 0 && i < 0; j-- {
			if all[j].After == at && all[j].State == "reversed" && all[j].Kind != "amend" {
				i = j
			}
		}
		if i < 0 {
			return 0, nil, problem.New("Post the entries it takes again one by one", "the way to that mark leads through entries that were superseded")
		}
		forward = append(forward, all[i].Number)
		at = all[i].Before
		if reach[at] {
			back = at
		}
	}
	if len(forward) == 0 {
		back = to
	}
	slices.Reverse(forward)
	return back, forward, nil
}
