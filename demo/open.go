package demo

import (
	"bytes"
	"context"
	"fmt"

	"github.com/jackc/pgx/v5"

	"grandledger/core/entry"
	"grandledger/core/table"
	"grandledger/formats"
	"grandledger/formats/intake"
	"grandledger/jobs"
	"grandledger/store"
)

// Open makes the demo book where there is none. Each table is stored whole or not at
// all, and one that is missing is made, so a start that was cut off is made good.
func Open(ctx context.Context, s *store.Store) error {
	books, err := s.Books(ctx)
	if err != nil {
		return err
	}
	for _, b := range books {
		if b.Name == BookName {
			return fill(ctx, s, b.ID)
		}
	}
	b, err := s.CreateBook(ctx, BookName)
	if err != nil {
		return err
	}
	return fill(ctx, s, b.ID)
}

func fill(ctx context.Context, s *store.Store, book int64) error {
	tables, err := s.Tables(ctx, book)
	if err != nil {
		return err
	}
	have := map[string]bool{}
	for _, t := range tables {
		have[t.Name] = true
	}
	files, _ := Files()
	for _, f := range files {
		if have[f.Table] {
			continue
		}
		t, how, err := f.Read(ctx)
		if err != nil {
			return fmt.Errorf("making the demo: %w", err)
		}
		err = pgx.BeginFunc(ctx, s.Pool, func(tx pgx.Tx) error {
			_, _, err := s.CreateTable(ctx, tx, t, store.Opening{Book: book, Name: f.Table, Kind: "bring-in", Words: "Brought in " + f.Name,
				Params: jobs.Source{Files: []string{f.Name}, How: how}, Balance: entry.Balance{Added: t.Rows(), After: t.Rows()}})
			return err
		})
		if err != nil {
			return fmt.Errorf("making the demo: %w", err)
		}
	}
	return nil
}

// Read reads a file of the demo as it proposes itself, all its sheets below one another.
func (f File) Read(ctx context.Context) (*table.Table, formats.How, error) {
	src := formats.Source{Name: f.Name, Size: int64(len(f.Bytes)), At: bytes.NewReader(f.Bytes)}
	v, err := formats.Look(ctx, src, nil)
	if err != nil {
		return nil, formats.How{}, err
	}
	how := v.How
	if len(v.Choices.Sheets) > 1 {
		how.Pieces = v.Choices.Sheets
	}
	t, _, err := formats.Read(ctx, []formats.Source{src}, how, intake.Options{})
	return t, how, err
}
