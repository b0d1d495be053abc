package server

import (
	"context"
	"fmt"

	"grandledger/api"
	"grandledger/core/duplicate"
	"grandledger/core/entry"
	"grandledger/core/problem"
	"grandledger/core/table"
)

// shownPerGroup is how many rows of a group of repeats are listed.
const shownPerGroup = 5

// rule reads the parameters of a duplicates entry.
func ruleOf(raw string) (*entry.Duplicates, error) {
	e, err := entry.Decode("duplicates", []byte(raw))
	if err != nil {
		return nil, err
	}
	d, ok := e.(*entry.Duplicates)
	if !ok {
		return nil, problem.New("Narrow the table with the condition of the request", "the rule has a condition of its own")
	}
	return d, nil
}

// groups finds the groups of a rule's key, once.
func (s *Server) groups(t narrowed, d *entry.Duplicates) (*duplicate.Groups, error) {
	key, err := entry.Keys(t.Table, d.Key, d.As)
	if err != nil {
		return nil, err
	}
	return view(s, t.revision, t.what(fmt.Sprintf("repeats %q %v %v", d.Key, d.As, d.Apart)), func() (*duplicate.Groups, error) {
		return duplicate.Find(t.Table, key, d.Apart), nil
	})
}

// GetRepeats lists groups of equal rows.
func (s *Server) GetRepeats(ctx context.Context, r api.GetRepeatsRequestObject) (api.GetRepeatsResponseObject, error) {
	t, err := s.within(ctx, r.Table, r.Params.Revision, r.Params.Where)
	if err != nil {
		return nil, err
	}
	d, err := ruleOf(r.Params.Rule)
	if err != nil {
		return nil, err
	}
	groups, err := s.groups(t, d)
	if err != nil {
		return nil, err
	}
	rule, err := d.Rule(t.Table)
	if err != nil {
		return nil, err
	}
	var of []bool
	if r.Params.Differs != "" {
		c, err := column(t.Table, r.Params.Differs)
		if err != nil {
			return nil, err
		}
		of = groups.Disagreeing(t.Table, c)
	}
	out := api.GetRepeats200JSONResponse{Revision: t.revision, Summary: groups.Summary(), Columns: columnNames(t.Table), Groups: []api.RepeatGroup{}}
	for _, g := range groups.Largest(t.Table, rule, of, max(r.Params.From, 0), page(r.Params.Count, 50), shownPerGroup) {
		out.Groups = append(out.Groups, api.RepeatGroup{Size: g.Size, Rows: rowsOf(t.Table, g.Rows), Kept: rowsOf(t.Table, g.Kept)})
	}
	if r.Params.Merge != "" {
		if err := becoming(ctx, t.Table, groups, r.Params.Merge, out.Groups); err != nil {
			return nil, err
		}
	}
	return out, nil
}

// becoming fills in the one row that each of the groups listed is combined into. Cost: that of the
// entry on their rows alone.
func becoming(ctx context.Context, t *table.Table, groups *duplicate.Groups, params string, listed []api.RepeatGroup) error {
	e, err := entry.Decode("merge", []byte(params))
	if err != nil || len(listed) == 0 {
		return err
	}
	first := map[uint32]int{} // by base row of the first row of a group
	for i, g := range listed {
		first[uint32(g.Rows[0].Row)] = i
	}
	members, rows := groups.Members(), &table.Selection{}
	wanted := make([]bool, members.Len())
	for group, row := range members.First {
		_, wanted[group] = first[t.BaseRow(int(row))]
	}
	for row, group := range members.Group {
		if wanted[group] {
			rows.Rows = append(rows.Rows, t.BaseRow(row))
		}
	}
	r, err := entry.Apply(ctx, e, t.Select(rows), entry.Inputs{})
	if err != nil {
		return err
	}
	for row := range r.Table.Rows() {
		if i, ok := first[r.Table.BaseRow(row)]; ok {
			became := rowOf(r.Table, row)
			listed[i].Becomes = &became
		}
	}
	return nil
}

// GetInside says what each column is within the groups.
func (s *Server) GetInside(ctx context.Context, r api.GetInsideRequestObject) (api.GetInsideResponseObject, error) {
	t, err := s.within(ctx, r.Table, r.Params.Revision, r.Params.Where)
	if err != nil {
		return nil, err
	}
	d, err := ruleOf(r.Params.Rule)
	if err != nil {
		return nil, err
	}
	inside, err := view(s, t.revision, t.what(fmt.Sprintf("inside %q %v %v", d.Key, d.As, d.Apart)), func() ([]duplicate.Inside, error) {
		groups, err := s.groups(t, d)
		if err != nil {
			return nil, err
		}
		return groups.Inside(t.Table), nil
	})
	return api.GetInside200JSONResponse(inside), err
}

// GetProposedKeys proposes keys. Cost: O(rows) for each column, once.
func (s *Server) GetProposedKeys(ctx context.Context, r api.GetProposedKeysRequestObject) (api.GetProposedKeysResponseObject, error) {
	t, err := s.within(ctx, r.Table, r.Params.Revision, r.Params.Where)
	if err != nil {
		return nil, err
	}
	keys, err := view(s, t.revision, t.what("proposed keys"), func() ([][]string, error) { return duplicate.Proposed(t.Table), nil })
	return api.GetProposedKeys200JSONResponse(keys), err
}

// GetNearly lists rows that are nearly the same.
func (s *Server) GetNearly(ctx context.Context, r api.GetNearlyRequestObject) (api.GetNearlyResponseObject, error) {
	t, err := s.within(ctx, r.Table, r.Params.Revision, r.Params.Where)
	if err != nil {
		return nil, err
	}
	var columns []*table.Column
	for _, name := range r.Params.Columns {
		c, err := column(t.Table, name)
		if err != nil {
			return nil, err
		}
		columns = append(columns, c)
	}
	most := max(r.Params.Most, 1)
	sets, err := view(s, t.revision, t.what(fmt.Sprintf("nearly %q %d", r.Params.Columns, most)), func() ([]duplicate.Near, error) {
		return duplicate.Nearly(ctx, t.Table, columns, most)
	})
	if err != nil {
		return nil, err
	}
	out := api.GetNearly200JSONResponse{Columns: columnNames(t.Table), Sets: []api.NearSet{}}
	for _, n := range sets[:min(len(sets), maxPage)] {
		out.Sets = append(out.Sets, api.NearSet{Columns: n.Columns, Groups: n.Groups, Rows: n.Rows, First: rowsOf(t.Table, n.First)})
	}
	return out, nil
}

// CheckRecord says whether a record is in the table.
func (s *Server) CheckRecord(ctx context.Context, r api.CheckRecordRequestObject) (api.CheckRecordResponseObject, error) {
	t, err := s.within(ctx, r.Table, 0, "")
	if err != nil {
		return nil, err
	}
	probe, err := view(s, t.revision, "probe", func() (*duplicate.Probe, error) { return duplicate.NewProbe(t.Table), nil })
	if err != nil {
		return nil, err
	}
	count := r.Body.Count
	if count == 0 {
		count = 10
	}
	found, err := probe.Find(ctx, r.Body.Record, count)
	if err != nil {
		return nil, err
	}
	out := api.CheckRecord200JSONResponse{Revision: t.revision, Verdict: "new", Exact: found.Exact, Columns: columnNames(t.Table), Matches: []api.RecordMatch{}}
	for _, m := range found.Matches {
		cells := map[string]api.RecordMatchCells{}
		for name, like := range m.Cells {
			cells[name] = api.RecordMatchCells(like.String())
		}
		out.Matches = append(out.Matches, api.RecordMatch{Row: rowOf(t.Table, m.Row), Score: float32(m.Score), Cells: cells})
	}
	switch {
	case found.Exact > 0:
		out.Verdict = "there"
	case len(found.Matches) > 0:
		out.Verdict = "perhaps"
	}
	return out, nil
}

// columnNames lists the columns of a table.
func columnNames(t *table.Table) []string {
	out := []string{}
	for _, c := range t.Columns() {
		out = append(out, c.Name)
	}
	return out
}

// rowsOf shows the rows at some positions.
func rowsOf(t *table.Table, positions []int) []api.Row {
	out := []api.Row{}
	for _, at := range positions {
		out = append(out, rowOf(t, at))
	}
	return out
}
