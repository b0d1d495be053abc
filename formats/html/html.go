// Package html reads the tables of web pages, such as a page saved or a table copied from
// one. Cells that span several columns or rows hold their value in the first of them only,
// and are told. Scripts are not run and nothing is fetched.
package html

import (
	"context"
	"fmt"
	"io"
	"strconv"
	"strings"

	"golang.org/x/net/html"
	"golang.org/x/net/html/atom"

	"grandledger/core/problem"
	"grandledger/core/table"
	"grandledger/formats/grid"
	"grandledger/formats/intake"
)

const (
	maxPage = 64 << 20 // bytes of a page
	maxSpan = 1000     // columns or rows that one cell may span
)

// Table is a table of a page.
type Table struct {
	Name   string // its caption, or its place among the tables of the page
	rows   [][]string
	merged int
}

// Tables finds the tables of a page that have at least a row, in order. One that holds
// others is left out: it lays out the page.
//
// Cost: the page is held in memory.
func Tables(src io.Reader) ([]Table, error) {
	limited := &io.LimitedReader{R: src, N: maxPage + 1}
	page, err := html.Parse(limited)
	if limited.N <= 0 {
		return nil, problem.New("Save the table alone, or as CSV", "the page is longer than %d MiB", maxPage>>20)
	}
	if err != nil {
		return nil, problem.New("Save the page again", "the page cannot be read: %v", err)
	}
	var found []Table
	for n := range page.Descendants() {
		if n.DataAtom == atom.Table && !holds(n, atom.Table) {
			t, err := tableOf(n)
			if err != nil {
				return nil, err
			}
			if len(t.rows) > 0 {
				if t.Name == "" {
					t.Name = fmt.Sprintf("table %d", len(found)+1)
				}
				found = append(found, t)
			}
		}
	}
	if len(found) == 0 {
		return nil, problem.New("Choose a page with a table", "the page has no table")
	}
	return found, nil
}

func holds(n *html.Node, a atom.Atom) bool {
	for d := range n.Descendants() {
		if d.DataAtom == a {
			return true
		}
	}
	return false
}

func tableOf(n *html.Node) (Table, error) {
	var t Table
	below := map[int]int{} // by column, rows still covered by a cell above
	for r := range n.Descendants() {
		switch r.DataAtom {
		case atom.Caption:
			t.Name = text(r)
		case atom.Tr:
			var row []string
			skip := func() {
				for below[len(row)] > 0 {
					below[len(row)]--
					row = append(row, "")
				}
			}
			for c := range r.ChildNodes() {
				if c.DataAtom != atom.Td && c.DataAtom != atom.Th {
					continue
				}
				skip()
				wide, high := span(c, "colspan"), span(c, "rowspan")
				if wide > 1 || high > 1 {
					t.merged++
				}
				v := text(c)
				for range wide {
					below[len(row)] = high - 1
					row = append(row, v)
					v = ""
				}
				if len(row) > intake.MaxColumns {
					return t, intake.TooManyColumns(len(row))
				}
			}
			skip()
			t.rows = append(t.rows, row)
		}
	}
	return t, nil
}

func span(n *html.Node, name string) int {
	for _, a := range n.Attr {
		if a.Key == name {
			if v, err := strconv.Atoi(strings.TrimSpace(a.Val)); err == nil && v > 1 {
				return min(v, maxSpan)
			}
		}
	}
	return 1
}

// text gathers the text of a cell: white space is one space, <br> and blocks break lines.
func text(n *html.Node) string {
	var lines []string
	var line strings.Builder
	end := func() {
		if v := strings.Join(strings.Fields(line.String()), " "); v != "" {
			lines = append(lines, v)
		}
		line.Reset()
	}
	for d := range n.Descendants() {
		switch {
		case d.Type == html.TextNode && d.Parent.DataAtom != atom.Script && d.Parent.DataAtom != atom.Style:
			line.WriteString(d.Data)
		case d.DataAtom == atom.Br || d.DataAtom == atom.P || d.DataAtom == atom.Li || d.DataAtom == atom.Div:
			end()
		}
	}
	end()
	return strings.Join(lines, "\n")
}

// Rows gives the rows of a table.
func (t Table) Rows() [][]string { return t.rows }

// Read makes a table of the page's table with a name; the empty name is the largest.
// Refusals are *problem.Problem.
func Read(ctx context.Context, src io.Reader, r grid.Range, o intake.Options) (*table.Table, *intake.Report, error) {
	report := &intake.Report{Bytes: o.Size, Notes: []intake.Note{}}
	t, err := read(ctx, src, r, o, report)
	return t, report, problem.In(o.File, err)
}

func read(ctx context.Context, src io.Reader, r grid.Range, o intake.Options, report *intake.Report) (*table.Table, error) {
	tables, err := Tables(src)
	if err != nil {
		return nil, err
	}
	chosen := Largest(tables)
	if r.Sheet != "" {
		var have []string
		chosen = -1
		for i, t := range tables {
			have = append(have, strconv.Quote(t.Name))
			if t.Name == r.Sheet && chosen < 0 {
				chosen = i
			}
		}
		if chosen < 0 {
			return nil, problem.New("It has "+strings.Join(have, ", "), "the page has no table %q", r.Sheet)
		}
	}
	t := tables[chosen]
	if t.merged > 0 {
		report.Notes = append(report.Notes, intake.Note{Count: t.merged, What: fmt.Sprintf("merged cells hold their value in the first of them only: %d areas", t.merged)})
	}
	at := 0
	next := func() ([]string, error) {
		if at == len(t.rows) {
			return nil, io.EOF
		}
		at++
		return t.rows[at-1], nil
	}
	return grid.Read(ctx, next, r, o, report)
}

// Largest is the place of the table with the most rows.
func Largest(tables []Table) int {
	best := 0
	for i, t := range tables {
		if len(t.rows) > len(tables[best].rows) {
			best = i
		}
	}
	return best
}
