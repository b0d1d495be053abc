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

// LinkageDecisions gives what stands decided of pairs, in the order it was decided.
func (s *Store) LinkageDecisions(ctx context.Context, id int64) ([]linkage.Decision, error) {
	rows, _ := s.Pool.Query(ctx, `select a, b, same from linkage_decision where linkage_id = $1 and withdrawn_at is null order by id`, id)
	return pgx.CollectRows(rows, pgx.RowToStructByPos[linkage.Decision])
}

// DecidePair remembers that two records are one thing or two, in place of what was decided of them; with nil that is withdrawn.
func (s *Store) DecidePair(ctx context.Context, id int64, a, b string, same *bool) error {
	a, b = min(a, b), max(a, b)
	if a == b {
		return problem.New("Nothing needs to be decided", "the two records say the same")
	}
	if _, err := s.Linkage(ctx, id); err != nil {
		return err
	}
	return s.inTx(ctx, func(tx pgx.Tx) error {
		if _, err := tx.Exec(ctx, `select from linkage where id = $1 for update`, id); err != nil {
			return err
		}
		if _, err := tx.Exec(ctx, `update linkage_decision set withdrawn_at = now() where linkage_id = $1 and a = $2 and b = $3 and withdrawn_at is null`, id, a, b); err != nil || same == nil {
			return err
		}
		_, err := tx.Exec(ctx, `insert into linkage_decision (linkage_id, a, b, same) values ($1, $2, $3, $4)`, id, a, b, *same)
		return err
	})
}
