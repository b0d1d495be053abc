package server

import (
	"context"
	"fmt"
	"mime"
	"net/http"

	"grandledger/api"
	"grandledger/core/table"
	"grandledger/formats/csv"
)

// Publish streams a table as CSV.
func (s *Server) Publish(ctx context.Context, r api.PublishRequestObject) (api.PublishResponseObject, error) {
	about, err := s.store.Table(ctx, r.Table)
	if err != nil {
		return nil, err
	}
	t, err := s.chosen(ctx, r.Table, r.Params.Revision, r.Params.Aside)
	if err != nil {
		return nil, err
	}
	name := about.Name
	if r.Params.Aside != nil {
		name = fmt.Sprintf("%s, set aside by entry %d", name, *r.Params.Aside)
	}
	return published{ctx, t, name + ".csv", csv.WriteOptions{Guard: r.Params.Guard}}, nil
}

type published struct {
	ctx  context.Context
	t    *table.Table
	name string
	o    csv.WriteOptions
}

// VisitPublishResponse writes the rows as they are worked out; nothing is held.
func (p published) VisitPublishResponse(w http.ResponseWriter) error {
	w.Header().Set("Content-Type", "text/csv; charset=utf-8")
	w.Header().Set("Content-Disposition", mime.FormatMediaType("attachment", map[string]string{"filename": p.name}))
	_, err := csv.Write(p.ctx, w, p.t, p.o)
	return err
}
