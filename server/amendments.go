package server

import (
	"context"
	"strconv"
	"strings"

	"grandledger/api"
	"grandledger/core/problem"
)

// GetAmendment says what the journal comes to with entries switched off or moved.
func (s *Server) GetAmendment(ctx context.Context, r api.GetAmendmentRequestObject) (api.GetAmendmentResponseObject, error) {
	l, err := s.at(ctx, r.Table, r.Params.Revision)
	if err != nil {
		return nil, err
	}
	since, err := s.store.Amendable(ctx, r.Table)
	if err != nil {
		return nil, err
	}
	out := api.GetAmendment200JSONResponse{Revision: l.Revision, Entries: []api.DeliveryStep{}, Steps: []api.DeliveryStep{}, Rows: l.Table.Rows()}
	var order []int
	as := true // as it stands
	if r.Params.Order != nil {
		if order, err = numbersOf(*r.Params.Order); err != nil {
			return nil, err
		}
		as = len(order) == len(since)
	}
	for i, e := range since {
		out.Entries = append(out.Entries, api.DeliveryStep{Number: e.Number, Words: e.Words, Was: *brief(e.Effect)})
		as = as && (r.Params.Order == nil || order[i] == e.Number)
	}
	if as {
		return out, nil
	}
	a, err := s.store.Amend(ctx, r.Table, l.Revision, order)
	if err != nil {
		return nil, err
	}
	out.Rows = a.To.Rows()
	for i, e := range a.Now {
		step := api.DeliveryStep{Number: e.Number, Words: e.Words, Was: *brief(e.Effect)}
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

func numbersOf(list string) ([]int, error) {
	var out []int
	for _, field := range strings.FieldsFunc(list, func(r rune) bool { return r == ',' || r == ' ' }) {
		n, err := strconv.Atoi(field)
		if err != nil {
			return nil, problem.New("Give numbers of entries such as 1,3,2", "%q is no number of an entry", field)
		}
		out = append(out, n)
	}
	return out, nil
}

// PostAmendment amends the journal.
func (s *Server) PostAmendment(ctx context.Context, r api.PostAmendmentRequestObject) (api.PostAmendmentResponseObject, error) {
	e, err := s.store.Posted(ctx, r.Params.IdempotencyKey, r.Table)
	if err != nil {
		return nil, err
	}
	if e == nil {
		a, err := s.store.Amend(ctx, r.Table, r.Body.Revision, r.Body.Order)
		if err != nil {
			return nil, err
		}
		if e, err = s.store.PostAmendment(ctx, r.Params.IdempotencyKey, r.Table, a); err != nil {
			return nil, err
		}
	}
	return api.PostAmendment201JSONResponse(entryOf(*e)), nil
}
