package json

import (
	"context"
	"io"
	"unicode/utf8"

	"grandledger/core/table"
	"grandledger/formats/kind"
)

// Write writes a table as a list of objects, or as JSON Lines. Columns that hold only
// numbers, true and false, or lists are written as such; what is blank in them, and every
// cell that does not exist, is null. All else is text.
//
// Cost: O(distinct) to look at the values, then one copy a cell; nothing but a small
// buffer is held.
func Write(ctx context.Context, w io.Writer, t *table.Table, lines bool) error {
	columns := t.Columns()
	names := make([][]byte, len(columns))
	forms := make([][]form, len(columns))
	for i, c := range columns {
		names[i] = append(quote(nil, c.Name), ':')
		k, _ := kind.Of(t, c)
		forms[i] = make([]form, c.Dict.Len()+1)
		for code := 1; code < len(forms[i]); code++ {
			forms[i][code] = formOf(c.Dict.Value(uint32(code)), k)
		}
	}
	const flushAt = 256 << 10
	out := make([]byte, 0, 2*flushAt)
	if !lines {
		out = append(out, '[')
	}
	for row := range t.Rows() {
		if len(out) >= flushAt {
			if err := ctx.Err(); err != nil {
				return err
			}
			if _, err := w.Write(out); err != nil {
				return err
			}
			out = out[:0]
		}
		if !lines {
			if row > 0 {
				out = append(out, ',')
			}
			out = append(out, '\n')
		}
		base := t.BaseRow(row)
		for i, c := range columns {
			out = append(out, "{,"[min(i, 1)])
			out = append(out, names[i]...)
			code := c.Code(base)
			switch forms[i][code] {
			case null:
				out = append(out, "null"...)
			case plain:
				out = append(out, c.Dict.Value(code)...)
			case quoted:
				out = append(append(append(out, '"'), c.Dict.Value(code)...), '"')
			case escaped:
				out = quote(out, c.Dict.Value(code))
			}
		}
		out = append(out, '}')
		if lines {
			out = append(out, '\n')
		}
	}
	if !lines {
		out = append(out, "\n]\n"...)
	}
	_, err := w.Write(out)
	return err
}

// form is how a value is written.
type form uint8

const (
	null    form = iota
	plain        // as it stands
	quoted       // between quotation marks
	escaped      // with escapes
)

func formOf(v string, k kind.Kind) form {
	switch k {
	case kind.Whole, kind.Decimal, kind.Float, kind.YesNo, kind.List:
		if v == "" {
			return null
		}
		return plain
	}
	for i := range len(v) {
		if c := v[i]; c < ' ' || c == '"' || c == '\\' {
			return escaped
		}
	}
	return quoted
}

// quote appends text as a JSON string. (RFC 8259, section 7: what must be escaped is.)
func quote(out []byte, v string) []byte {
	const digits = "0123456789abcdef"
	out = append(out, '"')
	for _, r := range v {
		switch {
		case r == '"' || r == '\\':
			out = append(out, '\\', byte(r))
		case r == '\n':
			out = append(out, '\\', 'n')
		case r == '\r':
			out = append(out, '\\', 'r')
		case r == '\t':
			out = append(out, '\\', 't')
		case r < ' ':
			out = append(out, '\\', 'u', '0', '0', digits[r>>4], digits[r&15])
		default:
			out = utf8.AppendRune(out, r)
		}
	}
	return append(out, '"')
}
