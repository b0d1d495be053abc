package main

import (
	"fmt"
	"os"

	"github.com/spf13/cobra"

	"grandledger/core/problem"
	"grandledger/formats"
	"grandledger/formats/intake"
	"grandledger/procedure"
)

func runCommand() *cobra.Command {
	var given []string
	var out string
	c := &cobra.Command{
		Use:   "run PROCEDURE",
		Short: "Run a journal that was exported as a procedure on files, in the same order and with the same result",
		Args:  files("PROCEDURE"),
	}
	c.Flags().StringArrayVar(&given, "source", nil, "a file to run it on; the ones it was made on where not given")
	c.Flags().StringVar(&out, "out", "-", "where the table is written, by the ending of the name")
	c.RunE = work(func(cmd *cobra.Command, args []string) error {
		f, err := os.Open(args[0])
		if err != nil {
			return &problem.Problem{What: "the procedure cannot be opened: " + reason(err), File: args[0]}
		}
		defer f.Close()
		p, err := procedure.Read(f)
		if err != nil {
			return problem.In(args[0], err)
		}
		if len(given) == 0 {
			given = p.Source.Files
		}
		var sources []formats.Source
		for _, name := range given {
			src, done, err := source(name)
			if err != nil {
				return err
			}
			defer done.Close()
			sources = append(sources, src)
		}
		t, report, err := formats.Read(cmd.Context(), sources, p.Source.How, intake.Options{})
		if err != nil {
			return err
		}
		say(given[0], report)
		outcomes, result, err := p.Run(cmd.Context(), t)
		if err != nil {
			return problem.In(args[0], err)
		}
		for i, o := range outcomes {
			l := procedure.Line{Effect: o.Result.Effect}
			fmt.Fprintf(os.Stderr, "%d. %s. %s\n", p.Steps[i].Entry, o.Entry.Words(), l.Did())
		}
		return writeTable(cmd.Context(), out, result)
	})
	return c
}
