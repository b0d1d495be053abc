package csv

import (
	"bufio"
	"context"
	"io"
	"strings"

	"grandledger/core/table"
)

// WriteOptions says how to write.
type WriteOptions struct {
	// Guard puts an apostrophe before cells that a spreadsheet would run as a formula:
	// those that begin with = + - @ or a tab or carriage return and are not numbers.
	// (The measure the OWASP page on CSV injection gives.)
	Guard bool
}

// Write writes a table as RFC 4180 text: UTF-8, commas, a header, lines ended by LF.
// Cells are quoted where they must be. Missing cells are written as blank ones.
// It returns how many cells were guarded. Cost: O(distinct) to look at the values,
// then one copy a cell; nothing but a small buffer is held.
func Write(ctx context.Context, w io.Writer, t *table.Table, o WriteOptions) (guarded int, err error) {
	out := bufio.NewWriterSize(w, 256<<10)
	columns := t.Columns()
	forms := make([][]form, len(columns))
	for i, c := range columns {
		if i > 0 {
			out.WriteByte(',')
		}
		out.WriteString(write(c.Name, formOf(c.Name, o.Guard)))
		forms[i] = make([]form, c.Dict.Len()+1)
		for code := range forms[i] {
			forms[i][code] = formOf(c.Dict.Value(uint32(code)), o.Guard)
		}
	}
	out.WriteByte('\n')
	single := len(columns) == 1
	for row := range t.Rows() {
		if row%65536 == 0 && ctx.Err() != nil {
			return guarded, ctx.Err()
		}
		base := t.BaseRow(row)
		for i, c := range columns {
			if i > 0 {
				out.WriteByte(',')
			}
			code := c.Code(base)
			v, f := c.Dict.Value(code), forms[i][code]
			if f != 0 {
				if f&formula != 0 {
					guarded++
				}
				v = write(v, f)
			} else if single && v == "" {
				v = `""` // an empty line would be no row
			}
			out.WriteString(v)
		}
		if err := out.WriteByte('\n'); err != nil {
			return guarded, err
		}
	}
	return guarded, out.Flush()
}

// form is what a value needs to be written.
type form uint8

const (
	quoted  form = 1 << iota // must stand in quotation marks
	formula                  // gets an apostrophe
)

func formOf(v string, guard bool) form {
	var f form
	if strings.ContainsAny(v, ",\"\n\r") {
		f |= quoted
	}
	if guard && v != "" && strings.IndexByte("=+-@\t\r", v[0]) >= 0 {
		if _, number := table.ParseNumber(v); !number {
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
