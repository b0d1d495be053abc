package server

import (
	"context"
	"fmt"

	"grandledger/api"
	"grandledger/core/tally"
)

// GetDetail gives what a column holds beyond its line in the register.
func (s *Server) GetDetail(ctx context.Context, r api.GetDetailRequestObject) (api.GetDetailResponseObject, error) {
	t, err := s.within(ctx, r.Table, r.Params.Revision, r.Params.Where)
	if err != nil {
		return nil, err
	}
	c, err := column(t.Table, r.Params.Column)
	if err != nil {
		return nil, err
	}
	d, err := view(s, t.revision, t.what(fmt.Sprintf("detail %q", c.Name)), func() (*tally.Detail, error) {
		d := tally.More(t.Table, c, tally.Of(t.Table, c).Reading)
		d.Shortest, _ = cutCell(d.Shortest)
		d.Longest, _ = cutCell(d.Longest)
		for i := range d.Shapes {
			d.Shapes[i].Shape, _ = cutCell(d.Shapes[i].Shape)
			d.Shapes[i].Example, _ = cutCell(d.Shapes[i].Example)
		}
		return d, nil
	})
	if err != nil {
		return nil, err
	}
	return api.GetDetail200JSONResponse(*d), nil
}
