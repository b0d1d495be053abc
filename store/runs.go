package store

import (
	"context"
	"errors"
	"fmt"
	"time"

	"github.com/jackc/pgx/v5"
	"github.com/klauspost/compress/zstd"

	"grandledger/core/linkage"
)

// LinkageRun is a linkage that is worked on in the background: what it links, and how.
type LinkageRun struct {
	ID, Linkage int64
	Spec        linkage.Spec // with its crosswalks
	Revisions   []int64
	Job         int64
}

const selectRun = `select id, linkage_id, spec, crosswalks, revisions, job_id from linkage_run `

func scanRun(row pgx.CollectableRow) (LinkageRun, error) {
	var r LinkageRun
	var walks map[string]map[string]string
	err := row.Scan(&r.ID, &r.Linkage, &r.Spec, &walks, &r.Revisions, &r.Job)
	r.Spec.Crosswalks = walks
	return r, err
}

// Run gives one.
func (s *Store) Run(ctx context.Context, id int64) (LinkageRun, error) {
	rows, _ := s.Pool.Query(ctx, selectRun+`where id = $1`, id)
	r, err := pgx.CollectExactlyOneRow(rows, scanRun)
	if errors.Is(err, pgx.ErrNoRows) {
		return r, fmt.Errorf("run %d: %w", id, ErrNotFound)
	}
	return r, err
}

// RunOf gives the run of a linkage with a key, and whether all of it was compared; ErrNotFound where there is none.
func (s *Store) RunOf(ctx context.Context, linkageID int64, key string) (r LinkageRun, whole bool, err error) {
	rows, _ := s.Pool.Query(ctx, selectRun+`where linkage_id = $1 and key = $2`, linkageID, key)
	if r, err = pgx.CollectExactlyOneRow(rows, scanRun); errors.Is(err, pgx.ErrNoRows) {
		return r, false, fmt.Errorf("a run of linkage %d: %w", linkageID, ErrNotFound)
	} else if err != nil {
		return r, false, err
	}
	done, all, err := s.ShardsDone(ctx, r.ID)
	return r, done == all, err
}

// keptRuns is how many runs of a linkage are kept: the one that stands and the one before, which it is compared with.
const keptRuns = 2

// StartRun opens a run of so many shards in place of one with the same key, and drops old ones.
func (s *Store) StartRun(ctx context.Context, tx pgx.Tx, r LinkageRun, key string, shards int) (int64, error) {
	if _, err := tx.Exec(ctx, `delete from linkage_run where linkage_id = $1 and (key = $2 or id <= coalesce((select id from linkage_run
		where linkage_id = $1 and key <> $2 order by id desc offset $3 limit 1), 0))`, r.Linkage, key, keptRuns-1); err != nil {
		return 0, err
	}
	walks := r.Spec.Crosswalks
	if walks == nil {
		walks = map[string]map[string]string{}
	}
	var id int64
	if err := tx.QueryRow(ctx, `insert into linkage_run (linkage_id, key, spec, crosswalks, revisions, job_id) values ($1, $2, $3, $4, $5, $6) returning id`,
		r.Linkage, key, r.Spec, walks, r.Revisions, r.Job).Scan(&id); err != nil {
		return 0, err
	}
	_, err := tx.Exec(ctx, `insert into linkage_part (run_id, shard) select $1, n from generate_series(0, $2 - 1) n`, id, shards)
	return id, err
}

// SetRunJob says which job works on a run.
func (s *Store) SetRunJob(ctx context.Context, tx pgx.Tx, run, job int64) error {
	_, err := tx.Exec(ctx, `update linkage_run set job_id = $2 where id = $1`, run, job)
	return err
}

// ShardsDone is how many shards of a run were compared, of how many.
func (s *Store) ShardsDone(ctx context.Context, run int64) (done, all int, err error) {
	err = s.Pool.QueryRow(ctx, `select (count(*) filter (where body is not null))::int, count(*)::int from linkage_part where run_id = $1`, run).Scan(&done, &all)
	return done, all, err
}

// TakeShard says that a worker is at a shard; false where it was compared already, or the run is gone.
func (s *Store) TakeShard(ctx context.Context, run int64, shard int, worker string) (bool, error) {
	tag, err := s.Pool.Exec(ctx, `update linkage_part set worker = $3, beat = now() where run_id = $1 and shard = $2 and body is null`, run, shard, worker)
	return tag.RowsAffected() == 1, err
}

// Lost lists the shards whose worker has not been heard of for a while.
func (s *Store) Lost(ctx context.Context, run int64, silent time.Duration) ([]int, error) {
	rows, _ := s.Pool.Query(ctx, `update linkage_part set beat = now() where run_id = $1 and body is null and beat < now() - $2::interval returning shard`, run, fmt.Sprintf("%f seconds", silent.Seconds()))
	return pgx.CollectRows(rows, pgx.RowTo[int])
}

// KeepShard stores what was compared of a shard. Who is first is kept: it is the same whoever compared it.
func (s *Store) KeepShard(ctx context.Context, run int64, shard int, c *linkage.Compared) error {
	raw, err := c.MarshalBinary()
	if err != nil {
		return err
	}
	enc, err := zstd.NewWriter(nil, zstd.WithEncoderLevel(zstd.SpeedFastest), zstd.WithEncoderConcurrency(1))
	if err != nil {
		return err
	}
	defer enc.Close()
	_, err = s.Pool.Exec(ctx, `update linkage_part set body = $3 where run_id = $1 and shard = $2 and body is null`, run, shard, enc.EncodeAll(raw, nil))
	return err
}

// Parts gives what was compared of a run, shard by shard.
func (s *Store) Parts(ctx context.Context, run int64) ([]*linkage.Compared, error) {
	rows, _ := s.Pool.Query(ctx, `select body from linkage_part where run_id = $1 order by shard`, run)
	dec, err := zstd.NewReader(nil)
	if err != nil {
		return nil, err
	}
	defer dec.Close()
	return pgx.CollectRows(rows, func(row pgx.CollectableRow) (*linkage.Compared, error) {
		var body []byte
		if err := row.Scan(&body); err != nil {
			return nil, err
		}
		raw, err := dec.DecodeAll(body, nil)
		if err != nil {
			return nil, err
		}
		c := &linkage.Compared{}
		return c, c.UnmarshalBinary(raw)
	})
}
