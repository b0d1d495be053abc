package server

import (
	"context"

	"grandledger/api"
	"grandledger/store"
)

// ListBooks lists the books.
func (s *Server) ListBooks(ctx context.Context, _ api.ListBooksRequestObject) (api.ListBooksResponseObject, error) {
	books, err := s.store.Books(ctx)
	if err != nil {
		return nil, err
	}
	out := api.ListBooks200JSONResponse{}
	for _, b := range books {
		out = append(out, api.Book{Id: b.ID, Name: b.Name})
	}
	return out, nil
}

// CreateBook opens a book.
func (s *Server) CreateBook(ctx context.Context, r api.CreateBookRequestObject) (api.CreateBookResponseObject, error) {
	b, err := s.store.CreateBook(ctx, r.Body.Name)
	return api.CreateBook201JSONResponse{Id: b.ID, Name: b.Name}, err
}

// GetContents lists what a book holds.
func (s *Server) GetContents(ctx context.Context, r api.GetContentsRequestObject) (api.GetContentsResponseObject, error) {
	b, err := s.store.Book(ctx, r.Book)
	if err != nil {
		return nil, err
	}
	tables, err := s.store.Tables(ctx, r.Book)
	if err != nil {
		return nil, err
	}
	walks, err := s.store.Crosswalks(ctx, r.Book)
	if err != nil {
		return nil, err
	}
	out := api.GetContents200JSONResponse{Book: api.Book{Id: b.ID, Name: b.Name},
		Tables: []api.Table{}, Consolidated: []api.Table{}, Crosswalks: []api.CrosswalkLine{}}
	for _, t := range tables {
		if t.Consolidated {
			out.Consolidated = append(out.Consolidated, tableOf(t))
		} else {
			out.Tables = append(out.Tables, tableOf(t))
		}
	}
	for _, w := range walks {
		out.Crosswalks = append(out.Crosswalks, api.CrosswalkLine(w))
	}
	return out, nil
}

func tableOf(t store.Table) api.Table {
	return api.Table{Id: t.ID, BookId: t.BookID, Name: t.Name, Consolidated: t.Consolidated, Revision: t.Head, Rows: t.Rows,
		Columns: t.Columns, Next: t.Next, Entries: t.Entries, Source: t.Source, CopyOf: t.CopyOf, CopiedAt: t.CopiedAt, Apart: t.Apart}
}

// GetCrosswalk lists a crosswalk's decisions.
func (s *Server) GetCrosswalk(ctx context.Context, r api.GetCrosswalkRequestObject) (api.GetCrosswalkResponseObject, error) {
	same, apart, err := s.store.Crosswalk(ctx, r.Book, r.Name)
	if err != nil {
		return nil, err
	}
	out := api.GetCrosswalk200JSONResponse{Name: r.Name, Lines: []api.Decision{}, Apart: []api.Apart{}}
	for _, d := range same {
		out.Lines = append(out.Lines, api.Decision{Variant: d.Variant, Standard: d.Standard, Why: d.Why, Table: d.Table, Entry: d.Entry, DecidedAt: d.DecidedAt})
	}
	for _, p := range apart {
		out.Apart = append(out.Apart, api.Apart{Value: p[0], Other: p[1]})
	}
	return out, nil
}

// KeepApart remembers that two values are two things.
func (s *Server) KeepApart(ctx context.Context, r api.KeepApartRequestObject) (api.KeepApartResponseObject, error) {
	return api.KeepApart204Response{}, s.store.KeepApart(ctx, r.Book, r.Name, r.Body.Value, r.Body.Other)
}

// WithdrawApart takes that back.
func (s *Server) WithdrawApart(ctx context.Context, r api.WithdrawApartRequestObject) (api.WithdrawApartResponseObject, error) {
	return api.WithdrawApart204Response{}, s.store.WithdrawApart(ctx, r.Book, r.Name, r.Body.Value, r.Body.Other)
}
