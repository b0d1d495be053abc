package store

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"

	"github.com/jackc/pgx/v5"

	"grandledger/core/entry"
	"grandledger/core/problem"
	"grandledger/core/reading"
	"grandledger/core/table"
)

// Delivery is a new delivery of a table's source that waits to be posted.
type Delivery struct {
	Revision int64           // the source as it was read
	Params   json.RawMessage // what was read and how, as in an opening entry
	Notes    []string
}

// KeepDelivery stores a new delivery of a table's source; one that waited gives way to it.
func (s *Store) KeepDelivery(ctx context.Context, tx pgx.Tx, tableID int64, t *table.Table, params any, notes []string) (*Loaded, error) {
	// Two deliveries of one table are taken one after the other.
	if _, err := tx.Exec(ctx, `select from stewarded_table where id = $1 for update`, tableID); err != nil {
		return nil, err
	}
	l, err := s.save(ctx, tx, tableID, t)
	if err != nil {
		return nil, err
	}
	raw, err := json.Marshal(params)
	if err != nil {
		return nil, err
	}
	if notes == nil {
		notes = []string{}
	}
	_, err = tx.Exec(ctx, `insert into delivery (table_id, revision_id, params, notes) values ($1, $2, $3, $4) on conflict (table_id)
		do update set revision_id = excluded.revision_id, params = excluded.params, notes = excluded.notes, received_at = now()`, tableID, l.Revision, raw, notes)
	if err != nil {
		return nil, fmt.Errorf("storing the delivery: %w", err)
	}
	return l, Tell(ctx, tx, "table", tableID)
}

// Delivery gives the delivery of a table that waits.
func (s *Store) Delivery(ctx context.Context, tableID int64) (Delivery, error) {
	var d Delivery
	err := s.Pool.QueryRow(ctx, `select revision_id, params, notes from delivery where table_id = $1`, tableID).Scan(&d.Revision, &d.Params, &d.Notes)
	if errors.Is(err, pgx.ErrNoRows) {
		return d, fmt.Errorf("a delivery of table %d: %w", tableID, ErrNotFound)
	}
	return d, err
}

// DropDelivery forgets the delivery that waits, if one does.
func (s *Store) DropDelivery(ctx context.Context, tableID int64) error {
	return s.inTx(ctx, func(tx pgx.Tx) error {
		if _, err := tx.Exec(ctx, `delete from delivery where table_id = $1`, tableID); err != nil {
			return err
		}
		return Tell(ctx, tx, "table", tableID)
	})
}

// Source gives the parameters under which the last delivery of a table was read.
func (s *Store) Source(ctx context.Context, tableID int64) (params []byte, err error) {
	if _, _, err := s.sinceDelivery(ctx, tableID); err != nil {
		return nil, err
	}
	err = s.Pool.QueryRow(ctx, `select params from entry where table_id = $1 and state = 'posted' and (number = 0 or kind = 'refresh')
		order by number desc limit 1`, tableID).Scan(&params)
	return params, err
}

// Replayed is a delivery beside the one that stands, and what the journal does on it.
type Replayed struct {
	Head   *Loaded      // the table as it stands
	Read   *Loaded      // the new delivery as it was read
	Last   *Loaded      // the source as it was last delivered
	Source *table.Table // the new delivery, its columns renamed
	Was    []Entry      // the entries since the last delivery
	Now    []entry.Outcome
	After  *table.Table
}

// Renames say which column of a new delivery stands for which of the last one.
type Renames map[string]string

// Replay replays the journal of a table, as it stands at a revision, on the delivery that
// waits. The entries left out are not done again.
func (s *Store) Replay(ctx context.Context, tableID, revision int64, renames Renames, leaveOut map[int]bool) (*Replayed, error) {
	d, err := s.Delivery(ctx, tableID)
	if err != nil {
		return nil, err
	}
	var r Replayed
	if r.Head, err = s.LoadOf(ctx, tableID, revision); err != nil {
		return nil, err
	}
	var last int64
	if last, r.Was, err = s.sinceDelivery(ctx, tableID); err != nil {
		return nil, err
	}
	if r.Last, err = s.Load(ctx, last); err != nil {
		return nil, err
	}
	if r.Read, err = s.Load(ctx, d.Revision); err != nil {
		return nil, err
	}
	if r.Source, err = renamed(r.Read.Table, r.Last.Table, renames); err != nil {
		return nil, err
	}
	steps, err := s.steps(ctx, tableID, r.Was, leaveOut)
	if err != nil {
		return nil, err
	}
	outcomes, after, err := entry.Replay(ctx, r.Source, steps, entry.Inputs{Tables: func(name string, _ int64) (*table.Table, int64, error) {
		return s.tables(ctx, tableID)(name, 0) // a new delivery is matched with the others as they stand
	}})
	if err != nil {
		return nil, err
	}
	r.After = after
	r.Now = make([]entry.Outcome, len(r.Was))
	at := 0
	for i, e := range r.Was {
		if !leaveOut[e.Number] {
			r.Now[i] = outcomes[at]
			at++
		}
	}
	return &r, nil
}

// sinceDelivery gives the revision of the last delivery and the entries posted since.
func (s *Store) sinceDelivery(ctx context.Context, tableID int64) (revision int64, since []Entry, err error) {
	var number int
	var kind string
	err = s.Pool.QueryRow(ctx, `select number, kind, after from entry where table_id = $1 and state = 'posted' and (number = 0 or kind = 'refresh')
		order by number desc limit 1`, tableID).Scan(&number, &kind, &revision)
	if errors.Is(err, pgx.ErrNoRows) {
		return 0, nil, fmt.Errorf("table %d: %w", tableID, ErrNotFound)
	} else if err != nil {
		return 0, nil, err
	}
	if kind != "bring-in" && kind != "refresh" {
		return 0, nil, problem.New("Refresh the tables it is drawn from", "the table was not brought in from a file")
	}
	rows, _ := s.Pool.Query(ctx, selectEntries+`where e.table_id = $1 and e.state = 'posted' and e.kind <> 'amend' and e.number > $2 order by e.number`, tableID, number)
	since, err = pgx.CollectRows(rows, pgx.RowToStructByPos[Entry])
	return revision, since, err
}

// steps gives the entries to do again, with their parameters.
func (s *Store) steps(ctx context.Context, tableID int64, entries []Entry, leaveOut map[int]bool) ([]entry.Step, error) {
	var out []entry.Step
	for _, e := range entries {
		if leaveOut[e.Number] {
			continue
		}
		step := entry.Step{Number: e.Number, Kind: e.Kind}
		if err := s.Pool.QueryRow(ctx, `select params from entry where table_id = $1 and number = $2`, tableID, e.Number).Scan(&step.Params); err != nil {
			return nil, err
		}
		out = append(out, step)
	}
	return out, nil
}

// renamed gives a delivery its columns' names and order of the last one; those that are new
// stand behind.
func renamed(t, last *table.Table, renames Renames) (*table.Table, error) {
	place := map[string]int{}
	for i, c := range last.Columns() {
		place[c.Name] = i
	}
	known := make([]*table.Column, len(place))
	var others []*table.Column
	for _, c := range t.Columns() {
		named := *c
		named.Reading = reading.Reading{}
		if to := renames[c.Name]; to != "" {
			named.Name = to
		}
		if at, ok := place[named.Name]; ok && known[at] == nil {
			known[at] = &named
		} else {
			others = append(others, &named)
		}
	}
	var columns []*table.Column
	for _, c := range append(known, others...) {
		if c != nil {
			columns = append(columns, c)
		}
	}
	out, err := table.New(columns, t.Base(), t.Origins()...)
	if err != nil {
		return nil, problem.New("Choose each column once", "two columns of the delivery would have one name: %v", err)
	}
	return out, nil
}

// PostDelivery puts the delivery that was replayed in the place of the last one: an entry of
// kind "refresh", and behind it the entries since then, done again under numbers of their
// own. The ones they repeat are superseded. An entry that does not apply must have been left
// out. gone are the rows that the delivery no longer has. With a key that was used before it
// does nothing and gives the entry posted then.
func (s *Store) PostDelivery(ctx context.Context, key string, tableID int64, r *Replayed, words string, balance entry.Balance, gone *table.Selection) (*Entry, error) {
	for i, was := range r.Was {
		if p := r.Now[i].Problem; p != nil {
			return nil, problem.New(fmt.Sprintf("Leave entry %d out, or say which column stands for the one it needs", was.Number),
				"entry %d does not apply to the new delivery: %s", was.Number, p.What)
		}
	}
	var head *Loaded
	e, err := s.once(ctx, key, func(tx pgx.Tx) (int, error) {
		number, err := s.lock(ctx, tx, tableID, r.Head.Revision, true)
		if err != nil {
			return 0, err
		}
		first := line{table: tableID, number: number, kind: "refresh", words: words, before: &r.Head.Revision,
			effect: entry.Effect{Balance: balance, Columns: []entry.ColumnEffect{}, Pairs: []entry.Pair{}}}
		err = tx.QueryRow(ctx, `delete from delivery where table_id = $1 and revision_id = $2 returning params, notes`, tableID, r.Read.Revision).
			Scan(&first.params, &first.notes)
		if errors.Is(err, pgx.ErrNoRows) {
			return 0, problem.New("Look at it again", "another delivery has come in meanwhile")
		} else if err != nil {
			return 0, err
		}
		if head, err = s.save(ctx, tx, tableID, r.Source, r.Read); err != nil {
			return 0, err
		}
		first.after = head.Revision
		if len(gone.Rows) > 0 && r.Head.Table.Base() == r.Last.Table.Base() {
			if first.aside, err = s.writeAside(ctx, tx, gone); err != nil {
				return 0, err
			}
		}
		if err := first.insert(ctx, tx); err != nil {
			return 0, err
		}
		if err := again(ctx, tx, tableID, number, "refresh"); err != nil {
			return 0, err
		}
		next := map[int]int{}
		for i, was := range r.Was {
			now := r.Now[i]
			if now.Result == nil {
				continue
			}
			next[was.Number] = number + len(next) + 1
			if head, err = s.repeat(ctx, tx, tableID, Amended{Entry: was}, now, next, head); err != nil {
				return 0, err
			}
		}
		return number, s.move(ctx, tx, tableID, head.Revision)
	}, tableID)
	if err == nil && head != nil {
		s.Keep(head)
	}
	return e, err
}

// Posted gives the entry of a table that was posted under a key before, nil where none was.
func (s *Store) Posted(ctx context.Context, key string, tableID int64) (*Entry, error) {
	rows, _ := s.Pool.Query(ctx, selectEntries+`join request q on q.key = $2 where e.table_id = $1 and to_jsonb(e.number) = q.answer`, tableID, key)
	e, err := pgx.CollectExactlyOneRow(rows, pgx.RowToStructByPos[Entry])
	if errors.Is(err, pgx.ErrNoRows) {
		return nil, nil
	}
	return &e, err
}

// repeat writes an entry done again, or one of an amended journal, whose decisions are then its
// own.
func (s *Store) repeat(ctx context.Context, tx pgx.Tx, tableID int64, was Amended, now entry.Outcome, numbers map[int]int, head *Loaded) (*Loaded, error) {
	e := entry.Renumbered(now.Entry, numbers)
	effect := now.Result.Effect
	none(&effect)
	after, err := s.save(ctx, tx, tableID, now.Result.Table, head)
	if err != nil {
		return nil, err
	}
	before := head.Revision
	l := line{table: tableID, number: numbers[was.Number], kind: was.Kind, words: e.Words(), params: e, effect: effect, before: &before, after: after.Revision, reason: was.Reason}
	if !was.Changed {
		l.repeats = was.root()
	}
	if now.Result.Aside != nil {
		if l.aside, err = s.writeAside(ctx, tx, now.Result.Aside); err != nil {
			return nil, err
		}
	}
	if err := l.insert(ctx, tx); err != nil {
		return nil, err
	}
	if v, ok := entry.Inner(e).(*entry.Values); ok && was.Changed && v.Crosswalk != "" {
		return after, decide(ctx, tx, tableID, l.number, v)
	}
	return after, nil
}

// ProcedureStep is a posted entry with what it takes to do it again.
type ProcedureStep struct {
	entry.Step
	Words string
}

// Procedure gives how the last delivery of a table was read, as in an opening entry, and the
// entries since then.
func (s *Store) Procedure(ctx context.Context, tableID int64) (source []byte, steps []ProcedureStep, err error) {
	if source, err = s.Source(ctx, tableID); err != nil {
		return nil, nil, err
	}
	_, since, err := s.sinceDelivery(ctx, tableID)
	if err != nil {
		return nil, nil, err
	}
	all, err := s.steps(ctx, tableID, since, nil)
	for i, step := range all {
		steps = append(steps, ProcedureStep{step, since[i].Words})
	}
	return source, steps, err
}
