package arrow

import (
	"context"
	"encoding/base64"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"strconv"
	"strings"
	"time"
	"unicode/utf8"

	"github.com/apache/arrow-go/v18/arrow"
	"github.com/apache/arrow-go/v18/arrow/array"

	"grandledger/core/table"
	"grandledger/formats/intake"
)

// Gatherer makes a table of record batches.
type Gatherer struct {
	leaves []leaf
	rows   int
	o      intake.Options
}

// leaf is a column: the way to it from a batch, through structures.
type leaf struct {
	way    []int
	column *intake.Column
}

// NewGatherer starts with a schema.
func NewGatherer(schema *arrow.Schema, o intake.Options, report *intake.Report) (*Gatherer, error) {
	g := &Gatherer{o: o}
	var names []string
	var walk func(fields []arrow.Field, path string, way []int)
	walk = func(fields []arrow.Field, path string, way []int) {
		for i, f := range fields {
			name := path + f.Name
			here := append(append([]int{}, way...), i)
			if s, ok := f.Type.(*arrow.StructType); ok && s.NumFields() > 0 && len(here) < 50 {
				walk(s.Fields(), name+".", here)
				continue
			}
			names = append(names, name)
			g.leaves = append(g.leaves, leaf{way: here})
		}
	}
	walk(schema.Fields(), "", nil)
	if len(names) > intake.MaxColumns {
		return nil, intake.TooManyColumns(len(names))
	}
	for i, name := range intake.Names(names, true, report) {
		g.leaves[i].column = intake.NewColumn(name, 0)
	}
	return g, nil
}

// Batch takes the rows of a batch; intake.ErrEnough says that no more are wanted.
func (g *Gatherer) Batch(ctx context.Context, b arrow.RecordBatch) error {
	for from := int64(0); from < b.NumRows(); from += batchRows {
		if err := ctx.Err(); err != nil {
			return err
		}
		to := min(from+batchRows, b.NumRows())
		if err := intake.Room(g.rows+int(to-from), len(g.leaves)); err != nil {
			return err
		}
		if g.o.Rows > 0 {
			to = min(to, from+int64(g.o.Rows-g.rows))
		}
		for _, l := range g.leaves {
			if err := l.take(b.Column(l.way[0]), int(from), int(to)); err != nil {
				return err
			}
		}
		g.rows += int(to - from)
		if g.o.Progress != nil {
			g.o.Progress(0, g.rows)
		}
		if g.rows == g.o.Rows {
			return intake.ErrEnough
		}
	}
	return nil
}

// All takes batch after batch up to io.EOF, or as many as are wanted.
func (g *Gatherer) All(ctx context.Context, next func() (arrow.RecordBatch, error)) error {
	for {
		b, err := next()
		if errors.Is(err, io.EOF) {
			return nil
		}
		if err != nil {
			return err
		}
		if err := g.Batch(ctx, b); errors.Is(err, intake.ErrEnough) {
			return nil
		} else if err != nil {
			return err
		}
	}
}

// Table ends the gathering.
func (g *Gatherer) Table(report *intake.Report) (*table.Table, error) {
	columns := make([]*intake.Column, len(g.leaves))
	for i, l := range g.leaves {
		columns[i] = l.column
	}
	return intake.Finish(columns, g.rows, "UTF-8", g.o, report)
}

// take encodes the cells of a range of rows.
func (l leaf) take(a arrow.Array, from, to int) error {
	null := make([]bool, to-from)
	for _, i := range l.way[1:] {
		for row := range null {
			null[row] = null[row] || a.IsNull(from+row)
		}
		a = a.(*array.Struct).Field(i)
	}
	spans := make([]uint64, 0, to-from)
	var text []byte
	var known map[int]uint64 // of a dictionary, the values already written to text
	var span func(i int) uint64
	switch a := a.(type) {
	case *array.String:
		if from < to {
			first, begin := a.ValueOffset(0), a.ValueOffset(from)
			end := a.ValueOffset(to-1) + len(a.Value(to-1))
			text = a.ValueBytes()[begin-first : end-first] // the bytes as they lie
			span = func(i int) uint64 { return uint64(a.ValueOffset(i)-begin)<<32 | uint64(len(a.Value(i))) }
		}
	case *array.Dictionary:
		known = map[int]uint64{}
		span = func(i int) uint64 {
			code := a.GetValueIndex(i)
			s, ok := known[code]
			if !ok {
				at := len(text)
				if a.Dictionary().IsNull(code) {
					s = table.Absent
				} else {
					text = Append(text, a.Dictionary(), code)
					s = uint64(at)<<32 | uint64(len(text)-at)
				}
				known[code] = s
			}
			return s
		}
	}
	if span == nil {
		span = func(i int) uint64 {
			at := len(text)
			text = Append(text, a, i)
			return uint64(at)<<32 | uint64(len(text)-at)
		}
	}
	for row := range null {
		if null[row] || a.IsNull(from+row) {
			spans = append(spans, table.Absent)
			continue
		}
		spans = append(spans, span(from+row))
		if _, whole := a.(*array.String); !whole && len(text) > 1<<30 { // very long cells: spans reach 2 GiB
			if err := l.column.Encode(text, nil, spans); err != nil {
				return err
			}
			text, spans = text[:0], spans[:0]
			clear(known)
		}
	}
	return l.column.Encode(text, nil, spans)
}

// Append appends the text of a value that is not null.
func Append(out []byte, a arrow.Array, i int) []byte {
	switch a := a.(type) {
	case *array.String:
		return append(out, a.Value(i)...)
	case *array.LargeString:
		return append(out, a.Value(i)...)
	case *array.StringView:
		return append(out, a.Value(i)...)
	case *array.Int8:
		return strconv.AppendInt(out, int64(a.Value(i)), 10)
	case *array.Int16:
		return strconv.AppendInt(out, int64(a.Value(i)), 10)
	case *array.Int32:
		return strconv.AppendInt(out, int64(a.Value(i)), 10)
	case *array.Int64:
		return strconv.AppendInt(out, a.Value(i), 10)
	case *array.Uint8:
		return strconv.AppendUint(out, uint64(a.Value(i)), 10)
	case *array.Uint16:
		return strconv.AppendUint(out, uint64(a.Value(i)), 10)
	case *array.Uint32:
		return strconv.AppendUint(out, uint64(a.Value(i)), 10)
	case *array.Uint64:
		return strconv.AppendUint(out, a.Value(i), 10)
	case *array.Float32:
		return float(out, float64(a.Value(i)), 32)
	case *array.Float64:
		return float(out, a.Value(i), 64)
	case *array.Boolean:
		return strconv.AppendBool(out, a.Value(i))
	case *array.Decimal128:
		return append(out, a.Value(i).ToString(a.DataType().(*arrow.Decimal128Type).Scale)...)
	case *array.Decimal256:
		return append(out, a.Value(i).ToString(a.DataType().(*arrow.Decimal256Type).Scale)...)
	case *array.Time32, *array.Time64:
		clock, fraction, _ := strings.Cut(a.ValueStr(i), ".")
		if fraction = strings.TrimRight(fraction, "0"); fraction != "" {
			clock += "." + fraction
		}
		return append(out, clock...)
	case *array.Date32:
		return a.Value(i).ToTime().AppendFormat(out, time.DateOnly)
	case *array.Date64:
		return a.Value(i).ToTime().AppendFormat(out, time.DateOnly)
	case *array.Timestamp:
		return moment(out, a.Value(i), a.DataType().(*arrow.TimestampType))
	case *array.Binary:
		return raw(out, a.Value(i))
	case *array.LargeBinary:
		return raw(out, a.Value(i))
	case *array.FixedSizeBinary:
		return raw(out, a.Value(i))
	case *array.Dictionary:
		return Append(out, a.Dictionary(), a.GetValueIndex(i))
	case array.ListLike, *array.Struct:
		return list(out, a, i)
	}
	return append(out, a.ValueStr(i)...)
}

// float writes a number as shortly as gives it back, without an exponent where that is
// readable.
func float(out []byte, v float64, bits int) []byte {
	if v != 0 && (v < -1e21 || v > 1e21 || v > -1e-6 && v < 1e-6) {
		return strconv.AppendFloat(out, v, 'e', -1, bits)
	}
	return strconv.AppendFloat(out, v, 'f', -1, bits)
}

func moment(out []byte, v arrow.Timestamp, t *arrow.TimestampType) []byte {
	at := v.ToTime(t.Unit)
	out = at.AppendFormat(out, "2006-01-02 15:04:05.999999999")
	if t.TimeZone != "" {
		out = append(out, 'Z')
	}
	return out
}

func raw(out, v []byte) []byte {
	if utf8.Valid(v) {
		return append(out, v...)
	}
	return base64.StdEncoding.AppendEncode(out, v)
}

// list writes a list, map or structure within a list as compact JSON.
func list(out []byte, a arrow.Array, i int) []byte {
	v, err := json.Marshal(a.GetOneForMarshal(i))
	if err != nil {
		return append(out, a.ValueStr(i)...)
	}
	return append(out, strings.TrimSpace(string(v))...)
}

// Guard runs f and turns a panic of the decoder, which trusts its input in places, into an
// error.
func Guard(f func() error) (err error) {
	defer func() {
		if p := recover(); p != nil {
			err = fmt.Errorf("%v", p)
		}
	}()
	return f()
}
