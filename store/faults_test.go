package store_test

import (
	"context"
	"errors"
	"fmt"
	"slices"
	"sync"
	"testing"
	"time"

	"github.com/jackc/pgx/v5"

	"grandledger/core/coretest"
	"grandledger/core/entry"
	"grandledger/core/table"
	"grandledger/core/tidy"
	"grandledger/store"
	"grandledger/store/storetest"
)

// census counts the rows of every table of the schema that holds something of a book.
func census(t *testing.T, s *store.Store) string {
	t.Helper()
	out := ""
	for _, name := range []string{"part", "segment", "stewarded_table", "revision", "revision_column", "revision_origin", "entry", "decision", "request"} {
		var n int
		if err := s.Pool.QueryRow(context.Background(), "select count(*) from "+name).Scan(&n); err != nil {
			t.Fatal(err)
		}
		out += fmt.Sprint(name, " ", n, "; ")
	}
	return out
}

// A change that is cut off at any point leaves nothing of itself, not even parts. One that is cut off while the database was
// already answering that it is done stands whole, and asking again with its key does nothing more.
func TestCutOffChangesLeaveNothing(t *testing.T) {
	s := open(t, storetest.Database(t))
	rows := [][]string{{"a", "b"}}
	for i := range 100_000 {
		rows = append(rows, []string{fmt.Sprint("value ", i), fmt.Sprint(i % 7)})
	}
	id := keep(t, s, coretest.Build(rows...), "large")
	now, _ := standing(t, s, id)
	before := census(t, s)
	upper := params(t, entry.Tidy{Columns: []string{"a", "b"}, Steps: []tidy.Step{{Op: tidy.Upper}}})
	cut := 0
	for wait := time.Duration(0); wait < 60*time.Millisecond; wait += 3 * time.Millisecond {
		ctx, cancel := context.WithTimeout(context.Background(), wait)
		_, err := s.Post(ctx, fmt.Sprint("cut-off-", wait), id, now.Head, "tidy", upper)
		cancel()
		if err == nil {
			break // it was quicker than the wait
		}
		cut++
		if got := census(t, s); got != before {
			_, err := s.Post(context.Background(), fmt.Sprint("cut-off-", wait), id, now.Head, "tidy", upper)
			if again := census(t, s); err != nil || again != got {
				t.Fatalf("after %v, %v:\n%s\nthen:\n%s\nbefore:\n%s", wait, err, got, again, before)
			}
			break
		}
	}
	if cut == 0 {
		t.Error("nothing was cut off")
	}
}

// Of several different entries posted at once on one revision, one is posted; the
// others are told what changed.
func TestManyAtOnce(t *testing.T) {
	s := open(t, storetest.Database(t))
	id := keep(t, s, sample(), "landings")
	now, _ := standing(t, s, id)
	cases := []tidy.Op{tidy.Upper, tidy.Lower, tidy.Title, tidy.Sentence}
	var mu sync.Mutex
	posted, stale := 0, 0
	var wg sync.WaitGroup
	for i := range 16 {
		wg.Go(func() {
			e := entry.Tidy{Columns: []string{"gear"}, Steps: []tidy.Step{{Op: tidy.Trim}, {Op: cases[i%len(cases)]}}}
			_, err := s.Post(context.Background(), fmt.Sprint("at-once-", i), id, now.Head, "tidy", params(t, e))
			mu.Lock()
			defer mu.Unlock()
			var old *store.Stale
			switch {
			case err == nil:
				posted++
			case errors.As(err, &old) && len(old.Since) == 1:
				stale++
			default:
				t.Errorf("entry %d: %v", i, err)
			}
		})
	}
	wg.Wait()
	journal, err := s.Journal(context.Background(), id)
	if err != nil || posted != 1 || stale != 15 || len(journal) != 2 {
		t.Errorf("%d posted, %d stale, %d journal lines (%v)", posted, stale, len(journal), err)
	}
}

// A damaged segment is noticed and said; nothing else is read for it.
func TestDamagedSegmentIsNoticed(t *testing.T) {
	ctx := context.Background()
	url := storetest.Database(t)
	s := open(t, url)
	id := keep(t, s, sample(), "landings")
	now, _ := standing(t, s, id)
	if _, err := s.Pool.Exec(ctx, `update segment set body = set_byte(body, octet_length(body) - 1, get_byte(body, octet_length(body) - 1) # 255)`); err != nil {
		t.Fatal(err)
	}
	if _, err := open(t, url).Load(ctx, now.Head); err == nil {
		t.Error("a damaged table was read")
	}
	if _, err := s.Pool.Exec(ctx, `delete from segment where part_id = (select min(part_id) from segment)`); err != nil {
		t.Fatal(err)
	}
	if _, err := open(t, url).Load(ctx, now.Head); err == nil {
		t.Error("a table with a segment missing was read")
	}
}

// A table drawn from two others shares their dictionaries in storage, knows its rows'
// places in both, and what was left out can be opened from its opening.
func TestDrawnTable(t *testing.T) {
	ctx := context.Background()
	url := storetest.Database(t)
	s := open(t, url)
	id := keep(t, s, sample(), "landings")
	from, _ := standing(t, s, id)
	l, err := s.Load(ctx, from.Head)
	if err != nil {
		t.Fatal(err)
	}
	left := &selection{rows: []uint32{1, 3}}
	var parts int
	count := func() (n int) {
		if err := s.Pool.QueryRow(ctx, `select count(*) from part`).Scan(&n); err != nil {
			t.Fatal(err)
		}
		return n
	}
	parts = count()
	var drawn int64
	err = pgx.BeginFunc(ctx, s.Pool, func(tx pgx.Tx) error {
		drawn, _, err = s.CreateTable(ctx, tx, l.Table.Select(left.kept(l.Table.Rows())), store.Opening{Book: from.BookID, Name: "drawn", Consolidated: true,
			Kind: "join", Words: "Drew it", Balance: entry.Balance{Before: 4, SetAside: 2, After: 2}, From: []*store.Loaded{l}, Aside: left.aside()})
		return err
	})
	if err != nil {
		t.Fatal(err)
	}
	if got := count() - parts; got != 2 {
		t.Errorf("drawing stored %d parts, want the rows kept and the rows left out", got)
	}
	again := open(t, url)
	aside, err := again.Aside(ctx, drawn, 0)
	if err != nil || !slices.EqualFunc(coretest.Rows(aside), [][]string{{"gill net ", "2"}, {"∅", "3"}}, slices.Equal) {
		t.Errorf("left out %v (%v)", coretest.Rows(aside), err)
	}
	now, _ := standing(t, again, drawn)
	if _, err := again.Draft(ctx, drawn, now.Head, "return", params(t, entry.Return{Entry: 0})); err == nil {
		t.Error("rows of another table were to be returned")
	}
	if _, err := again.Reverse(ctx, "reverse-opening", drawn, now.Head, 0); err == nil {
		t.Error("the opening was reversed")
	}
}

// selection splits the base rows of a table into those set aside and the others.
type selection struct{ rows []uint32 }

func (s *selection) aside() *table.Selection { return &table.Selection{Rows: s.rows} }

func (s *selection) kept(base int) *table.Selection {
	out := &table.Selection{}
	for row := range uint32(base) {
		if !slices.Contains(s.rows, row) {
			out.Rows = append(out.Rows, row)
		}
	}
	return out
}
