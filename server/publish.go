package server

import (
	"cmp"
	"context"
	"fmt"
	"io"
	"mime"
	"net/http"
	"path"

	"grandledger/api"
	"grandledger/core/table"
	"grandledger/formats"
	"grandledger/formats/csv"
)

// Publish streams a table as CSV.
func (s *Server) Publish(ctx context.Context, r api.PublishRequestObject) (api.PublishResponseObject, error) {
	about, err := s.store.Table(ctx, r.Table)
	if err != nil {
		return nil, err
	}
	t, err := s.chosen(ctx, r.Table, r.Params.Revision, r.Params.Aside, r.Params.Where)
	if err != nil {
		return nil, err
	}
	name := about.Name
	if r.Params.Aside != nil {
		name = fmt.Sprintf("%s, set aside by entry %d", name, *r.Params.Aside)
	}
	ending := "." + cmp.Or(string(r.Params.Format), "csv")
	write, err := formats.Writer(ending)
	if err != nil {
		return nil, err
	}
	if ending == ".csv" {
		write = func(ctx context.Context, w io.Writer, t *table.Table) error {
			_, err := csv.Write(ctx, w, t, csv.WriteOptions{Guard: r.Params.Guard})
			return err
		}
	}
	return published{ctx, t.Table, name + ending, write}, nil
}

// contentTypes are those of the Internet Assigned Numbers Authority.
var contentTypes = map[string]string{
	".csv": "text/csv; charset=utf-8", ".tsv": "text/tab-separated-values; charset=utf-8", ".json": "application/json", ".jsonl": "application/jsonl",
	".xlsx": "application/vnd.openxmlformats-officedocument.spreadsheetml.sheet", ".ods": "application/vnd.oasis.opendocument.spreadsheet",
	".parquet": "application/vnd.apache.parquet", ".arrow": "application/vnd.apache.arrow.file",
}

type published struct {
	ctx   context.Context
	t     *table.Table
	name  string
	write func(context.Context, io.Writer, *table.Table) error
}

// VisitPublishResponse writes the rows as they are worked out; no more is held than the
// format needs.
func (p published) VisitPublishResponse(w http.ResponseWriter) error {
	w.Header().Set("Content-Type", contentTypes[path.Ext(p.name)])
	w.Header().Set("Content-Disposition", mime.FormatMediaType("attachment", map[string]string{"filename": p.name}))
	return p.write(p.ctx, w, p.t)
}
