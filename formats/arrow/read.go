package arrow

import (
	"bytes"
	"context"
	"errors"
	"io"

	"github.com/apache/arrow-go/v18/arrow"
	"github.com/apache/arrow-go/v18/arrow/ipc"

	"grandledger/core/problem"
	"grandledger/core/table"
	"grandledger/formats/intake"
)

// Read reads an Arrow file or stream into a table. Refusals are *problem.Problem.
//
// Cost: one pass; memory is one record batch, the dictionaries and four bytes a cell.
func Read(ctx context.Context, src io.ReaderAt, size int64, o intake.Options) (t *table.Table, report *intake.Report, err error) {
	report = &intake.Report{Bytes: size, Notes: []intake.Note{}}
	err = Guard(func() error {
		t, err = read(ctx, io.NewSectionReader(src, 0, size), o, report)
		return err
	})
	return t, report, problem.In(o.File, Refusal(err, "Arrow"))
}

// Refusal makes a problem of what a decoder says of a file.
func Refusal(err error, format string) error {
	var p *problem.Problem
	if err == nil || errors.As(err, &p) || errors.Is(err, context.Canceled) || errors.Is(err, context.DeadlineExceeded) {
		return err
	}
	return problem.New("Ask for the file again, or for CSV", "the %s file cannot be read: %v", format, err)
}

func read(ctx context.Context, src *io.SectionReader, o intake.Options, report *intake.Report) (*table.Table, error) {
	if err := verify(src); err != nil {
		return nil, err
	}
	first := make([]byte, len(head))
	if _, err := src.ReadAt(first, 0); err != nil {
		return nil, err
	}
	var schema *arrow.Schema
	var next func() (arrow.RecordBatch, error)
	memory := NewLimited()
	if bytes.Equal(first, head) {
		f, err := ipc.NewFileReader(src, ipc.WithAllocator(memory))
		if err != nil {
			return nil, err
		}
		defer f.Close()
		schema, next = f.Schema(), f.Read
	} else {
		s, err := ipc.NewReader(src, ipc.WithAllocator(memory))
		if err != nil {
			return nil, err
		}
		defer s.Release()
		schema, next = s.Schema(), s.Read
	}
	g, err := NewGatherer(schema, o, report)
	if err != nil {
		return nil, err
	}
	if err := g.All(ctx, next); err != nil {
		return nil, err
	}
	return g.Table(report)
}
