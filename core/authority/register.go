package authority

import (
	"fmt"
	"slices"
	"strings"

	"grandledger/core/problem"
	"grandledger/core/table"
	"grandledger/core/text"
)

// Register is a table used as an authority.
type Register struct {
	Table *table.Table
	ID    string   // the column of identifiers
	Names []string // columns of names, the standard one first; a cell may list several with ; or | between
}

// called says whether one of the words stands in a name.
func called(name string, words ...string) bool {
	for _, w := range text.Words(name) {
		if slices.Contains(words, w) {
			return true
		}
	}
	return false
}

// Open takes a table as a register. An empty id or no names are found: the identifier is a column that is never blank nor twice, best one called so; the names are those of the columns called names, the
// first of which is the standard one. Cost: O(rows) for each column.
func Open(t *table.Table, id string, names []string) (*Register, error) {
	r := &Register{Table: t, ID: id, Names: names}
	for _, name := range append(slices.Clone(names), id) {
		if name == "" {
			continue
		}
		if _, _, err := t.Column(name); err != nil {
			return nil, problem.New("Name one of its columns", "the register has no column %q", name)
		}
	}
	if r.ID == "" {
		best := -1
		for i, c := range t.Columns() {
			if !unique(t, c) {
				continue
			}
			if best < 0 || !identifies(t.Columns()[best].Name) && identifies(c.Name) {
				best = i
			}
		}
		if best < 0 {
			return nil, problem.New("Say which one it is with --id", "no column of the register is never blank and never twice, so none can be its identifier")
		}
		r.ID = t.Columns()[best].Name
	} else if c, _, _ := t.Column(r.ID); !unique(t, c) {
		p := problem.New("Choose a column that tells its entries apart", "identifiers of the register are blank or there twice")
		p.Column = r.ID
		return nil, p
	}
	return r, nil
}

func identifies(name string) bool {
	return called(name, "id", "identifier", "key", "code", "no", "number", "ref", "uri")
}

// unique says whether no cell of a column is blank or there twice.
func unique(t *table.Table, c *table.Column) bool {
	blank := c.Dict.Blank()
	for code, n := range t.Counts(c) {
		if n > 1 || n > 0 && (code == 0 || slices.Contains(blank, uint32(code))) {
			return false
		}
	}
	return true
}

// named makes a table with a line for each name of each entry: the names under one column, and the properties beside them. It gives the entry of each line.
// Cost: O(entries times names).
func (r *Register) named(properties []string) (*table.Table, []uint32, error) {
	var entries []uint32
	name := table.NewDictBuilder()
	var codes []uint32
	columns := make([]*table.Column, len(r.Names))
	for i, n := range r.Names {
		c, _, err := r.Table.Column(n)
		if err != nil {
			return nil, nil, fmt.Errorf("the names of a register: %w", err)
		}
		columns[i] = c
	}
	for row := range r.Table.Rows() {
		var said []string
		for i, c := range columns {
			v, _ := c.Value(r.Table.BaseRow(row))
			parts := []string{v}
			if i > 0 || strings.Contains(v, ";") || strings.Contains(v, "|") {
				parts = strings.FieldsFunc(v, func(c rune) bool { return c == ';' || c == '|' })
			}
			for _, p := range parts {
				if p = strings.TrimSpace(p); p != "" && !slices.Contains(said, p) {
					said = append(said, p)
					entries = append(entries, uint32(row))
					codes = append(codes, name.Add(p))
				}
			}
		}
	}
	out := []*table.Column{{Name: nameColumn, Codes: &table.Codes{At: codes}, Dict: name.Dict()}}
	for i, p := range properties {
		c, _, err := r.Table.Column(p)
		if err != nil {
			return nil, nil, problem.New("Name one of its columns", "the register has no property %q", p)
		}
		at := make([]uint32, len(entries))
		for line, row := range entries {
			at[line] = c.Code(r.Table.BaseRow(int(row)))
		}
		out = append(out, &table.Column{Name: propertyColumn(i), Codes: &table.Codes{At: at}, Dict: c.Dict, Reading: c.Reading})
	}
	t, err := table.New(out, len(entries))
	return t, entries, err
}

const nameColumn = "name"

func propertyColumn(i int) string { return fmt.Sprintf("property %d", i+1) }
