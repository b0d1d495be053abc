package store

import (
	"context"
	"errors"
	"fmt"
	"slices"
	"strings"

	"github.com/jackc/pgx/v5"

	"grandledger/core/entry"
	"grandledger/core/problem"
	"grandledger/core/table"
)

// Amendment is the journal since the last delivery as it would stand with entries changed,
// switched off, moved or inserted.
type Amendment struct {
	Head *Loaded
	Base *Loaded         // the table before the first entry that changes
	Was  []Entry         // the entries from that one on, as they stand
	Now  []Amended       // those that are done then, in their order
	Come []entry.Outcome // what each of Now comes to
	To   *table.Table
}

// Amended is an entry of an amended journal.
type Amended struct {
	Entry        // as it stands; of one that is inserted the kind and a number below 0 alone
	Changed bool // it has other parameters, or is inserted
}

// AmendStep is an entry that stays, by its number, or one with a number below 0 of its own that
// is inserted. With parameters it is done with these.
type AmendStep struct {
	Entry  int
	Kind   string
	Params []byte
}

// Amend works out what the journal of a table, as it stands at a revision, comes to with the
// entries since the last delivery as the steps say; those that are not among them are switched
// off. Nothing is stored. Cost: that of the entries from the first that changes.
func (s *Store) Amend(ctx context.Context, tableID, revision int64, steps []AmendStep) (*Amendment, error) {
	var a Amendment
	var err error
	if a.Head, err = s.LoadOf(ctx, tableID, revision); err != nil {
		return nil, err
	}
	since, err := s.Amendable(ctx, tableID)
	if err != nil {
		return nil, err
	}
	first := 0
	for first < min(len(steps), len(since)) && steps[first].Entry == since[first].Number && steps[first].Params == nil {
		first++
	}
	if first == len(since) && first == len(steps) {
		return nil, problem.New("Change an entry, switch it off, move it or insert one", "the journal would stand as it does")
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
	replayed, err := s.amended(ctx, tableID, &a, steps[first:])
	if err != nil {
		return nil, err
	}
	a.Come, a.To, err = entry.Replay(ctx, a.Base.Table, replayed, entry.Inputs{Tables: s.tables(ctx, tableID), Taken: s.taken(ctx, tableID), Aside: func(number int) (*table.Selection, error) {
		if number < 0 || slices.ContainsFunc(a.Was, func(e Entry) bool { return e.Number == number }) {
			return nil, problem.New("Switch it off, or move it behind that entry", "entry %d sets no rows aside before it now", number)
		}
		_, rows, err := s.aside(ctx, tableID, number, true)
		return rows, err
	}})
	return &a, err
}

// amended fills in the entries that are done, and gives them as they are replayed.
func (s *Store) amended(ctx context.Context, tableID int64, a *Amendment, steps []AmendStep) ([]entry.Step, error) {
	by := map[int]Entry{}
	for _, e := range a.Was {
		by[e.Number] = e
	}
	seen := map[int]bool{}
	var out []entry.Step
	for _, step := range steps {
		e, ok := by[step.Entry]
		if seen[step.Entry] || !ok && step.Entry >= 0 {
			return nil, problem.New("Look at the journal as it stands", "entry %d is not one that can be amended, or comes twice", step.Entry)
		}
		seen[step.Entry] = true
		switch {
		case !ok && step.Params == nil, ok && step.Params != nil && step.Kind != e.Kind:
			return nil, problem.New("Give its kind and parameters", "entry %d is inserted without parameters, or is of another kind", step.Entry)
		case !ok:
			e = Entry{Number: step.Entry, Kind: step.Kind}
		}
		a.Now = append(a.Now, Amended{e, step.Params != nil})
		if step.Params != nil {
			if _, err := entry.Decode(step.Kind, step.Params); err != nil {
				return nil, err
			}
			out = append(out, entry.Step{Number: step.Entry, Kind: step.Kind, Params: step.Params})
			continue
		}
		known, err := s.steps(ctx, tableID, []Entry{e}, nil)
		if err != nil {
			return nil, err
		}
		out = append(out, known...)
	}
	return out, nil
}

// Amendable lists the entries since the last delivery, which can be switched off and moved.
func (s *Store) Amendable(ctx context.Context, tableID int64) ([]Entry, error) {
	rows, _ := s.Pool.Query(ctx, selectEntries+`where e.table_id = $1 and e.state = 'posted' and e.kind not in ('amend', 'refresh') and e.number >
		(select max(number) from entry where table_id = $1 and state = 'posted' and (number = 0 or kind = 'refresh')) order by e.number`, tableID)
	return pgx.CollectRows(rows, pgx.RowToStructByPos[Entry])
}

// Form is what it takes to change an entry.
type Form struct {
	Params  []byte
	Columns []string // of the table before it
}

// Forms gives the parameters of entries and the columns there were before each.
func (s *Store) Forms(ctx context.Context, tableID int64, entries []Entry) ([]Form, error) {
	numbers := make([]int, len(entries))
	for i, e := range entries {
		numbers[i] = e.Number
	}
	rows, _ := s.Pool.Query(ctx, `select params, array(select name from revision_column where revision_id = e.before order by position)
		from entry e where table_id = $1 and number = any($2) order by array_position($2, number)`, tableID, numbers)
	return pgx.CollectRows(rows, pgx.RowToStructByPos[Form])
}

// PostAmendment takes back the entries from the first that changes, in an entry of kind
// "amend", and does those that remain again behind it under numbers of their own; where the
// amendment only adds entries behind the others, they are posted as they are. What was decided by
// an entry that is switched off or changed is withdrawn. With a key that was used before it does
// nothing and gives the entry posted then.
func (s *Store) PostAmendment(ctx context.Context, key string, tableID int64, a *Amendment) (*Entry, error) {
	for i, e := range a.Now {
		if p := a.Come[i].Problem; p != nil {
			return nil, problem.New("Change it, switch it off, or move it", "%s cannot be done there: %s", e.name(), p.What)
		}
	}
	var head *Loaded
	e, err := s.once(ctx, key, func(tx pgx.Tx) (int, error) {
		number, err := s.lock(ctx, tx, tableID, a.Head.Revision, true)
		if err != nil {
			return 0, err
		}
		next := number
		if len(a.Was) > 0 {
			if err := s.takeBack(ctx, tx, tableID, number, a); err != nil {
				return 0, err
			}
			next++
		}
		numbers := map[int]int{}
		head = a.Base
		for i, e := range a.Now {
			numbers[e.Number] = next + i
			if head, err = s.repeat(ctx, tx, tableID, e, a.Come[i], numbers, head); err != nil {
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

// name is how problems speak of an entry.
func (e Amended) name() string {
	if e.Number < 0 {
		return "the entry that is inserted (" + e.Kind + ")"
	}
	return fmt.Sprintf("entry %d", e.Number)
}

// takeBack writes the entry that takes the others back.
func (s *Store) takeBack(ctx context.Context, tx pgx.Tx, tableID int64, number int, a *Amendment) error {
	from := a.Was[0].Number
	before, after := a.Head.Table.Rows(), a.Base.Table.Rows()
	l := line{table: tableID, number: number, kind: "amend", words: a.words(), params: map[string]int{"from": from}, before: &a.Head.Revision, after: a.Base.Revision,
		effect: entry.Effect{Balance: entry.Balance{Before: before, Added: max(after-before, 0), SetAside: max(before-after, 0), After: after},
			Columns: []entry.ColumnEffect{}, Pairs: []entry.Pair{}}}
	if err := l.insert(ctx, tx); err != nil {
		return err
	}
	if err := supersede(ctx, tx, tableID, number, from); err != nil {
		return err
	}
	return s.withdrawOff(ctx, tx, tableID, a)
}

// words says which entries are taken back and what becomes of them.
func (a *Amendment) words() string {
	changed, inserted := 0, 0
	for _, e := range a.Now {
		switch {
		case e.Number < 0:
			inserted++
		case e.Changed:
			changed++
		}
	}
	off := len(a.Was) - (len(a.Now) - inserted)
	first, last := a.Was[0].Number, a.Was[len(a.Was)-1].Number
	which := fmt.Sprintf("entries %d to %d", first, last)
	if first == last {
		which = fmt.Sprintf("entry %d", first)
	}
	switch {
	case len(a.Now) == 0:
		return "Switched off " + which
	case off+changed+inserted == 0:
		return "Amended the order of " + which
	case changed+inserted == 0:
		return fmt.Sprintf("Switched off %d of %s", off, which)
	}
	var did []string
	for _, part := range []struct {
		n    int
		what string
	}{{changed, "changed"}, {inserted, "inserted"}, {off, "switched off"}} {
		if part.n > 0 {
			did = append(did, fmt.Sprintf("%d %s", part.n, part.what))
		}
	}
	return "Amended " + which + ": " + strings.Join(did, ", ")
}

// withdrawOff withdraws the decisions of entries that are not done again as they were.
func (s *Store) withdrawOff(ctx context.Context, tx pgx.Tx, tableID int64, a *Amendment) error {
	var roots []int
	for _, e := range a.Was {
		if !slices.ContainsFunc(a.Now, func(n Amended) bool { return n.Number == e.Number && !n.Changed }) {
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
