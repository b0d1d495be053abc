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
	l, err := s.at(ctx, r.Table, r.Params.Revision)
	if err != nil {
		return nil, err
	}
	var key []*table.Column
	for _, name := range r.Params.Key {
		c, err := column(l.Table, name)
		if err != nil {
			return nil, err
		}
		key = append(key, c)
	}
	if len(key) == 0 {
		return nil, problem.New("Choose the columns that make two rows the same", "no key column was chosen")
	}
	groups, err := view(s, l.Revision, fmt.Sprintf("repeats %q", r.Params.Key), func() (*duplicate.Groups, error) {
		return duplicate.Find(l.Table, key), nil
	})
	if err != nil {
		return nil, err
	}
	out := api.GetRepeats200JSONResponse{Revision: l.Revision, Summary: groups.Summary(), Columns: []string{}, Groups: []api.RepeatGroup{}}
	for _, c := range l.Table.Columns() {
		out.Columns = append(out.Columns, c.Name)
	}
	for _, g := range groups.Largest(max(r.Params.From, 0), page(r.Params.Count, 50), shownPerGroup) {
		shown := api.RepeatGroup{Size: g.Size, Last: rowOf(l.Table, g.Last)}
		for _, row := range g.Rows {
			shown.Rows = append(shown.Rows, rowOf(l.Table, row))
		}
		out.Groups = append(out.Groups, shown)
	}
	return out, nil
}
