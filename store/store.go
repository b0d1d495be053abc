// Package store keeps books, tables, journals and decisions in PostgreSQL. It is the
// only place that speaks SQL to the data of a book.
//
// A table's columns are parts (codes, views, dictionaries, selections), each written
// once and never changed; a revision is a list of parts. Posting an entry writes the
// parts the entry made, a revision, the journal line and its decisions in one
// transaction; reversing moves the table's head. So a change happened wholly or not at
// all, and costs what it changed.
package store

import (
	"context"
	"embed"
	"fmt"
	"io/fs"

	"github.com/jackc/pgx/v5"
	"github.com/jackc/pgx/v5/pgxpool"
	"github.com/jackc/pgx/v5/stdlib"
	"github.com/pressly/goose/v3"
)

//go:embed migrations/*.sql
var migrations embed.FS

// Channel is the PostgreSQL notification channel on which changes are told: a JSON
// object with "table" or "job" and its number.
const Channel = "grandledger"

// Store is a connection pool with a cache of loaded tables. It is safe for use by
// several goroutines.
type Store struct {
	Pool  *pgxpool.Pool
	cache *cache
	parts *parts
}

// Open connects and brings the schema up to date.
func Open(ctx context.Context, url string) (*Store, error) {
	pool, err := pgxpool.New(ctx, url)
	if err != nil {
		return nil, fmt.Errorf("reading the database address: %w", err)
	}
	if err := migrate(ctx, pool); err != nil {
		pool.Close()
		return nil, err
	}
	return &Store{Pool: pool, cache: newCache(), parts: newParts()}, nil
}

// Close ends all connections.
func (s *Store) Close() { s.Pool.Close() }

func migrate(ctx context.Context, pool *pgxpool.Pool) error {
	files, err := fs.Sub(migrations, "migrations")
	if err != nil {
		return err
	}
	db := stdlib.OpenDBFromPool(pool)
	defer db.Close()
	p, err := goose.NewProvider(goose.DialectPostgres, db, files)
	if err != nil {
		return err
	}
	if _, err := p.Up(ctx); err != nil {
		return fmt.Errorf("bringing the database schema up to date: %w", err)
	}
	return nil
}

// inTx runs f in a transaction.
func (s *Store) inTx(ctx context.Context, f func(tx pgx.Tx) error) error {
	return pgx.BeginFunc(ctx, s.Pool, f)
}

// Tell announces a change to all listeners once the transaction commits.
func Tell(ctx context.Context, tx pgx.Tx, what string, id int64) error {
	_, err := tx.Exec(ctx, `select pg_notify($1, json_build_object($2::text, $3::bigint)::text)`, Channel, what, id)
	return err
}
