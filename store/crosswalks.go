package store

import (
	"context"
	"errors"
	"time"

	"github.com/jackc/pgx/v5"

	"grandledger/core/entry"
	"grandledger/core/problem"
	"grandledger/core/spelling"
)

// Decision is a standing line of a crosswalk.
type Decision struct {
	Variant, Standard, Why string
	Table                  string
	Entry                  int
	DecidedAt              time.Time
}

// Crosswalks counts what each crosswalk of a book knows; those that know nothing are
// left out.
func (s *Store) Crosswalks(ctx context.Context, book int64) ([]CrosswalkLine, error) {
	rows, _ := s.Pool.Query(ctx, `select c.name, (count(distinct d.value) filter (where d.verdict = 'same'))::int,
			(count(distinct d.other) filter (where d.verdict = 'same'))::int
		from crosswalk c left join decision d on d.crosswalk_id = c.id and d.withdrawn_at is null
		where c.book_id = $1 group by c.id having count(d.id) > 0 or exists (select from standard_value v where v.crosswalk_id = c.id) order by c.name`, book)
	return pgx.CollectRows(rows, pgx.RowToStructByPos[CrosswalkLine])
}

// Crosswalk gives the standing decisions of a crosswalk in the order they were made,
// the last one of each variant, and the pairs kept apart.
func (s *Store) Crosswalk(ctx context.Context, book int64, name string) ([]Decision, [][2]string, error) {
	rows, _ := s.Pool.Query(ctx, `select value, other, why, table_name, entry, decided_at from (
			select distinct on (d.value) d.id, d.value, d.other, d.why, coalesce(t.name, '') as table_name, coalesce(d.entry, 0)::int as entry, d.decided_at
			from decision d join crosswalk c on c.id = d.crosswalk_id left join stewarded_table t on t.id = d.table_id
			where c.book_id = $1 and c.name = $2 and d.verdict = 'same' and d.withdrawn_at is null
			order by d.value, d.id desc) standing order by id`, book, name)
	same, err := pgx.CollectRows(rows, pgx.RowToStructByPos[Decision])
	if err != nil {
		return nil, nil, err
	}
	rows, _ = s.Pool.Query(ctx, `select distinct d.value, d.other from decision d join crosswalk c on c.id = d.crosswalk_id
		where c.book_id = $1 and c.name = $2 and d.verdict = 'apart' and d.withdrawn_at is null order by 1, 2`, book, name)
	apart, err := pgx.CollectRows(rows, func(row pgx.CollectableRow) (p [2]string, err error) {
		return p, row.Scan(&p[0], &p[1])
	})
	return same, apart, err
}

// Decisions gives a crosswalk in the form the spelling core asks for.
func (s *Store) Decisions(ctx context.Context, book int64, name string) (spelling.Decisions, error) {
	same, apart, err := s.Crosswalk(ctx, book, name)
	if err != nil {
		return spelling.Decisions{}, err
	}
	made := make([]spelling.Decision, len(same))
	for i, d := range same {
		made[i] = spelling.Decision{Variant: d.Variant, Standard: d.Standard}
	}
	return spelling.Decisions{Standard: spelling.Standing(made), Apart: apart}, nil
}

// decide adds the changes of an entry to its crosswalk.
func decide(ctx context.Context, tx pgx.Tx, tableID int64, number int, v *entry.Values) error {
	var book int64
	if err := tx.QueryRow(ctx, `select book_id from stewarded_table where id = $1`, tableID).Scan(&book); err != nil {
		return err
	}
	crosswalk, err := crosswalkID(ctx, tx, book, v.Crosswalk)
	if err != nil {
		return err
	}
	// What the crosswalk knows already is decided once more, on the evidence it was decided on first: reversing the entry that did
	// so first must not take it from this one.
	evidence, err := evidenceIn(ctx, tx, crosswalk)
	if err != nil {
		return err
	}
	_, err = tx.CopyFrom(ctx, pgx.Identifier{"decision"}, []string{"crosswalk_id", "verdict", "value", "other", "why", "table_id", "entry"},
		pgx.CopyFromSlice(len(v.Changes), func(i int) ([]any, error) {
			c := v.Changes[i]
			why := c.Why
			if known, ok := evidence[spelling.Decision{Variant: c.From, Standard: c.To}]; ok {
				why = known
			}
			return []any{crosswalk, "same", c.From, c.To, why, tableID, number}, nil
		}))
	return err
}

// evidenceIn gives the evidence of each line that stands in a crosswalk.
func evidenceIn(ctx context.Context, tx pgx.Tx, id int64) (map[spelling.Decision]string, error) {
	out := map[spelling.Decision]string{}
	rows, _ := tx.Query(ctx, `select value, other, why from decision where crosswalk_id = $1 and verdict = 'same' and withdrawn_at is null order by id`, id)
	var d spelling.Decision
	var why string
	_, err := pgx.ForEachRow(rows, []any{&d.Variant, &d.Standard, &why}, func() error {
		out[d] = why
		return nil
	})
	return out, err
}

// crosswalkID finds a crosswalk by name, opening it where it is new.
func crosswalkID(ctx context.Context, tx pgx.Tx, book int64, name string) (int64, error) {
	name, err := properName(name, "crosswalk")
	if err != nil {
		return 0, err
	}
	var id int64
	err = tx.QueryRow(ctx, `select id from crosswalk where book_id = $1 and name = $2`, book, name).Scan(&id)
	if !errors.Is(err, pgx.ErrNoRows) {
		return id, err
	}
	err = tx.QueryRow(ctx, `insert into crosswalk (book_id, name) values ($1, $2) on conflict (book_id, name) do update set name = excluded.name returning id`,
		book, name).Scan(&id)
	return id, err
}

// KeepApart remembers that two values are two things. Saying so twice changes nothing.
func (s *Store) KeepApart(ctx context.Context, book int64, name, value, other string) error {
	if value == other {
		return problem.New("Choose two different values", "a value cannot be kept apart from itself")
	}
	value, other = min(value, other), max(value, other)
	return s.inTx(ctx, func(tx pgx.Tx) error {
		id, err := crosswalkID(ctx, tx, book, name)
		if err != nil {
			return err
		}
		_, err = tx.Exec(ctx, `insert into decision (crosswalk_id, verdict, value, other) select $1, 'apart', $2, $3
			where not exists (select from decision where crosswalk_id = $1 and verdict = 'apart' and value = $2 and other = $3 and withdrawn_at is null)`,
			id, value, other)
		return err
	})
}

// WithdrawApart takes back that two values are two things.
func (s *Store) WithdrawApart(ctx context.Context, book int64, name, value, other string) error {
	_, err := s.Pool.Exec(ctx, `update decision d set withdrawn_at = now() from crosswalk c
		where c.id = d.crosswalk_id and c.book_id = $1 and c.name = $2 and d.verdict = 'apart' and d.value = $3 and d.other = $4 and d.withdrawn_at is null`,
		book, name, min(value, other), max(value, other))
	return err
}
