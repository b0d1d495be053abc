package server

import (
	"context"
	"fmt"
	"strings"
	"unicode/utf8"

	"golang.org/x/sync/errgroup"

	"grandledger/api"
	"grandledger/core/condition"
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
func (s *Server) register(t narrowed) ([]tally.Profile, error) {
	return view(s, t.revision, t.what("register"), func() ([]tally.Profile, error) {
		columns := t.Columns()
		out := make([]tally.Profile, len(columns))
		var work errgroup.Group
		work.SetLimit(2)
		for i, c := range columns {
			work.Go(func() error {
				out[i] = *tally.Of(t.Table, c)
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
	t, err := s.within(ctx, r.Table, r.Params.Revision, r.Params.Where)
	if err != nil {
		return nil, err
	}
	profiles, err := s.register(t)
	return api.GetRegister200JSONResponse(profiles), err
}

// GetTally gives a page of a column's distinct values.
func (s *Server) GetTally(ctx context.Context, r api.GetTallyRequestObject) (api.GetTallyResponseObject, error) {
	t, c, err := s.columnOf(ctx, r.Table, r.Params.Revision, r.Params.Where, r.Params.Column)
	if err != nil {
		return nil, err
	}
	order := tally.Order(r.Params.Order)
	if order != tally.ByAlphabet && order != tally.ByShape {
		order = tally.ByCount
	}
	all, err := view(s, t.revision, t.what(fmt.Sprintf("tally %s %q", order, c.Name)), func() (*tally.Tally, error) {
		return tally.New(t.Table, c, order), nil
	})
	if err != nil {
		return nil, err
	}
	parts, err := view(s, t.revision, t.what(fmt.Sprintf("parts %q", c.Name)), func() ([]tally.PartCount, error) { return all.Parts(), nil })
	if err != nil {
		return nil, err
	}
	found := all
	if part := tally.Part(r.Params.Part); part != tally.All {
		if found, err = view(s, t.revision, t.what(fmt.Sprintf("tally %s %q only %s", order, c.Name, part)), func() (*tally.Tally, error) {
			return all.Only(part), nil
		}); err != nil {
			return nil, err
		}
	}
	if r.Params.Find != "" {
		all := found
		if found, err = view(s, t.revision, t.what(fmt.Sprintf("tally %s %q only %s %q", order, c.Name, r.Params.Part, r.Params.Find)), func() (*tally.Tally, error) {
			return all.Find(r.Params.Find), nil
		}); err != nil {
			return nil, err
		}
	}
	out := api.GetTally200JSONResponse{Revision: t.revision, Total: all.Len(), Found: found.Len(), FoundRows: found.Rows(), Rows: t.Rows(),
		Missing: all.Missing, From: r.Params.From, Before: found.Before(r.Params.From), Parts: parts,
		Lines: found.Lines(r.Params.From, page(r.Params.Count, 100)), Shapes: []string{}}
	if order == tally.ByShape {
		for _, l := range out.Lines {
			shape, _ := cutCell(found.Shape(l.Value))
			out.Shapes = append(out.Shapes, shape)
		}
	}
	return out, nil
}

// CompareTallies puts the distinct values of two columns side by side.
func (s *Server) CompareTallies(ctx context.Context, r api.CompareTalliesRequestObject) (api.CompareTalliesResponseObject, error) {
	t, c, err := s.columnOf(ctx, r.Table, r.Params.Revision, r.Params.Where, r.Params.Column)
	if err != nil {
		return nil, err
	}
	// The other table as it stands; this one, narrowed as it is.
	other := t
	if r.Params.WithTable != r.Table {
		if other, err = s.within(ctx, r.Params.WithTable, 0, ""); err != nil {
			return nil, err
		}
	}
	d, err := column(other.Table, r.Params.WithColumn)
	if err != nil {
		return nil, err
	}
	b, err := view(s, t.revision, t.what(fmt.Sprintf("beside %q %d %q", c.Name, other.revision, d.Name)), func() (*tally.Beside, error) {
		return tally.Compare(t.Table, c, other.Table, d), nil
	})
	if err != nil {
		return nil, err
	}
	lines, found := b.Lines(tally.Side(r.Params.Side), r.Params.From, page(r.Params.Count, 100))
	for i := range lines {
		lines[i].Value, _ = cutCell(lines[i].Value)
	}
	return api.CompareTallies200JSONResponse{Counts: b.Counts, Found: found, Lines: lines}, nil
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
	t, err := s.chosen(ctx, r.Table, r.Params.Revision, r.Params.Aside, r.Params.Where)
	if err != nil {
		return nil, err
	}
	if r.Params.Value != nil {
		if t, err = s.holding(t, r.Params.Column, *r.Params.Value); err != nil {
			return nil, err
		}
	}
	position := func(i int) int { return i }
	if len(r.Params.Sort) > 0 {
		rows, err := s.sorted(t, r.Params.Sort)
		if err != nil {
			return nil, err
		}
		position = func(i int) int { return int(rows[i]) }
	}
	total := t.Rows()
	out := api.GetRows200JSONResponse{Columns: []string{}, Total: total, From: r.Params.From, Rows: []api.Row{}}
	for _, c := range t.Columns() {
		out.Columns = append(out.Columns, c.Name)
	}
	for i := max(r.Params.From, 0); i < min(max(r.Params.From, 0)+page(r.Params.Count, 100), total); i++ {
		out.Rows = append(out.Rows, rowOf(t.Table, position(i)))
	}
	return out, nil
}

// chosen is a table at a revision, or the rows that an entry set aside, narrowed by a
// condition.
func (s *Server) chosen(ctx context.Context, id, revision int64, aside *int, where string) (narrowed, error) {
	if aside == nil {
		return s.within(ctx, id, revision, where)
	}
	t, err := s.store.Aside(ctx, id, *aside)
	if err != nil || where == "" {
		return narrowed{Table: t}, err
	}
	c, err := conditionOf(where)
	if err != nil {
		return narrowed{}, err
	}
	t, _, err = condition.Narrow(ctx, t, c)
	return narrowed{Table: t}, err
}

// kept remembers what is worked out from a table, unless it is no revision.
func kept[T any](s *Server, t narrowed, what string, work func() (T, error)) (T, error) {
	if t.revision == 0 {
		return work()
	}
	return view(s, t.revision, t.what(what), work)
}

// holding narrows a table to the rows that hold a value. Cost: O(rows) once, then
// remembered.
func (s *Server) holding(t narrowed, name, value string) (narrowed, error) {
	c := &condition.Condition{Op: condition.Is, Column: name, Values: []string{value}}
	what := fmt.Sprintf("rows %q %q", name, value)
	part, err := kept(s, t, what, func() (*table.Table, error) {
		part, _, err := condition.Narrow(context.Background(), t.Table, c)
		return part, err
	})
	return narrowed{part, t.revision, t.what(what)}, err
}

// sorted gives the positions of the rows in an order. Cost: that of table.Sorted once, then
// remembered.
func (s *Server) sorted(t narrowed, by []string) ([]uint32, error) {
	var keys []table.SortKey
	for _, name := range by {
		name, descending := strings.CutPrefix(name, "-")
		c, err := column(t.Table, name)
		if err != nil {
			return nil, err
		}
		keys = append(keys, table.SortKey{Column: c, Descending: descending})
	}
	return kept(s, t, fmt.Sprintf("sorted %q", by), func() ([]uint32, error) { return table.Sorted(t.Table, keys), nil })
}

// rowOf gives a row with long cells cut and its place in the sources.
func rowOf(t *table.Table, position int) api.Row {
	base := t.BaseRow(position)
	out := api.Row{Row: int(base), Cells: make([]*string, len(t.Columns()))}
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
	if origins := t.Origins(); len(origins) > 0 {
		out.Source = int(origins[0].Row(base))
	}
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
