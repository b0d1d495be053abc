package store

import (
	"context"
	"fmt"
	"sync"
	"weak"

	"github.com/jackc/pgx/v5"
	"golang.org/x/sync/errgroup"

	"grandledger/core/table"
	"grandledger/store/segment"
)

// parts remembers which stored part each part in memory is, so that revisions loaded
// or made one after another share memory and storage. It keeps no part alive.
type parts struct {
	mu         sync.Mutex
	codes      map[int64]weak.Pointer[table.Codes]
	views      map[int64]weak.Pointer[table.View]
	selections map[int64]weak.Pointer[table.Selection]
	dicts      map[int64]weak.Pointer[table.Dict]
}

func newParts() *parts {
	return &parts{codes: map[int64]weak.Pointer[table.Codes]{}, views: map[int64]weak.Pointer[table.View]{},
		selections: map[int64]weak.Pointer[table.Selection]{}, dicts: map[int64]weak.Pointer[table.Dict]{}}
}

func alive[T any](p *parts, m map[int64]weak.Pointer[T], id int64) *T {
	p.mu.Lock()
	defer p.mu.Unlock()
	got := m[id].Value()
	if got == nil {
		delete(m, id)
	}
	return got
}

// remember files a part under its number; it is safe to call before a commit, as
// numbers are never given twice.
func (p *parts) remember(id int64, part any) {
	p.mu.Lock()
	defer p.mu.Unlock()
	switch part := part.(type) {
	case *table.Codes:
		p.codes[id] = weak.Make(part)
	case *table.View:
		p.views[id] = weak.Make(part)
	case *table.Selection:
		p.selections[id] = weak.Make(part)
	case *table.Dict:
		p.dicts[id] = weak.Make(part)
	}
}

// numbers gives the numbers of a part that is a list of numbers; nil for a dictionary.
func numbers(part any) []uint32 {
	switch part := part.(type) {
	case *table.Codes:
		return part.At
	case *table.View:
		return part.At
	case *table.Selection:
		return part.Rows
	}
	return nil
}

// piece is one segment waiting to be encoded.
type piece struct {
	id       int64
	number   int
	part     any
	from, to int
}

func (p piece) encode() []byte {
	if d, ok := p.part.(*table.Dict); ok {
		arena, ends := d.Raw()
		return segment.EncodeValues(arena, ends, p.from, p.to)
	}
	return segment.EncodeNumbers(numbers(p.part)[p.from:p.to])
}

func pieces(id int64, part any) []piece {
	var out []piece
	if d, ok := part.(*table.Dict); ok {
		_, ends := d.Raw()
		from := 0
		for i, to := range segment.CutValues(ends) {
			out = append(out, piece{id, i, part, from, to})
			from = to
		}
		return out
	}
	n := len(numbers(part))
	for from := 0; from < n; from += segment.Numbers {
		out = append(out, piece{id, len(out), part, from, min(from+segment.Numbers, n)})
	}
	return out
}

// write stores the parts that have no number yet and enters their numbers in known.
// Segments are encoded on all cores while PostgreSQL takes them in by COPY.
func (s *Store) write(ctx context.Context, tx pgx.Tx, known map[any]int64, parts []any) error {
	var fresh []any
	for _, p := range parts {
		if _, ok := known[p]; !ok {
			known[p] = 0
			fresh = append(fresh, p)
		}
	}
	if len(fresh) == 0 {
		return nil
	}
	rows, err := tx.Query(ctx, `select nextval(pg_get_serial_sequence('part', 'id')) from generate_series(1, $1::int)`, len(fresh))
	if err != nil {
		return err
	}
	ids, err := pgx.CollectRows(rows, pgx.RowTo[int64])
	if err != nil {
		return err
	}
	var todo []piece
	_, err = tx.CopyFrom(ctx, pgx.Identifier{"part"}, []string{"id", "kind", "items"}, pgx.CopyFromSlice(len(fresh), func(i int) ([]any, error) {
		known[fresh[i]] = ids[i]
		s.parts.remember(ids[i], fresh[i])
		todo = append(todo, pieces(ids[i], fresh[i])...)
		if d, ok := fresh[i].(*table.Dict); ok {
			return []any{ids[i], "dictionary", d.Len()}, nil
		}
		return []any{ids[i], "numbers", len(numbers(fresh[i]))}, nil
	}))
	if err != nil {
		return fmt.Errorf("storing parts: %w", err)
	}
	return copySegments(ctx, tx, todo)
}

type progressKey struct{}

// WithProgress has the storing of parts under a context tell how many of its segments are
// stored.
func WithProgress(ctx context.Context, told func(done, total int)) context.Context {
	return context.WithValue(ctx, progressKey{}, told)
}

func copySegments(ctx context.Context, tx pgx.Tx, todo []piece) error {
	type encoded struct {
		piece
		body []byte
	}
	ctx, cancel := context.WithCancel(ctx)
	defer cancel()
	ready := make(chan encoded, 8)
	work, ctx := errgroup.WithContext(ctx)
	work.SetLimit(3)
	work.Go(func() error {
		for _, p := range todo {
			work.Go(func() error {
				select {
				case ready <- encoded{p, p.encode()}:
					return nil
				case <-ctx.Done():
					return ctx.Err()
				}
			})
		}
		return nil
	})
	left := len(todo)
	_, err := tx.CopyFrom(ctx, pgx.Identifier{"segment"}, []string{"part_id", "number", "body"}, pgx.CopyFromFunc(func() ([]any, error) {
		if left == 0 {
			return nil, nil
		}
		left--
		select {
		case e := <-ready:
			if told, ok := ctx.Value(progressKey{}).(func(done, total int)); ok {
				told(len(todo)-left, len(todo))
			}
			return []any{e.id, e.number, e.body}, nil
		case <-ctx.Done():
			return nil, ctx.Err()
		}
	}))
	cancel()
	if workErr := work.Wait(); err == nil && left > 0 {
		err = workErr
	}
	if err != nil {
		return fmt.Errorf("storing segments: %w", err)
	}
	return nil
}

// read loads parts by number and hands each to take as a list of numbers, or as a
// dictionary. Segments are decoded on all cores while more come in.
func (s *Store) read(ctx context.Context, ids []int64, take func(id int64, numbers []uint32, d *table.Dict)) error {
	if len(ids) == 0 {
		return nil
	}
	rows, err := s.Pool.Query(ctx, `select p.id, p.kind, p.items, s.body from part p left join segment s on s.part_id = p.id
		where p.id = any($1) order by p.id, s.number`, ids)
	if err != nil {
		return err
	}
	defer rows.Close()
	var work errgroup.Group
	work.SetLimit(2)
	var mu sync.Mutex
	type gathered struct {
		id     int64
		kind   string
		items  int64
		bodies [][]byte
	}
	var now *gathered
	finish := func(g *gathered) {
		work.Go(func() error {
			n, d, err := decode(g.kind, int(g.items), g.bodies)
			if err != nil {
				return fmt.Errorf("part %d: %w", g.id, err)
			}
			mu.Lock()
			defer mu.Unlock()
			take(g.id, n, d)
			return nil
		})
	}
	seen := 0
	for rows.Next() {
		var g gathered
		var body []byte
		if err := rows.Scan(&g.id, &g.kind, &g.items, &body); err != nil {
			return err
		}
		if now == nil || now.id != g.id {
			if now != nil {
				finish(now)
			}
			seen++
			now = &g
		}
		if body != nil {
			now.bodies = append(now.bodies, body)
		}
	}
	if now != nil {
		finish(now)
	}
	if err := work.Wait(); err != nil {
		return err
	}
	if rows.Err() == nil && seen != len(ids) {
		return fmt.Errorf("%d of %d parts are not stored", len(ids)-seen, len(ids))
	}
	return rows.Err()
}

func decode(kind string, items int, bodies [][]byte) (n []uint32, d *table.Dict, err error) {
	if kind == "numbers" {
		n = make([]uint32, 0, items)
		for _, body := range bodies {
			if n, err = segment.DecodeNumbers(n, body); err != nil {
				return nil, nil, err
			}
		}
		if len(n) != items {
			return nil, nil, fmt.Errorf("%d numbers are stored, %d were written", len(n), items)
		}
		return n, nil, nil
	}
	var arena []byte
	ends := make([]uint32, 1, items+1)
	for _, body := range bodies {
		if arena, ends, err = segment.DecodeValues(arena, ends, body); err != nil {
			return nil, nil, err
		}
	}
	if len(ends) != items+1 {
		return nil, nil, fmt.Errorf("%d values are stored, %d were written", len(ends)-1, items)
	}
	d, err = table.NewDict(arena, ends)
	return nil, d, err
}
