package server

import (
	"context"
	"encoding/json"

	"grandledger/api"
	"grandledger/core/entry"
	"grandledger/core/problem"
	"grandledger/formats"
	"grandledger/formats/intake"
)

// maxBeside is the largest file whose columns are put beside those of a table, in bytes: they
// are kept within the entry. Larger ones are brought in and joined.
const maxBeside = 8 << 20

// filled gives the parameters of an entry. Those of one that puts the columns of a received
// file beside others are read from the file, which is named too.
func (s *Server) filled(ctx context.Context, kind api.DraftKind, params json.RawMessage) (json.RawMessage, int64, error) {
	var identify struct {
		Asking     int64
		Properties []string
	}
	if kind == "identify" && json.Unmarshal(params, &identify) == nil && identify.Asking != 0 {
		made, err := s.identified(ctx, identify.Asking, identify.Properties)
		return made, 0, err
	}
	var asked struct{ Upload int64 }
	if kind != "beside" || json.Unmarshal(params, &asked) != nil || asked.Upload == 0 {
		return params, 0, nil
	}
	u, err := s.store.Upload(ctx, asked.Upload)
	if err != nil {
		return nil, 0, err
	}
	if u.Bytes > maxBeside {
		return nil, 0, problem.New("Bring it in as a table and join the two", "%s is larger than %d bytes", u.File, maxBeside)
	}
	p, err := s.look(ctx, u, nil)
	if err != nil {
		return nil, 0, err
	}
	src, f, err := s.queue.Open(u)
	if err != nil {
		return nil, 0, err
	}
	defer f.Close()
	t, _, err := formats.Read(ctx, []formats.Source{src}, p.How, intake.Options{})
	if err != nil {
		return nil, 0, err
	}
	e := entry.Beside{From: u.File, Columns: []entry.BesideColumn{}}
	for _, c := range t.Columns() {
		column := entry.BesideColumn{Name: c.Name, Cells: make([]string, t.Rows())}
		for row := range column.Cells {
			column.Cells[row], _ = c.Value(t.BaseRow(row))
		}
		e.Columns = append(e.Columns, column)
	}
	raw, err := json.Marshal(e)
	return raw, asked.Upload, err
}
