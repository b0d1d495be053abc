package server

import (
	"context"
	"fmt"

	"grandledger/api"
	"grandledger/core/duplicate"
	"grandledger/core/problem"
	"grandledger/core/table"
)

// shownPerGroup is how many rows of a group of repeats are listed.
const shownPerGroup = 5

// GetRepeats lists groups of equal rows.
func (s *Server) GetRepeats(ctx context.Context, r api.GetRepeatsRequestObject) (api.GetRepeatsResponseObject, error) {
	t, err := s.within(ctx, r.Table, r.Params.Revision, r.Params.Where)
	if err != nil {
		return nil, err
	}
	var key []*table.Column
	for _, name := range r.Params.Key {
		c, err := column(t.Table, name)
		if err != nil {
			return nil, err
		}
		key = append(key, c)
	}
	if len(key) == 0 {
		return nil, problem.New("Choose the columns that make two rows the same", "no key column was chosen")
	}
	groups, err := view(s, t.revision, t.what(fmt.Sprintf("repeats %q", r.Params.Key)), func() (*duplicate.Groups, error) {
		return duplicate.Find(t.Table, key), nil
	})
	if err != nil {
		return nil, err
	}
	out := api.GetRepeats200JSONResponse{Revision: t.revision, Summary: groups.Summary(), Columns: []string{}, Groups: []api.RepeatGroup{}}
	for _, c := range t.Table.Columns() {
		out.Columns = append(out.Columns, c.Name)
	}
	for _, g := range groups.Largest(max(r.Params.From, 0), page(r.Params.Count, 50), shownPerGroup) {
		shown := api.RepeatGroup{Size: g.Size, Last: rowOf(t.Table, g.Last)}
		for _, row := range g.Rows {
			shown.Rows = append(shown.Rows, rowOf(t.Table, row))
		}
		out.Groups = append(out.Groups, shown)
	}
	return out, nil
}
