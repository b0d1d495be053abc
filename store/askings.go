package store

import (
	"context"
	"errors"
	"fmt"

	"github.com/jackc/pgx/v5"

	"grandledger/core/authority"
	"grandledger/core/problem"
)

// Asking is a column of a table that is asked of an authority.
type Asking struct {
	ID, Book, Table int64
	Register        *int64 // the table that is the authority
	Address         string // or where a service is
	Authority       string // what it is called
	Question        authority.Question
}

const selectAsking = `select id, book_id, table_id, register_id, address, authority, question from asking `

// Askings lists those of a book, the last one first.
func (s *Store) Askings(ctx context.Context, book int64) ([]Asking, error) {
	rows, _ := s.Pool.Query(ctx, selectAsking+`where book_id = $1 order by id desc`, book)
	return pgx.CollectRows(rows, pgx.RowToStructByPos[Asking])
}

// Asking gives one.
func (s *Store) Asking(ctx context.Context, id int64) (Asking, error) {
	rows, _ := s.Pool.Query(ctx, selectAsking+`where id = $1`, id)
	a, err := pgx.CollectExactlyOneRow(rows, pgx.RowToStructByPos[Asking])
	if errors.Is(err, pgx.ErrNoRows) {
		return a, fmt.Errorf("asking %d: %w", id, ErrNotFound)
	}
	return a, err
}

// AddAsking opens one. The tables must be of the book.
func (s *Store) AddAsking(ctx context.Context, a Asking) (int64, error) {
	for _, id := range []*int64{&a.Table, a.Register} {
		if id == nil {
			continue
		}
		if t, err := s.Table(ctx, *id); err != nil {
			return 0, err
		} else if t.BookID != a.Book {
			return 0, fmt.Errorf("table %d in book %d: %w", *id, a.Book, ErrNotFound)
		}
	}
	if (a.Register == nil) == (a.Address == "") {
		return 0, problem.New("Choose one of them", "an authority is a table of the book or a service at an address")
	}
	var id int64
	err := s.Pool.QueryRow(ctx, `insert into asking (book_id, table_id, register_id, address, authority, question) values ($1, $2, $3, $4, $5, $6) returning id`,
		a.Book, a.Table, a.Register, a.Address, a.Authority, a.Question).Scan(&id)
	return id, err
}

// Identification is what was decided of a combination of values.
type Identification struct {
	Of         []string
	State      authority.State
	Identifier string
	Standard   string
	Note, By   string
}

// Identifications gives what stands decided.
func (s *Store) Identifications(ctx context.Context, asking int64) ([]Identification, error) {
	rows, _ := s.Pool.Query(ctx, `select combination, state, identifier, standard, note, reviewer from asking_decision where asking_id = $1 and withdrawn_at is null order by id`, asking)
	return pgx.CollectRows(rows, pgx.RowToStructByPos[Identification])
}

// Identify remembers what is said of combinations, each in place of what was said before; withdraw takes that back.
func (s *Store) Identify(ctx context.Context, asking int64, all []Identification, withdraw bool) error {
	if len(all) == 0 || len(all) > 100_000 {
		return problem.New("Give 1 to 100,000", "%d combinations are decided in one go", len(all))
	}
	if _, err := s.Asking(ctx, asking); err != nil {
		return err
	}
	return s.inTx(ctx, func(tx pgx.Tx) error {
		if _, err := tx.Exec(ctx, `select from asking where id = $1 for update`, asking); err != nil {
			return err
		}
		for _, d := range all {
			if _, err := tx.Exec(ctx, `update asking_decision set withdrawn_at = now() where asking_id = $1 and combination = $2 and withdrawn_at is null`, asking, d.Of); err != nil {
				return err
			}
			if withdraw {
				continue
			}
			if d.State != authority.Identified && d.State != authority.Undecided && d.State != authority.NotListed || d.State == authority.Identified && d.Identifier == "" {
				return problem.New("Say which entry it is, or that it is undecided or not listed", "%q is no decision", d.State)
			}
			if _, err := tx.Exec(ctx, `insert into asking_decision (asking_id, combination, state, identifier, standard, note, reviewer) values ($1, $2, $3, $4, $5, $6, $7)`,
				asking, d.Of, d.State, d.Identifier, d.Standard, d.Note, d.By); err != nil {
				return err
			}
		}
		return nil
	})
}

// Offers gives what a service offered for names, as it said it.
func (s *Store) Offers(ctx context.Context, asking int64) (map[string][]byte, error) {
	return s.said(ctx, `select name, offered from asking_offer where asking_id = $1`, asking)
}

// FactsOf gives what a service said of entries.
func (s *Store) FactsOf(ctx context.Context, asking int64) (map[string][]byte, error) {
	return s.said(ctx, `select identifier, facts from asking_fact where asking_id = $1`, asking)
}

func (s *Store) said(ctx context.Context, query string, asking int64) (map[string][]byte, error) {
	out := map[string][]byte{}
	rows, _ := s.Pool.Query(ctx, query, asking)
	var name string
	var raw []byte
	_, err := pgx.ForEachRow(rows, []any{&name, &raw}, func() error { out[name] = append([]byte(nil), raw...); return nil })
	return out, err
}

// KeepOffer remembers what was offered for a name, with the time.
func (s *Store) KeepOffer(ctx context.Context, asking int64, name string, offered any) error {
	_, err := s.Pool.Exec(ctx, `insert into asking_offer (asking_id, name, offered) values ($1, $2, $3) on conflict (asking_id, name) do update set offered = excluded.offered, asked_at = now()`, asking, name, offered)
	return err
}

// KeepFacts remembers what was said of an entry, with the time.
func (s *Store) KeepFacts(ctx context.Context, asking int64, identifier string, facts any) error {
	_, err := s.Pool.Exec(ctx, `insert into asking_fact (asking_id, identifier, facts) values ($1, $2, $3) on conflict (asking_id, identifier) do update set facts = excluded.facts, asked_at = now()`, asking, identifier, facts)
	return err
}
