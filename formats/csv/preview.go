package csv

import (
	"bytes"
	"context"
	"errors"
	"io"

	"grandledger/core/problem"
)

// Preview is the first rows of a text as a dialect reads them.
type Preview struct {
	Dialect Dialect    `json:"dialect"`
	Names   []string   `json:"names"`
	Rows    [][]string `json:"rows"`
	Notes   []Note     `json:"notes"` // of the first rows only
}

const previewRows = 50

// Look reads the first rows; with no dialect it works one out. The source is read up
// to a fixed number of bytes.
func Look(src io.Reader, file string, d *Dialect) (*Preview, error) {
	sample, err := io.ReadAll(io.LimitReader(src, sampleSize))
	if err != nil {
		return nil, err
	}
	if len(sample) == sampleSize && bytes.IndexByte(sample, 0) < 0 { // leave out the row the sample ends in
		if nl := bytes.LastIndexByte(sample, '\n'); nl > 0 {
			sample = sample[:nl+1]
		}
	}
	t, report, err := Read(context.Background(), bytes.NewReader(sample), Options{File: file, Dialect: d})
	var p *problem.Problem
	if errors.As(err, &p) && d == nil && len(sample) > sampleSize/2 && p.Row > 0 {
		// A quoted cell may run beyond the sample; what matters is the rows before it.
		if sniffed, err2 := Sniff(sample); err2 == nil {
			return &Preview{Dialect: sniffed, Rows: sniffed.first(sniffed.decode(sample), previewRows), Names: []string{}, Notes: []Note{}}, nil
		}
	}
	if err != nil {
		return nil, err
	}
	v := &Preview{Dialect: report.Dialect, Names: []string{}, Rows: [][]string{}, Notes: report.Notes}
	for _, c := range t.Columns() {
		v.Names = append(v.Names, c.Name)
	}
	for row := range min(t.Rows(), previewRows) {
		cells := make([]string, len(v.Names))
		for i, c := range t.Columns() {
			cells[i], _ = c.Value(uint32(row))
		}
		v.Rows = append(v.Rows, cells)
	}
	return v, nil
}
