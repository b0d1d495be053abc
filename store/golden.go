package store

import (
	"context"
	"slices"

	"github.com/jackc/pgx/v5"

	"grandledger/core/linkage"
)

// Golden gives the lasting identifiers that records stand under, by their keys, and the first one that is free.
func (s *Store) Golden(ctx context.Context, id int64) (standing map[string]int64, next int64, err error) {
	if err := s.Pool.QueryRow(ctx, `select next_golden from linkage where id = $1`, id).Scan(&next); err != nil {
		return nil, 0, err
	}
	standing = map[string]int64{}
	rows, _ := s.Pool.Query(ctx, `select record_key, golden from linkage_golden where linkage_id = $1`, id)
	var key string
	var golden int64
	_, err = pgx.ForEachRow(rows, []any{&key, &golden}, func() error { standing[key] = golden; return nil })
	return standing, next, err
}

// Identified is how many records stand under a lasting identifier.
func (s *Store) Identified(ctx context.Context, id int64) (n int, err error) {
	err = s.Pool.QueryRow(ctx, `select count(*) from linkage_golden where linkage_id = $1`, id).Scan(&n)
	return n, err
}

// GoldenOf gives the identifiers that some records stand under, by their keys.
func (s *Store) GoldenOf(ctx context.Context, id int64, keys []string) (map[string]int64, error) {
	out := map[string]int64{}
	rows, _ := s.Pool.Query(ctx, `select record_key, golden from linkage_golden where linkage_id = $1 and record_key = any($2)`, id, keys)
	var key string
	var golden int64
	_, err := pgx.ForEachRow(rows, []any{&key, &golden}, func() error { out[key] = golden; return nil })
	return out, err
}

// KeepGolden writes down the identifiers that records stand under now, and what became of others, within a transaction. Records that are no longer there keep
// the one they had, so that they come back under it.
func (s *Store) KeepGolden(ctx context.Context, tx pgx.Tx, id int64, keys []string, ids []int64, moved []linkage.Moved, next int64) error {
	if _, err := tx.Exec(ctx, `create temporary table golden_now (record_key text, golden bigint) on commit drop`); err != nil {
		return err
	}
	if _, err := tx.CopyFrom(ctx, pgx.Identifier{"golden_now"}, []string{"record_key", "golden"}, pgx.CopyFromSlice(len(keys), func(i int) ([]any, error) {
		return []any{keys[i], ids[i]}, nil
	})); err != nil {
		return err
	}
	if _, err := tx.Exec(ctx, `insert into linkage_golden (linkage_id, record_key, golden) select $1, record_key, min(golden) from golden_now group by record_key
		on conflict (linkage_id, record_key) do update set golden = excluded.golden where linkage_golden.golden <> excluded.golden`, id); err != nil {
		return err
	}
	if _, err := tx.CopyFrom(ctx, pgx.Identifier{"linkage_moved"}, []string{"linkage_id", "old", "new", "merged"}, pgx.CopyFromSlice(len(moved), func(i int) ([]any, error) {
		return []any{id, moved[i].From, moved[i].To, moved[i].Merged}, nil
	})); err != nil {
		return err
	}
	_, err := tx.Exec(ctx, `update linkage set next_golden = greatest(next_golden, $2) where id = $1`, id, next)
	return err
}

// Became follows an identifier to those its records stand under now: itself, the one it was merged into, or several where it was split.
func (s *Store) Became(ctx context.Context, id, golden int64) ([]int64, error) {
	rows, _ := s.Pool.Query(ctx, `with recursive way (golden) as (
			select $2::bigint union select m.new from way w join linkage_moved m on m.linkage_id = $1 and m.old = w.golden)
		select golden from way w where exists (select from linkage_golden g where g.linkage_id = $1 and g.golden = w.golden) order by golden limit 100`, id, golden)
	out, err := pgx.CollectRows(rows, pgx.RowTo[int64])
	return slices.Compact(out), err
}

// Pick is a value of a golden record that somebody chose, and what it was chosen of.
type Pick struct {
	Golden        int64
	Attribute     string
	Value, Of, By string
}

// Picks gives the values that were picked by hand.
func (s *Store) Picks(ctx context.Context, id int64) ([]Pick, error) {
	rows, _ := s.Pool.Query(ctx, `select golden, attribute, value, picked_of, reviewer from linkage_pick where linkage_id = $1 order by golden, attribute`, id)
	return pgx.CollectRows(rows, pgx.RowToStructByPos[Pick])
}

// SetPick picks a value by hand; one without what it was picked of is taken back.
func (s *Store) SetPick(ctx context.Context, id int64, p Pick) error {
	if _, err := s.Linkage(ctx, id); err != nil {
		return err
	}
	if p.Of == "" {
		_, err := s.Pool.Exec(ctx, `delete from linkage_pick where linkage_id = $1 and golden = $2 and attribute = $3`, id, p.Golden, p.Attribute)
		return err
	}
	_, err := s.Pool.Exec(ctx, `insert into linkage_pick (linkage_id, golden, attribute, value, picked_of, reviewer) values ($1, $2, $3, $4, $5, $6)
		on conflict (linkage_id, golden, attribute) do update set value = excluded.value, picked_of = excluded.picked_of, reviewer = excluded.reviewer, picked_at = now()`,
		id, p.Golden, p.Attribute, p.Value, p.Of, p.By)
	return err
}
