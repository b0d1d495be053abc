package arrow

import (
	"context"
	"fmt"
	"io"
	"strconv"
	"strings"
	"time"

	"github.com/apache/arrow-go/v18/arrow"
	"github.com/apache/arrow-go/v18/arrow/array"
	"github.com/apache/arrow-go/v18/arrow/decimal128"
	"github.com/apache/arrow-go/v18/arrow/ipc"
	"github.com/apache/arrow-go/v18/arrow/memory"

	"grandledger/core/table"
	"grandledger/formats/kind"
)

// Write writes a table as an Arrow file. Columns of whole and decimal numbers, of true and
// false and of dates are typed where that keeps their text to the letter; all else is
// text. Blank cells of typed columns, and cells that do not exist, are null.
//
// Cost: O(cells); memory is one batch.
func Write(ctx context.Context, w io.Writer, t *table.Table) error {
	schema, kinds := SchemaOf(t)
	f, err := ipc.NewFileWriter(w, ipc.WithSchema(schema))
	if err != nil {
		return err
	}
	if err := Batches(ctx, t, schema, kinds, f.Write); err != nil {
		return err
	}
	return f.Close()
}

// SchemaOf gives the types of a table's columns.
func SchemaOf(t *table.Table) (*arrow.Schema, []kind.Kind) {
	var fields []arrow.Field
	var kinds []kind.Kind
	for _, c := range t.Columns() {
		k, decimals := kind.Of(t, c)
		var typ arrow.DataType = arrow.BinaryTypes.String
		switch k {
		case kind.Whole:
			typ = arrow.PrimitiveTypes.Int64
		case kind.Decimal:
			typ = &arrow.Decimal128Type{Precision: 18, Scale: int32(decimals)}
		case kind.Float:
			typ = arrow.PrimitiveTypes.Float64
		case kind.YesNo:
			typ = arrow.FixedWidthTypes.Boolean
		case kind.Date:
			typ = arrow.FixedWidthTypes.Date32
		default:
			k = kind.Text
		}
		fields = append(fields, arrow.Field{Name: c.Name, Type: typ, Nullable: true})
		kinds = append(kinds, k)
	}
	return arrow.NewSchema(fields, nil), kinds
}

// Batches gives the rows of a table to write, batch by batch.
func Batches(ctx context.Context, t *table.Table, schema *arrow.Schema, kinds []kind.Kind, write func(arrow.RecordBatch) error) error {
	b := array.NewRecordBuilder(memory.DefaultAllocator, schema)
	defer b.Release()
	for from := 0; from < t.Rows(); from += batchRows {
		if err := ctx.Err(); err != nil {
			return err
		}
		to := min(from+batchRows, t.Rows())
		for i, c := range t.Columns() {
			fill(b.Field(i), t, c, kinds[i], from, to)
		}
		batch := b.NewRecordBatch()
		err := write(batch)
		batch.Release()
		if err != nil {
			return fmt.Errorf("writing rows %d to %d: %w", from+1, to, err)
		}
	}
	return nil
}

// fill appends the cells of a range of rows. The kind says what the values are.
func fill(b array.Builder, t *table.Table, c *table.Column, k kind.Kind, from, to int) {
	b.Reserve(to - from)
	for row := from; row < to; row++ {
		v, ok := c.Value(t.BaseRow(row))
		if !ok || v == "" && k != kind.Text {
			b.AppendNull()
			continue
		}
		switch b := b.(type) {
		case *array.StringBuilder:
			b.Append(v)
		case *array.Int64Builder:
			n, _ := strconv.ParseInt(v, 10, 64)
			b.Append(n)
		case *array.Float64Builder:
			n, _ := strconv.ParseFloat(v, 64)
			b.Append(n)
		case *array.Decimal128Builder:
			n, _ := strconv.ParseInt(strings.Replace(v, ".", "", 1), 10, 64)
			b.Append(decimal128.FromI64(n))
		case *array.BooleanBuilder:
			b.Append(v == "true")
		case *array.Date32Builder:
			at, _ := time.Parse(time.DateOnly, v)
			b.Append(arrow.Date32FromTime(at))
		}
	}
}
