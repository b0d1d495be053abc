package main

import (
	"context"
	"fmt"
	"io"
	"os"
	"path/filepath"
	"strconv"
	"strings"

	"grandledger/core/entry"
	"grandledger/core/problem"
	"grandledger/core/table"
	"grandledger/formats/csv"
)

// read brings a file in and says on standard error what was repaired.
func read(ctx context.Context, name string) (*table.Table, error) {
	var src io.Reader = os.Stdin
	var size int64
	if name != "-" {
		f, err := os.Open(name)
		if err != nil {
			return nil, &problem.Problem{What: "the file cannot be opened: " + reason(err), File: name}
		}
		defer f.Close()
		if st, err := f.Stat(); err == nil {
			size = st.Size()
		}
		src = f
	}
	t, report, err := csv.Read(ctx, src, csv.Options{File: name, Size: size})
	if err != nil {
		return nil, err
	}
	for _, n := range report.Notes {
		fmt.Fprintf(os.Stderr, "%s: %s\n", name, n)
	}
	return t, nil
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
	return write(name, func(w io.Writer) error {
		_, err := csv.Write(ctx, w, t, csv.WriteOptions{})
		return err
	})
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
			fmt.Fprintf(&s, " %s %s %s", part.sign, grouped(part.n), part.what)
		}
	}
	fmt.Fprintln(os.Stderr, s.String(), "=", rows(b.After))
}

func rows(n int) string {
	if n == 1 {
		return "1 row"
	}
	return grouped(n) + " rows"
}

// grouped writes 6214 as 6,214.
func grouped(n int) string {
	s := strconv.Itoa(n)
	for i := len(s) - 3; i > 0 && s[i-1] != '-'; i -= 3 {
		s = s[:i] + "," + s[i:]
	}
	return s
}
