package store

import (
	"context"
	"errors"
	"fmt"

	"github.com/jackc/pgx/v5"

	"grandledger/core/linkage"
	"grandledger/core/problem"
)

// Linkage is a linkage of tables of a book.
type Linkage struct {
	ID, BookID int64
	Name       string
	Tables     []int64
}

// maxLinked is how many tables a linkage has.
const maxLinked = 10

// Linkages lists those of a book by name.
func (s *Store) Linkages(ctx context.Context, book int64) ([]Linkage, error) {
	rows, _ := s.Pool.Query(ctx, `select id, book_id, name, tables from linkage where book_id = $1 order by name`, book)
	return pgx.CollectRows(rows, pgx.RowToStructByPos[Linkage])
}

// Linkage gives one.
func (s *Store) Linkage(ctx context.Context, id int64) (Linkage, error) {
	rows, _ := s.Pool.Query(ctx, `select id, book_id, name, tables from linkage where id = $1`, id)
	l, err := pgx.CollectExactlyOneRow(rows, pgx.RowToStructByPos[Linkage])
	if errors.Is(err, pgx.ErrNoRows) {
		return l, fmt.Errorf("linkage %d: %w", id, ErrNotFound)
	}
	return l, err
}

// AddLinkage opens a linkage of tables of a book.
func (s *Store) AddLinkage(ctx context.Context, book int64, name string, tables []int64) (Linkage, error) {
	name, err := properName(name, "linkage")
	if err != nil {
		return Linkage{}, err
	}
	if len(tables) == 0 || len(tables) > maxLinked {
		return Linkage{}, problem.New(fmt.Sprintf("Choose 1 to %d", maxLinked), "a linkage is of one table or several, not of %d", len(tables))
	}
	seen := map[int64]bool{}
	for _, id := range tables {
		if t, err := s.Table(ctx, id); err != nil {
			return Linkage{}, err
		} else if t.BookID != book {
			return Linkage{}, fmt.Errorf("table %d in book %d: %w", id, book, ErrNotFound)
		}
		if seen[id] {
			return Linkage{}, problem.New("Choose it once", "a table is there twice")
		}
		seen[id] = true
	}
	l := Linkage{BookID: book, Name: name, Tables: tables}
	err = s.Pool.QueryRow(ctx, `insert into linkage (book_id, name, tables) values ($1, $2, $3) returning id`, book, name, tables).Scan(&l.ID)
	if violates(err, "23505") {
		return l, problem.New("Give it another name", "the book has a linkage %q already", name)
	}
	return l, err
}

// PairDecision is what stands decided of two records, known by their keys; nothing is decided yet where Same is nil.
type PairDecision struct {
	A, B     string
	Same     *bool
	Note, By string
}

// PairDecisions gives what stands decided of pairs, in the order it was decided.
func (s *Store) PairDecisions(ctx context.Context, id int64) ([]PairDecision, error) {
	rows, _ := s.Pool.Query(ctx, `select a, b, same, note, reviewer from linkage_decision where linkage_id = $1 and withdrawn_at is null order by id`, id)
	return pgx.CollectRows(rows, pgx.RowToStructByPos[PairDecision])
}

// maxDecided is how many pairs are decided in one go.
const maxDecided = 1000

// DecidePairs remembers what is said of pairs, each in place of what was said of it before; withdraw takes that back.
func (s *Store) DecidePairs(ctx context.Context, id int64, all []PairDecision, withdraw bool) error {
	if len(all) == 0 || len(all) > maxDecided {
		return problem.New(fmt.Sprintf("Give 1 to %s", "1,000"), "%d pairs are decided in one go", len(all))
	}
	if _, err := s.Linkage(ctx, id); err != nil {
		return err
	}
	return s.inTx(ctx, func(tx pgx.Tx) error {
		if _, err := tx.Exec(ctx, `select from linkage where id = $1 for update`, id); err != nil {
			return err
		}
		for _, d := range all {
			d.A, d.B = min(d.A, d.B), max(d.A, d.B)
			if d.A == d.B {
				return problem.New("Nothing needs to be decided", "the two records say the same")
			}
			if _, err := tx.Exec(ctx, `update linkage_decision set withdrawn_at = now() where linkage_id = $1 and a = $2 and b = $3 and withdrawn_at is null`, id, d.A, d.B); err != nil {
				return err
			}
			if withdraw {
				continue
			}
			if _, err := tx.Exec(ctx, `insert into linkage_decision (linkage_id, a, b, same, note, reviewer) values ($1, $2, $3, $4, $5, $6)`, id, d.A, d.B, d.Same, d.Note, d.By); err != nil {
				return err
			}
		}
		return nil
	})
}

// Disagreement is a pair of which a reviewer said one thing, and later another reviewer the other, which stands.
type Disagreement struct {
	A, B          string
	Same          bool // what stands
	By, Otherwise string
	Note, Before  string // what they noted
}

// Disagreements lists the pairs of which reviewers said different things, the last first.
func (s *Store) Disagreements(ctx context.Context, id int64) ([]Disagreement, error) {
	rows, _ := s.Pool.Query(ctx, `select d.a, d.b, d.same, d.reviewer, o.reviewer, d.note, o.note from linkage_decision d
		join lateral (select reviewer, note from linkage_decision o where o.linkage_id = d.linkage_id and o.a = d.a and o.b = d.b and o.id < d.id
			and o.same is not null and o.same <> d.same and o.reviewer <> d.reviewer order by o.id desc limit 1) o on true
		where d.linkage_id = $1 and d.withdrawn_at is null and d.same is not null order by d.id desc limit 500`, id)
	return pgx.CollectRows(rows, pgx.RowToStructByPos[Disagreement])
}

// turnLasts is for how long a pair is kept from other reviewers once it was shown to one.
const turnLasts = "10 minutes"

// Turns gives of pairs those that no other reviewer looks at just now, most at most, and keeps them for this one. Cost: one statement.
func (s *Store) Turns(ctx context.Context, id int64, reviewer string, pairs [][2]string, most int) (mine map[[2]string]bool, err error) {
	mine = map[[2]string]bool{}
	err = s.inTx(ctx, func(tx pgx.Tx) error {
		if _, err := tx.Exec(ctx, `select from linkage where id = $1 for update`, id); err != nil {
			return err
		}
		if _, err := tx.Exec(ctx, `delete from linkage_turn where linkage_id = $1 and (until < now() or reviewer = $2)`, id, reviewer); err != nil {
			return err
		}
		taken := map[[2]string]bool{}
		rows, _ := tx.Query(ctx, `select a, b from linkage_turn where linkage_id = $1`, id)
		var p [2]string
		if _, err := pgx.ForEachRow(rows, []any{&p[0], &p[1]}, func() error { taken[p] = true; return nil }); err != nil {
			return err
		}
		for _, p := range pairs {
			p = [2]string{min(p[0], p[1]), max(p[0], p[1])}
			if taken[p] || mine[p] || len(mine) >= most {
				continue
			}
			mine[p] = true
			if _, err := tx.Exec(ctx, `insert into linkage_turn (linkage_id, a, b, reviewer, until) values ($1, $2, $3, $4, now() + $5::interval) on conflict do nothing`, id, p[0], p[1], reviewer, turnLasts); err != nil {
				return err
			}
		}
		return nil
	})
	return mine, err
}

// Spots gives what was found of the pairs of spot checks.
func (s *Store) Spots(ctx context.Context, id int64) (map[[2]string]bool, error) {
	out := map[[2]string]bool{}
	rows, _ := s.Pool.Query(ctx, `select a, b, same from linkage_spot where linkage_id = $1`, id)
	var p [2]string
	var same bool
	_, err := pgx.ForEachRow(rows, []any{&p[0], &p[1], &same}, func() error { out[p] = same; return nil })
	return out, err
}

// Spot remembers what was found of a pair of a spot check; nil takes it back.
func (s *Store) Spot(ctx context.Context, id int64, d PairDecision) error {
	if _, err := s.Linkage(ctx, id); err != nil {
		return err
	}
	a, b := min(d.A, d.B), max(d.A, d.B)
	if d.Same == nil {
		_, err := s.Pool.Exec(ctx, `delete from linkage_spot where linkage_id = $1 and a = $2 and b = $3`, id, a, b)
		return err
	}
	_, err := s.Pool.Exec(ctx, `insert into linkage_spot (linkage_id, a, b, same, reviewer) values ($1, $2, $3, $4, $5)
		on conflict (linkage_id, a, b) do update set same = excluded.same, reviewer = excluded.reviewer, found_at = now()`, id, a, b, *d.Same, d.By)
	return err
}

// LinkageSpecs gives how a linkage is done, the last one first, two at most; none where nobody changed what is proposed.
func (s *Store) LinkageSpecs(ctx context.Context, id int64) ([]linkage.Spec, error) {
	rows, _ := s.Pool.Query(ctx, `select spec from linkage_spec where linkage_id = $1 order by id desc limit 2`, id)
	return pgx.CollectRows(rows, pgx.RowTo[linkage.Spec])
}

// SetLinkageSpec changes how a linkage is done.
func (s *Store) SetLinkageSpec(ctx context.Context, id int64, spec linkage.Spec) error {
	if _, err := s.Linkage(ctx, id); err != nil {
		return err
	}
	_, err := s.Pool.Exec(ctx, `insert into linkage_spec (linkage_id, spec) values ($1, $2)`, id, spec)
	return err
}
