// Package procedure is a journal that is handed on: what was read and how, and the entries
// with their parameters and in words, as a file that runs again on new files and as a
// document to read.
package procedure

import (
	"bytes"
	"context"
	_ "embed"
	"encoding/json"
	"errors"
	"fmt"
	"io"

	"grandledger/core/entry"
	"grandledger/core/problem"
	"grandledger/core/table"
	"grandledger/formats"
)

// Version is the version of the form that is written, and the newest that is read.
const Version = 1

// Schema is the JSON Schema of a procedure.
//
//go:embed schema.json
var Schema []byte

// Procedure is a journal without the data.
type Procedure struct {
	Version int `json:"version"`
	Table
	Tables []Table `json:"tables,omitempty"` // those its formulas look things up in, each before the ones that look into it
}

// Table is a table of a procedure: what it is read from, and what is done on it.
type Table struct {
	Name   string `json:"name"`
	Source Source `json:"source"`
	Steps  []Step `json:"steps"`
}

// Source is what the table was read from, and how.
type Source struct {
	Files []string    `json:"files"`
	How   formats.How `json:"how"`
}

// Step is an entry: Words say what Params mean and are not read.
type Step struct {
	Entry  int             `json:"entry"`
	Kind   string          `json:"kind"`
	Words  string          `json:"words"`
	Params json.RawMessage `json:"params"`
}

const (
	maxBytes = 64 << 20
	maxYAML  = 8 << 20
	maxSteps = 10_000
)

// Read reads a procedure, JSON or YAML. Unknown keys and newer versions are refused, as they
// would be passed over without being done.
func Read(r io.Reader) (*Procedure, error) {
	text, err := io.ReadAll(io.LimitReader(r, maxBytes+1))
	if err != nil {
		return nil, err
	}
	if len(text) > maxBytes {
		return nil, problem.New("Split it", "the procedure is longer than %d MiB", maxBytes>>20)
	}
	if start := bytes.TrimSpace(text); len(start) > 0 && start[0] != '{' && start[0] != '[' {
		if len(text) > maxYAML {
			return nil, problem.New("Export it as JSON", "the procedure is longer than %d MiB, which is read as JSON alone", maxYAML>>20)
		}
		if text, err = fromYAML(text); err != nil {
			return nil, problem.New("Mend it, or export the journal as a procedure again", "the procedure cannot be read: %v", err)
		}
	}
	p := &Procedure{}
	d := json.NewDecoder(bytes.NewReader(text))
	d.DisallowUnknownFields()
	if err := d.Decode(p); err != nil {
		return nil, problem.New("Export the journal as a procedure again", "the procedure cannot be read: %v", err)
	}
	if d.More() {
		return nil, problem.New("Export the journal as a procedure again", "something stands after the end of the procedure")
	}
	switch {
	case p.Version > Version:
		return nil, problem.New("Use a newer Grand Ledger", "the procedure is of version %d, this reads up to %d", p.Version, Version)
	case p.Version < 1:
		return nil, problem.New("Give it a version", "the procedure has no version")
	}
	for _, t := range append(p.Tables, p.Table) {
		if len(t.Steps) > maxSteps {
			return nil, problem.New("Split it", "the procedure has more than %d steps", maxSteps)
		}
		for _, s := range t.Steps {
			if _, err := entry.Decode(s.Kind, s.Params); err != nil {
				return nil, stepped(s, err)
			}
		}
	}
	return p, nil
}

// Write writes a procedure to be read by people too.
func (p *Procedure) Write(w io.Writer) error {
	e := json.NewEncoder(w)
	e.SetEscapeHTML(false)
	e.SetIndent("", "  ")
	return e.Encode(p)
}

// WriteYAML writes a procedure as YAML.
func (p *Procedure) WriteYAML(w io.Writer) error {
	raw, err := json.Marshal(p)
	if err != nil {
		return err
	}
	return toYAML(w, raw)
}

// Unmet is a check of a procedure that does not hold.
type Unmet struct{ error }

func (u Unmet) Unwrap() error { return u.error }

// Run does the steps on what a table was read as; others gives the tables its formulas look
// into. The first that does not apply ends it.
func (p Table) Run(ctx context.Context, t *table.Table, others func(name string) (*table.Table, error)) ([]entry.Outcome, *table.Table, error) {
	steps := make([]entry.Step, len(p.Steps))
	for i, s := range p.Steps {
		steps[i] = entry.Step{Number: s.Entry, Kind: s.Kind, Params: s.Params}
	}
	out, result, err := entry.Replay(ctx, t, steps, entry.Inputs{Tables: func(name string, _ int64) (*table.Table, int64, error) {
		other, err := others(name)
		return other, 0, err
	}})
	if err != nil {
		return nil, nil, err
	}
	for i, o := range out {
		if o.Problem != nil {
			err := stepped(p.Steps[i], o.Problem)
			if p.Steps[i].Kind == "check" {
				err = Unmet{err}
			}
			return nil, nil, err
		}
	}
	return out, result, nil
}

// stepped says which step a problem is of.
func stepped(s Step, err error) error {
	var p *problem.Problem
	if !errors.As(err, &p) {
		return fmt.Errorf("entry %d: %w", s.Entry, err)
	}
	of := *p
	of.What = fmt.Sprintf("entry %d (%s): %s", s.Entry, s.Words, p.What)
	return &of
}
