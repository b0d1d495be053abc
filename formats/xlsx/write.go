package xlsx

import (
	"context"
	"io"
	"strconv"
	"strings"
	"time"

	"github.com/xuri/excelize/v2"

	"grandledger/core/problem"
	"grandledger/core/table"
	"grandledger/formats/kind"
)

// Write writes a table as a workbook of one sheet. Columns of numbers and of dates are
// written as such where that keeps their text to the letter; all else is text, so no
// cell is ever a formula. Cells that do not exist are left empty.
//
// Cost: O(cells); the sheet is gathered in a temporary file.
func Write(ctx context.Context, w io.Writer, t *table.Table) error {
	if t.Rows() >= MaxRows || len(t.Columns()) > excelize.MaxColumns {
		return problem.New("Write CSV, Parquet or Arrow", "a sheet holds at most %d rows and %d columns", MaxRows-1, excelize.MaxColumns)
	}
	f := excelize.NewFile()
	defer f.Close()
	s, err := f.NewStreamWriter("Sheet1")
	if err != nil {
		return err
	}
	bold, err := f.NewStyle(&excelize.Style{Font: &excelize.Font{Bold: true}})
	if err != nil {
		return err
	}
	row := make([]any, len(t.Columns()))
	write := make([]func(v string) any, len(row))
	for i, c := range t.Columns() {
		row[i] = excelize.Cell{StyleID: bold, Value: c.Name}
		if write[i], err = writer(f, t, c); err != nil {
			return err
		}
	}
	if err := s.SetPanes(&excelize.Panes{Freeze: true, YSplit: 1, TopLeftCell: "A2", ActivePane: "bottomLeft"}); err != nil {
		return err
	}
	if err := s.SetRow("A1", row); err != nil {
		return err
	}
	for n := range t.Rows() {
		if n%4096 == 0 {
			if err := ctx.Err(); err != nil {
				return err
			}
		}
		base := t.BaseRow(n)
		for i, c := range t.Columns() {
			v, ok := c.Value(base)
			switch {
			case !ok || v == "":
				row[i] = nil
			case len(v) > excelize.TotalCellChars && len([]rune(v)) > excelize.TotalCellChars:
				p := problem.New("Write CSV, Parquet or Arrow", "a cell of a sheet holds at most %d characters", excelize.TotalCellChars)
				p.Row, p.Column = n+1, c.Name
				return p
			default:
				row[i] = write[i](v)
			}
		}
		if err := s.SetRow("A"+strconv.Itoa(n+2), row); err != nil {
			return err
		}
	}
	if err := s.Flush(); err != nil {
		return err
	}
	_, err = f.WriteTo(w)
	return err
}

// writer says how the values of a column become cells.
func writer(f *excelize.File, t *table.Table, c *table.Column) (func(v string) any, error) {
	text := func(v string) any { return v }
	style := func(code string) (int, error) { return f.NewStyle(&excelize.Style{CustomNumFmt: &code}) }
	number := func(id int) func(v string) any {
		return func(v string) any {
			n, _ := strconv.ParseFloat(v, 64) // the kind of the column says that it is one
			return excelize.Cell{StyleID: id, Value: n}
		}
	}
	k, decimals := kind.Of(t, c)
	switch k {
	case kind.Whole, kind.Float:
		if !short(t, c) {
			return text, nil
		}
		return number(0), nil
	case kind.Decimal:
		if !short(t, c) {
			return text, nil
		}
		id, err := style("0." + strings.Repeat("0", decimals))
		return number(id), err
	case kind.Date:
		for code, rows := range t.Counts(c) {
			// Before March 1900 the calendar of workbooks has a day that never was.
			if v := c.Dict.Value(uint32(code)); rows > 0 && v != "" && v < "1900-03-01" {
				return text, nil
			}
		}
		id, err := style(isoDate)
		return func(v string) any {
			at, _ := time.Parse(time.DateOnly, v)
			return excelize.Cell{StyleID: id, Value: at}
		}, err
	}
	return text, nil
}

// short says whether all numbers of a column have at most 15 digits, which is what
// workbooks keep.
func short(t *table.Table, c *table.Column) bool {
	for code, rows := range t.Counts(c) {
		if rows > 0 && len(strings.Trim(c.Dict.Value(uint32(code)), "-.")) > 15 {
			return false
		}
	}
	return true
}
