package server

import (
	"context"

	"grandledger/api"
	"grandledger/store"
)

// GetAmendment lists the entries that can be amended, as they stand.
func (s *Server) GetAmendment(ctx context.Context, r api.GetAmendmentRequestObject) (api.GetAmendmentResponseObject, error) {
	l, err := s.at(ctx, r.Table, r.Params.Revision)
	if err != nil {
		return nil, err
	}
	entries, err := s.amendable(ctx, r.Table)
	return api.GetAmendment200JSONResponse{Revision: l.Revision, Entries: entries, Steps: []api.DeliveryStep{}, Rows: l.Table.Rows()}, err
}

// amendable lists the entries that can be amended, with what it takes to change them.
func (s *Server) amendable(ctx context.Context, table int64) ([]api.DeliveryStep, error) {
	since, err := s.store.Amendable(ctx, table)
	if err != nil {
		return nil, err
	}
	forms, err := s.store.Forms(ctx, table, since)
	if err != nil {
		return nil, err
	}
	out := []api.DeliveryStep{}
	for i, e := range since {
		out = append(out, api.DeliveryStep{Number: e.Number, Words: e.Words, Was: brief(e.Effect), Kind: e.Kind, Params: forms[i].Params, Columns: forms[i].Columns})
	}
	return out, nil
}

// DraftAmendment says what the journal comes to with entries changed, switched off, moved or
// inserted.
func (s *Server) DraftAmendment(ctx context.Context, r api.DraftAmendmentRequestObject) (api.DraftAmendmentResponseObject, error) {
	a, err := s.store.Amend(ctx, r.Table, r.Body.Revision, stepsOf(r.Body.Steps))
	if err != nil {
		return nil, err
	}
	entries, err := s.amendable(ctx, r.Table)
	if err != nil {
		return nil, err
	}
	out := api.DraftAmendment200JSONResponse{Revision: a.Head.Revision, Entries: entries, Steps: []api.DeliveryStep{}, Rows: a.To.Rows()}
	for i, e := range a.Now {
		step := api.DeliveryStep{Number: e.Number, Words: a.Come[i].Entry.Words(), Kind: e.Kind}
		if e.Number > 0 {
			step.Was = brief(e.Effect)
		}
		if p := a.Come[i].Problem; p != nil {
			doc := described(p)
			step.Problem = &doc
		} else {
			step.Now = brief(a.Come[i].Result.Effect)
		}
		out.Steps = append(out.Steps, step)
	}
	return out, nil
}

func stepsOf(steps []api.AmendStep) []store.AmendStep {
	out := make([]store.AmendStep, len(steps))
	for i, s := range steps {
		out[i] = store.AmendStep{Entry: s.Entry, Kind: s.Kind, Params: s.Params}
	}
	return out
}

// PostAmendment amends the journal.
func (s *Server) PostAmendment(ctx context.Context, r api.PostAmendmentRequestObject) (api.PostAmendmentResponseObject, error) {
	e, err := s.store.Posted(ctx, r.Params.IdempotencyKey, r.Table)
	if err != nil {
		return nil, err
	}
	if e == nil {
		a, err := s.store.Amend(ctx, r.Table, r.Body.Revision, stepsOf(r.Body.Steps))
		if err != nil {
			return nil, err
		}
		if e, err = s.store.PostAmendment(ctx, r.Params.IdempotencyKey, r.Table, a); err != nil {
			return nil, err
		}
	}
	return api.PostAmendment201JSONResponse(entryOf(*e)), nil
}
