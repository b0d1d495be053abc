package server

import (
	"context"
	"crypto/sha256"
	"encoding/json"
	"fmt"
	"slices"
	"strings"

	"grandledger/api"
	"grandledger/core/problem"
	"grandledger/core/reconcile"
	"grandledger/core/table"
	"grandledger/store"
)

// settled is a reconciliation worked out on its tables.
type settled struct {
	of        store.Reconciliation
	sides     [2]store.Table
	loaded    [2]*store.Loaded
	result    *reconcile.Result
	statement *reconcile.Statement
	keys      [2][]string
	decisions []store.ItemDecision
	closing   *store.Closing // it is closed
}

// settled works a reconciliation out, once for the revisions of its tables, how it is settled and what is decided; one that is closed on the revisions it was closed on. Cost: that of reconcile.Settle.
func (s *Server) settled(ctx context.Context, id int64) (*settled, error) {
	of, err := s.store.Reconciliation(ctx, id)
	if err != nil {
		return nil, err
	}
	out := &settled{of: of}
	closings, err := s.store.Closings(ctx, id)
	if err != nil {
		return nil, err
	}
	if len(closings) > 0 && closings[0].ReopenedAt == nil {
		out.closing = &closings[0]
	}
	if out.decisions, err = s.store.ItemDecisions(ctx, id); err != nil {
		return nil, err
	}
	spec := of.Spec
	for _, d := range out.decisions {
		spec.Decisions = append(spec.Decisions, reconcile.Decision{Kind: d.Kind, Ours: d.Ours, Theirs: d.Theirs, Note: d.Note})
	}
	var heads [2]int64
	for i, tableID := range []int64{of.Ours, of.Theirs} {
		if out.sides[i], err = s.store.Table(ctx, tableID); err != nil {
			return nil, err
		}
		heads[i] = out.sides[i].Head
		if out.closing != nil {
			heads[i] = out.closing.Revisions[i]
		}
		if out.loaded[i], err = s.store.Load(ctx, heads[i]); err != nil {
			return nil, err
		}
	}
	type worked struct {
		result    *reconcile.Result
		statement *reconcile.Statement
		keys      [2][]string
	}
	raw, err := json.Marshal(spec)
	if err != nil {
		return nil, err
	}
	what := fmt.Sprintf("reconciliation %d %v %x", id, heads, sha256.Sum256(fmt.Appendf(raw, "%v", spec.Decisions)))
	w, err := view(s, heads[0], what, func() (worked, error) {
		r, err := reconcile.Settle(ctx, out.loaded[0].Table, out.loaded[1].Table, spec)
		if err != nil {
			return worked{}, err
		}
		statement, err := r.Statement()
		return worked{r, statement, [2][]string{reconcile.Keys(out.loaded[0].Table), reconcile.Keys(out.loaded[1].Table)}}, err
	})
	out.result, out.statement, out.keys = w.result, w.statement, w.keys
	return out, err
}

// CreateReconciliation opens one.
func (s *Server) CreateReconciliation(ctx context.Context, r api.CreateReconciliationRequestObject) (api.CreateReconciliationResponseObject, error) {
	id, err := s.store.AddReconciliation(ctx, store.Reconciliation{Book: r.Book, Name: r.Body.Name, Ours: r.Body.Ours, Theirs: r.Body.Theirs})
	return api.CreateReconciliation201JSONResponse{Id: id, Name: r.Body.Name}, err
}

// GetReconciliation gives the statement.
func (s *Server) GetReconciliation(ctx context.Context, r api.GetReconciliationRequestObject) (api.GetReconciliationResponseObject, error) {
	w, err := s.settled(ctx, r.Reconciliation)
	if err != nil {
		return nil, err
	}
	side := func(i int) api.LedgerSide {
		out := api.LedgerSide{Table: w.sides[i].ID, Name: w.sides[i].Name, Rows: w.loaded[i].Table.Rows(), Columns: []string{}}
		for _, c := range w.loaded[i].Table.Columns() {
			out.Columns = append(out.Columns, c.Name)
		}
		return out
	}
	out := api.GetReconciliation200JSONResponse{Id: w.of.ID, Name: w.of.Name, Ours: side(0), Theirs: side(1), Spec: w.result.Spec, Statement: *w.statement, Classes: reconcile.Classes}
	if c := w.closing; c != nil {
		out.Closed, out.ClosedAt, out.Signed, out.Note = true, c.ClosedAt, c.Signed, c.Note
		out.Stale = c.Revisions[0] != w.sides[0].Head || c.Revisions[1] != w.sides[1].Head
	}
	return out, nil
}

// SetReconciliationSpec changes how items are settled, if they can be settled so.
func (s *Server) SetReconciliationSpec(ctx context.Context, r api.SetReconciliationSpecRequestObject) (api.SetReconciliationSpecResponseObject, error) {
	w, err := s.store.Reconciliation(ctx, r.Reconciliation)
	if err != nil {
		return nil, err
	}
	var tables [2]*table.Table
	for i, id := range []int64{w.Ours, w.Theirs} {
		t, err := s.store.Table(ctx, id)
		if err != nil {
			return nil, err
		}
		l, err := s.store.Load(ctx, t.Head)
		if err != nil {
			return nil, err
		}
		tables[i] = l.Table
	}
	if _, err := reconcile.Settle(ctx, tables[0], tables[1], *r.Body); err != nil {
		return nil, err
	}
	return api.SetReconciliationSpec204Response{}, s.store.SetReconciliationSpec(ctx, r.Reconciliation, *r.Body)
}

// GetReconciledItems gives a page of a class.
func (s *Server) GetReconciledItems(ctx context.Context, r api.GetReconciledItemsRequestObject) (api.GetReconciledItemsResponseObject, error) {
	w, err := s.settled(ctx, r.Reconciliation)
	if err != nil {
		return nil, err
	}
	if !slices.Contains(reconcile.Classes, r.Params.Class) {
		return nil, problem.New("Use "+strings.Join(reconcile.Classes, "; "), "there is no class %q", r.Params.Class)
	}
	all := w.result.Groups(r.Params.Class)
	out := api.GetReconciledItems200JSONResponse{Total: len(all), Groups: []api.SettledGroup{}}
	from := min(max(r.Params.From, 0), len(all))
	for _, g := range all[from:min(from+page(r.Params.Count, 50), len(all))] {
		shown := api.SettledGroup{Class: g.Class, Set: g.Set, Pass: g.Pass, Reason: g.Reason, Settled: g.Settled, Difference: g.Difference, Ours: w.items(0, g.Ours), Theirs: w.items(1, g.Theirs)}
		for _, d := range w.decisions {
			for side, keys := range [2][]string{d.Ours, d.Theirs} {
				items := [2][]api.SettledItem{shown.Ours, shown.Theirs}[side]
				if len(items) > 0 && slices.Contains(keys, items[0].Key) {
					shown.Decision = d.ID
				}
			}
		}
		out.Groups = append(out.Groups, shown)
	}
	return out, nil
}

// items are items of a side as a page shows them.
func (w *settled) items(side int, all []reconcile.Shown) []api.SettledItem {
	columns := [2]*reconcile.Columns{w.result.Spec.Ours, w.result.Spec.Theirs}[side]
	t := w.loaded[side].Table
	out := []api.SettledItem{}
	for _, it := range all {
		var said []string
		for _, name := range columns.Texts {
			if v := cellOf(t, name, it.Row); v != "" {
				said = append(said, v)
			}
		}
		words, _ := cutCell(strings.Join(said, ", "))
		date, _ := cutCell(cellOf(t, columns.Date, it.Row))
		reference, _ := cutCell(cellOf(t, columns.Reference, it.Row))
		out = append(out, api.SettledItem{Row: it.Row, Key: w.keys[side][it.Row], Amount: it.Amount, Date: date, Reference: reference, Text: words})
	}
	return out
}

// DecideItems remembers what is decided of items.
func (s *Server) DecideItems(ctx context.Context, r api.DecideItemsRequestObject) (api.DecideItemsResponseObject, error) {
	note, by := strings.TrimSpace(r.Body.Note), strings.TrimSpace(r.Body.By)
	if len(note) > maxNote || len(by) > maxReviewer {
		return nil, problem.New("Say it in fewer words", "a note has up to 2,000 bytes, the name of a reviewer up to 100")
	}
	number, err := s.store.DecideItems(ctx, r.Reconciliation, store.ItemDecision{Kind: string(r.Body.Kind), Ours: r.Body.Ours, Theirs: r.Body.Theirs, Note: note, By: by})
	return api.DecideItems201JSONResponse{Number: number}, err
}

// WithdrawItems takes a decision back.
func (s *Server) WithdrawItems(ctx context.Context, r api.WithdrawItemsRequestObject) (api.WithdrawItemsResponseObject, error) {
	return api.WithdrawItems204Response{}, s.store.WithdrawItems(ctx, r.Reconciliation, r.Number)
}

// CloseReconciliation closes one. What is offered or open needs a word of why it may stay, as does any difference that is settled.
func (s *Server) CloseReconciliation(ctx context.Context, r api.CloseReconciliationRequestObject) (api.CloseReconciliationResponseObject, error) {
	w, err := s.settled(ctx, r.Reconciliation)
	if err != nil {
		return nil, err
	}
	signed, note := strings.TrimSpace(r.Body.Signed), strings.TrimSpace(r.Body.Note)
	if signed == "" || len(signed) > maxReviewer || len(note) > maxNote {
		return nil, problem.New("Give your name, in up to 100 bytes", "a closing is signed")
	}
	st := w.statement
	if st.Offered[0]+st.Offered[1] > 0 {
		return nil, problem.New("Settle or break what is offered", "%d items are offered and not decided", st.Offered[0]+st.Offered[1])
	}
	if left := st.Open[0] + st.Open[1]; left > 0 && note == "" {
		return nil, problem.New("Say why they may stay open, to sign them off", "%d items are open", left)
	}
	raw, err := json.Marshal(st)
	if err != nil {
		return nil, err
	}
	return api.CloseReconciliation204Response{}, s.store.CloseReconciliation(ctx, r.Reconciliation, store.Closing{Statement: raw, Revisions: []int64{w.loaded[0].Revision, w.loaded[1].Revision}, Signed: signed, Note: note})
}

// ReopenReconciliation opens a closed one again.
func (s *Server) ReopenReconciliation(ctx context.Context, r api.ReopenReconciliationRequestObject) (api.ReopenReconciliationResponseObject, error) {
	if _, err := s.store.Reconciliation(ctx, r.Reconciliation); err != nil {
		return nil, err
	}
	return api.ReopenReconciliation204Response{}, s.store.ReopenReconciliation(ctx, r.Reconciliation)
}
