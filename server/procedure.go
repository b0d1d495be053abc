package server

import (
	"bytes"
	"context"
	"encoding/json"
	"mime"
	"net/http"

	"grandledger/api"
	"grandledger/jobs"
	"grandledger/procedure"
)

// GetProcedure hands a journal on: as a procedure that runs again, or as a document.
func (s *Server) GetProcedure(ctx context.Context, r api.GetProcedureRequestObject) (api.GetProcedureResponseObject, error) {
	t, err := s.store.Table(ctx, r.Table)
	if err != nil {
		return nil, err
	}
	var out bytes.Buffer
	form := string(r.Params.Format)
	switch form {
	case "md", "html":
		entries, err := s.store.Journal(ctx, r.Table)
		if err != nil {
			return nil, err
		}
		var lines []procedure.Line
		for _, e := range entries {
			lines = append(lines, procedure.Line{Number: e.Number, Words: e.Words, State: e.State, At: e.PostedAt, Effect: e.Effect, Notes: e.Notes, Reason: e.Reason})
		}
		write := procedure.Markdown
		if form == "html" {
			write = procedure.HTML
		}
		err = write(&out, t.Name, lines)
		return handed{out.Bytes(), t.Name + "." + form, map[string]string{"md": "text/markdown; charset=utf-8", "html": "text/html; charset=utf-8"}[form]}, err
	}
	raw, steps, err := s.store.Procedure(ctx, r.Table)
	if err != nil {
		return nil, err
	}
	var source jobs.Source
	if err := json.Unmarshal(raw, &source); err != nil {
		return nil, err
	}
	p := procedure.Procedure{Version: procedure.Version, Name: t.Name, Source: procedure.Source{Files: source.Files, How: source.How}, Steps: []procedure.Step{}}
	for _, step := range steps {
		p.Steps = append(p.Steps, procedure.Step{Entry: step.Number, Kind: step.Kind, Words: step.Words, Params: step.Params})
	}
	err = p.Write(&out)
	return handed{out.Bytes(), t.Name + ".procedure.json", "application/json"}, err
}

// handed is a document to be kept as a file.
type handed struct {
	body       []byte
	name, kind string
}

// VisitGetProcedureResponse writes it.
func (h handed) VisitGetProcedureResponse(w http.ResponseWriter) error {
	w.Header().Set("Content-Type", h.kind)
	w.Header().Set("Content-Disposition", mime.FormatMediaType("attachment", map[string]string{"filename": h.name}))
	_, err := w.Write(h.body)
	return err
}
