package server

import (
	"context"
	"errors"
	"fmt"
	"slices"

	"grandledger/api"
	"grandledger/core/duplicate"
	"grandledger/core/problem"
	"grandledger/core/table"
	"grandledger/core/watch"
	"grandledger/store"
)

// shownOffending is how many rows that break a watch are shown of a delivery.
const shownOffending = 20

// ListWatches checks the watches of a table.
func (s *Server) ListWatches(ctx context.Context, r api.ListWatchesRequestObject) (api.ListWatchesResponseObject, error) {
	watches, err := s.store.Watches(ctx, r.Table)
	if err != nil {
		return nil, err
	}
	out := api.ListWatches200JSONResponse{}
	for _, w := range watches {
		shown, _, err := s.watched(ctx, r.Table, r.Params.Revision, w)
		if err != nil {
			return nil, err
		}
		out = append(out, shown)
	}
	return out, nil
}

// watched checks a watch on a revision, once; one that asks a crosswalk each time, as that may have
// changed.
func (s *Server) watched(ctx context.Context, tableID, revision int64, w store.Watch) (api.Watch, *watch.Finding, error) {
	l, err := s.at(ctx, tableID, revision)
	if err != nil {
		return api.Watch{}, nil, err
	}
	look := func() (*watch.Finding, error) { return s.finding(ctx, tableID, l.Table, w.Rule) }
	var f *watch.Finding
	if w.Rule.Kind == watch.Known {
		f, err = look()
	} else {
		f, err = view(s, l.Revision, fmt.Sprintf("watch %d", w.ID), look)
	}
	return shownWatch(w, f, err)
}

// finding checks a rule on a table of a book.
func (s *Server) finding(ctx context.Context, tableID int64, t *table.Table, rule watch.Rule) (*watch.Finding, error) {
	of, err := s.store.Table(ctx, tableID)
	if err != nil {
		return nil, err
	}
	return rule.Look(ctx, t, s.store.Known(ctx, of.BookID))
}

// shownWatch is a watch with what it came to, or the problem for which it cannot be checked.
func shownWatch(w store.Watch, f *watch.Finding, err error) (api.Watch, *watch.Finding, error) {
	out := api.Watch{Id: w.ID, Rule: w.Rule, Words: w.Rule.Words(), Finding: f}
	var p *problem.Problem
	if errors.As(err, &p) {
		doc := described(p)
		out.Problem, out.Finding, err = &doc, nil, nil
	}
	if f != nil {
		short := *f
		short.Values = slices.Clone(f.Values)
		for i := range short.Values {
			short.Values[i].Value, _ = cutCell(short.Values[i].Value)
		}
		out.Finding = &short
	}
	return out, f, err
}

// AddWatch watches a rule.
func (s *Server) AddWatch(ctx context.Context, r api.AddWatchRequestObject) (api.AddWatchResponseObject, error) {
	t, err := s.store.Table(ctx, r.Table)
	if err != nil {
		return nil, err
	}
	l, err := s.store.Load(ctx, t.Head)
	if err != nil {
		return nil, err
	}
	if _, err := s.finding(ctx, r.Table, l.Table, *r.Body); err != nil { // one that cannot be checked is not watched
		return nil, err
	}
	w, err := s.store.AddWatch(ctx, r.Table, *r.Body)
	if err != nil {
		return nil, err
	}
	shown, _, err := s.watched(ctx, r.Table, 0, w)
	return api.AddWatch201JSONResponse(shown), err
}

// DropWatch watches a rule no longer.
func (s *Server) DropWatch(ctx context.Context, r api.DropWatchRequestObject) (api.DropWatchResponseObject, error) {
	return api.DropWatch204Response{}, s.store.DropWatch(ctx, r.Table, r.Watch)
}

// GetWatchRows lists rows that break a watch.
func (s *Server) GetWatchRows(ctx context.Context, r api.GetWatchRowsRequestObject) (api.GetWatchRowsResponseObject, error) {
	watches, err := s.store.Watches(ctx, r.Table)
	if err != nil {
		return nil, err
	}
	at := slices.IndexFunc(watches, func(w store.Watch) bool { return w.ID == r.Watch })
	if at < 0 {
		return nil, fmt.Errorf("watch %d of table %d: %w", r.Watch, r.Table, store.ErrNotFound)
	}
	l, err := s.at(ctx, r.Table, r.Params.Revision)
	if err != nil {
		return nil, err
	}
	_, f, err := s.watched(ctx, r.Table, l.Revision, watches[at])
	if err != nil {
		return nil, err
	}
	out := api.GetWatchRows200JSONResponse{Columns: columnNames(l.Table), From: max(r.Params.From, 0), Rows: []api.Row{}}
	if f != nil {
		out.Total = f.Against
		if watches[at].Rule.Kind == watch.Total {
			out.Total = 0
		}
		out.Rows = rowsOf(l.Table, f.Rows(out.From, page(r.Params.Count, 100)))
	}
	return out, nil
}

// broken checks the watches of a table on the delivery that waits, as it stands after the journal, and
// gives those that it breaks.
func (s *Server) broken(ctx context.Context, tableID int64, head, after *table.Table) ([]api.DeliveryWatch, error) {
	out := []api.DeliveryWatch{}
	watches, err := s.store.Watches(ctx, tableID)
	if err != nil {
		return nil, err
	}
	for _, w := range watches {
		f, err := s.finding(ctx, tableID, after, w.Rule)
		shown, f, err := shownWatch(w, f, err)
		if err != nil {
			return nil, err
		}
		if f != nil && f.Holds {
			continue
		}
		held := api.DeliveryWatch{Watch: shown, Columns: columnNames(after), Coming: []api.Row{}, Standing: []api.Row{}}
		if was, err := s.finding(ctx, tableID, head, w.Rule); err == nil {
			held.Was = was.Against
		}
		if f != nil {
			coming := f.Rows(0, shownOffending)
			held.Coming = rowsOf(after, coming)
			if w.Rule.Kind == watch.Unique {
				held.Standing = standing(head, after, coming, w.Rule)
			}
		}
		out = append(out, held)
	}
	return out, nil
}

// standing lists the rows of the table as it stands that have the keys of rows of a delivery, their
// cells as the delivery's columns are called. Cost: O(rows x key columns).
func standing(head, after *table.Table, coming []int, rule watch.Rule) []api.Row {
	var key []uint32
	for _, name := range rule.Key {
		was, _, err := head.Column(name)
		if err != nil {
			return []api.Row{}
		}
		now, _, _ := after.Column(name) // the rule was checked on it
		key, _ = duplicate.Number(duplicate.Joint(head, was, after, now, rule.As[name]), key)
	}
	asked := map[uint32]bool{}
	for _, row := range coming {
		asked[key[head.Rows()+row]] = true
	}
	out := []api.Row{}
	for row := 0; row < head.Rows() && len(out) < shownOffending; row++ {
		if !asked[key[row]] {
			continue
		}
		shown := rowOf(head, row)
		byName := map[string]*string{}
		for i, c := range head.Columns() {
			byName[c.Name] = shown.Cells[i]
		}
		shown.Cells, shown.Cut = make([]*string, len(after.Columns())), nil
		for i, c := range after.Columns() {
			shown.Cells[i] = byName[c.Name]
		}
		out = append(out, shown)
	}
	return out
}

// held refuses a delivery that breaks watches which nobody said it may break.
func held(broken []api.DeliveryWatch, accepted []int64) error {
	for _, b := range broken {
		if !slices.Contains(accepted, b.Watch.Id) {
			p := problem.New("Look at the rows that break it; accept it, or mend the delivery", "the delivery is held: it breaks the watch that %s", b.Watch.Words)
			if b.Watch.Problem != nil {
				p = problem.New("Drop the watch, or mend the delivery", "the delivery is held: the watch that %s cannot be checked on it: %s", b.Watch.Words, b.Watch.Problem.Detail)
			}
			return p
		}
	}
	return nil
}
