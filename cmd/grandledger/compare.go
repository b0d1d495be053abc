package main

import (
	"encoding/csv"
	"fmt"
	"io"
	"os"
	"slices"
	"strconv"
	"strings"

	"github.com/spf13/cobra"

	"grandledger/core/compare"
	"grandledger/core/duplicate"
	"grandledger/core/table"
	"grandledger/core/tally"
	"grandledger/core/text"
)

// differences is what the command is asked to compare.
type differences struct {
	key, measures     []string
	fold, count, rows string
}

func compareCommand() *cobra.Command {
	var d differences
	c := &cobra.Command{
		Use:   "compare A B [--key k[,a=b]]",
		Short: "Compare two files row by row: which rows are in both, in one alone, or differ, and in which cells",
		Args:  files("A", "B"),
	}
	f := c.Flags()
	f.StringSliceVar(&d.key, "key", nil, "the columns that tell a row, a=b where B calls it otherwise; all columns that both have where not given")
	f.StringVar(&d.fold, "fold", "", "compare the other cells folded, by their words, or as they are read: folded, words or read")
	f.StringVar(&d.rows, "out", "", "where the differences go: which,key…,column,a,b, a line for each cell that differs and each row of one file alone")
	f.StringVar(&d.count, "count", "", "write to standard output how often each value of this column stands in both: value,a,b")
	f.StringSliceVar(&d.measures, "measure", nil, "with --count: figures of other columns such as sum:kg or mean:kg, four at most")
	c.RunE = work(func(cmd *cobra.Command, args []string) error {
		if len(d.measures) > 0 && d.count == "" {
			return misuse("--measure needs --count")
		}
		if !slices.Contains([]string{"", "folded", "words", "read"}, d.fold) {
			return misuse("--fold is folded, words or read, not %q", d.fold)
		}
		if args[0] == "-" && args[1] == "-" {
			return misuse("only one of the files can be standard input")
		}
		var sides [2]*table.Table
		for i, name := range args {
			t, err := read(cmd.Context(), name)
			if err != nil {
				return err
			}
			sides[i] = t
		}
		return d.compare(sides, args)
	})
	return c
}

func (d *differences) compare(sides [2]*table.Table, names []string) error {
	spec := compare.Spec{Cells: duplicate.As(d.fold)}
	for _, k := range d.key {
		before, after, other := strings.Cut(k, "=")
		if !other {
			after = before
		}
		spec.Key = append(spec.Key, compare.Pair{Before: before, After: after})
	}
	c, err := compare.OfTables(sides[0], sides[1], spec)
	if err != nil {
		return err
	}
	if d.rows != "" {
		if err := write(d.rows, func(w io.Writer) error { return writeDifferences(w, c, sides, spec.Key) }); err != nil {
			return err
		}
	}
	if d.count != "" {
		if err := d.counts(sides); err != nil {
			return err
		}
	}
	for i, name := range names {
		repeated := ""
		if n := c.Repeated[i]; n > 0 && len(spec.Key) > 0 {
			repeated = fmt.Sprintf(", %s share their key", text.Grouped(n))
		}
		fmt.Fprintf(os.Stderr, "%s: %s%s\n", name, rows([]int{c.Before, c.After}[i]), repeated)
	}
	fmt.Fprintf(os.Stderr, "%s the same, %s changed, %s only in %s, %s only in %s\n", text.Grouped(c.Same), text.Grouped(c.Changed),
		text.Grouped(c.OnlyBefore), names[0], text.Grouped(c.OnlyAfter), names[1])
	return nil
}

// writeDifferences writes a line for each cell that differs, and one for each row of one table alone.
func writeDifferences(to io.Writer, c *compare.Tables, sides [2]*table.Table, key []compare.Pair) error {
	if len(key) == 0 {
		for _, col := range c.Columns {
			if col.State == compare.Stays {
				key = append(key, compare.Pair{Before: col.Column, After: col.Column})
			}
		}
	}
	w := csv.NewWriter(to)
	head := []string{"which"}
	for _, k := range key {
		head = append(head, k.Before)
	}
	if err := w.Write(append(head, "column", "a", "b")); err != nil {
		return err
	}
	cell := func(side, row int, name string) string {
		col, _, err := sides[side].Column(name)
		if err != nil {
			return ""
		}
		v, _ := col.Value(sides[side].BaseRow(row))
		return v
	}
	for _, which := range []compare.Which{compare.WhichChanged, compare.WhichBefore, compare.WhichAfter} {
		list, _ := c.Rows(which, "", 0, c.Before+c.After)
		for _, row := range list {
			line := []string{map[compare.Which]string{compare.WhichChanged: "changed", compare.WhichBefore: "a", compare.WhichAfter: "b"}[which]}
			for _, k := range key {
				if row.Before >= 0 {
					line = append(line, cell(0, row.Before, k.Before))
				} else {
					line = append(line, cell(1, row.After, k.After))
				}
			}
			cells := c.Cells(row)
			if len(cells) == 0 {
				cells = []string{""}
			}
			for _, name := range cells {
				full := append(slices.Clone(line), name, "", "")
				if name != "" {
					full[len(full)-2], full[len(full)-1] = cell(0, row.Before, name), cell(1, row.After, name)
				}
				if err := w.Write(full); err != nil {
					return err
				}
			}
		}
	}
	w.Flush()
	return w.Error()
}

// counts writes how often each value stands in both.
func (d *differences) counts(sides [2]*table.Table) error {
	before, after, other := strings.Cut(d.count, "=")
	if !other {
		after = before
	}
	var measures []tally.Measure
	head := []string{"value", "a", "b"}
	for _, of := range d.measures {
		figure, column, ok := strings.Cut(of, ":")
		if !ok {
			return misuse("--measure is such as sum:kg, not %q", of)
		}
		measures = append(measures, tally.Measure{Column: column, Of: tally.Figure(figure)})
		head = append(head, "a "+of, "b "+of)
	}
	counts, err := compare.CountsOf(sides[0], sides[1], compare.Pair{Before: before, After: after}, measures, sides[0].Rows()+sides[1].Rows())
	if err != nil {
		return err
	}
	w := csv.NewWriter(os.Stdout)
	if err := w.Write(head); err != nil {
		return err
	}
	for _, l := range counts.Lines {
		line := []string{l.Value, strconv.Itoa(l.Before), strconv.Itoa(l.After)}
		for i := range measures {
			line = append(line, l.FiguresBefore[i], l.FiguresAfter[i])
		}
		if err := w.Write(line); err != nil {
			return err
		}
	}
	w.Flush()
	return w.Error()
}
