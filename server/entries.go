package server

import (
	"context"
	"log/slog"

	"grandledger/api"
	"grandledger/core/formula"
	"grandledger/store"
)

func entryOf(e store.Entry) api.Entry {
	return api.Entry{Number: e.Number, Kind: e.Kind, Words: e.Words, Effect: e.Effect, State: api.EntryState(e.State), PostedAt: e.PostedAt,
		ReversedAt: e.ReversedAt, HasAside: e.HasAside, CanRepost: e.CanRepost, Notes: e.Notes, Repeats: orZero(e.Repeats), Reason: e.Reason}
}

func orZero[T any](v *T) T {
	if v == nil {
		var none T
		return none
	}
	return *v
}

// DraftEntry says what an entry would do.
func (s *Server) DraftEntry(ctx context.Context, r api.DraftEntryRequestObject) (api.DraftEntryResponseObject, error) {
	params, _, err := s.filled(ctx, r.Body.Kind, r.Body.Params)
	if err != nil {
		return nil, err
	}
	d, err := s.store.Draft(ctx, r.Table, r.Body.Revision, string(r.Body.Kind), params)
	if err != nil {
		return nil, err
	}
	return api.DraftEntry200JSONResponse{Number: d.Number, Words: d.Words, Effect: d.Effect}, nil
}

// GetFormulaHelp says what formulas can name and do.
func (s *Server) GetFormulaHelp(ctx context.Context, r api.GetFormulaHelpRequestObject) (api.GetFormulaHelpResponseObject, error) {
	l, err := s.at(ctx, r.Table, r.Params.Revision)
	if err != nil {
		return nil, err
	}
	out := api.GetFormulaHelp200JSONResponse{Names: []api.FormulaName{}, Functions: []api.FormulaFunction{}}
	for i, name := range formula.Names(l.Table) {
		out.Names = append(out.Names, api.FormulaName{Column: l.Table.Columns()[i].Name, Name: name})
	}
	for _, f := range formula.Functions() {
		out.Functions = append(out.Functions, api.FormulaFunction{Name: f.Name, Does: f.Does, Example: f.Example, Gives: f.Gives})
	}
	return out, nil
}

// GetJournal lists the entries.
func (s *Server) GetJournal(ctx context.Context, r api.GetJournalRequestObject) (api.GetJournalResponseObject, error) {
	if _, err := s.store.Table(ctx, r.Table); err != nil {
		return nil, err
	}
	entries, err := s.store.Journal(ctx, r.Table)
	if err != nil {
		return nil, err
	}
	out := api.GetJournal200JSONResponse{}
	for _, e := range entries {
		out = append(out, entryOf(e))
	}
	return out, nil
}

// PostEntry posts an entry.
func (s *Server) PostEntry(ctx context.Context, r api.PostEntryRequestObject) (api.PostEntryResponseObject, error) {
	e, err := s.store.Posted(ctx, r.Params.IdempotencyKey, r.Table)
	if err != nil {
		return nil, err
	}
	if e == nil {
		params, upload, err := s.filled(ctx, r.Body.Kind, r.Body.Params)
		if err != nil {
			return nil, err
		}
		if e, err = s.store.Post(ctx, r.Params.IdempotencyKey, r.Table, r.Body.Revision, string(r.Body.Kind), params); err != nil {
			return nil, err
		}
		if upload > 0 {
			// The entry holds the cells now. A file that stays behind can be discarded any time.
			if err := s.queue.Discard(ctx, upload); err != nil {
				slog.Warn("a received file was not removed", "upload", upload, "error", err)
			}
		}
	}
	return api.PostEntry201JSONResponse(entryOf(*e)), nil
}

// ReverseEntry reverses the last posted entry.
func (s *Server) ReverseEntry(ctx context.Context, r api.ReverseEntryRequestObject) (api.ReverseEntryResponseObject, error) {
	e, err := s.store.Reverse(ctx, r.Params.IdempotencyKey, r.Table, r.Body.Revision, r.Body.To)
	if err != nil {
		return nil, err
	}
	return api.ReverseEntry200JSONResponse(entryOf(*e)), nil
}

// SetReason writes why an entry was posted.
func (s *Server) SetReason(ctx context.Context, r api.SetReasonRequestObject) (api.SetReasonResponseObject, error) {
	e, err := s.store.SetReason(ctx, r.Table, r.Number, r.Body.Reason)
	if err != nil {
		return nil, err
	}
	return api.SetReason200JSONResponse(entryOf(*e)), nil
}

// RepostEntry posts a reversed entry again.
func (s *Server) RepostEntry(ctx context.Context, r api.RepostEntryRequestObject) (api.RepostEntryResponseObject, error) {
	e, err := s.store.Repost(ctx, r.Params.IdempotencyKey, r.Table, r.Number, r.Body.Revision, r.Body.Following)
	if err != nil {
		return nil, err
	}
	return api.RepostEntry200JSONResponse(entryOf(*e)), nil
}
