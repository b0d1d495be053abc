package main

import (
	"encoding/csv"
	"io"
	"strconv"

	"github.com/spf13/cobra"

	"grandledger/core/entry"
	"grandledger/core/problem"
	"grandledger/core/spelling"
	"grandledger/core/table"
	"grandledger/core/text"
)

func variantsCommand() *cobra.Command {
	var column, out string
	c := &cobra.Command{
		Use:   "variants FILE --column C --out crosswalk.csv",
		Short: "Propose standard values for the variant spellings of a column: variant,standard,rows,group,evidence",
		Args:  files("FILE"),
	}
	c.Flags().StringVar(&column, "column", "", "the column")
	c.Flags().StringVar(&out, "out", "", "where the crosswalk goes")
	c.RunE = work(func(cmd *cobra.Command, args []string) error {
		if column == "" || out == "" {
			return misuse("--column and --out are needed")
		}
		t, err := read(cmd.Context(), args[0])
		if err != nil {
			return err
		}
		col, _, err := t.Column(column)
		if err != nil {
			return &problem.Problem{What: "there is no such column", File: args[0], Column: column}
		}
		groups := spelling.Find(t, col, spelling.Decisions{}, spelling.Order)
		return write(out, func(w io.Writer) error { return writeGroups(w, groups) })
	})
	return c
}

// writeGroups writes one line a variant; the standard value itself has none.
func writeGroups(to io.Writer, groups []spelling.Group) error {
	w := csv.NewWriter(to)
	if err := w.Write([]string{"variant", "standard", "rows", "group", "evidence"}); err != nil {
		return err
	}
	for i, g := range groups {
		for _, m := range g.Members {
			if m.Value == g.Standard {
				continue
			}
			if err := w.Write([]string{m.Value, g.Standard, strconv.Itoa(m.Rows), strconv.Itoa(i + 1), m.Why}); err != nil {
				return err
			}
		}
	}
	w.Flush()
	return w.Error()
}

func applyCommand() *cobra.Command {
	var column, crosswalk, out string
	c := &cobra.Command{
		Use:   "apply FILE --column C --crosswalk crosswalk.csv --out FILE",
		Short: "Rewrite the variant spellings of a column to the standard values of a crosswalk",
		Args:  files("FILE"),
	}
	c.Flags().StringVar(&column, "column", "", "the column")
	c.Flags().StringVar(&crosswalk, "crosswalk", "", "a CSV file with the columns variant and standard")
	c.Flags().StringVar(&out, "out", "", "where the result goes")
	c.RunE = work(func(cmd *cobra.Command, args []string) error {
		if column == "" || crosswalk == "" || out == "" {
			return misuse("--column, --crosswalk and --out are needed")
		}
		walk, err := read(cmd.Context(), crosswalk)
		if err != nil {
			return err
		}
		changes, err := changesOf(walk, crosswalk)
		if err != nil {
			return err
		}
		t, err := read(cmd.Context(), args[0])
		if err != nil {
			return err
		}
		r := &entry.Result{Table: t, Effect: entry.Effect{Balance: entry.Balance{Before: t.Rows(), After: t.Rows()}}}
		if len(changes) > 0 {
			if r, err = entry.Apply(cmd.Context(), &entry.Values{Column: column, Changes: changes}, t, entry.Inputs{}); err != nil {
				return err
			}
		}
		if err := writeTable(cmd.Context(), out, r.Table); err != nil {
			return err
		}
		for _, e := range r.Effect.Columns {
			cmd.PrintErrf("%s: %s cells rewritten, %s distinct values become %s\n", e.Column, text.Grouped(e.Cells), text.Grouped(e.DistinctBefore), text.Grouped(e.DistinctAfter))
		}
		account(r.Effect.Balance)
		return nil
	})
	return c
}

func changesOf(walk *table.Table, file string) ([]entry.Change, error) {
	from, _, err1 := walk.Column("variant")
	to, _, err2 := walk.Column("standard")
	if err1 != nil || err2 != nil {
		return nil, &problem.Problem{What: "a crosswalk needs the columns variant and standard", File: file, Remedy: "Make one with 'grandledger variants'"}
	}
	var out []entry.Change
	for row := range walk.Rows() {
		v, _ := from.Value(walk.BaseRow(row))
		s, _ := to.Value(walk.BaseRow(row))
		out = append(out, entry.Change{From: v, To: s})
	}
	return out, nil
}
