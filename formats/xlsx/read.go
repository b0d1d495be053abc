package xlsx

import (
	"context"
	"fmt"
	"io"
	"strconv"
	"strings"

	"github.com/xuri/excelize/v2"

	"grandledger/core/problem"
	"grandledger/core/table"
	"grandledger/formats/grid"
	"grandledger/formats/intake"
)

// Read reads a range of a sheet into a table. Refusals are *problem.Problem.
//
// Cost: the sheet is gone through twice, at some 130,000 cells a second; memory is the
// texts of the workbook, the dictionaries and four bytes a cell.
func (b *Book) Read(ctx context.Context, r grid.Range, o intake.Options) (*table.Table, *intake.Report, error) {
	t, report, err := b.read(ctx, r, o)
	return t, report, problem.In(o.File, err)
}

func (b *Book) read(ctx context.Context, r grid.Range, o intake.Options) (*table.Table, *intake.Report, error) {
	sheet, err := b.sheet(r.Sheet)
	if err != nil {
		return nil, nil, err
	}
	report := &intake.Report{Bytes: o.Size, Notes: []intake.Note{}}
	if o.Rows == 0 {
		merged, err := b.inspect(sheet)
		if err != nil {
			return nil, nil, err
		}
		if n := len(merged); n > 0 {
			report.Notes = append(report.Notes, intake.Note{Count: n, What: fmt.Sprintf("merged cells hold their value in the first of them only: %s%s",
				strings.Join(merged[:min(n, 5)], ", "), strings.Repeat(", …", min(n/6, 1)))})
		}
	}
	next, done, err := b.rows(sheet)
	if err != nil {
		return nil, nil, err
	}
	defer done()
	t, err := grid.Read(ctx, next, r, o, report)
	return t, report, err
}

// First gives the first rows of a sheet.
func (b *Book) First(name string, n int) ([][]string, error) {
	sheet, err := b.sheet(name)
	if err != nil {
		return nil, err
	}
	next, done, err := b.rows(sheet)
	if err != nil {
		return nil, err
	}
	defer done()
	var rows [][]string
	for len(rows) < n {
		cells, err := next()
		if err == io.EOF {
			break
		}
		if err != nil {
			return nil, err
		}
		rows = append(rows, cells)
	}
	return rows, nil
}

// rows goes through a sheet, giving empty rows for those that are not there. Where cells
// show fixed decimals it goes through it a second time beside, for the stored values.
func (b *Book) rows(s Sheet) (grid.Next, func(), error) {
	shown, err := b.file.Rows(s.Name)
	if err != nil {
		return nil, nil, broken(err)
	}
	done := func() { shown.Close() }
	var stored *excelize.Rows
	if b.exact {
		if stored, err = b.file.Rows(s.Name); err != nil {
			done()
			return nil, nil, broken(err)
		}
		done = func() { shown.Close(); stored.Close() }
	}
	next := func() ([]string, error) {
		if !shown.Next() {
			if err := shown.Error(); err != nil {
				return nil, broken(err)
			}
			return nil, io.EOF
		}
		cells, err := shown.Columns()
		if err != nil {
			return nil, broken(err)
		}
		if stored == nil || !stored.Next() {
			return cells, nil
		}
		raw, err := stored.Columns(excelize.Options{RawCellValue: true})
		if err != nil {
			return nil, broken(err)
		}
		for i, cell := range cells {
			if i < len(raw) && rounded(cell, raw[i]) {
				cells[i] = raw[i]
			}
		}
		return cells, nil
	}
	return next, done, nil
}

// rounded says whether a number is shown with fewer digits than it is stored with.
func rounded(shown, stored string) bool {
	if shown == stored || strings.IndexByte(shown, '.') < 0 {
		return false
	}
	a, err := strconv.ParseFloat(shown, 64)
	if err != nil {
		return false
	}
	b, err := strconv.ParseFloat(stored, 64)
	return err == nil && a != b
}
