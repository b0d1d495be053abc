package store

import (
	"cmp"
	"context"
	"errors"
	"fmt"
	"strings"
	"time"

	"github.com/jackc/pgx/v5"

	"grandledger/core/entry"
	"grandledger/core/problem"
	"grandledger/core/table"
)

// Entry is a line of a journal.
type Entry struct {
	Number     int
	Kind       string
	Words      string
	Effect     entry.Effect
	Notes      []string
	State      string // posted, reversed, or superseded by the entry of a later delivery
	PostedAt   time.Time
	ReversedAt *time.Time
	HasAside   bool
	CanRepost  bool
	Repeats    *int   // the entry it does again on a new delivery
	Reason     string // why it was posted, in the steward's words
}

// root is the first of the entries that repeat one another.
func (e Entry) root() *int {
	if e.Repeats != nil {
		return e.Repeats
	}
	return &e.Number
}

const selectEntries = `select e.number, e.kind, e.words, e.effect, e.notes, e.state, e.posted_at, e.reversed_at, e.aside_part is not null,
	e.state = 'reversed' and e.before = t.head, e.repeats, e.reason from entry e join stewarded_table t on t.id = e.table_id `

// Journal lists the entries of a table, the opening first.
func (s *Store) Journal(ctx context.Context, tableID int64) ([]Entry, error) {
	rows, _ := s.Pool.Query(ctx, selectEntries+`where e.table_id = $1 order by e.number`, tableID)
	return pgx.CollectRows(rows, pgx.RowToStructByPos[Entry])
}

// Stale says that a change was drafted on a revision that no longer stands.
type Stale struct {
	Since []Entry // what was posted or reversed meanwhile
}

func (*Stale) Error() string { return "the table has changed since this was drafted" }

// stale explains why a revision no longer stands: the entries posted on from it, and
// those reversed that led to it.
func (s *Store) stale(ctx context.Context, tx pgx.Tx, tableID, revision int64) error {
	rows, _ := tx.Query(ctx, selectEntries+`where e.table_id = $1 and (
		e.state = 'posted' and e.before >= $2 or e.state = 'reversed' and e.after >= $2 and e.before < $2 or e.state = 'reversed' and e.after = $2)
		order by e.number`, tableID, revision)
	since, err := pgx.CollectRows(rows, pgx.RowToStructByPos[Entry])
	if err != nil {
		return err
	}
	return &Stale{Since: since}
}

// Drafted is what an entry would do.
type Drafted struct {
	Number int
	Words  string
	Effect entry.Effect
}

// Draft works an entry out on the revision that stands; nothing is stored.
func (s *Store) Draft(ctx context.Context, tableID, revision int64, kind string, params []byte) (*Drafted, error) {
	e, r, _, err := s.apply(ctx, tableID, revision, kind, params)
	if err != nil {
		return nil, err
	}
	d := &Drafted{Words: e.Words(), Effect: r.Effect}
	err = s.inTx(ctx, func(tx pgx.Tx) error {
		d.Number, err = s.lock(ctx, tx, tableID, revision, false)
		return err
	})
	return d, err
}

func (s *Store) apply(ctx context.Context, tableID, revision int64, kind string, params []byte) (entry.Entry, *entry.Result, *Loaded, error) {
	e, err := entry.Decode(kind, params)
	if err != nil {
		return nil, nil, nil, err
	}
	from, err := s.LoadOf(ctx, tableID, revision)
	if err != nil {
		return nil, nil, nil, err
	}
	r, err := entry.Apply(ctx, e, from.Table, entry.Inputs{Tables: s.tables(ctx, tableID), Taken: s.taken(ctx, tableID), Aside: func(number int) (*table.Selection, error) {
		_, aside, err := s.aside(ctx, tableID, number, true)
		return aside, err
	}})
	if err != nil {
		return nil, nil, nil, err
	}
	none(&r.Effect)
	return e, r, from, nil
}

// tables gives other tables of a table's book to its entries, by name.
func (s *Store) tables(ctx context.Context, tableID int64) func(string, int64) (*table.Table, int64, error) {
	return func(name string, revision int64) (*table.Table, int64, error) {
		var id, head int64
		err := s.Pool.QueryRow(ctx, `select o.id, o.head from stewarded_table t join stewarded_table o on o.book_id = t.book_id and o.name = $2 where t.id = $1`, tableID, name).Scan(&id, &head)
		if errors.Is(err, pgx.ErrNoRows) {
			return nil, 0, problem.New("Open the book to see its tables", "the book has no table called %q", name)
		} else if err != nil {
			return nil, 0, err
		}
		l, err := s.LoadOf(ctx, id, cmp.Or(revision, head))
		if err != nil {
			return nil, 0, err
		}
		return l.Table, l.Revision, nil
	}
}

// none makes absent lists empty ones, for JSON.
func none(e *entry.Effect) {
	if e.Columns == nil {
		e.Columns = []entry.ColumnEffect{}
	}
	if e.Pairs == nil {
		e.Pairs = []entry.Pair{}
	}
}

// LoadOf loads a revision and makes sure it is one of the table's.
func (s *Store) LoadOf(ctx context.Context, tableID, revision int64) (*Loaded, error) {
	var owner int64
	err := s.Pool.QueryRow(ctx, `select table_id from revision where id = $1`, revision).Scan(&owner)
	if errors.Is(err, pgx.ErrNoRows) || err == nil && owner != tableID {
		return nil, fmt.Errorf("revision %d of table %d: %w", revision, tableID, ErrNotFound)
	} else if err != nil {
		return nil, err
	}
	return s.Load(ctx, revision)
}

// lock checks that a revision stands and gives the number of the next entry. For a
// change it holds the table until the transaction ends.
func (s *Store) lock(ctx context.Context, tx pgx.Tx, tableID, revision int64, change bool) (int, error) {
	var head int64
	hold := ""
	if change {
		hold = " for update"
	}
	err := tx.QueryRow(ctx, `select head from stewarded_table where id = $1`+hold, tableID).Scan(&head)
	if errors.Is(err, pgx.ErrNoRows) {
		return 0, fmt.Errorf("table %d: %w", tableID, ErrNotFound)
	} else if err != nil {
		return 0, err
	}
	if head != revision {
		return 0, s.stale(ctx, tx, tableID, revision)
	}
	var next int
	err = tx.QueryRow(ctx, `select coalesce(max(number) + 1, 0) from entry where table_id = $1`, tableID).Scan(&next)
	return next, err
}

// Post posts an entry on the revision that stands. With a key that was used before it
// does nothing and gives the entry posted then.
func (s *Store) Post(ctx context.Context, key string, tableID, revision int64, kind string, params []byte) (*Entry, error) {
	// Worked out before the transaction, which so holds one connection and is short.
	e, r, from, err := s.apply(ctx, tableID, revision, kind, params)
	if err != nil {
		return nil, err
	}
	var after *Loaded
	posted, err := s.once(ctx, key, func(tx pgx.Tx) (int, error) {
		number, err := s.lock(ctx, tx, tableID, revision, true)
		if err != nil {
			return 0, err
		}
		if after, err = s.save(ctx, tx, tableID, r.Table, from); err != nil {
			return 0, err
		}
		l := line{table: tableID, number: number, kind: kind, words: e.Words(), params: e, effect: r.Effect, before: &revision, after: after.Revision}
		if r.Aside != nil {
			if l.aside, err = s.writeAside(ctx, tx, r.Aside); err != nil {
				return 0, err
			}
		}
		if err := l.insert(ctx, tx); err != nil {
			return 0, err
		}
		if v, ok := entry.Inner(e).(*entry.Values); ok && v.Crosswalk != "" {
			if err := decide(ctx, tx, tableID, number, v); err != nil {
				return 0, err
			}
		}
		return number, s.move(ctx, tx, tableID, after.Revision)
	}, tableID)
	if err == nil && after != nil {
		s.Keep(after)
	}
	return posted, err
}

// move makes a revision the one that stands.
func (s *Store) move(ctx context.Context, tx pgx.Tx, tableID, head int64) error {
	if _, err := tx.Exec(ctx, `update stewarded_table set head = $2 where id = $1`, tableID, head); err != nil {
		return err
	}
	return Tell(ctx, tx, "table", tableID)
}

// Reverse reverses the entry that led to the revision that stands, and with to above 0 the
// ones before it back to that one, all or none. The rows and columns of an entry stay stored,
// so it can be posted again; decisions that it brought to a crosswalk are withdrawn. It gives
// the earliest entry that was reversed.
func (s *Store) Reverse(ctx context.Context, key string, tableID, revision int64, to int) (*Entry, error) {
	return s.once(ctx, key, func(tx pgx.Tx) (int, error) {
		if _, err := s.lock(ctx, tx, tableID, revision, true); err != nil {
			return 0, err
		}
		head := revision
		for {
			number, before, err := reverseLast(ctx, tx, tableID, head, to)
			if err != nil {
				return 0, err
			}
			if head = before; to == 0 || number == to {
				return number, s.move(ctx, tx, tableID, head)
			}
		}
	}, tableID)
}

// reverseLast reverses the entry that led to a revision, unless its number is below to.
func reverseLast(ctx context.Context, tx pgx.Tx, tableID, head int64, to int) (number int, before int64, err error) {
	number, root, kind, before, err := last(ctx, tx, tableID, head)
	if err != nil {
		return 0, 0, err
	}
	if number < to {
		return 0, 0, problem.New("Open the journal to see which entries stand", "entry %d does not stand, so nothing can be reversed back to it", to)
	}
	if _, err := tx.Exec(ctx, `update entry set state = 'reversed', reversed_at = now() where table_id = $1 and number = $2`, tableID, number); err != nil {
		return 0, 0, err
	}
	if _, err := tx.Exec(ctx, `update decision set withdrawn_at = now() where table_id = $1 and entry = $2 and withdrawn_at is null`, tableID, root); err != nil {
		return 0, 0, err
	}
	if kind == "refresh" || kind == "amend" {
		err = restore(ctx, tx, tableID, number)
	}
	return number, before, err
}

// Repost posts a reversed entry again. The table must stand as it did before it. With
// following, the reversed entries that stood behind it are posted again too, all or none.
func (s *Store) Repost(ctx context.Context, key string, tableID int64, number int, revision int64, following bool) (*Entry, error) {
	return s.once(ctx, key, func(tx pgx.Tx) (int, error) {
		if _, err := s.lock(ctx, tx, tableID, revision, true); err != nil {
			return 0, err
		}
		head, next := revision, number
		for {
			var err error
			if head, err = repostOne(ctx, tx, tableID, head, next); err != nil {
				return 0, err
			}
			if following {
				err = tx.QueryRow(ctx, `select number from entry where table_id = $1 and state = 'reversed' and before = $2 and number > $3 order by number limit 1`,
					tableID, head, next).Scan(&next)
			}
			if !following || errors.Is(err, pgx.ErrNoRows) {
				return number, s.move(ctx, tx, tableID, head)
			} else if err != nil {
				return 0, err
			}
		}
	}, tableID)
}

// repostOne posts a reversed entry again on a revision and gives the one it leads to.
func repostOne(ctx context.Context, tx pgx.Tx, tableID, head int64, number int) (after int64, err error) {
	var root int
	var kind string
	err = tx.QueryRow(ctx, `update entry set state = 'posted', reversed_at = null
		where table_id = $1 and number = $2 and state = 'reversed' and before = $3 returning after, coalesce(repeats, number), kind`,
		tableID, number, head).Scan(&after, &root, &kind)
	if errors.Is(err, pgx.ErrNoRows) {
		return 0, problem.New("Reverse the entries posted since, or draft it anew", "entry %d cannot be posted again as the table stands now", number)
	} else if err != nil {
		return 0, err
	}
	if _, err := tx.Exec(ctx, `update decision set withdrawn_at = null where table_id = $1 and entry = $2`, tableID, root); err != nil {
		return 0, err
	}
	if kind == "refresh" || kind == "amend" {
		err = again(ctx, tx, tableID, number, kind)
	}
	return after, err
}

// maxReason is the longest reason in bytes.
const maxReason = 4000

// SetReason writes why an entry was posted; it changes nothing of what the entry does.
func (s *Store) SetReason(ctx context.Context, tableID int64, number int, reason string) (*Entry, error) {
	if reason = strings.TrimSpace(reason); len(reason) > maxReason || strings.ContainsRune(reason, 0) {
		return nil, problem.New("Make it shorter", "the reason is longer than %d bytes, or no text", maxReason)
	}
	var e Entry
	err := s.inTx(ctx, func(tx pgx.Tx) error {
		tag, err := tx.Exec(ctx, `update entry set reason = $3 where table_id = $1 and number = $2`, tableID, number, reason)
		if err != nil {
			return err
		} else if tag.RowsAffected() == 0 {
			return fmt.Errorf("entry %d of table %d: %w", number, tableID, ErrNotFound)
		}
		rows, _ := tx.Query(ctx, selectEntries+`where e.table_id = $1 and e.number = $2`, tableID, number)
		if e, err = pgx.CollectExactlyOneRow(rows, pgx.RowToStructByPos[Entry]); err != nil {
			return err
		}
		return Tell(ctx, tx, "table", tableID)
	})
	return &e, err
}

// Aside gives the rows that an entry set aside, as they stood before it.
func (s *Store) Aside(ctx context.Context, tableID int64, number int) (*table.Table, error) {
	before, aside, err := s.aside(ctx, tableID, number, false)
	if err != nil {
		return nil, err
	}
	l, err := s.Load(ctx, before)
	if err != nil {
		return nil, err
	}
	return l.Table.Select(aside), nil
}

// aside gives the revision before an entry and the base rows it set aside. The rows of
// a reversed entry, or of the opening, cannot be returned.
func (s *Store) aside(ctx context.Context, tableID int64, number int, toReturn bool) (before int64, rows *table.Selection, err error) {
	var id int64
	var state string
	err = s.Pool.QueryRow(ctx, `select aside_part, before, state from entry where table_id = $1 and number = $2 and aside_part is not null`,
		tableID, number).Scan(&id, &before, &state)
	if errors.Is(err, pgx.ErrNoRows) {
		return 0, nil, problem.New("Open the journal to see which entries did", "entry %d set no rows aside", number)
	} else if err != nil {
		return 0, nil, err
	}
	if toReturn && (state != "posted" || number == 0) {
		return 0, nil, problem.New("Open the journal to see where its rows stand", "the rows of entry %d are not set aside from this table now", number)
	}
	if rows = alive(s.parts, s.parts.selections, id); rows != nil {
		return before, rows, nil
	}
	err = s.read(ctx, []int64{id}, func(id int64, n []uint32, _ *table.Dict) {
		rows = &table.Selection{Rows: n}
		s.parts.remember(id, rows)
	})
	return before, rows, err
}
