package store

import (
	"context"
	"encoding/json"
	"errors"

	"github.com/jackc/pgx/v5"

	"grandledger/core/problem"
)

// once does a change in a transaction and remembers under the key which entry it was
// about; a repeated key is answered with that entry.
func (s *Store) once(ctx context.Context, key string, change func(tx pgx.Tx) (int, error), tableID int64) (*Entry, error) {
	var number int
	err := s.inTx(ctx, func(tx pgx.Tx) error {
		done, err := Claim(ctx, tx, key, &number)
		if err != nil || done {
			return err
		}
		if number, err = change(tx); err != nil {
			return err
		}
		return Answer(ctx, tx, key, number)
	})
	if err != nil {
		return nil, err
	}
	rows, _ := s.Pool.Query(ctx, selectEntries+`where e.table_id = $1 and e.number = $2`, tableID, number)
	e, err := pgx.CollectExactlyOneRow(rows, pgx.RowToStructByPos[Entry])
	if errors.Is(err, pgx.ErrNoRows) {
		return nil, problem.New("Use another key for another request", "the idempotency key was used for another table")
	}
	return &e, err
}

// Claim takes an idempotency key for a change. It is true, with the answer filled in,
// where the change was done before; a change under way elsewhere with the same key is
// waited for.
func Claim(ctx context.Context, tx pgx.Tx, key string, answer any) (done bool, err error) {
	tag, err := tx.Exec(ctx, `insert into request (key, answer) values ($1, 'null') on conflict do nothing`, key)
	if err != nil || tag.RowsAffected() > 0 {
		return false, err
	}
	var raw []byte
	if err := tx.QueryRow(ctx, `select answer from request where key = $1`, key).Scan(&raw); err != nil {
		return false, err
	}
	return true, json.Unmarshal(raw, answer)
}

// Answer remembers what a claimed request was answered with.
func Answer(ctx context.Context, tx pgx.Tx, key string, answer any) error {
	raw, err := json.Marshal(answer)
	if err != nil {
		return err
	}
	_, err = tx.Exec(ctx, `update request set answer = $2 where key = $1`, key, raw)
	return err
}
