package jobs

import (
	"context"
	"errors"
	"fmt"
	"io/fs"
	"os"

	"github.com/jackc/pgx/v5"
	"github.com/riverqueue/river"

	"grandledger/core/entry"
	"grandledger/core/problem"
	"grandledger/formats/csv"
	"grandledger/store"
)

// BringInArgs asks to read a received file into a new table.
type BringInArgs struct {
	Upload  int64       `json:"upload"`
	Name    string      `json:"name"`
	Dialect csv.Dialect `json:"dialect"`
}

// Kind names the job for the queue.
func (BringInArgs) Kind() string { return "bring-in" }

// BringIn queues the reading of a received file.
func (q *Queue) BringIn(ctx context.Context, args BringInArgs) (Job, error) {
	u, err := q.store.Upload(ctx, args.Upload)
	if err != nil {
		return Job{}, err
	}
	if err := q.store.FreeName(ctx, u.BookID, args.Name); err != nil {
		return Job{}, err
	}
	var id int64
	err = pgx.BeginFunc(ctx, q.store.Pool, func(tx pgx.Tx) error {
		id, err = q.add(ctx, tx, args, u.BookID, "Bringing in "+u.File, "bytes", u.Bytes)
		return err
	})
	if err != nil {
		return Job{}, err
	}
	return q.Get(ctx, id)
}

type bringIn struct {
	river.WorkerDefaults[BringInArgs]
	q *Queue
}

// Work reads the file, stores the table, forgets the upload and completes the job, the
// last three in one transaction.
func (w *bringIn) Work(ctx context.Context, job *river.Job[BringInArgs]) error {
	u, err := w.q.store.Upload(ctx, job.Args.Upload)
	if errors.Is(err, store.ErrNotFound) {
		return w.q.refused(ctx, job.ID, problem.New("Bring the file in again", "the received file is no longer there"))
	} else if err != nil {
		return err
	}
	l, err := w.bringIn(ctx, job, u)
	if err != nil {
		return w.q.refused(ctx, job.ID, err)
	}
	w.q.store.Keep(l)
	if err := os.Remove(u.Path); err != nil && !errors.Is(err, fs.ErrNotExist) {
		return fmt.Errorf("removing the received file: %w", err)
	}
	return nil
}

func (w *bringIn) bringIn(ctx context.Context, job *river.Job[BringInArgs], u store.Upload) (*store.Loaded, error) {
	f, err := os.Open(u.Path)
	if errors.Is(err, fs.ErrNotExist) {
		return nil, problem.New("Bring the file in again", "the received file is no longer there")
	} else if err != nil {
		return nil, err
	}
	defer f.Close()
	show := &progress{q: w.q, id: job.ID}
	t, report, err := csv.Read(ctx, f, csv.Options{File: u.File, Dialect: &job.Args.Dialect, Size: u.Bytes,
		Progress: func(bytes int64, rows int) { show.at(ctx, bytes, u.Bytes, "bytes", rows) }})
	if err != nil {
		return nil, err
	}
	show.at(ctx, u.Bytes, u.Bytes, "storing", report.Rows)
	var notes []string
	for _, n := range report.Notes {
		notes = append(notes, n.String())
	}
	return conclude(ctx, w.q, job, t, store.Opening{
		Book: u.BookID, Name: job.Args.Name, Kind: "bring-in", Words: "Brought in " + u.File,
		Params: report.Dialect, Balance: entry.Balance{Added: t.Rows(), After: t.Rows()}, Notes: notes,
	}, func(tx pgx.Tx) error { return store.DropUpload(ctx, tx, u.ID) })
}
