package server

import (
	"cmp"
	"context"
	"crypto/sha256"
	"fmt"
	"slices"

	"github.com/jackc/pgx/v5"

	"grandledger/api"
	"grandledger/core/entry"
	"grandledger/core/linkage"
	"grandledger/core/table"
	"grandledger/core/text"
	"grandledger/store"
)

// keeping is what the golden records of a linkage keep: identifiers as they would be, and values picked by hand.
func (s *Server) keeping(ctx context.Context, l *linked) (k linkage.Keeping, groups [][]string, moved []linkage.Moved, next int64, err error) {
	standing, next, err := s.store.Golden(ctx, l.of.ID)
	if err != nil {
		return k, nil, nil, 0, err
	}
	groups = l.result.Groups(l.data())
	k.IDs, moved = linkage.Lasting(groups, standing, next)
	for _, id := range k.IDs {
		next = max(next, id+1)
	}
	picks, err := s.store.Picks(ctx, l.of.ID)
	k.Picks = map[linkage.Picking]linkage.Picked{}
	for _, p := range picks {
		k.Picks[linkage.Picking{ID: p.Golden, Attribute: p.Attribute}] = linkage.Picked{Value: p.Value, Of: p.Of}
	}
	return k, groups, moved, next, err
}

// draftGolden works out the golden records that would be drawn.
func (s *Server) draftGolden(ctx context.Context, l *linked) (*linkage.Golden, error) {
	picks, err := s.store.Picks(ctx, l.of.ID)
	if err != nil {
		return nil, err
	}
	what := fmt.Sprintf("golden %s %x", l.what, sha256.Sum256(fmt.Appendf(nil, "%v %v", picks, l.result.Spec.Survivorship)))
	return view(s, l.tables[0].Head, what, func() (*linkage.Golden, error) {
		k, _, _, _, err := s.keeping(ctx, l)
		if err != nil {
			return nil, err
		}
		return l.result.Golden(l.data(), k)
	})
}

// GetGoldenConflicts lists the golden records whose sources do not agree on an attribute, those that ask first.
func (s *Server) GetGoldenConflicts(ctx context.Context, r api.GetGoldenConflictsRequestObject) (api.GetGoldenConflictsResponseObject, error) {
	l, err := s.linked(ctx, r.Linkage)
	if err != nil {
		return nil, err
	}
	found, err := l.result.Conflicts(l.data(), r.Params.Attribute)
	if err != nil {
		return nil, err
	}
	k, _, _, _, err := s.keeping(ctx, l)
	if err != nil {
		return nil, err
	}
	picks, err := s.store.Picks(ctx, r.Linkage)
	if err != nil {
		return nil, err
	}
	by := map[linkage.Picking]store.Pick{}
	for _, p := range picks {
		by[linkage.Picking{ID: p.Golden, Attribute: p.Attribute}] = p
	}
	rank := func(c linkage.Conflict) int { // asks, open, picked
		switch p, ok := by[linkage.Picking{ID: k.IDs[c.Group], Attribute: r.Params.Attribute}]; {
		case ok && p.Of != c.Of:
			return 0
		case ok:
			return 2
		}
		return 1
	}
	slices.SortStableFunc(found, func(a, b linkage.Conflict) int { return cmp.Compare(rank(a), rank(b)) })
	out := api.GetGoldenConflicts200JSONResponse{Total: len(found), Conflicts: []api.GoldenConflict{}}
	from := min(max(r.Params.From, 0), len(found))
	for _, c := range found[from:min(from+page(r.Params.Count, 50), len(found))] {
		first := l.result.Clusters[c.Group][0]
		p := by[linkage.Picking{ID: k.IDs[c.Group], Attribute: r.Params.Attribute}]
		shown := api.GoldenConflict{Golden: k.IDs[c.Group], Label: l.label(first.Table, first.Row), Of: c.Of, Picked: p.Value, By: p.By, Asks: rank(c) == 0, Values: []api.GoldenValue{}}
		for _, v := range c.Values {
			value, _ := cutCell(v.Value)
			shown.Values = append(shown.Values, api.GoldenValue{Value: value, Rows: v.Rows})
		}
		out.Conflicts = append(out.Conflicts, shown)
	}
	return out, nil
}

// PickGolden picks a value by hand. The identifiers that are picked for are kept from then on, so that the value is found again.
func (s *Server) PickGolden(ctx context.Context, r api.PickGoldenRequestObject) (api.PickGoldenResponseObject, error) {
	l, err := s.linked(ctx, r.Linkage)
	if err != nil {
		return nil, err
	}
	if err := pgx.BeginFunc(ctx, s.store.Pool, func(tx pgx.Tx) error { return s.keepIdentifiers(ctx, tx, l, nil) }); err != nil {
		return nil, err
	}
	return api.PickGolden204Response{}, s.store.SetPick(ctx, r.Linkage, store.Pick{Golden: r.Body.Golden, Attribute: r.Body.Attribute, Value: r.Body.Value, Of: r.Body.Of, By: r.Body.By})
}

// keepIdentifiers writes down which record stands under which identifier.
func (s *Server) keepIdentifiers(ctx context.Context, tx pgx.Tx, l *linked, used *linkage.Keeping) error {
	if _, err := tx.Exec(ctx, `select from linkage where id = $1 for update`, l.of.ID); err != nil {
		return err
	}
	k, groups, moved, next, err := s.keeping(ctx, l)
	if err != nil {
		return err
	}
	var keys []string
	var ids []int64
	for g, members := range groups {
		for _, key := range members {
			keys, ids = append(keys, key), append(ids, k.IDs[g])
		}
	}
	if used != nil {
		*used = k
	}
	return s.store.KeepGolden(ctx, tx, l.of.ID, keys, ids, moved, next)
}

// GetGoldenIdentifier says under which identifiers the records of one stand now.
func (s *Server) GetGoldenIdentifier(ctx context.Context, r api.GetGoldenIdentifierRequestObject) (api.GetGoldenIdentifierResponseObject, error) {
	now, err := s.store.Became(ctx, r.Linkage, r.Golden)
	if err == nil && len(now) == 0 {
		return nil, fmt.Errorf("golden record %d of linkage %d: %w", r.Golden, r.Linkage, store.ErrNotFound)
	}
	return api.GetGoldenIdentifier200JSONResponse{Now: now}, err
}

// DrawGolden makes a consolidated table of the golden records of a linkage, or of which record stands under which, in one transaction.
func (s *Server) DrawGolden(ctx context.Context, r api.DrawGoldenRequestObject) (api.DrawGoldenResponseObject, error) {
	l, err := s.linked(ctx, r.Linkage)
	if err != nil {
		return nil, err
	}
	var names []string
	for _, t := range l.tables {
		names = append(names, t.Name)
	}
	var id int64
	var made *store.Loaded
	err = pgx.BeginFunc(ctx, s.store.Pool, func(tx pgx.Tx) error {
		done, err := store.Claim(ctx, tx, r.Params.IdempotencyKey, &id)
		if err != nil || done {
			return err
		}
		var keeping linkage.Keeping
		if err := s.keepIdentifiers(ctx, tx, l, &keeping); err != nil {
			return err
		}
		records := l.records()
		var drawn *table.Table
		opening := store.Opening{Book: l.of.BookID, Name: r.Body.Name, Consolidated: true, Kind: "golden", Params: map[string]any{"linkage": l.of.ID, "tables": l.of.Tables, "crossReference": r.Body.CrossReference}}
		if r.Body.CrossReference {
			if drawn, err = l.result.CrossReference(l.data(), names, keeping.IDs); err != nil {
				return err
			}
			opening.Words = fmt.Sprintf("Drew which of %s records of %s stands under which golden record of %s", text.Grouped(records), listed(names), l.of.Name)
			opening.Balance = entry.Balance{Before: records, After: records}
		} else {
			golden, err := l.result.Golden(l.data(), keeping)
			if err != nil {
				return err
			}
			drawn = golden.Table
			opening.Words = fmt.Sprintf("Drew %s golden records from %s records of %s, linked as %s", text.Grouped(drawn.Rows()), text.Grouped(records), listed(names), l.of.Name)
			opening.Balance = entry.Balance{Before: records, Merged: records - drawn.Rows(), After: drawn.Rows()}
		}
		if id, made, err = s.store.CreateTable(ctx, tx, drawn, opening); err != nil {
			return err
		}
		return store.Answer(ctx, tx, r.Params.IdempotencyKey, id)
	})
	if err != nil {
		return nil, err
	}
	if made != nil {
		s.store.Keep(made)
	}
	t, err := s.store.Table(ctx, id)
	return api.DrawGolden201JSONResponse(tableOf(t)), err
}

// listed writes "a", "a and b", "a, b and c".
func listed(names []string) string {
	out := ""
	for i, n := range names {
		switch {
		case i == 0:
		case i == len(names)-1:
			out += " and "
		default:
			out += ", "
		}
		out += n
	}
	return out
}
