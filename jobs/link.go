package jobs

import (
	"context"
	"errors"
	"fmt"
	"sync"
	"time"

	"github.com/jackc/pgx/v5"
	"github.com/riverqueue/river"
	"github.com/riverqueue/river/rivertype"

	"grandledger/core/linkage"
	"grandledger/core/table"
	"grandledger/store"
)

// LinkArgs asks to link the tables of a run: its shards are put on a queue of their own, from which every process that works on the database takes them, and are waited for.
type LinkArgs struct {
	Run int64 `json:"run"`
}

// Kind names the job for the queue.
func (LinkArgs) Kind() string { return "link" }

// ShardArgs asks to compare the pairs of one shard of a run.
type ShardArgs struct {
	Run   int64 `json:"run"`
	Shard int   `json:"shard"`
}

// Kind names the job for the queue.
func (ShardArgs) Kind() string { return "shard" }

const (
	shardQueue = "shards"
	// lostAfter is after how long of silence a shard is given to somebody else.
	lostAfter = 20 * time.Second
	beatEvery = 4 * time.Second
)

// Link queues a run of a linkage. One of the same key that is under way or done is given instead.
func (q *Queue) Link(ctx context.Context, book int64, name string, r store.LinkageRun, key string, records int) (Job, error) {
	if have, _, err := q.store.RunOf(ctx, r.Linkage, key); err == nil {
		if job, err := q.Get(ctx, have.Job); err == nil && job.State != Cancelled && job.State != Failed {
			return job, nil
		}
	} else if !errors.Is(err, store.ErrNotFound) {
		return Job{}, err
	}
	var id int64
	err := pgx.BeginFunc(ctx, q.store.Pool, func(tx pgx.Tx) error {
		if _, err := tx.Exec(ctx, `select from linkage where id = $1 for update`, r.Linkage); err != nil {
			return err
		}
		shards := 1 + records/q.shardRecords
		run, err := q.store.StartRun(ctx, tx, r, key, shards)
		if err != nil {
			return err
		}
		if id, err = q.add(ctx, tx, LinkArgs{run}, book, "Linking "+name, "shards", int64(shards)); err != nil {
			return err
		}
		for shard := range shards {
			if _, err := q.client.InsertTx(ctx, tx, ShardArgs{run, shard}, &river.InsertOpts{Queue: shardQueue, MaxAttempts: 5}); err != nil {
				return err
			}
		}
		return q.store.SetRunJob(ctx, tx, run, id)
	})
	if err != nil {
		return Job{}, err
	}
	return q.Get(ctx, id)
}

// Linking gives the job that is at a linkage now.
func (q *Queue) Linking(ctx context.Context, linkageID int64) (Job, error) {
	rows, _ := q.store.Pool.Query(ctx, selectJobs+`join linkage_run r on r.job_id = p.job_id where r.linkage_id = $1 and j.finalized_at is null order by r.id desc limit 1`, linkageID)
	return pgx.CollectExactlyOneRow(rows, scan)
}

type link struct {
	river.WorkerDefaults[LinkArgs]
	q *Queue
}

// Work waits until all shards are compared. Those whose worker fell silent are put on the queue again.
func (w *link) Work(ctx context.Context, job *river.Job[LinkArgs]) error {
	show := &progress{q: w.q, id: job.ID}
	ticks := time.NewTicker(200 * time.Millisecond)
	defer ticks.Stop()
	for {
		done, all, err := w.q.store.ShardsDone(ctx, job.Args.Run)
		if err != nil {
			return err
		}
		show.at(ctx, int64(done), int64(all), "shards", 0)
		if done == all {
			_, err := w.q.store.Pool.Exec(ctx, `update progress set done = total where job_id = $1`, job.ID)
			return err
		}
		lost, err := w.q.store.Lost(ctx, job.Args.Run, lostAfter)
		if err != nil {
			return err
		}
		for _, shard := range lost {
			if _, err := w.q.client.Insert(ctx, ShardArgs{job.Args.Run, shard}, &river.InsertOpts{Queue: shardQueue, MaxAttempts: 5}); err != nil {
				return err
			}
		}
		select {
		case <-ctx.Done():
			return ctx.Err()
		case <-ticks.C:
		}
	}
}

type shard struct {
	river.WorkerDefaults[ShardArgs]
	q *Queue
}

// Work compares the pairs of a shard and keeps them. Nothing is done for a run that was cancelled or is gone.
func (w *shard) Work(ctx context.Context, job *river.Job[ShardArgs]) error {
	q := w.q
	wanted, err := q.wanted(ctx, job.Args.Run)
	if err != nil || !wanted {
		return err
	}
	if free, err := q.store.TakeShard(ctx, job.Args.Run, job.Args.Shard, q.name); err != nil || !free {
		return err
	}
	ctx, stop := context.WithCancel(ctx)
	defer stop()
	var beating sync.WaitGroup
	beating.Go(func() { q.beat(ctx, stop, job.Args) })
	defer beating.Wait()
	defer stop()
	plan, _, err := q.Plan(ctx, job.Args.Run)
	if err != nil {
		return w.given(job, err)
	}
	_, all, err := q.store.ShardsDone(ctx, job.Args.Run)
	if err != nil {
		return w.given(job, err)
	}
	c, err := plan.Compare(ctx, job.Args.Shard, all)
	if err != nil {
		return w.given(job, err)
	}
	return q.store.KeepShard(ctx, job.Args.Run, job.Args.Shard, c)
}

// given ends a shard without an error where its run is no longer wanted.
func (w *shard) given(job *river.Job[ShardArgs], err error) error {
	if wanted, gone := w.q.wanted(context.Background(), job.Args.Run); gone == nil && !wanted {
		return nil
	}
	return err
}

// wanted says whether a run is neither cancelled nor gone.
func (q *Queue) wanted(ctx context.Context, run int64) (bool, error) {
	r, err := q.store.Run(ctx, run)
	if errors.Is(err, store.ErrNotFound) {
		return false, nil
	} else if err != nil {
		return false, err
	}
	var state string
	err = q.store.Pool.QueryRow(ctx, `select state::text from river_job where id = $1`, r.Job).Scan(&state)
	if errors.Is(err, pgx.ErrNoRows) {
		return false, nil
	}
	return rivertype.JobState(state) != rivertype.JobStateCancelled && rivertype.JobState(state) != rivertype.JobStateDiscarded, err
}

// beat says every few seconds that a shard is worked on, and stops the work once its run is not wanted any more.
func (q *Queue) beat(ctx context.Context, stop func(), a ShardArgs) {
	ticks := time.NewTicker(beatEvery)
	defer ticks.Stop()
	for {
		select {
		case <-ctx.Done():
			return
		case <-ticks.C:
			if wanted, err := q.wanted(ctx, a.Run); err == nil && !wanted {
				stop()
				return
			}
			if _, err := q.store.TakeShard(ctx, a.Run, a.Shard, q.name); err != nil && ctx.Err() == nil {
				continue // a lost database is met by the work itself
			}
		}
	}
}

// planned is the plan that was made last.
type planned struct {
	sync.Mutex
	run    int64
	plan   *linkage.Plan
	loaded []*store.Loaded
}

// Plan makes the plan of a run, or gives the one that was made last, with the tables it is of.
func (q *Queue) Plan(ctx context.Context, run int64) (*linkage.Plan, []*store.Loaded, error) {
	q.planned.Lock()
	defer q.planned.Unlock()
	if q.planned.run == run {
		return q.planned.plan, q.planned.loaded, nil
	}
	r, err := q.store.Run(ctx, run)
	if err != nil {
		return nil, nil, err
	}
	var tables []*table.Table
	var loaded []*store.Loaded
	for _, revision := range r.Revisions {
		l, err := q.store.Load(ctx, revision)
		if err != nil {
			return nil, nil, err
		}
		tables, loaded = append(tables, l.Table), append(loaded, l)
	}
	q.planned.plan = nil // before another is made
	plan, err := linkage.Prepare(ctx, tables, r.Spec)
	if err != nil {
		q.planned.run = 0
		return nil, nil, fmt.Errorf("run %d: %w", run, err)
	}
	q.planned.run, q.planned.plan, q.planned.loaded = run, plan, loaded
	return plan, loaded, nil
}
