package server

import (
	"context"
	"encoding/json"
	"fmt"
	"strings"

	"grandledger/api"
	"grandledger/core/compare"
	"grandledger/core/problem"
	"grandledger/core/table"
	"grandledger/core/tally"
	"grandledger/store"
)

// maxCounted is how many values are counted side by side.
const maxCounted = 500

// CopyTable opens a table with the rows of another.
func (s *Server) CopyTable(ctx context.Context, r api.CopyTableRequestObject) (api.CopyTableResponseObject, error) {
	t, err := s.store.Copy(ctx, r.Params.IdempotencyKey, r.Book, store.Copying{Table: r.Body.Table, Revision: r.Body.Revision, Aside: r.Body.Aside, Name: r.Body.Name})
	return api.CopyTable201JSONResponse(tableOf(t)), err
}

// sides loads two tables of a book.
func (s *Server) sides(ctx context.Context, book int64, asked *api.TablesAsked) (before, after *store.Loaded, err error) {
	var sides [2]*store.Loaded
	for i, at := range []api.TableAt{asked.Before, asked.After} {
		t, err := s.store.Table(ctx, at.Table)
		if err != nil {
			return nil, nil, err
		}
		if t.BookID != book {
			return nil, nil, fmt.Errorf("table %d in book %d: %w", at.Table, book, store.ErrNotFound)
		}
		if at.Entry == nil {
			sides[i], err = s.store.Load(ctx, t.Head)
		} else {
			sides[i], err = s.store.After(ctx, at.Table, *at.Entry)
		}
		if err != nil {
			return nil, nil, err
		}
	}
	return sides[0], sides[1], nil
}

// compared compares two tables, once.
func (s *Server) compared(ctx context.Context, book int64, asked *api.TablesAsked) (c *compare.Tables, before, after *table.Table, err error) {
	a, b, err := s.sides(ctx, book, asked)
	if err != nil {
		return nil, nil, nil, err
	}
	spec := compare.Spec{Key: asked.Key, Cells: asked.Cells}
	name, err := json.Marshal(spec)
	if err != nil {
		return nil, nil, nil, err
	}
	c, err = view(s, a.Revision, fmt.Sprintf("compared with %d %s", b.Revision, name), func() (*compare.Tables, error) {
		return compare.OfTables(a.Table, b.Table, spec)
	})
	return c, a.Table, b.Table, err
}

// CompareTables compares two tables row by row.
func (s *Server) CompareTables(ctx context.Context, r api.CompareTablesRequestObject) (api.CompareTablesResponseObject, error) {
	c, _, _, err := s.compared(ctx, r.Book, r.Body)
	if err != nil {
		return nil, err
	}
	return api.CompareTables200JSONResponse(*c), nil
}

// ListComparedRows lists rows that differ, or that one of the tables has alone.
func (s *Server) ListComparedRows(ctx context.Context, r api.ListComparedRowsRequestObject) (api.ListComparedRowsResponseObject, error) {
	c, before, after, err := s.compared(ctx, r.Book, r.Body)
	if err != nil {
		return nil, err
	}
	rows, total := c.Rows(compare.Which(r.Params.Which), r.Params.Column, max(r.Params.From, 0), page(r.Params.Count, 50))
	out := api.ListComparedRows200JSONResponse{BeforeColumns: columnNames(before), AfterColumns: columnNames(after), Total: total, Rows: []api.ComparedRow{}}
	for _, row := range rows {
		shown := api.ComparedRow{Cells: c.Cells(row)}
		if row.Before >= 0 {
			of := rowOf(before, row.Before)
			shown.Before = &of
		}
		if row.After >= 0 {
			of := rowOf(after, row.After)
			shown.After = &of
		}
		out.Rows = append(out.Rows, shown)
	}
	return out, nil
}

// CountCompared counts the values of a column in two tables.
func (s *Server) CountCompared(ctx context.Context, r api.CountComparedRequestObject) (api.CountComparedResponseObject, error) {
	before, after, err := s.sides(ctx, r.Book, r.Body)
	if err != nil {
		return nil, err
	}
	var measures []tally.Measure
	for _, of := range r.Params.Measures {
		figure, column, ok := strings.Cut(of, ":")
		if !ok {
			return nil, problem.New("Give such as sum:kg", "%q names no figure of a column", of)
		}
		measures = append(measures, tally.Measure{Column: column, Of: tally.Figure(figure)})
	}
	counts, err := compare.CountsOf(before.Table, after.Table, compare.Pair{Before: r.Params.Before, After: r.Params.After}, measures, maxCounted)
	if err != nil {
		return nil, err
	}
	for i := range counts.Lines {
		counts.Lines[i].Value, _ = cutCell(counts.Lines[i].Value)
	}
	return api.CountCompared200JSONResponse(*counts), nil
}
