package csv

import (
	"fmt"
	"slices"

	"grandledger/core/problem"
	"grandledger/core/table"
	"grandledger/formats/intake"
)

// finish builds the table and the report.
func (r *reader) finish() (*table.Table, *intake.Report, error) {
	report := &r.report
	report.Bytes = r.counter.Total()
	report.Note(intake.Tallied{Count: r.blank}, "an empty line was left out", "empty lines were left out")
	report.Note(intake.Tallied{Count: r.comments}, "a comment line was left out", "comment lines were left out")
	report.Note(r.short, "a row had fewer cells than the header; blanks were added", "rows had fewer cells than the header; blanks were added")
	report.Note(r.long, "a row had more cells than the header; they are in a column of their own", "rows had more cells than the header; they are in columns of their own")
	report.Note(r.loose, "a row had a quotation mark that was not doubled; it was taken as it stands", "rows had a quotation mark that was not doubled; it was taken as it stands")
	for i, cells := range r.extra {
		c, err := r.extraColumn(i, cells)
		if err != nil {
			return nil, nil, err
		}
		r.columns = append(r.columns, c)
	}
	t, err := intake.Finish(r.columns, r.rows, r.d.Encoding, r.o, report)
	return t, report, err
}

// extraColumn holds the cells beyond the header.
func (r *reader) extraColumn(i int, cells map[int]string) (*intake.Column, error) {
	name := fmt.Sprintf("beyond the header %d", i+1)
	for slices.Contains(r.names, name) {
		name += "'"
	}
	r.names = append(r.names, name)
	c := intake.NewColumn(name, 0)
	for row := range r.rows {
		v := cells[row]
		if err := c.Encode([]byte(v), nil, []uint64{uint64(len(v))}); err != nil {
			return nil, err
		}
	}
	return c, nil
}

// unclosed is the refusal of a quoted cell that runs to the end of the text.
func (r *reader) unclosed(s *splitter, first int) error {
	p := problem.New("Close it, or read the file without quotation marks",
		"a quotation mark is opened and never closed: %.40s…", s.lineAt(r.Buf, s.open.at))
	p.Row = first + s.open.row + 1
	if s.open.column < len(r.names) {
		p.Column = r.names[s.open.column]
	}
	return p
}
