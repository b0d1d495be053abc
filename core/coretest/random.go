// Package coretest makes small random tables for the property tests of the core.
package coretest

import (
	"fmt"
	"math/rand/v2"
	"slices"
	"strings"

	"grandledger/core/table"
)

// Pieces are what random cells are made of: every trouble the fold knows, and blanks.
var Pieces = []string{"Gill net", "gill net", "Gill  net", "gill net ", "Net, gill", "GILL-NET", "Möwe", "Mowe", "", "  ", "12", "1 2", "0012",
	"4/10/2031", "2031-10-04", "yes", "no", "-", "&", "Trawl", "trawl", "Bottom trawl", "trawl bottom"}

// Table makes a table of columns a, b, c … with up to rows rows; some cells are missing.
func Table(r *rand.Rand, rows, columns int) *table.Table {
	n := r.IntN(rows + 1)
	var out []*table.Column
	for c := range columns {
		b := table.NewDictBuilder()
		codes := make([]uint32, n)
		few := 1 + r.IntN(len(Pieces))
		for row := range codes {
			if r.IntN(12) > 0 {
				codes[row] = b.Add(Pieces[r.IntN(few)])
			}
		}
		out = append(out, &table.Column{Name: string(rune('a' + c)), Codes: &table.Codes{At: codes}, Dict: b.Dict()})
	}
	t, err := table.New(out, n, table.Origin{Source: "random"})
	if err != nil {
		panic(err)
	}
	return t
}

// Rows gives the standing rows as text; a missing cell is written ∅.
func Rows(t *table.Table) [][]string {
	out := make([][]string, t.Rows())
	for row := range out {
		for _, c := range t.Columns() {
			v, ok := c.Value(t.BaseRow(row))
			if !ok {
				v = "∅"
			}
			out[row] = append(out[row], v)
		}
	}
	return out
}

// Text is the whole table as one string, for comparing.
func Text(t *table.Table) string {
	var b strings.Builder
	for _, c := range t.Columns() {
		fmt.Fprintf(&b, "%q ", c.Name)
	}
	for i, row := range Rows(t) {
		fmt.Fprintf(&b, "\n%d %q", t.BaseRow(i), row)
	}
	return b.String()
}

// Build makes a table from rows of text; the first row names the columns.
func Build(rows ...[]string) *table.Table {
	var columns []*table.Column
	for i, name := range rows[0] {
		b := table.NewDictBuilder()
		codes := make([]uint32, len(rows)-1)
		for row, cells := range rows[1:] {
			if cells[i] != "∅" {
				codes[row] = b.Add(cells[i])
			}
		}
		columns = append(columns, &table.Column{Name: name, Codes: &table.Codes{At: codes}, Dict: b.Dict()})
	}
	t, err := table.New(columns, len(rows)-1, table.Origin{Source: "built"})
	if err != nil {
		panic(err)
	}
	return t
}

// Sorted gives a copy of rows in order, for comparing as sets.
func Sorted(rows [][]string) [][]string {
	out := slices.Clone(rows)
	slices.SortFunc(out, slices.Compare)
	return out
}
