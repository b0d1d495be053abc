package join

import (
	"fmt"

	"grandledger/core/table"
)

// Part is a table to stack, with what its rows are said to come from.
type Part struct {
	Name  string
	Table *table.Table
}

// Stack puts the rows of tables below one another. Columns of the same name are one, in
// order of first appearance; where a part has no such column its rows have no cell. A
// column named by says which part a row came from; a name in use is made another. The row
// number of each row is the one in its own part.
//
// Cost: O(distinct) to join the dictionaries and O(rows) a column.
func Stack(parts []Part, source, by string) (*table.Table, error) {
	rows := 0
	var names []string
	seen := map[string]bool{}
	for _, p := range parts {
		rows += p.Table.Rows()
		for _, c := range p.Table.Columns() {
			if !seen[c.Name] {
				seen[c.Name] = true
				names = append(names, c.Name)
			}
		}
	}
	for base, n := by, 2; seen[by]; n++ {
		by = fmt.Sprintf("%s (%d)", base, n)
	}
	if rows > table.MaxRows {
		return nil, fmt.Errorf("a table holds at most %d rows", uint64(table.MaxRows))
	}
	columns := []*table.Column{labels(parts, by, rows)}
	for _, name := range names {
		columns = append(columns, stacked(parts, name, rows))
	}
	numbers := make([]uint32, 0, rows)
	for _, p := range parts {
		for row := range p.Table.Rows() {
			number := p.Table.BaseRow(row) + 1
			if origins := p.Table.Origins(); len(origins) == 1 {
				number = origins[0].Row(p.Table.BaseRow(row))
			}
			numbers = append(numbers, number)
		}
	}
	return table.New(columns, rows, table.Origin{Source: source, Rows: &table.Codes{At: numbers}})
}

// labels is the column that says which part a row came from.
func labels(parts []Part, name string, rows int) *table.Column {
	b := table.NewDictBuilder()
	codes := make([]uint32, 0, rows)
	for _, p := range parts {
		code := b.Add(p.Name)
		for range p.Table.Rows() {
			codes = append(codes, code)
		}
	}
	return &table.Column{Name: name, Codes: &table.Codes{At: codes}, Dict: b.Dict()}
}

func stacked(parts []Part, name string, rows int) *table.Column {
	b := table.NewDictBuilder()
	codes := make([]uint32, 0, rows)
	for _, p := range parts {
		c, _, err := p.Table.Column(name)
		if err != nil {
			codes = append(codes, make([]uint32, p.Table.Rows())...)
			continue
		}
		recode := make([]uint32, c.Dict.Len()+1)
		for code := 1; code < len(recode); code++ {
			recode[code] = b.Add(c.Dict.Value(uint32(code)))
		}
		for _, code := range p.Table.LogicalCodes(c) {
			codes = append(codes, recode[code])
		}
	}
	return &table.Column{Name: name, Codes: &table.Codes{At: codes}, Dict: b.Dict()}
}
