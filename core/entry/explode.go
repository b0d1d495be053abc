package entry

import (
	"slices"

	"grandledger/core/problem"
	"grandledger/core/table"
	"grandledger/core/tally"
)

// explode gives each part of a cell a row of its own, behind the row it came from, whose
// other cells it shares. Base rows keep their numbers and new ones follow, so that rows set
// aside earlier are still known. Cost: O(base rows) for each column.
func explode(t *table.Table, c *table.Column, at int, parts [][]string) (*Result, error) {
	b := table.NewDictBuilder()
	coded := make([][]uint32, len(parts)) // codes of the parts of each value, blank ones left out
	for code := 1; code < len(parts); code++ {
		for _, part := range parts[code] {
			if part != "" {
				coded[code] = append(coded[code], b.Add(part))
			}
		}
		if len(coded[code]) == 0 {
			coded[code] = []uint32{b.Add(c.Dict.Value(uint32(code)))}
		}
	}
	source := make([]uint32, t.Base(), t.Base()+t.Rows()) // of each new base row
	cells := make([]uint32, t.Base(), t.Base()+t.Rows())
	for base := range source {
		source[base] = uint32(base)
		if code := c.Code(uint32(base)); code != table.Missing {
			cells[base] = b.Add(c.Dict.Value(code)) // rows set aside keep their cell whole
		}
	}
	rows := make([]uint32, 0, t.Rows())
	for row := range t.Rows() {
		base := t.BaseRow(row)
		rows = append(rows, base)
		code := c.Code(base)
		if code == table.Missing {
			continue
		}
		cells[base] = coded[code][0]
		for _, part := range coded[code][1:] {
			rows = append(rows, uint32(len(source)))
			source, cells = append(source, base), append(cells, part)
			if len(source) > table.MaxRows {
				return nil, problem.New("Narrow the table first", "there would be more than %d rows", uint64(table.MaxRows))
			}
		}
	}
	added := len(rows) - t.Rows()
	columns := slices.Clone(t.Columns())
	for i, other := range columns {
		next := *other
		if i == at {
			next.Codes, next.View, next.Dict = &table.Codes{At: cells}, nil, b.Dict()
		} else {
			next.Codes = &table.Codes{At: spread(other.Codes.At, source)}
		}
		columns[i] = &next
	}
	var origins []table.Origin
	for _, o := range t.Origins() {
		from := make([]uint32, len(source))
		for base, of := range source {
			from[base] = o.Row(of)
		}
		origins = append(origins, table.Origin{Source: o.Source, Rows: &table.Codes{At: from}})
	}
	out, err := table.New(columns, len(source), origins...)
	if err != nil {
		return nil, err
	}
	out = out.Select(&table.Selection{Rows: rows})
	effect := Effect{Balance: Balance{Before: t.Rows(), Added: added, After: len(rows)}}
	effect.Columns = []ColumnEffect{{Column: c.Name, Cells: rewritten(t, c, columns[at]), DistinctBefore: distinct(t.Counts(c)), DistinctAfter: distinct(out.Counts(columns[at])),
		Top: tally.Top(columns[at], out.Counts(columns[at]), 20)}}
	return &Result{Table: out, Effect: effect}, nil
}

func spread(codes, source []uint32) []uint32 {
	out := make([]uint32, len(source))
	for base, of := range source {
		out[base] = codes[of]
	}
	return out
}

// rewritten counts the cells of the rows that stood that hold something else now.
func rewritten(t *table.Table, c, next *table.Column) int {
	n := 0
	for row := range t.Rows() {
		base := t.BaseRow(row)
		was, _ := c.Value(base)
		if is, _ := next.Value(base); is != was {
			n++
		}
	}
	return n
}
