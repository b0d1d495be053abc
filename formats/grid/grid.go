// Package grid makes tables of rows of cells that have no types and no names of their own:
// the sheets of workbooks, tables of web pages.
package grid

import (
	"context"
	"errors"
	"fmt"
	"io"
	"slices"
	"strings"

	"grandledger/core/problem"
	"grandledger/core/table"
	"grandledger/formats/intake"
)

// Range is the part of a grid that is a table.
type Range struct {
	Sheet string `json:"sheet,omitempty"` // by name; empty where the format has none
	Area  string `json:"area,omitempty"`  // such as B3:F200, B3 or B:F; empty for all of it
	Above int    `json:"above,omitempty"` // rows of the area above the names or the first row that are passed over
	Names int    `json:"names"`           // how many rows name the columns: 0, 1 or more
}

// Next gives the cells of the next row, which may be changed later, and io.EOF at the end.
type Next func() ([]string, error)

const (
	maxNames = 5
	maxAbove = 1 << 20
)

// Sniff finds the names among the first rows: the rows of a title above them are passed
// over, and a row with a number or a date names nothing.
func Sniff(rows [][]string) (above, names int) {
	var cut [][]string
	for _, r := range rows {
		cut = append(cut, trim(r))
	}
	above = intake.Above(cut)
	if above > 0 {
		return above, 1
	}
	first := slices.IndexFunc(cut, func(r []string) bool { return len(r) > 0 })
	if first >= 0 && !intake.LooksLikeNames(cut[first]) {
		return 0, 0
	}
	return 0, 1
}

// trim takes blank cells off the end of a row.
func trim(row []string) []string {
	for len(row) > 0 && strings.TrimSpace(row[len(row)-1]) == "" {
		row = row[:len(row)-1]
	}
	return row
}

// Read makes a table of the rows in a range. Rows without any value are left out, and
// counted.
func Read(ctx context.Context, next Next, r Range, o intake.Options, report *intake.Report) (*table.Table, error) {
	if r.Names < 0 || r.Names > maxNames || r.Above < 0 || r.Above > maxAbove {
		return nil, problem.New(fmt.Sprintf("Name the columns by at most %d rows", maxNames), "%d rows of names below %d rows cannot be read", r.Names, r.Above)
	}
	area, err := parseArea(r.Area)
	if err != nil {
		return nil, err
	}
	g := &gatherer{range_: r, area: area, report: report, limit: o.Rows}
	for number := 1; ; number++ {
		cells, err := next()
		if err == io.EOF || err == nil && area.bottom > 0 && number > area.bottom {
			break
		}
		if err == nil && number >= area.top {
			err = g.row(ctx, trim(area.cut(cells)))
		}
		if errors.Is(err, intake.ErrEnough) {
			break
		}
		if err != nil {
			var p *problem.Problem
			if errors.As(err, &p) && p.Row == 0 {
				p.Row = number
			}
			return nil, err
		}
		if o.Progress != nil && number%4096 == 0 {
			o.Progress(0, number)
		}
	}
	return g.finish(o)
}

// gatherer takes rows one by one.
type gatherer struct {
	range_ Range
	area   area
	report *intake.Report
	limit  int

	passed int
	names  [][]string
	rows   *intake.Rows
	blank  int
}

func (g *gatherer) row(ctx context.Context, cells []string) error {
	if g.passed < g.range_.Above {
		g.passed++
		return nil
	}
	if len(cells) == 0 {
		g.blank++
		return nil
	}
	if len(cells) > intake.MaxColumns {
		return intake.TooManyColumns(len(cells))
	}
	if len(g.names) < g.range_.Names {
		g.names = append(g.names, slices.Clone(cells))
		return nil
	}
	if g.rows == nil {
		g.open(len(cells))
	}
	for i := g.rows.Columns(); i < len(cells); i++ {
		if err := g.widen(i); err != nil {
			return err
		}
	}
	for i := range g.rows.Columns() {
		v := ""
		if i < len(cells) {
			v = cells[i]
		}
		if err := g.rows.Set(i, v); err != nil {
			return err
		}
	}
	return g.rows.End(ctx)
}

// open names the columns.
func (g *gatherer) open(width int) {
	cells := make([]string, width)
	if g.range_.Names > 0 {
		cells = intake.JoinNames(g.names)
		for len(cells) < width {
			cells = append(cells, "")
		}
	}
	g.rows = intake.NewRows(intake.Names(cells, g.range_.Names > 0, g.report), g.limit)
}

// widen opens a column beyond the names.
func (g *gatherer) widen(i int) error {
	name := fmt.Sprintf("column %d", i+1)
	for before := g.rows.Columns(); ; name += "'" {
		if _, err := g.rows.Column(name); err != nil || g.rows.Columns() > before {
			return err
		}
	}
}

func (g *gatherer) finish(o intake.Options) (*table.Table, error) {
	if g.rows == nil {
		if len(g.names) == 0 {
			return nil, problem.New("Choose another sheet or range", "there is no row with a value")
		}
		g.open(0)
	}
	g.report.Note(intake.Tallied{Count: g.blank}, "an empty row was left out", "empty rows were left out")
	return g.rows.Table(o, g.report)
}
