package store

import (
	"context"

	"github.com/jackc/pgx/v5"

	"grandledger/core/condition"
)

// KeptCondition is a condition kept under a name in a book.
type KeptCondition struct {
	Name      string
	Condition condition.Condition
}

// Conditions lists the kept conditions of a book by name.
func (s *Store) Conditions(ctx context.Context, book int64) ([]KeptCondition, error) {
	rows, _ := s.Pool.Query(ctx, `select name, body from kept_condition where book_id = $1 order by name`, book)
	return pgx.CollectRows(rows, pgx.RowToStructByPos[KeptCondition])
}

// KeepCondition keeps a condition; one of the same name is replaced.
func (s *Store) KeepCondition(ctx context.Context, book int64, k KeptCondition) error {
	_, err := s.Pool.Exec(ctx, `insert into kept_condition (book_id, name, body) values ($1, $2, $3)
		on conflict (book_id, name) do update set body = excluded.body`, book, k.Name, k.Condition)
	return err
}

// DropCondition forgets a kept condition; one that is not there is forgotten already.
func (s *Store) DropCondition(ctx context.Context, book int64, name string) error {
	_, err := s.Pool.Exec(ctx, `delete from kept_condition where book_id = $1 and name = $2`, book, name)
	return err
}
