// Package jobs does long work on a queue in PostgreSQL (River): bringing files in,
// refreshing tables and drawing consolidated ones. A job shows its progress, can be cancelled, and ends in
// one transaction that stores its result and marks it done, so that it happened wholly
// or not at all whatever is killed meanwhile, and never twice.
package jobs

import (
	"cmp"
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"log/slog"
	"time"

	"github.com/jackc/pgx/v5"
	"github.com/riverqueue/river"
	"github.com/riverqueue/river/riverdriver/riverpgxv5"
	"github.com/riverqueue/river/rivermigrate"
	"github.com/riverqueue/river/rivertype"

	"grandledger/core/linkage"
	"grandledger/core/problem"
	"grandledger/store"
)

// State is where a job stands, in words of the interface.
type State string

// The states of a job.
const (
	Waiting   State = "waiting"
	Working   State = "working"
	Done      State = "done"
	Failed    State = "failed"
	Cancelled State = "cancelled"
)

// Job is a job as the interface shows it.
type Job struct {
	ID, Book    int64
	Kind, Title string
	State       State
	Done, Total int64
	Unit        string
	Rows        int
	StartedAt   time.Time
	SecondsLeft int // an estimate; 0 where there is none
	Table       int64
	Problem     *problem.Problem
}

// worker is the name under which the process that serves works on jobs; one process has a data
// directory, so what was running under it when it starts was interrupted.
const worker = "grandledger"

// Options say what a queue works on.
type Options struct {
	// Helper is the name of a process that works on the shards of linkages alone, beside the one that serves; empty for that one.
	Helper string
	// ShardRecords is how many records a shard of a linkage has; 0 for what is usual.
	ShardRecords int
	// Services are the authorities, as host:port, that are asked though their addresses are private.
	Services []string
}

// Queue runs jobs and answers for them.
type Queue struct {
	store  *store.Store
	client *river.Client[pgx.Tx]

	name         string
	shardRecords int
	planned      planned
	allowed      allowed
	services     []string // addresses that are asked though they are private
}

// Open brings the queue's schema up to date and makes ready to work.
func Open(ctx context.Context, s *store.Store, o Options) (*Queue, error) {
	driver := riverpgxv5.New(s.Pool)
	m, err := rivermigrate.New(driver, nil)
	if err != nil {
		return nil, err
	}
	if _, err := m.Migrate(ctx, rivermigrate.DirectionUp, nil); err != nil {
		return nil, fmt.Errorf("bringing the queue's schema up to date: %w", err)
	}
	q := &Queue{store: s, name: cmp.Or(o.Helper, worker), shardRecords: cmp.Or(o.ShardRecords, linkage.ShardRecords), services: o.Services}
	queues := map[string]river.QueueConfig{shardQueue: {MaxWorkers: 1}}
	if o.Helper == "" {
		queues[river.QueueDefault] = river.QueueConfig{MaxWorkers: 2}
	}
	workers := river.NewWorkers()
	river.AddWorker(workers, &bringIn{q: q})
	river.AddWorker(workers, &draw{q: q})
	river.AddWorker(workers, &refresh{q: q})
	river.AddWorker(workers, &link{q: q})
	river.AddWorker(workers, &shard{q: q})
	river.AddWorker(workers, &ask{q: q})
	q.client, err = river.NewClient(driver, &river.Config{
		ID:                q.name,
		Queues:            queues,
		Workers:           workers,
		FetchPollInterval: 200 * time.Millisecond,
		JobTimeout:        -1, // a job is as long as its file; it can be cancelled
		Logger:            slog.New(slog.DiscardHandler),
		ErrorHandler:      logged{},
	})
	return q, err
}

// Start begins to work; jobs that were interrupted by a crash are taken up again.
func (q *Queue) Start(ctx context.Context) error {
	_, err := q.store.Pool.Exec(ctx, `update river_job set state = 'available', scheduled_at = now()
		where state = 'running' and attempted_by[array_upper(attempted_by, 1)] = $1`, q.name)
	if err != nil {
		return err
	}
	return q.client.Start(ctx)
}

// Stop cancels the jobs under way, which wait for the next start, and ends the work.
func (q *Queue) Stop(ctx context.Context) error {
	return q.client.StopAndCancel(ctx)
}

// add puts a job on the queue within a transaction.
func (q *Queue) add(ctx context.Context, tx pgx.Tx, args river.JobArgs, book int64, title, unit string, total int64) (int64, error) {
	in, err := q.client.InsertTx(ctx, tx, args, &river.InsertOpts{MaxAttempts: 5})
	if err != nil {
		return 0, err
	}
	_, err = tx.Exec(ctx, `insert into progress (job_id, book_id, title, unit, total) values ($1, $2, $3, $4, $5)`,
		in.Job.ID, book, title, unit, total)
	if err != nil {
		return 0, err
	}
	return in.Job.ID, store.Tell(ctx, tx, "job", in.Job.ID)
}

const selectJobs = `select p.job_id, p.book_id, j.kind, p.title, j.state::text, p.done, p.total, p.unit, p.rows,
	coalesce(j.attempted_at, p.started_at), coalesce(p.table_id, 0), p.problem
	from progress p join river_job j on j.id = p.job_id `

// Get gives one job.
func (q *Queue) Get(ctx context.Context, id int64) (Job, error) {
	rows, _ := q.store.Pool.Query(ctx, selectJobs+`where p.job_id = $1`, id)
	j, err := pgx.CollectExactlyOneRow(rows, scan)
	if errors.Is(err, pgx.ErrNoRows) {
		return j, fmt.Errorf("job %d: %w", id, store.ErrNotFound)
	}
	return j, err
}

// List gives a book's jobs under way and those that ended in the last hour, newest first.
func (q *Queue) List(ctx context.Context, book int64) ([]Job, error) {
	rows, _ := q.store.Pool.Query(ctx, selectJobs+`where p.book_id = $1 and (j.finalized_at is null or j.finalized_at > now() - interval '1 hour')
		order by p.job_id desc limit 100`, book)
	return pgx.CollectRows(rows, scan)
}

func scan(row pgx.CollectableRow) (Job, error) {
	var j Job
	var state string
	var bad []byte
	err := row.Scan(&j.ID, &j.Book, &j.Kind, &j.Title, &state, &j.Done, &j.Total, &j.Unit, &j.Rows, &j.StartedAt, &j.Table, &bad)
	if err != nil {
		return j, err
	}
	if bad != nil {
		j.Problem = &problem.Problem{}
		if err := json.Unmarshal(bad, j.Problem); err != nil {
			return j, err
		}
	}
	switch rivertype.JobState(state) {
	case rivertype.JobStateCompleted:
		j.State = Done
	case rivertype.JobStateRunning:
		j.State = Working
	case rivertype.JobStateDiscarded:
		j.State = Failed
	case rivertype.JobStateCancelled:
		j.State = Cancelled
		if j.Problem != nil {
			j.State = Failed
		}
	default:
		j.State = Waiting
	}
	if spent := time.Since(j.StartedAt).Seconds(); j.State == Working && j.Done > 0 && j.Total > j.Done {
		j.SecondsLeft = int(spent*float64(j.Total-j.Done)/float64(j.Done)) + 1
	}
	return j, nil
}

// Cancel asks a job to stop. One that has ended stays as it ended.
func (q *Queue) Cancel(ctx context.Context, id int64) (Job, error) {
	if _, err := q.client.JobCancel(ctx, id); err != nil && !errors.Is(err, river.ErrNotFound) {
		return Job{}, err
	}
	if err := q.tell(ctx, id); err != nil {
		return Job{}, err
	}
	return q.Get(ctx, id)
}

func (q *Queue) tell(ctx context.Context, id int64) error {
	return pgx.BeginFunc(ctx, q.store.Pool, func(tx pgx.Tx) error { return store.Tell(ctx, tx, "job", id) })
}

// refused records why a job cannot be done and ends it for good; any other error is
// tried again by the queue.
func (q *Queue) refused(ctx context.Context, id int64, err error) error {
	var p *problem.Problem
	if !errors.As(err, &p) {
		return err
	}
	raw, marshalErr := json.Marshal(p)
	if marshalErr != nil {
		return marshalErr
	}
	if _, err := q.store.Pool.Exec(ctx, `update progress set problem = $2 where job_id = $1`, id, raw); err != nil {
		return err
	}
	return river.JobCancel(p)
}

// progress writes how far a job is, four times a second at most.
type progress struct {
	q    *Queue
	id   int64
	last time.Time
}

func (p *progress) at(ctx context.Context, done, total int64, unit string, rows int) {
	if time.Since(p.last) < 250*time.Millisecond {
		return
	}
	p.last = time.Now()
	// What fails here is only the showing; the work itself will meet a lost database.
	_, err := p.q.store.Pool.Exec(ctx, `with u as (update progress set done = $2, total = $3, unit = $4, rows = $5 where job_id = $1)
		select pg_notify($6, json_build_object('job', $1::bigint)::text)`, p.id, done, total, unit, rows, store.Channel)
	if err != nil && ctx.Err() == nil {
		slog.Warn("progress was not written", "job", p.id, "error", err)
	}
}

// logged tells the operator of jobs that fail for reasons of the machine.
type logged struct{}

func (logged) HandleError(_ context.Context, job *rivertype.JobRow, err error) *river.ErrorHandlerResult {
	var cancelled *river.JobCancelError
	if !errors.As(err, &cancelled) && !errors.Is(err, context.Canceled) {
		slog.Error("a job failed", "job", job.ID, "kind", job.Kind, "attempt", job.Attempt, "error", err)
	}
	return nil
}

func (logged) HandlePanic(_ context.Context, job *rivertype.JobRow, value any, trace string) *river.ErrorHandlerResult {
	slog.Error("a job panicked", "job", job.ID, "kind", job.Kind, "value", value, "trace", trace)
	return nil
}
