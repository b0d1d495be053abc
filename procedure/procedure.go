// Package procedure is a journal that is handed on: what was read and how, and the entries
// with their parameters and in words, as a file that runs again on new files and as a
// document to read.
package procedure

import (
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
	Version int    `json:"version"`
	Name    string `json:"name"` // of the table
	Source  Source `json:"source"`
	Steps   []Step `json:"steps"`
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
	maxSteps = 10_000
)

// Read reads a procedure. Unknown keys and newer versions are refused, as they would be
// passed over without being done.
func Read(r io.Reader) (*Procedure, error) {
	p := &Procedure{}
	d := json.NewDecoder(io.LimitReader(r, maxBytes))
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
	case len(p.Steps) > maxSteps:
		return nil, problem.New("Split it", "the procedure has more than %d steps", maxSteps)
	}
	for _, s := range p.Steps {
		if _, err := entry.Decode(s.Kind, s.Params); err != nil {
			return nil, stepped(s, err)
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

// Run does the steps on a table. The first that does not apply ends it.
func (p *Procedure) Run(ctx context.Context, t *table.Table) ([]entry.Outcome, *table.Table, error) {
	steps := make([]entry.Step, len(p.Steps))
	for i, s := range p.Steps {
		steps[i] = entry.Step{Number: s.Entry, Kind: s.Kind, Params: s.Params}
	}
	out, result, err := entry.Replay(ctx, t, steps, entry.Inputs{})
	if err != nil {
		return nil, nil, err
	}
	for i, o := range out {
		if o.Problem != nil {
			return nil, nil, stepped(p.Steps[i], o.Problem)
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
