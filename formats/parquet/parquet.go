// Package parquet reads and writes Apache Parquet files, through Apache Arrow's library.
// Typed values become text and back as package arrow has it.
package parquet

import (
	"bytes"
	"context"
	"io"

	arrowlib "github.com/apache/arrow-go/v18/arrow"
	"github.com/apache/arrow-go/v18/arrow/memory"
	pq "github.com/apache/arrow-go/v18/parquet"
	"github.com/apache/arrow-go/v18/parquet/compress"
	"github.com/apache/arrow-go/v18/parquet/file"
	"github.com/apache/arrow-go/v18/parquet/pqarrow"

	"grandledger/core/problem"
	"grandledger/core/table"
	"grandledger/formats/arrow"
	"grandledger/formats/intake"
)

// Read reads a Parquet file into a table. Refusals are *problem.Problem.
//
// Cost: one pass; memory is a batch of rows with the pages it lies in, the dictionaries
// and four bytes a cell.
func Read(ctx context.Context, src io.ReaderAt, size int64, o intake.Options) (t *table.Table, report *intake.Report, err error) {
	report = &intake.Report{Bytes: size, Notes: []intake.Note{}}
	err = arrow.Guard(func() error {
		t, err = read(ctx, io.NewSectionReader(src, 0, size), o, report)
		return err
	})
	return t, report, problem.In(o.File, arrow.Refusal(err, "Parquet"))
}

func read(ctx context.Context, src *io.SectionReader, o intake.Options, report *intake.Report) (*table.Table, error) {
	if err := whole(src); err != nil {
		return nil, err
	}
	alloc := arrow.NewLimited()
	props := pq.NewReaderProperties(alloc)
	props.BufferedStreamEnabled = true
	f, err := file.NewParquetReader(src, file.WithReadProps(props))
	if err != nil {
		return nil, err
	}
	defer f.Close()
	r, err := pqarrow.NewFileReader(f, pqarrow.ArrowReadProperties{BatchSize: 1 << 16}, alloc)
	if err != nil {
		return nil, err
	}
	records, err := r.GetRecordReader(ctx, nil, nil)
	if err != nil {
		return nil, err
	}
	defer records.Release()
	g, err := arrow.NewGatherer(records.Schema(), o, report)
	if err != nil {
		return nil, err
	}
	if err := g.All(ctx, records.Read); err != nil {
		return nil, err
	}
	return g.Table(report)
}

// whole tells a file that was cut off, and one that is encrypted, by its last bytes.
func whole(src *io.SectionReader) error {
	end := make([]byte, 4)
	if src.Size() < 12 {
		return problem.New("Ask for the file again", "the Parquet file is cut off: it has %d bytes", src.Size())
	}
	if _, err := src.ReadAt(end, src.Size()-4); err != nil && err != io.EOF {
		return err
	}
	switch {
	case bytes.Equal(end, []byte("PARE")):
		return problem.New("Ask for it without encryption", "the Parquet file is encrypted")
	case !bytes.Equal(end, []byte("PAR1")):
		return problem.New("Ask for the file again", "the Parquet file is cut off: its end, which says what is in it, is not there")
	}
	return nil
}

// Write writes a table as a Parquet file, typed as by arrow.Write and compressed by
// Zstandard.
//
// Cost: O(cells); memory is one row group of at most a million rows.
func Write(ctx context.Context, w io.Writer, t *table.Table) error {
	schema, kinds := arrow.SchemaOf(t)
	props := pq.NewWriterProperties(pq.WithCompression(compress.Codecs.Zstd), pq.WithMaxRowGroupLength(1<<20), pq.WithCreatedBy("Grand Ledger"))
	// The writer closes what it can; the file is the caller's.
	f, err := pqarrow.NewFileWriter(schema, struct{ io.Writer }{w}, props, pqarrow.NewArrowWriterProperties(pqarrow.WithAllocator(memory.DefaultAllocator)))
	if err != nil {
		return err
	}
	err = arrow.Batches(ctx, t, schema, kinds, func(b arrowlib.RecordBatch) error { return f.WriteBuffered(b) })
	if err != nil {
		return err
	}
	return f.Close()
}
