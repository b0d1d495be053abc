package server

import (
	"context"

	"grandledger/api"
)

// GetReading says how a column is read and what its values suggest, over all rows.
func (s *Server) GetReading(ctx context.Context, r api.GetReadingRequestObject) (api.GetReadingResponseObject, error) {
	t, err := s.at(ctx, r.Table, r.Params.Revision)
	if err != nil {
		return nil, err
	}
	c, err := column(t.Table, r.Params.Column)
	if err != nil {
		return nil, err
	}
	in := c.Effective()
	return api.GetReading200JSONResponse{Column: c.Name, Declared: c.Reading.Declared(), Reading: in, Words: in.Words(), Proposal: *c.Proposal()}, nil
}
