package main

import (
	"encoding/csv"
	"encoding/json"
	"os"
	"strconv"

	"github.com/spf13/cobra"

	"grandledger/core/problem"
	"grandledger/core/table"
	"grandledger/core/tally"
)

func tallyCommand() *cobra.Command {
	var columns []string
	var asJSON bool
	c := &cobra.Command{
		Use:   "tally FILE",
		Short: "Count the distinct values of columns: column,value,rows as CSV, or the whole profile as JSON",
		Args:  files("FILE"),
	}
	c.Flags().StringArrayVar(&columns, "column", nil, "a column to count; all columns where not given")
	c.Flags().BoolVar(&asJSON, "json", false, "write the profile of each column as JSON")
	c.RunE = work(func(cmd *cobra.Command, args []string) error {
		t, err := read(cmd.Context(), args[0])
		if err != nil {
			return err
		}
		chosen := t.Columns()
		if len(columns) > 0 {
			chosen = nil
			for _, name := range columns {
				col, _, err := t.Column(name)
				if err != nil {
					return &problem.Problem{What: "there is no such column", File: args[0], Column: name}
				}
				chosen = append(chosen, col)
			}
		}
		if asJSON {
			return profiles(t, chosen)
		}
		w := csv.NewWriter(os.Stdout)
		if err := w.Write([]string{"column", "value", "rows"}); err != nil {
			return err
		}
		for _, col := range chosen {
			y := tally.New(t, col, tally.ByCount)
			for _, line := range y.Lines(0, y.Len()) {
				if err := w.Write([]string{col.Name, line.Value, strconv.Itoa(line.Rows)}); err != nil {
					return err
				}
			}
		}
		w.Flush()
		return w.Error()
	})
	return c
}

func profiles(t *table.Table, columns []*table.Column) error {
	out := []*tally.Profile{}
	for _, c := range columns {
		out = append(out, tally.Of(t, c))
	}
	e := json.NewEncoder(os.Stdout)
	e.SetEscapeHTML(false)
	e.SetIndent("", "  ")
	return e.Encode(out)
}

// files asks for arguments by name.
func files(names ...string) cobra.PositionalArgs {
	return func(_ *cobra.Command, args []string) error {
		if len(args) < len(names) {
			return misuse("%s is missing", names[len(args)])
		}
		if len(args) > len(names) {
			return misuse("%q was not expected", args[len(names)])
		}
		return nil
	}
}
