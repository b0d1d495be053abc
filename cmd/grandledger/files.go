package main

import (
	"context"
	"fmt"
	"io"
	"os"
	"path/filepath"
	"strings"

	"grandledger/core/entry"
	"grandledger/core/problem"
	"grandledger/core/table"
	"grandledger/core/text"
	"grandledger/formats"
	"grandledger/formats/intake"
)

// read brings a file in and says on standard error what was repaired.
func read(ctx context.Context, name string) (*table.Table, error) {
	src, done, err := source(name)
	if err != nil {
		return nil, err
	}
	defer done.Close()
	how, err := formats.Sniff(src)
	if err != nil {
		return nil, err
	}
	t, report, err := formats.Read(ctx, []formats.Source{src}, how, intake.Options{})
	if err != nil {
		return nil, err
	}
	say(name, report)
	return t, nil
}

// say tells on standard error what was repaired.
func say(name string, report *intake.Report) {
	for _, n := range report.Notes {
		fmt.Fprintf(os.Stderr, "%s: %s\n", name, n)
	}
}

// source opens a file; - is standard input, which is put into a file first, as formats
// look at the end of it too.
func source(name string) (formats.Source, io.Closer, error) {
	if name != "-" {
		return formats.File(name)
	}
	f, err := os.CreateTemp("", "grandledger-input-*")
	if err != nil {
		return formats.Source{}, nil, err
	}
	os.Remove(f.Name())
	size, err := io.Copy(f, os.Stdin)
	if err != nil {
		f.Close()
		return formats.Source{}, nil, err
	}
	return formats.Source{Name: name, Size: size, At: f}, f, nil
}

// reason takes the path off an error that names it.
func reason(err error) string {
	if p, ok := err.(*os.PathError); ok {
		return p.Err.Error()
	}
	return err.Error()
}

// write makes a file whole or not at all: it is written beside its place and renamed.
func write(name string, to func(w io.Writer) error) error {
	if name == "-" {
		return to(os.Stdout)
	}
	f, err := os.CreateTemp(filepath.Dir(name), ".grandledger-*")
	if err != nil {
		return &problem.Problem{What: "the file cannot be written: " + reason(err), File: name}
	}
	defer os.Remove(f.Name())
	defer f.Close()
	if err := to(f); err != nil {
		return err
	}
	if err := f.Chmod(0o644); err != nil {
		return err
	}
	if err := f.Close(); err != nil {
		return err
	}
	return os.Rename(f.Name(), name)
}

func writeTable(ctx context.Context, name string, t *table.Table) error {
	ending := name
	if name == "-" {
		ending = "standard output.csv"
	}
	to, err := formats.Writer(ending)
	if err != nil {
		return err
	}
	return write(name, func(w io.Writer) error { return to(ctx, w, t) })
}

// account prints a balance on standard error.
func account(b entry.Balance) {
	var s strings.Builder
	s.WriteString(rows(b.Before))
	for _, part := range []struct {
		n          int
		sign, what string
	}{{b.Added, "+", "added"}, {b.SetAside, "-", "set aside"}, {b.Merged, "-", "merged"}} {
		if part.n > 0 {
			fmt.Fprintf(&s, " %s %s %s", part.sign, text.Grouped(part.n), part.what)
		}
	}
	fmt.Fprintln(os.Stderr, s.String(), "=", rows(b.After))
}

func rows(n int) string {
	if n == 1 {
		return "1 row"
	}
	return text.Grouped(n) + " rows"
}
