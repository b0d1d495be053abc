package server

import (
	"cmp"
	"context"
	"encoding/json"
	"fmt"

	"grandledger/api"
	"grandledger/core/duplicate"
	"grandledger/core/entry"
	"grandledger/core/problem"
)

// shownPerGroup is how many rows of a group of repeats are listed.
const shownPerGroup = 5

// GetRepeats lists groups of equal rows.
func (s *Server) GetRepeats(ctx context.Context, r api.GetRepeatsRequestObject) (api.GetRepeatsResponseObject, error) {
	t, err := s.within(ctx, r.Table, r.Params.Revision, r.Params.Where)
	if err != nil {
		return nil, err
	}
	asked := entry.Duplicates{Key: r.Params.Key, Keep: cmp.Or(duplicate.Keep(r.Params.Keep), duplicate.First), By: r.Params.By}
	if r.Params.As != "" {
		if err := json.Unmarshal([]byte(r.Params.As), &asked.As); err != nil {
			return nil, problem.New("", "how the key is compared cannot be read: %v", err)
		}
	}
	key, err := entry.Keys(t.Table, asked.Key, asked.As)
	if err != nil {
		return nil, err
	}
	rule, err := asked.Rule(t.Table)
	if err != nil {
		return nil, err
	}
	groups, err := view(s, t.revision, t.what(fmt.Sprintf("repeats %q %v %v", r.Params.Key, asked.As, r.Params.Apart)), func() (*duplicate.Groups, error) {
		return duplicate.Find(t.Table, key, r.Params.Apart), nil
	})
	if err != nil {
		return nil, err
	}
	out := api.GetRepeats200JSONResponse{Revision: t.revision, Summary: groups.Summary(), Columns: []string{}, Groups: []api.RepeatGroup{}}
	for _, c := range t.Table.Columns() {
		out.Columns = append(out.Columns, c.Name)
	}
	for _, g := range groups.Largest(t.Table, rule, max(r.Params.From, 0), page(r.Params.Count, 50), shownPerGroup) {
		shown := api.RepeatGroup{Size: g.Size, Kept: rowOf(t.Table, g.Kept)}
		for _, row := range g.Rows {
			shown.Rows = append(shown.Rows, rowOf(t.Table, row))
		}
		out.Groups = append(out.Groups, shown)
	}
	return out, nil
}
