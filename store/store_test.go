package store_test

import (
	"bytes"
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"math/rand/v2"
	"sync"
	"testing"

	"github.com/jackc/pgx/v5"

	"grandledger/core/coretest"
	"grandledger/core/entry"
	"grandledger/core/problem"
	"grandledger/core/table"
	"grandledger/core/tidy"
	"grandledger/store"
	"grandledger/store/storetest"
)

func TestMain(m *testing.M) { storetest.Main(m) }

func open(t *testing.T, url string) *store.Store {
	t.Helper()
	s, err := store.Open(context.Background(), url)
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(s.Close)
	return s
}

// keep stores a table in a new book and gives its number.
func keep(t *testing.T, s *store.Store, tab *table.Table, name string) int64 {
	t.Helper()
	ctx := context.Background()
	b, err := s.CreateBook(ctx, "Book of "+name)
	if err != nil {
		t.Fatal(err)
	}
	var id int64
	err = pgx.BeginFunc(ctx, s.Pool, func(tx pgx.Tx) error {
		var l *store.Loaded
		id, l, err = s.CreateTable(ctx, tx, tab, store.Opening{Book: b.ID, Name: name, Kind: "bring-in", Words: "Brought in " + name,
			Balance: entry.Balance{Added: tab.Rows(), After: tab.Rows()}})
		if err == nil {
			s.Keep(l)
		}
		return err
	})
	if err != nil {
		t.Fatal(err)
	}
	return id
}

func params(t *testing.T, e any) []byte {
	t.Helper()
	raw, err := json.Marshal(e)
	if err != nil {
		t.Fatal(err)
	}
	return raw
}

func standing(t *testing.T, s *store.Store, id int64) (store.Table, string) {
	t.Helper()
	tab, err := s.Table(context.Background(), id)
	if err != nil {
		t.Fatal(err)
	}
	l, err := s.Load(context.Background(), tab.Head)
	if err != nil {
		t.Fatal(err)
	}
	return tab, coretest.Text(l.Table)
}

// What is stored comes back to the letter in another process: a second store on the
// same database shares no memory with the first.
func TestTablesComeBack(t *testing.T) {
	url := storetest.Database(t)
	s, again := open(t, url), open(t, url)
	r := rand.New(rand.NewPCG(61, 62))
	for i := range 30 {
		tab := coretest.Table(r, 300, 1+r.IntN(5))
		id := keep(t, s, tab, fmt.Sprint("table ", i))
		_, got := standing(t, again, id)
		if got != coretest.Text(tab) {
			t.Fatalf("stored\n%s\nread\n%s", coretest.Text(tab), got)
		}
	}
	// A column over several segments, one of its values long.
	rows := [][]string{{"a"}}
	for i := range 150_000 {
		rows = append(rows, []string{fmt.Sprint("value ", i%90_000)})
	}
	rows[7][0] = string(make([]byte, 3<<20))
	big := coretest.Build(rows...)
	if _, got := standing(t, again, keep(t, s, big, "big")); got != coretest.Text(big) {
		t.Error("a large column came back otherwise")
	}
}

func sample() *table.Table {
	return coretest.Build([]string{"gear", "no"}, []string{"Gill net", "1"}, []string{"gill net ", "2"}, []string{"Trawl", "2"}, []string{"∅", "3"})
}

func TestJournal(t *testing.T) {
	ctx := context.Background()
	url := storetest.Database(t)
	s := open(t, url)
	id := keep(t, s, sample(), "landings")
	opened, _ := standing(t, s, id)

	tidy := params(t, entry.Tidy{Columns: []string{"gear"}, Steps: []tidy.Step{{Op: tidy.Trim}, {Op: tidy.Sentence}}})
	drafted, err := s.Draft(ctx, id, opened.Head, "tidy", tidy)
	if err != nil || drafted.Number != 1 || drafted.Effect.Columns[0].Cells != 1 {
		t.Fatalf("drafted %+v (%v)", drafted, err)
	}
	if now, _ := standing(t, s, id); now.Head != opened.Head {
		t.Fatal("a draft changed the table")
	}
	posted, err := s.Post(ctx, "post-one", id, opened.Head, "tidy", tidy)
	if err != nil || posted.Number != 1 || posted.State != "posted" || !bytes.Equal(params(t, posted.Effect), params(t, drafted.Effect)) {
		t.Fatalf("posted %+v, drafted %+v (%v)", posted, drafted, err)
	}
	tidied, tidyText := standing(t, s, id)

	dup := params(t, entry.Duplicates{Key: []string{"no"}, Choice: entry.Choice{Keep: "first"}})
	if _, err := s.Post(ctx, "post-two", id, tidied.Head, "duplicates", dup); err != nil {
		t.Fatal(err)
	}
	deduped, dedupText := standing(t, s, id)
	aside, err := s.Aside(ctx, id, 2)
	if err != nil || aside.Rows() != 1 || coretest.Rows(aside)[0][0] != "Trawl" {
		t.Fatalf("set aside %v (%v)", aside, err)
	}

	// Reversed and posted again, seen by a store without this one's memory.
	if e, err := s.Reverse(ctx, "reverse-two", id, deduped.Head, 0); err != nil || e.Number != 2 || e.State != "reversed" || !e.CanRepost {
		t.Fatalf("reversed %+v (%v)", e, err)
	}
	if now, text := standing(t, open(t, url), id); text != tidyText || now.Next != 3 {
		t.Fatalf("after reversing, next %d:\n%s", now.Next, text)
	}
	if e, err := s.Repost(ctx, "repost-two", id, 2, tidied.Head, false); err != nil || e.State != "posted" {
		t.Fatalf("posted again %+v (%v)", e, err)
	}
	if now, text := standing(t, open(t, url), id); text != dedupText || now.Head != deduped.Head {
		t.Fatalf("after posting again:\n%s", text)
	}

	// Return what entry 2 set aside.
	if _, err := s.Post(ctx, "post-three", id, deduped.Head, "return", params(t, entry.Return{Entry: 2})); err != nil {
		t.Fatal(err)
	}
	if _, text := standing(t, open(t, url), id); text != tidyText {
		t.Fatalf("after returning:\n%s", text)
	}
	journal, err := s.Journal(ctx, id)
	if err != nil || len(journal) != 4 {
		t.Fatalf("journal %+v (%v)", journal, err)
	}
	for _, e := range journal {
		if err := e.Effect.Balance.Check(e.Effect.Balance.After); err != nil {
			t.Error(err)
		}
	}
}

func TestStaleAndRepeatedRequests(t *testing.T) {
	ctx := context.Background()
	s := open(t, storetest.Database(t))
	id := keep(t, s, sample(), "landings")
	opened, _ := standing(t, s, id)
	upper := params(t, entry.Tidy{Columns: []string{"gear"}, Steps: []tidy.Step{{Op: tidy.Upper}}})
	lower := params(t, entry.Tidy{Columns: []string{"gear"}, Steps: []tidy.Step{{Op: tidy.Lower}}})

	// The same request many times at once, as an impatient network repeats it.
	var wg sync.WaitGroup
	for range 8 {
		wg.Go(func() {
			if e, err := s.Post(ctx, "same-key", id, opened.Head, "tidy", upper); err != nil || e.Number != 1 {
				t.Errorf("repeated: %+v, %v", e, err)
			}
		})
	}
	wg.Wait()
	if journal, _ := s.Journal(ctx, id); len(journal) != 2 {
		t.Fatalf("%d entries after one repeated request", len(journal))
	}
	var stale *store.Stale
	if _, err := s.Post(ctx, "other-key", id, opened.Head, "tidy", lower); !errors.As(err, &stale) || len(stale.Since) != 1 || stale.Since[0].Number != 1 {
		t.Fatalf("a post on an old revision: %v %+v", err, stale)
	}
	if _, err := s.Draft(ctx, id, opened.Head, "tidy", lower); !errors.As(err, &stale) {
		t.Errorf("a draft on an old revision: %v", err)
	}
	now, _ := standing(t, s, id)
	if _, err := s.Reverse(ctx, "reverse", id, now.Head, 0); err != nil {
		t.Fatal(err)
	}
	if _, err := s.Post(ctx, "third-key", id, now.Head, "tidy", lower); !errors.As(err, &stale) || len(stale.Since) != 1 || stale.Since[0].State != "reversed" {
		t.Errorf("a post on a reversed revision: %v %+v", err, stale)
	}
	// Another entry instead: entry 1 can then no longer be posted again.
	if e, err := s.Post(ctx, "fourth-key", id, opened.Head, "tidy", lower); err != nil || e.Number != 2 {
		t.Fatalf("%+v %v", e, err)
	}
	now, _ = standing(t, s, id)
	var p *problem.Problem
	if _, err := s.Repost(ctx, "fifth-key", id, 1, now.Head, false); !errors.As(err, &p) {
		t.Errorf("posting entry 1 again on another revision: %v", err)
	}
}

// Storing an entry writes what the entry changed and nothing else.
func TestRevisionsShareParts(t *testing.T) {
	ctx := context.Background()
	s := open(t, storetest.Database(t))
	id := keep(t, s, sample(), "landings")
	parts := func() (n int) {
		if err := s.Pool.QueryRow(ctx, `select count(*) from part`).Scan(&n); err != nil {
			t.Fatal(err)
		}
		return n
	}
	for _, c := range []struct {
		kind  string
		e     any
		fresh int
	}{
		{"tidy", entry.Tidy{Columns: []string{"gear"}, Steps: []tidy.Step{{Op: tidy.Trim}}}, 2},      // a dictionary and a view
		{"duplicates", entry.Duplicates{Key: []string{"no"}, Choice: entry.Choice{Keep: "last"}}, 2}, // the rows kept and the rows set aside
	} {
		before := parts()
		now, _ := standing(t, s, id)
		if _, err := s.Post(ctx, "key of "+c.kind, id, now.Head, c.kind, params(t, c.e)); err != nil {
			t.Fatal(err)
		}
		if got := parts() - before; got != c.fresh {
			t.Errorf("%s stored %d parts, want %d", c.kind, got, c.fresh)
		}
		after, _ := standing(t, s, id)
		before = parts()
		if _, err := s.Reverse(ctx, "back "+c.kind, id, after.Head, 0); err != nil {
			t.Fatal(err)
		}
		if got := parts() - before; got != 0 {
			t.Errorf("reversing %s stored %d parts", c.kind, got)
		}
		if _, err := s.Repost(ctx, "again "+c.kind, id, after.Next-1, now.Head, false); err != nil {
			t.Fatal(err)
		}
	}
}

func TestCrosswalkFollowsTheJournal(t *testing.T) {
	ctx := context.Background()
	s := open(t, storetest.Database(t))
	id := keep(t, s, sample(), "landings")
	tab, _ := standing(t, s, id)
	change := entry.Values{Column: "gear", Crosswalk: "gear", Changes: []entry.Change{{From: "gill net ", To: "Gill net", Why: "trailing space"}}}
	if _, err := s.Post(ctx, "spellings", id, tab.Head, "values", params(t, change)); err != nil {
		t.Fatal(err)
	}
	knows := func() string {
		d, err := s.Decisions(ctx, tab.BookID, "gear")
		if err != nil {
			t.Fatal(err)
		}
		return fmt.Sprint(d.Standard, d.Apart)
	}
	if got := knows(); got != "map[gill net :Gill net] []" {
		t.Errorf("knows %s", got)
	}
	now, _ := standing(t, s, id)
	if _, err := s.Reverse(ctx, "reverse-it", id, now.Head, 0); err != nil {
		t.Fatal(err)
	}
	if got := knows(); got != "map[] []" {
		t.Errorf("after reversing it knows %s", got)
	}
	if _, err := s.Repost(ctx, "repost-it", id, 1, tab.Head, false); err != nil {
		t.Fatal(err)
	}
	for range 2 {
		if err := s.KeepApart(ctx, tab.BookID, "gear", "Trawl", "Gill net"); err != nil {
			t.Fatal(err)
		}
	}
	if got := knows(); got != "map[gill net :Gill net] [[Gill net Trawl]]" {
		t.Errorf("after posting again it knows %s", got)
	}
	if err := s.WithdrawApart(ctx, tab.BookID, "gear", "Trawl", "Gill net"); err != nil {
		t.Fatal(err)
	}
	if got := knows(); got != "map[gill net :Gill net] []" {
		t.Errorf("after withdrawing it knows %s", got)
	}
	lines, err := s.Crosswalks(ctx, tab.BookID)
	if err != nil || len(lines) != 1 || lines[0].Spellings != 1 || lines[0].Standards != 1 {
		t.Errorf("crosswalks %+v (%v)", lines, err)
	}
}

func TestNamesAndAbsence(t *testing.T) {
	ctx := context.Background()
	s := open(t, storetest.Database(t))
	id := keep(t, s, sample(), "landings")
	tab, _ := standing(t, s, id)
	var p *problem.Problem
	if err := s.FreeName(ctx, tab.BookID, " landings "); !errors.As(err, &p) {
		t.Errorf("a name used twice: %v", err)
	}
	if _, err := s.CreateBook(ctx, "  "); !errors.As(err, &p) {
		t.Errorf("a book without a name: %v", err)
	}
	if _, err := s.Table(ctx, 999); !errors.Is(err, store.ErrNotFound) {
		t.Errorf("a table that is not there: %v", err)
	}
	if _, err := s.LoadOf(ctx, 999, tab.Head); !errors.Is(err, store.ErrNotFound) {
		t.Errorf("another table's revision: %v", err)
	}
}

// A copy, and a table of rows set aside, store no cell again; a repeated request makes no second one.
func TestCopiesShareTheirParts(t *testing.T) {
	ctx := context.Background()
	s := open(t, storetest.Database(t))
	id := keep(t, s, sample(), "landings")
	at, _ := standing(t, s, id)
	if _, err := s.Post(ctx, "copies-1", id, at.Head, "duplicates", params(t, entry.Duplicates{Key: []string{"no"}, Choice: entry.Choice{Keep: "first"}})); err != nil {
		t.Fatal(err)
	}
	at, _ = standing(t, s, id)
	parts := func() (n int) {
		if err := s.Pool.QueryRow(ctx, `select count(*) from part`).Scan(&n); err != nil {
			t.Fatal(err)
		}
		return n
	}
	before := parts()
	whole, err := s.Copy(ctx, "copies-2", at.BookID, store.Copying{Table: id, Revision: at.Head, Name: "whole"})
	if err != nil || whole.Rows != at.Rows || whole.CopyOf != id || whole.CopiedAt != at.Head || parts() != before {
		t.Errorf("%+v, %d parts more (%v)", whole, parts()-before, err)
	}
	apart, err := s.Copy(ctx, "copies-3", at.BookID, store.Copying{Table: id, Revision: at.Head, Aside: 1, Name: "apart"})
	if err != nil || apart.Rows == 0 || parts() > before+1 { // the rows that stand in it
		t.Errorf("%+v, %d parts more (%v)", apart, parts()-before, err)
	}
	if again, err := s.Copy(ctx, "copies-3", at.BookID, store.Copying{Table: id, Revision: at.Head, Aside: 1, Name: "apart"}); err != nil || again.ID != apart.ID {
		t.Errorf("repeated: table %d, it was %d (%v)", again.ID, apart.ID, err)
	}
	var p *problem.Problem
	for _, c := range []store.Copying{{Table: id, Revision: at.Head, Name: "whole"}, {Table: id, Revision: at.Head, Aside: 9, Name: "x"}, {Table: id, Revision: at.Head, Name: " "}} {
		if _, err := s.Copy(ctx, fmt.Sprint("copies-bad", c), at.BookID, c); !errors.As(err, &p) {
			t.Errorf("%+v: %v", c, err)
		}
	}
	if _, err := s.Copy(ctx, "copies-other", at.BookID+1, store.Copying{Table: id, Revision: at.Head, Name: "y"}); !errors.Is(err, store.ErrNotFound) {
		t.Errorf("from another book: %v", err)
	}
}
