package csv

import (
	"fmt"
	"slices"
	"strings"
	"unicode/utf8"

	"grandledger/core/table"
)

// name makes the column names usable: trimmed, none empty, none twice.
func (r *reader) name(cells []string) {
	taken := map[string]bool{}
	for _, c := range cells {
		taken[strings.TrimSpace(clean(c))] = true
	}
	used := map[string]bool{}
	for i, cell := range cells {
		name := strings.TrimSpace(clean(cell))
		if name != cell && name != "" {
			r.trimmed.count++
		}
		if len(name) > 200 {
			name = strings.ToValidUTF8(name[:200], "")
		}
		if name == "" || used[name] {
			base, n := name, 2
			if base == "" {
				base, n = "column", i+1
			}
			for name = numbered(base, n, name); used[name] || taken[name]; n++ {
				name = numbered(base, n+1, "x")
			}
			if r.d.Header {
				r.renamed = append(r.renamed, name)
			}
		}
		used[name] = true
		r.names = append(r.names, name)
	}
}

func numbered(base string, n int, name string) string {
	if name == "" || base == "column" {
		return fmt.Sprintf("column %d", n)
	}
	return fmt.Sprintf("%s (%d)", base, n)
}

func clean(v string) string {
	return strings.ReplaceAll(strings.ToValidUTF8(v, "\uFFFD"), "\x00", "")
}

// finish builds the table and the report.
func (r *reader) finish() (*table.Table, *Report, error) {
	report := &Report{Dialect: r.d, Rows: r.rows, Bytes: r.counter.n, Notes: []Note{}}
	if len(r.renamed) > 0 {
		report.Notes = append(report.Notes, Note{Count: len(r.renamed), What: fmt.Sprintf(
			"%d column names were empty or used twice; they are now %s", len(r.renamed), strings.Join(r.renamed[:min(len(r.renamed), listed)], ", "))})
	}
	report.note(r.trimmed, "a column name had spaces around it, which were removed", "column names had spaces around them, which were removed")
	report.note(tallied{count: r.blank}, "an empty line was left out", "empty lines were left out")
	report.note(r.short, "a row had fewer cells than the header; blanks were added", "rows had fewer cells than the header; blanks were added")
	report.note(r.long, "a row had more cells than the header; they are in a column of their own", "rows had more cells than the header; they are in columns of their own")
	report.note(r.loose, "a row had a quotation mark that was not doubled; it was taken as it stands", "rows had a quotation mark that was not doubled; it was taken as it stands")

	var columns []*table.Column
	var invalid, nul tallied
	for i, c := range r.columns {
		col := &table.Column{Name: r.names[i], Codes: &table.Codes{At: slices.Clip(c.codes)}, Dict: c.dict.Dict(), Reading: table.ReadText}
		columns = append(columns, repair(col, &invalid, &nul))
		r.columns[i] = nil
	}
	for i, cells := range r.extra {
		columns = append(columns, repair(r.extraColumn(i, cells, columns), &invalid, &nul))
	}
	report.note(invalid, "a row had bytes that are not "+r.d.Encoding+"; they are shown as \uFFFD", "rows had bytes that are not "+r.d.Encoding+"; they are shown as \uFFFD")
	report.note(nul, "a row had NUL bytes, which were removed", "rows had NUL bytes, which were removed")
	if r.rows == 0 {
		report.Notes = append(report.Notes, Note{Count: 1, What: "the file has a header and no rows"})
	}
	report.Columns = len(columns)
	t, err := table.New(columns, r.rows, table.Origin{Source: r.o.File})
	return t, report, err
}

// extraColumn holds the cells beyond the header.
func (r *reader) extraColumn(i int, cells map[int]string, have []*table.Column) *table.Column {
	name := fmt.Sprintf("beyond the header %d", i+1)
	for slices.ContainsFunc(have, func(c *table.Column) bool { return c.Name == name }) {
		name += "'"
	}
	b := table.NewDictBuilder()
	codes := make([]uint32, r.rows)
	blank := b.Add("")
	for row := range codes {
		codes[row] = blank
		if v, ok := cells[row]; ok {
			codes[row] = b.Add(v)
		}
	}
	return &table.Column{Name: name, Codes: &table.Codes{At: codes}, Dict: b.Dict(), Reading: table.ReadText}
}

// repair replaces bytes that are not UTF-8 and removes NUL, which no text in JSON or
// in PostgreSQL can hold. Cost: O(distinct); rows are only looked at to name them.
func repair(c *table.Column, invalid, nul *tallied) *table.Column {
	bad := map[uint32]*tallied{}
	for code := uint32(1); code <= uint32(c.Dict.Len()); code++ {
		v := c.Dict.Value(code)
		switch {
		case !utf8.ValidString(v):
			bad[code] = invalid
		case strings.IndexByte(v, 0) >= 0:
			bad[code] = nul
		}
	}
	if len(bad) == 0 {
		return c
	}
	for row, code := range c.Codes.At {
		if kind := bad[code]; kind != nil {
			kind.add(0, []int{row})
		}
	}
	c, _ = c.Rewrite(clean)
	return c
}
