package server

import (
	"context"
	"fmt"
	"strings"
	"unicode/utf8"

	"golang.org/x/sync/errgroup"

	"grandledger/api"
	"grandledger/core/problem"
	"grandledger/core/table"
	"grandledger/core/tally"
	"grandledger/store"
)

// viewKey names something worked out from a revision. Revisions never change, so it is
// kept until others push it out.
type viewKey struct {
	revision int64
	what     string
}

// view gives what was worked out before, or works it out.
func view[T any](s *Server, revision int64, what string, work func() (T, error)) (T, error) {
	key := viewKey{revision, what}
	if got, ok := s.views.Get(key); ok {
		return got.(T), nil
	}
	made, err := work()
	if err == nil {
		s.views.Add(key, made)
	}
	return made, err
}

// at loads the revision that is asked for, or the one that stands.
func (s *Server) at(ctx context.Context, id, revision int64) (*store.Loaded, error) {
	if revision != 0 {
		return s.store.LoadOf(ctx, id, revision)
	}
	t, err := s.store.Table(ctx, id)
	if err != nil {
		return nil, err
	}
	return s.store.Load(ctx, t.Head)
}

// register profiles every column, columns side by side.
func (s *Server) register(l *store.Loaded) ([]tally.Profile, error) {
	return view(s, l.Revision, "register", func() ([]tally.Profile, error) {
		columns := l.Table.Columns()
		out := make([]tally.Profile, len(columns))
		var work errgroup.Group
		work.SetLimit(2)
		for i, c := range columns {
			work.Go(func() error {
				out[i] = *tally.Of(l.Table, c)
				return nil
			})
		}
		return out, work.Wait()
	})
}

func column(t *table.Table, name string) (*table.Column, error) {
	c, _, err := t.Column(name)
	if err != nil {
		p := problem.New("Choose a column the table has now", "the table has no column %q", name)
		p.Column = name
		return nil, p
	}
	return c, nil
}

// GetTable gives a table as it stands.
func (s *Server) GetTable(ctx context.Context, r api.GetTableRequestObject) (api.GetTableResponseObject, error) {
	t, err := s.store.Table(ctx, r.Table)
	return api.GetTable200JSONResponse(tableOf(t)), err
}

// GetRegister gives the column register.
func (s *Server) GetRegister(ctx context.Context, r api.GetRegisterRequestObject) (api.GetRegisterResponseObject, error) {
	l, err := s.at(ctx, r.Table, r.Params.Revision)
	if err != nil {
		return nil, err
	}
	profiles, err := s.register(l)
	return api.GetRegister200JSONResponse(profiles), err
}

// GetTally gives a page of a column's distinct values.
func (s *Server) GetTally(ctx context.Context, r api.GetTallyRequestObject) (api.GetTallyResponseObject, error) {
	l, err := s.at(ctx, r.Table, r.Params.Revision)
	if err != nil {
		return nil, err
	}
	c, err := column(l.Table, r.Params.Column)
	if err != nil {
		return nil, err
	}
	order := tally.Order(r.Params.Order)
	if order != tally.ByAlphabet {
		order = tally.ByCount
	}
	all, err := view(s, l.Revision, fmt.Sprintf("tally %s %q", order, c.Name), func() (*tally.Tally, error) {
		return tally.New(l.Table, c, order), nil
	})
	if err != nil {
		return nil, err
	}
	found := all
	if r.Params.Find != "" {
		if found, err = view(s, l.Revision, fmt.Sprintf("tally %s %q %q", order, c.Name, r.Params.Find), func() (*tally.Tally, error) {
			return all.Find(r.Params.Find), nil
		}); err != nil {
			return nil, err
		}
	}
	return api.GetTally200JSONResponse{Revision: l.Revision, Total: all.Len(), Found: found.Len(), FoundRows: found.Rows(), Rows: l.Table.Rows(),
		Missing: all.Missing, From: r.Params.From, Lines: found.Lines(r.Params.From, page(r.Params.Count, 100))}, nil
}

// page keeps the size of an answer within bounds.
func page(asked, usual int) int {
	if asked <= 0 {
		return usual
	}
	return min(asked, maxPage)
}

// GetRows gives a page of rows.
func (s *Server) GetRows(ctx context.Context, r api.GetRowsRequestObject) (api.GetRowsResponseObject, error) {
	t, err := s.chosen(ctx, r.Table, r.Params.Revision, r.Params.Aside)
	if err != nil {
		return nil, err
	}
	total, position := t.Rows(), func(i int) int { return i }
	if r.Params.Value != nil {
		rows, err := s.holding(ctx, t, r)
		if err != nil {
			return nil, err
		}
		total, position = len(rows), func(i int) int { return int(rows[i]) }
	}
	out := api.GetRows200JSONResponse{Columns: []string{}, Total: total, From: r.Params.From, Rows: []api.Row{}}
	for _, c := range t.Columns() {
		out.Columns = append(out.Columns, c.Name)
	}
	for i := max(r.Params.From, 0); i < min(max(r.Params.From, 0)+page(r.Params.Count, 100), total); i++ {
		out.Rows = append(out.Rows, rowOf(t, position(i)))
	}
	return out, nil
}

// chosen is a table at a revision, or the rows that an entry set aside.
func (s *Server) chosen(ctx context.Context, id, revision int64, aside *int) (*table.Table, error) {
	if aside != nil {
		return s.store.Aside(ctx, id, *aside)
	}
	l, err := s.at(ctx, id, revision)
	if err != nil {
		return nil, err
	}
	return l.Table, nil
}

// holding finds the positions whose cell in a column holds a value. Cost: O(rows) once,
// then remembered.
func (s *Server) holding(ctx context.Context, t *table.Table, r api.GetRowsRequestObject) ([]uint32, error) {
	c, err := column(t, r.Params.Column)
	if err != nil {
		return nil, err
	}
	find := func() ([]uint32, error) {
		code, ok := c.Dict.Find(*r.Params.Value)
		var out []uint32
		for i := 0; ok && i < t.Rows(); i++ {
			if c.Code(t.BaseRow(i)) == code {
				out = append(out, uint32(i))
			}
		}
		return out, nil
	}
	if r.Params.Aside != nil {
		return find()
	}
	l, err := s.at(ctx, r.Table, r.Params.Revision)
	if err != nil {
		return nil, err
	}
	return view(s, l.Revision, fmt.Sprintf("rows %q %q", c.Name, *r.Params.Value), find)
}

// rowOf gives a row with long cells cut and its place in the sources.
func rowOf(t *table.Table, position int) api.Row {
	base := t.BaseRow(position)
	out := api.Row{Cells: make([]*string, len(t.Columns()))}
	for i, c := range t.Columns() {
		if v, ok := c.Value(base); ok {
			short, cut := cutCell(v)
			out.Cells[i] = &short
			if cut {
				out.Cut = append(out.Cut, i)
			}
		}
	}
	var from []string
	for _, o := range t.Origins() {
		if row := o.Row(base); row > 0 {
			from = append(from, fmt.Sprintf("%s %d", o.Source, row))
		}
	}
	out.Origin = strings.Join(from, ", ")
	return out
}

func cutCell(v string) (string, bool) {
	if len(v) <= maxCell {
		return v, false
	}
	at := maxCell
	for !utf8.RuneStart(v[at]) {
		at--
	}
	return v[:at], true
}
