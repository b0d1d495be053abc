package formats

import (
	"compress/gzip"
	"context"
	"io"
	"path"
	"strings"

	"github.com/klauspost/compress/zstd"

	"grandledger/core/problem"
	"grandledger/core/table"
	"grandledger/formats/arrow"
	"grandledger/formats/csv"
	"grandledger/formats/json"
	"grandledger/formats/ods"
	"grandledger/formats/parquet"
	"grandledger/formats/xlsx"
)

// Endings lists the endings of names by which files can be written; .gz and .zst after
// them pack.
var Endings = []string{".csv", ".tsv", ".json", ".jsonl", ".xlsx", ".ods", ".parquet", ".arrow"}

// Writer finds by the ending of a file's name how to write it.
func Writer(name string) (func(ctx context.Context, w io.Writer, t *table.Table) error, error) {
	low := strings.ToLower(name)
	switch ending := path.Ext(low); ending {
	case ".gz":
		inner, err := Writer(strings.TrimSuffix(low, ending))
		return packed(inner, func(w io.Writer) (io.WriteCloser, error) { return gzip.NewWriter(w), nil }), err
	case ".zst":
		inner, err := Writer(strings.TrimSuffix(low, ending))
		return packed(inner, func(w io.Writer) (io.WriteCloser, error) { return zstd.NewWriter(w, zstd.WithEncoderConcurrency(1)) }), err
	case ".csv":
		return delimited(","), nil
	case ".tsv", ".tab":
		return delimited("\t"), nil
	case ".json":
		return func(ctx context.Context, w io.Writer, t *table.Table) error { return json.Write(ctx, w, t, false) }, nil
	case ".jsonl", ".ndjson":
		return func(ctx context.Context, w io.Writer, t *table.Table) error { return json.Write(ctx, w, t, true) }, nil
	case ".xlsx":
		return xlsx.Write, nil
	case ".ods":
		return ods.Write, nil
	case ".parquet":
		return parquet.Write, nil
	case ".arrow":
		return arrow.Write, nil
	}
	return nil, problem.New("End its name with one of "+strings.Join(Endings, " "), "it does not say of what format %s should be", path.Base(name))
}

func delimited(delimiter string) func(context.Context, io.Writer, *table.Table) error {
	return func(ctx context.Context, w io.Writer, t *table.Table) error {
		_, err := csv.Write(ctx, w, t, csv.WriteOptions{Delimiter: delimiter})
		return err
	}
}

func packed(write func(context.Context, io.Writer, *table.Table) error, pack func(io.Writer) (io.WriteCloser, error)) func(context.Context, io.Writer, *table.Table) error {
	return func(ctx context.Context, w io.Writer, t *table.Table) error {
		z, err := pack(w)
		if err != nil {
			return err
		}
		if err := write(ctx, z, t); err != nil {
			return err
		}
		return z.Close()
	}
}
