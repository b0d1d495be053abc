package jobs

import (
	"context"
	"encoding/json"
	"fmt"
	"slices"

	"github.com/jackc/pgx/v5"
	"github.com/riverqueue/river"

	"grandledger/core/problem"
	"grandledger/core/table"
	"grandledger/formats"
	"grandledger/store"
)

// RefreshArgs asks to read received files as the next delivery of a table's source.
type RefreshArgs struct {
	Table   int64   `json:"table"`
	Uploads []int64 `json:"uploads"`
}

// Kind names the job for the queue.
func (RefreshArgs) Kind() string { return "refresh" }

// Refresh queues the reading of the next delivery. It is read as the last one was and waits,
// pencilled, until it is posted or another one comes.
func (q *Queue) Refresh(ctx context.Context, tableID int64, uploads []int64) (Job, error) {
	t, err := q.store.Table(ctx, tableID)
	if err != nil {
		return Job{}, err
	}
	if _, err := q.source(ctx, tableID); err != nil {
		return Job{}, err
	}
	if len(uploads) == 0 {
		return Job{}, problem.New("Choose a file", "the delivery has no file")
	}
	bytes := int64(0)
	for _, id := range uploads {
		u, err := q.store.Upload(ctx, id)
		if err != nil {
			return Job{}, err
		}
		if u.BookID != t.BookID {
			return Job{}, fmt.Errorf("upload %d: %w", id, store.ErrNotFound)
		}
		bytes += u.Bytes
	}
	var id int64
	err = pgx.BeginFunc(ctx, q.store.Pool, func(tx pgx.Tx) error {
		id, err = q.add(ctx, tx, RefreshArgs{tableID, uploads}, t.BookID, "Reading the next delivery of "+t.Name, "bytes", bytes)
		return err
	})
	if err != nil {
		return Job{}, err
	}
	return q.Get(ctx, id)
}

// source gives what the last delivery of a table was read from and how.
func (q *Queue) source(ctx context.Context, tableID int64) (Source, error) {
	var s Source
	raw, err := q.store.Source(ctx, tableID)
	if err != nil {
		return s, err
	}
	return s, json.Unmarshal(raw, &s)
}

type refresh struct {
	river.WorkerDefaults[RefreshArgs]
	q *Queue
}

// Work reads the files, keeps them as a delivery that waits, forgets the uploads and
// completes the job, the last three in one transaction.
func (w *refresh) Work(ctx context.Context, job *river.Job[RefreshArgs]) error {
	l, left, err := w.refresh(ctx, job)
	if err != nil {
		return w.q.refused(ctx, job.ID, err)
	}
	w.q.store.Keep(l)
	return remove(left)
}

func (w *refresh) refresh(ctx context.Context, job *river.Job[RefreshArgs]) (*store.Loaded, []string, error) {
	last, err := w.q.source(ctx, job.Args.Table)
	if err != nil {
		return nil, nil, err
	}
	r, err := w.q.read(ctx, job.ID, job.Args.Uploads, last.How)
	if err != nil {
		return nil, nil, err
	}
	t, err := next(r.table, last)
	if err != nil {
		return nil, nil, err
	}
	var left []string
	l, err := end(ctx, w.q, job, t, func(ctx context.Context, tx pgx.Tx) (int64, *store.Loaded, error) {
		l, err := w.q.store.KeepDelivery(ctx, tx, job.Args.Table, t, r.source, r.notes)
		if err == nil {
			left, err = forget(ctx, tx, job.Args.Uploads, job.ID)
		}
		return job.Args.Table, l, err
	})
	return l, left, err
}

// next chooses the columns of a delivery as those of the last one were chosen: under the
// same names, without those that were left out. Columns that are new come too; one that is
// missing is no reason to refuse, as the comparison shows it.
func next(t *table.Table, last Source) (*table.Table, error) {
	if len(last.How.Columns) == 0 {
		return t, nil
	}
	var how formats.How
	for _, choice := range last.How.Columns {
		if _, _, err := t.Column(choice.From); err == nil {
			how.Columns = append(how.Columns, choice)
		}
	}
	for _, c := range t.Columns() {
		if len(last.Names) > 0 && !slices.Contains(last.Names, c.Name) {
			how.Columns = append(how.Columns, formats.Choice{From: c.Name})
		}
	}
	if len(how.Columns) == 0 {
		return nil, problem.New("Bring it in as a table of its own", "it has none of the columns of the last delivery")
	}
	return how.Choose(t)
}
