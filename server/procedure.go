package server

import (
	"bytes"
	"context"
	"encoding/json"
	"maps"
	"mime"
	"net/http"
	"slices"
	"strings"

	"grandledger/api"
	"grandledger/core/formula"
	"grandledger/core/problem"
	"grandledger/core/text"
	"grandledger/jobs"
	"grandledger/procedure"
	"grandledger/store"
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
	p := procedure.Procedure{Version: procedure.Version}
	if p.Table, err = s.handOn(ctx, t, &p.Tables, 0); err != nil {
		return nil, err
	}
	if form == "yaml" {
		err = p.WriteYAML(&out)
		return handed{out.Bytes(), t.Name + ".procedure.yaml", "application/yaml"}, err
	}
	err = p.Write(&out)
	return handed{out.Bytes(), t.Name + ".procedure.json", "application/json"}, err
}

// handOn gives a table as a procedure has it, and adds those its formulas look into, each before
// the ones that look into it.
func (s *Server) handOn(ctx context.Context, t store.Table, others *[]procedure.Table, depth int) (procedure.Table, error) {
	out := procedure.Table{Name: t.Name, Steps: []procedure.Step{}}
	if depth > maxLooking {
		return out, problem.New("Bring one of them in as a table of its own", "more than %d tables look into one another", maxLooking)
	}
	raw, steps, err := s.store.Procedure(ctx, t.ID)
	if err != nil {
		return out, err
	}
	var source jobs.Source
	if err := json.Unmarshal(raw, &source); err != nil {
		return out, err
	}
	out.Source = procedure.Source{Files: source.Files, How: source.How}
	for _, step := range steps {
		out.Steps = append(out.Steps, procedure.Step{Entry: step.Number, Kind: step.Kind, Words: step.Words, Params: step.Params})
		var looks struct{ Tables map[string]int64 }
		if step.Kind != "formula" || json.Unmarshal(step.Params, &looks) != nil {
			continue
		}
		for _, name := range slices.Sorted(maps.Keys(looks.Tables)) {
			if err := s.lookedInto(ctx, t, step.Number, name, looks.Tables[name], others, depth); err != nil {
				return out, err
			}
		}
	}
	return out, nil
}

// maxLooking is how deep tables may look into one another.
const maxLooking = 10

// lookedInto adds a table that an entry looks into.
func (s *Server) lookedInto(ctx context.Context, t store.Table, number int, name string, revision int64, others *[]procedure.Table, depth int) error {
	tables, err := s.store.Tables(ctx, t.BookID)
	if err != nil {
		return err
	}
	i := slices.IndexFunc(tables, func(o store.Table) bool { return o.Name == name })
	if i < 0 || tables[i].Head != revision {
		return problem.New("Amend that entry: open its formula and keep it, so that it looks into the table as it stands",
			"entry %d looks into %q, which has changed since or is gone, so the procedure would come to something else", number, name)
	}
	if slices.ContainsFunc(*others, func(o procedure.Table) bool { return o.Name == name }) {
		return nil
	}
	other, err := s.handOn(ctx, tables[i], others, depth+1)
	if err == nil {
		*others = append(*others, other)
	}
	return err
}

// FitProcedure reads a procedure and gives its steps as entries of a table.
func (s *Server) FitProcedure(ctx context.Context, r api.FitProcedureRequestObject) (api.FitProcedureResponseObject, error) {
	t, err := s.store.Table(ctx, r.Table)
	if err != nil {
		return nil, err
	}
	p, err := procedure.Read(strings.NewReader(r.Body.Text))
	if err != nil {
		return nil, err
	}
	steps, err := p.Fit(r.Body.Columns)
	if err != nil {
		return nil, err
	}
	out := api.FitProcedure200JSONResponse{Name: p.Name, Steps: []api.FittedStep{}, Columns: []api.FittedColumn{}}
	for _, step := range steps {
		out.Steps = append(out.Steps, api.FittedStep{Entry: step.Entry, Kind: step.Kind, Params: step.Params, Words: step.Words})
	}
	needs, err := p.Needs()
	for _, name := range needs {
		column := api.FittedColumn{Name: name}
		for _, like := range []func(c string) bool{
			func(c string) bool { return c == name },
			func(c string) bool { return formula.Word(c) == name },
			func(c string) bool { return text.Fold(c) == text.Fold(name) && text.Fold(c) != "" },
		} {
			if i := slices.IndexFunc(t.Columns, like); i >= 0 && column.Column == "" {
				column.Column = t.Columns[i]
			}
		}
		out.Columns = append(out.Columns, column)
	}
	return out, err
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
