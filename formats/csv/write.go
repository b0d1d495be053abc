package csv

import (
	"cmp"
	"context"
	"io"
	"strings"

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
// one copy a cell; a byte a value and a small buffer are held.
func Write(ctx context.Context, w io.Writer, t *table.Table, o WriteOptions) (guarded int, err error) {
	delim := cmp.Or(o.Delimiter, ",")[0]
	columns := t.Columns()
	forms := make([][]form, len(columns))
	out := make([]byte, 0, 2*flushAt)
	for i, c := range columns {
		if i > 0 {
			out = append(out, delim)
		}
		out = append(out, write(c.Name, formOf(c.Name, o, delim))...)
		forms[i] = make([]form, c.Dict.Len()+1)
	}
	out = append(out, '\n')
	single := len(columns) == 1
	for row := range t.Rows() {
		if len(out) >= flushAt {
			if err := ctx.Err(); err != nil {
				return guarded, err
			}
			if _, err := w.Write(out); err != nil {
				return guarded, err
			}
			out = out[:0]
		}
		base := t.BaseRow(row)
		for i, c := range columns {
			if i > 0 {
				out = append(out, delim)
			}
			code := c.Code(base)
			v, f := c.Dict.Value(code), forms[i][code]
			if f == 0 {
				f = formOf(v, o, delim)
				forms[i][code] = f
			}
			switch {
			case f != plain:
				if f&formula != 0 {
					guarded++
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
	_, err = w.Write(out)
	return guarded, err
}

// flushAt is how many bytes are gathered before they are written on.
const flushAt = 256 << 10

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
