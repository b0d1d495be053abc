package store

import (
	"context"
	"errors"
	"fmt"

	"github.com/jackc/pgx/v5"
)

// Upload is a file that was received and not yet brought in.
type Upload struct {
	ID, BookID int64
	File       string // the name it came with
	Path       string // where its bytes are
	Bytes      int64
	Own        bool   // the bytes are ours to remove; false for a file of the server's own disk
	How        []byte // how it is read, as JSON, where that is known beforehand; nil where it is found out
}

// AddUpload notes a received file. Its bytes must already be in place.
func (s *Store) AddUpload(ctx context.Context, u Upload) (Upload, error) {
	err := s.Pool.QueryRow(ctx, `insert into upload (book_id, file_name, path, bytes, own, how) values ($1, $2, $3, $4, $5, $6) returning id`,
		u.BookID, u.File, u.Path, u.Bytes, u.Own, u.How).Scan(&u.ID)
	return u, err
}

// Upload gives a received file.
func (s *Store) Upload(ctx context.Context, id int64) (Upload, error) {
	u := Upload{ID: id}
	err := s.Pool.QueryRow(ctx, `select book_id, file_name, path, bytes, own, how from upload where id = $1`, id).
		Scan(&u.BookID, &u.File, &u.Path, &u.Bytes, &u.Own, &u.How)
	if errors.Is(err, pgx.ErrNoRows) {
		return u, fmt.Errorf("upload %d: %w", id, ErrNotFound)
	}
	return u, err
}

// UploadPaths lists where the bytes of all received files are.
func (s *Store) UploadPaths(ctx context.Context) ([]string, error) {
	rows, _ := s.Pool.Query(ctx, `select path from upload where own`)
	return pgx.CollectRows(rows, pgx.RowTo[string])
}
