package store

import (
	"context"
	"errors"
	"fmt"
	"slices"
	"strconv"
	"weak"

	"github.com/jackc/pgx/v5"

	"grandledger/core/reading"
	"grandledger/core/table"
)

// Loaded is a revision in memory, with the number of each of its stored parts.
type Loaded struct {
	Revision int64
	Table    *table.Table
	known    map[any]int64
	bytes    int
}

func newLoaded(revision int64, t *table.Table, known map[any]int64) *Loaded {
	l := &Loaded{Revision: revision, Table: t, known: known}
	for p := range known {
		if d, ok := p.(*table.Dict); ok {
			l.bytes += d.Bytes()
		} else {
			l.bytes += 4 * len(numbers(p))
		}
	}
	return l
}

// ErrNotFound says that what was asked for is not in the store.
var ErrNotFound = errors.New("not found")

// revisionColumn is a row of revision_column; revisionOrigin of revision_origin.
type revisionColumn struct {
	Name, Reading string
	Codes         int64
	View          *int64
	Dict          int64
}

type revisionOrigin struct {
	Source string
	Rows   *int64
}

// Load gives a revision, from memory where it is there. Cost the first time: reading
// and unpacking the parts that no other loaded revision shares.
func (s *Store) Load(ctx context.Context, revision int64) (*Loaded, error) {
	if l := s.cache.get(revision); l != nil {
		return l, nil
	}
	// One load serves all who wait for it, so one of them going away must not end it.
	got, err, _ := s.cache.once.Do(strconv.FormatInt(revision, 10), func() (any, error) {
		l, err := s.load(context.WithoutCancel(ctx), revision)
		if err == nil {
			s.cache.put(l)
		}
		return l, err
	})
	if err != nil {
		return nil, err
	}
	return got.(*Loaded), nil
}

func (s *Store) load(ctx context.Context, revision int64) (*Loaded, error) {
	var base int
	var selection *int64
	err := s.Pool.QueryRow(ctx, `select base_rows, selection_part from revision where id = $1`, revision).Scan(&base, &selection)
	if errors.Is(err, pgx.ErrNoRows) {
		return nil, fmt.Errorf("revision %d: %w", revision, ErrNotFound)
	} else if err != nil {
		return nil, err
	}
	rows, _ := s.Pool.Query(ctx, `select name, reading, codes_part as codes, view_part as view, dictionary_part as dict
		from revision_column where revision_id = $1 order by position`, revision)
	columns, err := pgx.CollectRows(rows, pgx.RowToStructByName[revisionColumn])
	if err != nil {
		return nil, err
	}
	rows, _ = s.Pool.Query(ctx, `select source, rows_part as rows from revision_origin where revision_id = $1 order by position`, revision)
	origins, err := pgx.CollectRows(rows, pgx.RowToStructByName[revisionOrigin])
	if err != nil {
		return nil, err
	}

	a := &assembly{store: s, known: map[any]int64{}, parts: map[int64]any{}, wanted: map[int64]func(n []uint32, d *table.Dict) any{}}
	for _, c := range columns {
		want(a, &c.Codes, s.parts.codes, func(n []uint32, _ *table.Dict) any { return &table.Codes{At: n} })
		want(a, c.View, s.parts.views, func(n []uint32, _ *table.Dict) any { return &table.View{At: n} })
		want(a, &c.Dict, s.parts.dicts, func(_ []uint32, d *table.Dict) any { return d })
	}
	for _, o := range origins {
		want(a, o.Rows, s.parts.codes, func(n []uint32, _ *table.Dict) any { return &table.Codes{At: n} })
	}
	want(a, selection, s.parts.selections, asSelection)
	if err := a.read(ctx); err != nil {
		return nil, fmt.Errorf("loading revision %d: %w", revision, err)
	}
	var built []*table.Column
	for _, c := range columns {
		read, err := reading.Parse(c.Reading)
		if err != nil {
			return nil, fmt.Errorf("loading revision %d: %w", revision, err)
		}
		built = append(built, &table.Column{Name: c.Name, Reading: read, Codes: part[table.Codes](a, &c.Codes),
			View: part[table.View](a, c.View), Dict: part[table.Dict](a, &c.Dict)})
	}
	var from []table.Origin
	for _, o := range origins {
		from = append(from, table.Origin{Source: o.Source, Rows: part[table.Codes](a, o.Rows)})
	}
	t, err := table.New(built, base, from...)
	if err != nil {
		return nil, fmt.Errorf("loading revision %d: %w", revision, err)
	}
	if selection != nil {
		t = t.Select(part[table.Selection](a, selection))
	}
	return newLoaded(revision, t, a.known), nil
}

func asSelection(n []uint32, _ *table.Dict) any { return &table.Selection{Rows: n} }

// assembly gathers the parts of one revision, live ones first.
type assembly struct {
	store  *Store
	parts  map[int64]any
	known  map[any]int64
	wanted map[int64]func(n []uint32, d *table.Dict) any
}

func (a *assembly) have(id int64, p any) {
	a.parts[id] = p
	a.known[p] = id
}

// read loads what is not in memory.
func (a *assembly) read(ctx context.Context) error {
	var ids []int64
	for id := range a.wanted {
		ids = append(ids, id)
	}
	slices.Sort(ids)
	return a.store.read(ctx, ids, func(id int64, n []uint32, d *table.Dict) {
		p := a.wanted[id](n, d)
		a.have(id, p)
		a.store.parts.remember(id, p)
	})
}

// want asks for a part that may already be in memory.
func want[T any](a *assembly, id *int64, live map[int64]weak.Pointer[T], build func(n []uint32, d *table.Dict) any) {
	if id == nil || a.parts[*id] != nil {
		return
	}
	if p := alive(a.store.parts, live, *id); p != nil {
		a.have(*id, p)
		return
	}
	a.wanted[*id] = build
}

func part[T any](a *assembly, id *int64) *T {
	if id == nil {
		return nil
	}
	return a.parts[*id].(*T)
}

// save stores a revision of a table; parts that some of the loaded revisions shares
// are not written again. The caller commits, and then hands the result to the cache.
func (s *Store) save(ctx context.Context, tx pgx.Tx, tableID int64, t *table.Table, from ...*Loaded) (*Loaded, error) {
	known := map[any]int64{}
	for _, l := range from {
		for p, id := range l.known {
			known[p] = id
		}
	}
	var needed []any
	for _, c := range t.Columns() {
		needed = append(needed, c.Codes, c.Dict)
		if c.View != nil {
			needed = append(needed, c.View)
		}
	}
	for _, o := range t.Origins() {
		if o.Rows != nil {
			needed = append(needed, o.Rows)
		}
	}
	if t.Selection() != nil {
		needed = append(needed, t.Selection())
	}
	if err := s.write(ctx, tx, known, needed); err != nil {
		return nil, err
	}
	id := func(p any) *int64 { n := known[p]; return &n }
	var selection *int64
	if t.Selection() != nil {
		selection = id(t.Selection())
	}
	var revision int64
	err := tx.QueryRow(ctx, `insert into revision (table_id, rows, base_rows, selection_part) values ($1, $2, $3, $4) returning id`,
		tableID, t.Rows(), t.Base(), selection).Scan(&revision)
	if err != nil {
		return nil, fmt.Errorf("storing the revision: %w", err)
	}
	columns := t.Columns()
	_, err = tx.CopyFrom(ctx, pgx.Identifier{"revision_column"},
		[]string{"revision_id", "position", "name", "reading", "codes_part", "view_part", "dictionary_part"},
		pgx.CopyFromSlice(len(columns), func(i int) ([]any, error) {
			c := columns[i]
			var view *int64
			if c.View != nil {
				view = id(c.View)
			}
			return []any{revision, i, c.Name, c.Reading.String(), known[c.Codes], view, known[c.Dict]}, nil
		}))
	if err != nil {
		return nil, fmt.Errorf("storing the columns: %w", err)
	}
	for i, o := range t.Origins() {
		var rows *int64
		if o.Rows != nil {
			rows = id(o.Rows)
		}
		if _, err := tx.Exec(ctx, `insert into revision_origin values ($1, $2, $3, $4)`, revision, i, o.Source, rows); err != nil {
			return nil, fmt.Errorf("storing where rows came from: %w", err)
		}
	}
	kept := map[any]int64{}
	for _, p := range needed {
		kept[p] = known[p]
	}
	return newLoaded(revision, t, kept), nil
}
