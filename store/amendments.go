package store

import (
	"context"
	"errors"
	"fmt"
	"slices"

	"github.com/jackc/pgx/v5"

	"grandledger/core/entry"
	"grandledger/core/problem"
	"grandledger/core/table"
)

// Amendment is the journal since the last delivery as it would stand with entries switched
// off or in another order.
type Amendment struct {
	Head *Loaded
	Base *Loaded         // the table before the first entry that changes
	Was  []Entry         // the entries from that one on, as they stand
	Now  []Entry         // those that are done again, in their new order
	Come []entry.Outcome // what each of Now comes to
	To   *table.Table
}

// Amend works out what the journal of a table, as it stands at a revision, comes to with the
// entries since the last delivery in the order given; those that are not in it are switched
// off. Nothing is stored. Cost: that of the entries from the first that changes.
func (s *Store) Amend(ctx context.Context, tableID, revision int64, order []int) (*Amendment, error) {
	var a Amendment
	var err error
	if a.Head, err = s.LoadOf(ctx, tableID, revision); err != nil {
		return nil, err
	}
	since, err := s.Amendable(ctx, tableID)
	if err != nil {
		return nil, err
	}
	by := map[int]Entry{}
	for _, e := range since {
		by[e.Number] = e
	}
	first := 0
	for first < min(len(order), len(since)) && order[first] == since[first].Number {
		first++
	}
	if first == len(since) && first == len(order) {
		return nil, problem.New("Switch an entry off, or move it", "the journal would stand as it does")
	}
	for _, number := range order[first:] {
		e, ok := by[number]
		if !ok {
			return nil, problem.New("Look at the journal as it stands", "entry %d is not one that can be amended, or comes twice", number)
		}
		delete(by, number)
		a.Now = append(a.Now, e)
	}
	a.Was = since[first:]
	before := revision
	if len(a.Was) > 0 {
		if err := s.Pool.QueryRow(ctx, `select before from entry where table_id = $1 and number = $2`, tableID, a.Was[0].Number).Scan(&before); err != nil {
			return nil, err
		}
	}
	if a.Base, err = s.Load(ctx, before); err != nil {
		return nil, err
	}
	steps, err := s.steps(ctx, tableID, a.Now, nil)
	if err != nil {
		return nil, err
	}
	a.Come, a.To, err = entry.Replay(ctx, a.Base.Table, steps, entry.Inputs{Aside: func(number int) (*table.Selection, error) {
		if slices.ContainsFunc(a.Was, func(e Entry) bool { return e.Number == number }) {
			return nil, problem.New("Switch it off, or move it behind that entry", "entry %d sets no rows aside before it now", number)
		}
		_, rows, err := s.aside(ctx, tableID, number, true)
		return rows, err
	}})
	return &a, err
}

// Amendable lists the entries since the last delivery, which can be switched off and moved.
func (s *Store) Amendable(ctx context.Context, tableID int64) ([]Entry, error) {
	rows, _ := s.Pool.Query(ctx, selectEntries+`where e.table_id = $1 and e.state = 'posted' and e.kind not in ('amend', 'refresh') and e.number >
		(select max(number) from entry where table_id = $1 and state = 'posted' and (number = 0 or kind = 'refresh')) order by e.number`, tableID)
	return pgx.CollectRows(rows, pgx.RowToStructByPos[Entry])
}

// PostAmendment takes back the entries from the first that changes, in an entry of kind
// "amend", and does those that remain again behind it under numbers of their own. What was
// decided by an entry that is switched off is withdrawn. With a key that was used before it
// does nothing and gives the entry posted then.
func (s *Store) PostAmendment(ctx context.Context, key string, tableID int64, a *Amendment) (*Entry, error) {
	for i, e := range a.Now {
		if p := a.Come[i].Problem; p != nil {
			return nil, problem.New("Switch it off, or move it", "entry %d cannot be done there: %s", e.Number, p.What)
		}
	}
	var head *Loaded
	e, err := s.once(ctx, key, func(tx pgx.Tx) (int, error) {
		number, err := s.lock(ctx, tx, tableID, a.Head.Revision, true)
		if err != nil {
			return 0, err
		}
		from := a.Was[0].Number
		before, after := a.Head.Table.Rows(), a.Base.Table.Rows()
		l := line{table: tableID, number: number, kind: "amend", words: a.words(), params: map[string]int{"from": from}, before: &a.Head.Revision, after: a.Base.Revision,
			effect: entry.Effect{Balance: entry.Balance{Before: before, Added: max(after-before, 0), SetAside: max(before-after, 0), After: after},
				Columns: []entry.ColumnEffect{}, Pairs: []entry.Pair{}}}
		if err := l.insert(ctx, tx); err != nil {
			return 0, err
		}
		if err := supersede(ctx, tx, tableID, number, from); err != nil {
			return 0, err
		}
		if err := s.withdrawOff(ctx, tx, tableID, a); err != nil {
			return 0, err
		}
		next := map[int]int{}
		head = a.Base
		for i, was := range a.Now {
			next[was.Number] = number + i + 1
			if head, err = s.repeat(ctx, tx, tableID, was, a.Come[i], next, head); err != nil {
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

// words says which entries are taken back and what becomes of them.
func (a *Amendment) words() string {
	off := len(a.Was) - len(a.Now)
	first, last := a.Was[0].Number, a.Was[len(a.Was)-1].Number
	which := fmt.Sprintf("entries %d to %d", first, last)
	if first == last {
		which = fmt.Sprintf("entry %d", first)
	}
	switch {
	case len(a.Now) == 0:
		return "Switched off " + which
	case off == 0:
		return "Amended the order of " + which
	}
	return fmt.Sprintf("Switched off %d of %s", off, which)
}

// withdrawOff withdraws the decisions of entries that are not done again.
func (s *Store) withdrawOff(ctx context.Context, tx pgx.Tx, tableID int64, a *Amendment) error {
	var roots []int
	for _, e := range a.Was {
		if !slices.ContainsFunc(a.Now, func(n Entry) bool { return n.Number == e.Number }) {
			roots = append(roots, *e.root())
		}
	}
	_, err := tx.Exec(ctx, `update decision set withdrawn_at = now() where table_id = $1 and entry = any($2) and withdrawn_at is null`, tableID, roots)
	return err
}

// supersede marks the entries posted from a number on as superseded by a later one.
func supersede(ctx context.Context, tx pgx.Tx, tableID int64, by, from int) error {
	_, err := tx.Exec(ctx, `update entry set state = 'superseded', superseded_by = $2 where table_id = $1 and state = 'posted' and number > 0 and number >= $3 and number < $2`,
		tableID, by, from)
	return err
}

// again supersedes what an entry of kind refresh or amend had superseded, when it is posted
// again.
func again(ctx context.Context, tx pgx.Tx, tableID int64, number int, kind string) error {
	var from int
	err := tx.QueryRow(ctx, `select case when $3 = 'amend' then (select (params ->> 'from')::int from entry where table_id = $1 and number = $2)
		else (select max(number) + 1 from entry where table_id = $1 and state = 'posted' and number < $2 and (number = 0 or kind = 'refresh')) end`,
		tableID, number, kind).Scan(&from)
	if err != nil {
		return err
	}
	return supersede(ctx, tx, tableID, number, from)
}

// restore lets the entries that one superseded stand again, when that one is reversed, and
// brings back the decisions that went with them.
func restore(ctx context.Context, tx pgx.Tx, tableID int64, number int) error {
	_, err := tx.Exec(ctx, `with back as (update entry set state = 'posted', superseded_by = null where table_id = $1 and superseded_by = $2 returning coalesce(repeats, number) as root)
		update decision set withdrawn_at = null where table_id = $1 and entry in (select root from back)`, tableID, number)
	return err
}

// last gives the number of the posted entry that led to a revision: the latest, as going back
// leads to one that an earlier entry led to already.
func last(ctx context.Context, tx pgx.Tx, tableID, revision int64) (number, root int, kind string, before int64, err error) {
	err = tx.QueryRow(ctx, `select number, coalesce(repeats, number), kind, before from entry
		where table_id = $1 and after = $2 and state = 'posted' and number > 0 order by number desc limit 1`, tableID, revision).Scan(&number, &root, &kind, &before)
	if errors.Is(err, pgx.ErrNoRows) {
		err = problem.New("The opening entry stays; bring the file in anew if it was read wrongly", "no entry is posted that could be reversed")
	}
	return number, root, kind, before, err
}
