package store

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"strings"

	"github.com/jackc/pgx/v5"
	"github.com/jackc/pgx/v5/pgconn"

	"grandledger/core/entry"
	"grandledger/core/problem"
	"grandledger/core/table"
)

// Book is one stewardship undertaking.
type Book struct {
	ID   int64
	Name string
}

// Table is a table as it stands.
type Table struct {
	ID, BookID   int64
	Name         string
	Consolidated bool
	Head         int64 // the revision that stands
	Rows         int
	Columns      []string
	Next         int // number of the next entry
	Entries      int // posted entries, the opening not counted
	Source       string
	CopyOf       int64 // the table it was copied or taken apart from; 0 for none
	CopiedAt     int64 // and the revision of that
	Apart        bool  // it has rows that were set aside there
}

// CrosswalkLine counts what a crosswalk knows.
type CrosswalkLine struct {
	Name                 string
	Spellings, Standards int
}

// Books lists the books by name.
func (s *Store) Books(ctx context.Context) ([]Book, error) {
	rows, _ := s.Pool.Query(ctx, `select id, name from book order by name, id`)
	return pgx.CollectRows(rows, pgx.RowToStructByPos[Book])
}

// CreateBook opens a book.
func (s *Store) CreateBook(ctx context.Context, name string) (Book, error) {
	name, err := properName(name, "book")
	if err != nil {
		return Book{}, err
	}
	b := Book{Name: name}
	err = s.Pool.QueryRow(ctx, `insert into book (name) values ($1) returning id`, name).Scan(&b.ID)
	if violates(err, "23505") {
		return Book{}, problem.New("Choose another name", "there is a book called %q already", name)
	}
	return b, err
}

// Book gives one book.
func (s *Store) Book(ctx context.Context, id int64) (Book, error) {
	b := Book{ID: id}
	err := s.Pool.QueryRow(ctx, `select name from book where id = $1`, id).Scan(&b.Name)
	if errors.Is(err, pgx.ErrNoRows) {
		return b, fmt.Errorf("book %d: %w", id, ErrNotFound)
	}
	return b, err
}

const selectTables = `select t.id, t.book_id, t.name, t.consolidated, t.head, r.rows,
	array(select name from revision_column where revision_id = r.id order by position),
	coalesce((select max(number) + 1 from entry where table_id = t.id), 0)::int,
	(select count(*) from entry where table_id = t.id and state = 'posted' and number > 0)::int,
	coalesce((select words from entry where table_id = t.id and state = 'posted' and (number = 0 or kind = 'refresh') order by number desc limit 1), ''),
	coalesce((o.params->>'table')::bigint, 0), coalesce((o.params->>'revision')::bigint, 0), coalesce((o.params->>'aside')::int, 0) > 0
	from stewarded_table t join revision r on r.id = t.head left join entry o on o.table_id = t.id and o.number = 0 and o.kind = 'copy' `

// Tables lists the tables of a book by name.
func (s *Store) Tables(ctx context.Context, book int64) ([]Table, error) {
	rows, _ := s.Pool.Query(ctx, selectTables+`where t.book_id = $1 order by t.name`, book)
	return pgx.CollectRows(rows, pgx.RowToStructByPos[Table])
}

// Table gives one table.
func (s *Store) Table(ctx context.Context, id int64) (Table, error) {
	rows, _ := s.Pool.Query(ctx, selectTables+`where t.id = $1`, id)
	t, err := pgx.CollectExactlyOneRow(rows, pgx.RowToStructByPos[Table])
	if errors.Is(err, pgx.ErrNoRows) {
		return t, fmt.Errorf("table %d: %w", id, ErrNotFound)
	}
	return t, err
}

// Opening is entry 0 of a new table: how it came to be.
type Opening struct {
	Book         int64
	Name         string
	Consolidated bool
	Kind         string // "bring-in", "join" or "golden"
	Words        string
	Params       any
	Balance      entry.Balance
	Notes        []string
	From         []*Loaded        // revisions the table was drawn from; the first is what Aside is of
	Aside        *table.Selection // base rows of From[0] that were left out; nil for none
}

// CreateTable stores a new table with its opening entry. Where tx's transaction does
// not commit, nothing of it remains. After the commit the caller calls Keep.
func (s *Store) CreateTable(ctx context.Context, tx pgx.Tx, t *table.Table, o Opening) (int64, *Loaded, error) {
	name, err := properName(o.Name, "table")
	if err != nil {
		return 0, nil, err
	}
	var id int64
	err = tx.QueryRow(ctx, `insert into stewarded_table (book_id, name, consolidated) values ($1, $2, $3) returning id`,
		o.Book, name, o.Consolidated).Scan(&id)
	if violates(err, "23505") {
		return 0, nil, nameTaken(name)
	} else if err != nil {
		return 0, nil, err
	}
	l, err := s.save(ctx, tx, id, t, o.From...)
	if err != nil {
		return 0, nil, err
	}
	if _, err := tx.Exec(ctx, `update stewarded_table set head = $2 where id = $1`, id, l.Revision); err != nil {
		return 0, nil, err
	}
	e := line{table: id, kind: o.Kind, words: o.Words, params: o.Params, after: l.Revision, notes: o.Notes}
	e.effect = entry.Effect{Balance: o.Balance, Columns: []entry.ColumnEffect{}, Pairs: []entry.Pair{}}
	if o.Aside != nil {
		e.before = &o.From[0].Revision
		if e.aside, err = s.writeAside(ctx, tx, o.Aside); err != nil {
			return 0, nil, err
		}
	}
	if err := e.insert(ctx, tx); err != nil {
		return 0, nil, err
	}
	return id, l, Tell(ctx, tx, "table", id)
}

// Keep hands a committed revision to the cache.
func (s *Store) Keep(l *Loaded) { s.cache.put(l) }

// FreeName says whether a table name can still be used in a book.
func (s *Store) FreeName(ctx context.Context, book int64, name string) error {
	name, err := properName(name, "table")
	if err != nil {
		return err
	}
	var taken bool
	err = s.Pool.QueryRow(ctx, `select exists(select from stewarded_table where book_id = $1 and name = $2)`, book, name).Scan(&taken)
	if err == nil && taken {
		return nameTaken(name)
	}
	return err
}

func nameTaken(name string) error {
	return problem.New("Choose another name", "the book has a table called %q already", name)
}

func properName(name, what string) (string, error) {
	name = strings.TrimSpace(name)
	if name == "" || len(name) > 200 || strings.ContainsRune(name, 0) {
		return "", problem.New("Give it a name of at most 200 letters", "the %s has no name that can be used", what)
	}
	return name, nil
}

func violates(err error, code string) bool {
	var p *pgconn.PgError
	return errors.As(err, &p) && p.Code == code
}

// line is a journal line being written.
type line struct {
	table  int64
	number int
	kind   string
	words  string
	params any
	effect entry.Effect
	notes  []string
	before *int64
	after  int64
	aside  *int64

	repeats *int // the entry it does again on a new delivery
	reason  string
}

func (e line) insert(ctx context.Context, tx pgx.Tx) error {
	params, err := json.Marshal(e.params)
	if err != nil {
		return err
	}
	if e.notes == nil {
		e.notes = []string{}
	}
	_, err = tx.Exec(ctx, `insert into entry (table_id, number, kind, params, words, effect, notes, state, before, after, aside_part, repeats, reason)
		values ($1, $2, $3, $4, $5, $6, $7, 'posted', $8, $9, $10, $11, $12)`,
		e.table, e.number, e.kind, params, e.words, e.effect, e.notes, e.before, e.after, e.aside, e.repeats, e.reason)
	if err != nil {
		return fmt.Errorf("storing the entry: %w", err)
	}
	return nil
}

func (s *Store) writeAside(ctx context.Context, tx pgx.Tx, aside *table.Selection) (*int64, error) {
	known := map[any]int64{}
	if err := s.write(ctx, tx, known, []any{aside}); err != nil {
		return nil, err
	}
	id := known[aside]
	return &id, nil
}
