package jobs

import (
	"context"
	"sync"

	"github.com/jackc/pgx/v5"
	"github.com/riverqueue/river"
	"github.com/riverqueue/river/riverdriver/riverpgxv5"

	"grandledger/core/table"
	"grandledger/store"
)

// conclude ends a job that makes a table: it stores the table and does what else belongs to
// it, in one transaction with the end of the job.
func conclude[A river.JobArgs](ctx context.Context, q *Queue, job *river.Job[A], t *table.Table, o store.Opening, also func(tx pgx.Tx) error) (*store.Loaded, error) {
	return end(ctx, q, job, t, func(ctx context.Context, tx pgx.Tx) (int64, *store.Loaded, error) {
		id, l, err := q.store.CreateTable(ctx, tx, t, o)
		if err == nil && also != nil {
			err = also(tx)
		}
		return id, l, err
	})
}

// end stores what a job made of a table, notes which table it belongs to and marks the job
// done, in one transaction.
func end[A river.JobArgs](ctx context.Context, q *Queue, job *river.Job[A], t *table.Table, keep func(ctx context.Context, tx pgx.Tx) (int64, *store.Loaded, error)) (*store.Loaded, error) {
	defer ahead(t)()
	show := &progress{q: q, id: job.ID}
	ctx = store.WithProgress(ctx, func(done, total int) { show.at(ctx, int64(done), int64(total), "storing", t.Rows()) })
	var l *store.Loaded
	err := pgx.BeginFunc(ctx, q.store.Pool, func(tx pgx.Tx) error {
		id, made, err := keep(ctx, tx)
		if err != nil {
			return err
		}
		l = made
		_, err = tx.Exec(ctx, `update progress set table_id = $2, done = total, rows = $3 where job_id = $1`, job.ID, id, t.Rows())
		if err != nil {
			return err
		}
		if _, err := river.JobCompleteTx[*riverpgxv5.Driver](ctx, tx, job); err != nil {
			return err
		}
		return store.Tell(ctx, tx, "job", job.ID)
	})
	return l, err
}

// ahead works out, while a table is being stored, what every view of it asks first. The
// function it gives waits for the end.
func ahead(t *table.Table) (wait func()) {
	var work sync.WaitGroup
	columns := t.Columns()
	for worker := range 2 {
		work.Go(func() {
			for i := worker; i < len(columns); i += 2 {
				t.Counts(columns[i])
				columns[i].Read()
				columns[i].Dict.Facts()
			}
		})
	}
	return work.Wait
}
