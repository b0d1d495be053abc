package main

import (
	"context"
	"fmt"
	"os"
	"path/filepath"
	"strings"

	"github.com/spf13/cobra"

	"grandledger/core/problem"
	"grandledger/core/table"
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
	c.Flags().StringArrayVar(&given, "source", nil, "a file to run it on, or NAME=FILE for one of its tables; the ones it was made on where not given")
	c.Flags().StringVar(&out, "out", "-", "where the table is written, by the ending of the name; in a directory as CSV")
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
		r := running{p: p, file: args[0], sources: map[string][]string{}, done: map[string]*table.Table{}}
		for _, name := range given {
			r.give(name)
		}
		result, err := r.run(cmd.Context(), p.Table)
		if err != nil {
			return err
		}
		if info, err := os.Stat(out); err == nil && info.IsDir() {
			out = filepath.Join(out, strings.Map(inName, p.Name)+".csv")
		}
		return writeTable(cmd.Context(), out, result)
	})
	return c
}

// inName keeps what a file may be called everywhere.
func inName(r rune) rune {
	if strings.ContainsRune(`/\:*?"<>|`, r) || r < ' ' {
		return '_'
	}
	return r
}

// running is a procedure under way.
type running struct {
	p       *procedure.Procedure
	file    string
	sources map[string][]string // files given, by the name of the table
	done    map[string]*table.Table
}

// give takes a file for a table: NAME=FILE, and otherwise for the one the procedure is of.
func (r *running) give(source string) {
	name, file, named := strings.Cut(source, "=")
	for _, t := range append(r.p.Tables, r.p.Table) {
		if named && t.Name == name {
			r.sources[name] = append(r.sources[name], file)
			return
		}
	}
	r.sources[r.p.Name] = append(r.sources[r.p.Name], source)
}

// run reads the files of a table and does its steps.
func (r *running) run(ctx context.Context, of procedure.Table) (*table.Table, error) {
	names := r.sources[of.Name]
	if names == nil {
		names = of.Source.Files
	}
	if len(names) == 0 {
		return nil, problem.New("Give it as --source "+of.Name+"=FILE", "the procedure does not say which file the table %q is read from", of.Name)
	}
	var sources []formats.Source
	for _, name := range names {
		src, done, err := source(name)
		if err != nil {
			return nil, err
		}
		defer done.Close()
		sources = append(sources, src)
	}
	t, report, err := formats.Read(ctx, sources, of.Source.How, intake.Options{})
	if err != nil {
		return nil, err
	}
	say(names[0], report)
	outcomes, result, err := of.Run(ctx, t, func(name string) (*table.Table, error) { return r.other(ctx, name) })
	if err != nil {
		return nil, problem.In(r.file, err)
	}
	for i, o := range outcomes {
		l := procedure.Line{Effect: o.Result.Effect}
		fmt.Fprintf(os.Stderr, "%d. %s. %s\n", of.Steps[i].Entry, o.Entry.Words(), l.Did())
	}
	return result, nil
}

// other gives a table that is looked into.
func (r *running) other(ctx context.Context, name string) (*table.Table, error) {
	if t := r.done[name]; t != nil {
		return t, nil
	}
	for i, of := range r.p.Tables {
		if of.Name != name {
			continue
		}
		rest := *r
		inner := *r.p
		inner.Tables = inner.Tables[:i] // only those before it, so that no two look into each other
		rest.p = &inner
		t, err := rest.run(ctx, of)
		if err == nil {
			r.done[name] = t
		}
		return t, err
	}
	return nil, problem.New("Export the procedure again", "the procedure has no table called %q", name)
}
