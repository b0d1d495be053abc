package store

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"time"

	"github.com/jackc/pgx/v5"

	"grandledger/core/problem"
	"grandledger/core/reconcile"
)

// Reconciliation is two tables of a book proved against each other.
type Reconciliation struct {
	ID, Book     int64
	Name         string
	Ours, Theirs int64
	Spec         reconcile.Spec
}

const selectReconciliation = `select id, book_id, name, ours, theirs, spec from reconciliation `

// Reconciliations lists those of a book by name.
func (s *Store) Reconciliations(ctx context.Context, book int64) ([]Reconciliation, error) {
	rows, _ := s.Pool.Query(ctx, selectReconciliation+`where book_id = $1 order by name`, book)
	return pgx.CollectRows(rows, pgx.RowToStructByPos[Reconciliation])
}

// Reconciliation gives one.
func (s *Store) Reconciliation(ctx context.Context, id int64) (Reconciliation, error) {
	rows, _ := s.Pool.Query(ctx, selectReconciliation+`where id = $1`, id)
	r, err := pgx.CollectExactlyOneRow(rows, pgx.RowToStructByPos[Reconciliation])
	if errors.Is(err, pgx.ErrNoRows) {
		return r, fmt.Errorf("reconciliation %d: %w", id, ErrNotFound)
	}
	return r, err
}

// AddReconciliation opens one.
func (s *Store) AddReconciliation(ctx context.Context, r Reconciliation) (int64, error) {
	name, err := properName(r.Name, "reconciliation")
	if err != nil {
		return 0, err
	}
	for _, id := range []int64{r.Ours, r.Theirs} {
		if t, err := s.Table(ctx, id); err != nil {
			return 0, err
		} else if t.BookID != r.Book {
			return 0, fmt.Errorf("table %d in book %d: %w", id, r.Book, ErrNotFound)
		}
	}
	if r.Ours == r.Theirs {
		return 0, problem.New("Choose another table for the other side", "a table is not proved against itself")
	}
	var id int64
	err = s.Pool.QueryRow(ctx, `insert into reconciliation (book_id, name, ours, theirs) values ($1, $2, $3, $4) returning id`, r.Book, name, r.Ours, r.Theirs).Scan(&id)
	if violates(err, "23505") {
		return 0, problem.New("Give it another name", "the book has a reconciliation %q already", name)
	}
	return id, err
}

// errClosed says that a reconciliation is closed.
func errClosed() error {
	return problem.New("Reopen it first", "the reconciliation is closed, its items stay as they were")
}

// open locks a reconciliation within a transaction, and refuses one that is closed.
func (s *Store) openReconciliation(ctx context.Context, tx pgx.Tx, id int64) error {
	tag, err := tx.Exec(ctx, `select from reconciliation where id = $1 for update`, id)
	if err != nil {
		return err
	}
	if tag.RowsAffected() == 0 {
		return fmt.Errorf("reconciliation %d: %w", id, ErrNotFound)
	}
	var closed bool
	if err := tx.QueryRow(ctx, `select exists (select from reconciliation_closing where reconciliation_id = $1 and reopened_at is null)`, id).Scan(&closed); err != nil {
		return err
	}
	if closed {
		return errClosed()
	}
	return nil
}

// SetReconciliationSpec changes how items are settled.
func (s *Store) SetReconciliationSpec(ctx context.Context, id int64, spec reconcile.Spec) error {
	return s.inTx(ctx, func(tx pgx.Tx) error {
		if err := s.openReconciliation(ctx, tx, id); err != nil {
			return err
		}
		_, err := tx.Exec(ctx, `update reconciliation set spec = $2 where id = $1`, id, spec)
		return err
	})
}

// ItemDecision is what stands decided of items.
type ItemDecision struct {
	ID           int64
	Kind         string
	Ours, Theirs []string
	Note, By     string
}

// ItemDecisions gives what stands decided, in the order it was.
func (s *Store) ItemDecisions(ctx context.Context, id int64) ([]ItemDecision, error) {
	rows, _ := s.Pool.Query(ctx, `select id, kind, ours, theirs, note, reviewer from reconciliation_decision where reconciliation_id = $1 and withdrawn_at is null order by id`, id)
	return pgx.CollectRows(rows, pgx.RowToStructByPos[ItemDecision])
}

// DecideItems remembers what is decided of items, and gives the number by which it is withdrawn.
func (s *Store) DecideItems(ctx context.Context, id int64, d ItemDecision) (number int64, err error) {
	if len(d.Ours)+len(d.Theirs) == 0 || len(d.Ours)+len(d.Theirs) > 1000 {
		return 0, problem.New("Choose 1 to 1,000", "%d items are decided in one go", len(d.Ours)+len(d.Theirs))
	}
	if d.Kind != reconcile.BySettling && d.Kind != reconcile.ByBreaking && d.Kind != reconcile.ByExplaining {
		return 0, problem.New("Settle, break or explain", "%q is no decision", d.Kind)
	}
	if d.Ours == nil {
		d.Ours = []string{}
	}
	if d.Theirs == nil {
		d.Theirs = []string{}
	}
	err = s.inTx(ctx, func(tx pgx.Tx) error {
		if err := s.openReconciliation(ctx, tx, id); err != nil {
			return err
		}
		return tx.QueryRow(ctx, `insert into reconciliation_decision (reconciliation_id, kind, ours, theirs, note, reviewer) values ($1, $2, $3, $4, $5, $6) returning id`,
			id, d.Kind, d.Ours, d.Theirs, d.Note, d.By).Scan(&number)
	})
	return number, err
}

// WithdrawItems takes a decision back.
func (s *Store) WithdrawItems(ctx context.Context, id, number int64) error {
	return s.inTx(ctx, func(tx pgx.Tx) error {
		if err := s.openReconciliation(ctx, tx, id); err != nil {
			return err
		}
		_, err := tx.Exec(ctx, `update reconciliation_decision set withdrawn_at = now() where reconciliation_id = $1 and id = $2 and withdrawn_at is null`, id, number)
		return err
	})
}

// Closing is a statement as it stood when a reconciliation was closed.
type Closing struct {
	Statement    json.RawMessage
	Revisions    []int64
	Signed, Note string
	ClosedAt     time.Time
	ReopenedAt   *time.Time
}

// Closings lists those of a reconciliation, the last one first.
func (s *Store) Closings(ctx context.Context, id int64) ([]Closing, error) {
	rows, _ := s.Pool.Query(ctx, `select statement, revisions, signed, note, closed_at, reopened_at from reconciliation_closing where reconciliation_id = $1 order by id desc`, id)
	return pgx.CollectRows(rows, pgx.RowToStructByPos[Closing])
}

// CloseReconciliation freezes a statement.
func (s *Store) CloseReconciliation(ctx context.Context, id int64, c Closing) error {
	return s.inTx(ctx, func(tx pgx.Tx) error {
		if err := s.openReconciliation(ctx, tx, id); err != nil {
			return err
		}
		_, err := tx.Exec(ctx, `insert into reconciliation_closing (reconciliation_id, statement, revisions, signed, note) values ($1, $2, $3, $4, $5)`, id, c.Statement, c.Revisions, c.Signed, c.Note)
		return err
	})
}

// ReopenReconciliation opens a closed one again; the closing stays on record.
func (s *Store) ReopenReconciliation(ctx context.Context, id int64) error {
	_, err := s.Pool.Exec(ctx, `update reconciliation_closing set reopened_at = now() where reconciliation_id = $1 and reopened_at is null`, id)
	return err
}
