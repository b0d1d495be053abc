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
	linkages, err := s.store.Linkages(ctx, r.Book)
	if err != nil {
		return nil, err
	}
	askings, err := s.store.Askings(ctx, r.Book)
	if err != nil {
		return nil, err
	}
	recs, err := s.store.Reconciliations(ctx, r.Book)
	if err != nil {
		return nil, err
	}
	out := api.GetContents200JSONResponse{Reconciliations: []api.NamedLine{}, Askings: []api.NamedLine{}, Linkages: []api.LinkageLine{}, Book: api.Book{Id: b.ID, Name: b.Name},
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
	for _, l := range linkages {
		out.Linkages = append(out.Linkages, api.LinkageLine{Id: l.ID, Name: l.Name})
	}
	for _, x := range recs {
		out.Reconciliations = append(out.Reconciliations, api.NamedLine{Id: x.ID, Name: x.Name})
	}
	for _, a := range askings {
		out.Askings = append(out.Askings, api.NamedLine{Id: a.ID, Name: nameOf(a)})
	}
	return out, nil
}

func tableOf(t store.Table) api.Table {
	return api.Table{Id: t.ID, BookId: t.BookID, Name: t.Name, Consolidated: t.Consolidated, Revision: t.Head, Rows: t.Rows,
		Columns: t.Columns, Next: t.Next, Entries: t.Entries, Source: t.Source, CopyOf: t.CopyOf, CopiedAt: t.CopiedAt, Apart: t.Apart}
}
