package csv

import (
	"cmp"
	"context"
	"io"
	"runtime"
	"strings"
	"sync"

	"grandledger/core/reading"
	"grandledger/core/table"
)

// WriteOptions says how to write.
type WriteOptions struct {
	// Guard puts an apostrophe before cells that a spreadsheet would run as a formula:
	// those that begin with = + - @ or a tab or carriage return and are not numbers.
	// (The measure the OWASP page on CSV injection gives.)
	Guard bool

	Delimiter string // one character; a comma where empty
}

// Write writes a table as RFC 4180 text: UTF-8, commas unless told otherwise, a header, lines ended by LF.
// Cells are quoted where they must be. Missing cells are written as blank ones.
// It returns how many cells were guarded. Cost: a look at each value that stands, then
// one copy a cell, on all cores; a byte a value and core and small buffers are held.
func Write(ctx context.Context, w io.Writer, t *table.Table, o WriteOptions) (guarded int, err error) {
	delim := cmp.Or(o.Delimiter, ",")[0]
	var head []byte
	for i, c := range t.Columns() {
		if i > 0 {
			head = append(head, delim)
		}
		head = append(head, write(c.Name, formOf(c.Name, o, delim))...)
	}
	if _, err := w.Write(append(head, '\n')); err != nil {
		return 0, err
	}
	var writers []*writer // each writes a share of the rows, and they are put out in turn
	for range min(runtime.GOMAXPROCS(0), 1+t.Rows()/share) {
		writers = append(writers, newWriter(t, o, delim))
	}
	for at := 0; at < t.Rows(); at += share * len(writers) {
		if err := ctx.Err(); err != nil {
			return guarded, err
		}
		var work sync.WaitGroup
		for i, part := range writers {
			from := min(at+i*share, t.Rows())
			work.Go(func() { part.rows(from, min(from+share, t.Rows())) })
		}
		work.Wait()
		for _, part := range writers {
			if _, err := w.Write(part.out); err != nil {
				return guarded, err
			}
			guarded += part.guarded
		}
	}
	return guarded, nil
}

// share is how many rows are written at once.
const share = 4096

// writer writes rows.
type writer struct {
	t       *table.Table
	o       WriteOptions
	delim   byte
	forms   [][]form // by column, by code
	out     []byte
	guarded int
}

func newWriter(t *table.Table, o WriteOptions, delim byte) *writer {
	w := &writer{t: t, o: o, delim: delim}
	for _, c := range t.Columns() {
		w.forms = append(w.forms, make([]form, c.Dict.Len()+1))
	}
	return w
}

// rows makes the text of some rows.
func (w *writer) rows(from, to int) {
	columns := w.t.Columns()
	single := len(columns) == 1
	out := w.out[:0]
	w.guarded = 0
	for row := from; row < to; row++ {
		base := w.t.BaseRow(row)
		for i, c := range columns {
			if i > 0 {
				out = append(out, w.delim)
			}
			code := c.Code(base)
			v, f := c.Dict.Value(code), w.forms[i][code]
			if f == 0 {
				f = formOf(v, w.o, w.delim)
				w.forms[i][code] = f
			}
			switch {
			case f != plain:
				if f&formula != 0 {
					w.guarded++
				}
				out = append(out, write(v, f)...)
			case single && v == "":
				out = append(out, `""`...) // an empty line would be no row
			default:
				out = append(out, v...)
			}
		}
		out = append(out, '\n')
	}
	w.out = out
}

// form is what a value needs to be written.
type form uint8

const (
	plain   form = 1 << iota // as it stands; 0 is not known yet
	quoted                   // must stand in quotation marks
	formula                  // gets an apostrophe
)

var plainNumber = reading.Plain(reading.Number).Reader()

func formOf(v string, o WriteOptions, delim byte) form {
	f := plain
	if strings.ContainsAny(v, "\"\n\r") || strings.IndexByte(v, delim) >= 0 {
		f |= quoted
	}
	if o.Guard && v != "" && strings.IndexByte("=+-@\t\r", v[0]) >= 0 {
		if _, number := plainNumber(v); !number {
			f |= formula
		}
	}
	return f
}

func write(v string, f form) string {
	if f&formula != 0 {
		v = "'" + v
	}
	if f&quoted != 0 {
		v = `"` + strings.ReplaceAll(v, `"`, `""`) + `"`
	}
	return v
}
