package main

import (
	"context"
	"encoding/json"
	"fmt"
	"os"
	"time"

	"github.com/jackc/pgx/v5"

	"grandledger/core/entry"
	"grandledger/core/tally"
	"grandledger/core/tidy"
	"grandledger/formats/csv"
	"grandledger/formats/intake"
	"grandledger/store"
	"grandledger/store/cluster"
)

// application times what the application does with a table of that size: storing it,
// loading it in a process that has it not in memory, and drafting, posting and
// reversing entries on it.
func application(file string) error {
	ctx := context.Background()
	c, stop, err := cluster.Throwaway(ctx)
	if err != nil {
		return err
	}
	defer stop()
	s, err := store.Open(ctx, c.URL)
	if err != nil {
		return err
	}
	f, err := os.Open(file)
	if err != nil {
		return err
	}
	defer f.Close()
	t, _, err := csv.Read(ctx, f, nil, intake.Options{File: file})
	if err != nil {
		return err
	}
	b, err := s.CreateBook(ctx, "bench")
	if err != nil {
		return err
	}
	fmt.Println()
	var id int64
	err = timed("store in PostgreSQL", func() error {
		return pgx.BeginFunc(ctx, s.Pool, func(tx pgx.Tx) error {
			var err error
			id, _, err = s.CreateTable(ctx, tx, t, store.Opening{Book: b.ID, Name: "landings", Kind: "bring-in", Words: "Brought in",
				Balance: entry.Balance{Added: t.Rows(), After: t.Rows()}})
			return err
		})
	})
	if err != nil {
		return err
	}
	var bytes int64
	if err := s.Pool.QueryRow(ctx, `select sum(octet_length(body)) from segment`).Scan(&bytes); err != nil {
		return err
	}
	fmt.Printf("%-36s %8.1f MB\n", "stored", float64(bytes)/1e6)
	s.Close()
	if s, err = store.Open(ctx, c.URL); err != nil {
		return err
	}
	defer s.Close()
	info, err := s.Table(ctx, id)
	if err != nil {
		return err
	}
	var l *store.Loaded
	if err := timed("load it whole", func() error { l, err = s.Load(ctx, info.Head); return err }); err != nil {
		return err
	}
	if err := timed("register, first time", func() error {
		for _, c := range l.Table.Columns() {
			tally.Of(l.Table, c)
		}
		return nil
	}); err != nil {
		return err
	}
	head := info.Head
	for _, e := range []struct {
		name, kind string
		params     any
	}{
		{"tidy gear (40 values)", "tidy", entry.Tidy{Columns: []string{"gear"}, Steps: []tidy.Step{{Op: tidy.Upper}}}},
		{"tidy buyer (200,000 values)", "tidy", entry.Tidy{Columns: []string{"buyer"}, Steps: []tidy.Step{{Op: tidy.Upper}}}},
		{"repeats by skipper and vessel", "duplicates", entry.Duplicates{Key: []string{"skipper", "vessel"}, Choice: entry.Choice{Keep: "first"}}},
	} {
		params, err := json.Marshal(e.params)
		if err != nil {
			return err
		}
		if err := timed(e.name+", draft", func() error { _, err := s.Draft(ctx, id, head, e.kind, params); return err }); err != nil {
			return err
		}
		if err := timed(e.name+", post", func() error { _, err := s.Post(ctx, "bench "+e.name, id, head, e.kind, params); return err }); err != nil {
			return err
		}
		now, err := s.Table(ctx, id)
		if err != nil {
			return err
		}
		if err := timed(e.name+", reverse", func() error { _, err := s.Reverse(ctx, "back "+e.name, id, now.Head, 0); return err }); err != nil {
			return err
		}
	}
	return nil
}

func timed(what string, f func() error) error {
	begun := time.Now()
	err := f()
	fmt.Printf("%-36s %8.0f ms\n", what, float64(time.Since(begun).Microseconds())/1000)
	return err
}
