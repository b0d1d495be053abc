package server

import (
	"context"

	"grandledger/api"
)

// ListMarks lists the marks of a table.
func (s *Server) ListMarks(ctx context.Context, r api.ListMarksRequestObject) (api.ListMarksResponseObject, error) {
	marks, err := s.store.Marks(ctx, r.Table)
	out := api.ListMarks200JSONResponse{}
	for _, m := range marks {
		out = append(out, api.Mark{Name: m.Name, Entry: m.Entry, MadeAt: m.MadeAt, Stands: m.Stands})
	}
	return out, err
}

// SetMark marks how a table stands.
func (s *Server) SetMark(ctx context.Context, r api.SetMarkRequestObject) (api.SetMarkResponseObject, error) {
	return api.SetMark204Response{}, s.store.SetMark(ctx, r.Table, r.Body.Revision, r.Body.Name)
}

// RemoveMark forgets a mark.
func (s *Server) RemoveMark(ctx context.Context, r api.RemoveMarkRequestObject) (api.RemoveMarkResponseObject, error) {
	return api.RemoveMark204Response{}, s.store.RemoveMark(ctx, r.Table, r.Mark)
}

// ReturnToMark brings a table back to how it stood.
func (s *Server) ReturnToMark(ctx context.Context, r api.ReturnToMarkRequestObject) (api.ReturnToMarkResponseObject, error) {
	e, err := s.store.ReturnTo(ctx, r.Params.IdempotencyKey, r.Table, r.Body.Revision, r.Mark)
	if err != nil {
		return nil, err
	}
	return api.ReturnToMark200JSONResponse(entryOf(*e)), nil
}

// GetDifference compares a table after two of its entries.
func (s *Server) GetDifference(ctx context.Context, r api.GetDifferenceRequestObject) (api.GetDifferenceResponseObject, error) {
	d, err := s.store.Difference(ctx, r.Table, r.Params.From, r.Params.To)
	if err != nil {
		return nil, err
	}
	for i := range d.Columns {
		for _, lines := range [][]api.Line{d.Columns[i].Values, d.Columns[i].Lost} {
			for j := range lines {
				lines[j].Value, _ = cutCell(lines[j].Value)
			}
		}
	}
	return api.GetDifference200JSONResponse(*d), nil
}

// GetLife lists the entries that changed a cell.
func (s *Server) GetLife(ctx context.Context, r api.GetLifeRequestObject) (api.GetLifeResponseObject, error) {
	life, err := s.store.Life(ctx, r.Table, r.Params.Revision, r.Params.Row, r.Params.Column)
	out := api.GetLife200JSONResponse{}
	for _, e := range life {
		for _, v := range []*string{e.From, e.To} {
			if v != nil {
				*v, _ = cutCell(*v)
			}
		}
		lived := api.Lived{Number: e.Number, Words: e.Words, At: e.At, From: e.From, To: e.To, Rule: string(e.Rule)}
		for _, c := range e.Made {
			value, _ := cutCell(c.Value)
			lived.Made = append(lived.Made, api.MadeOf{Row: c.Row, Value: value})
		}
		out = append(out, lived)
	}
	return out, err
}
