package jobs

import (
	"context"
	"errors"
	"fmt"
	"io"
	"io/fs"
	"os"

	"github.com/jackc/pgx/v5"
	"github.com/riverqueue/river"

	"grandledger/core/entry"
	"grandledger/core/problem"
	"grandledger/core/table"
	"grandledger/formats"
	"grandledger/formats/intake"
	"grandledger/store"
)

// BringInArgs asks to read received files into one new table.
type BringInArgs struct {
	Uploads []int64     `json:"uploads"`
	Name    string      `json:"name"`
	How     formats.How `json:"how"`
}

// Kind names the job for the queue.
func (BringInArgs) Kind() string { return "bring-in" }

// Source is kept as the parameters of a table's opening entry: what was read and how, so
// that the next delivery can be read the same way.
type Source struct {
	Files []string    `json:"files"`
	How   formats.How `json:"how"`
	Names []string    `json:"names,omitempty"` // of all columns of the files, brought in or not
}

// BringIn queues the reading of received files, a job for each table, all or none.
func (q *Queue) BringIn(ctx context.Context, book int64, tables []BringInArgs) ([]Job, error) {
	ids := make([]int64, len(tables))
	err := pgx.BeginFunc(ctx, q.store.Pool, func(tx pgx.Tx) error {
		names := map[string]bool{}
		for i, args := range tables {
			if err := q.store.FreeName(ctx, book, args.Name); err != nil {
				return err
			}
			if names[args.Name] {
				return problem.New("Give each table a name of its own", "two tables would be named %q", args.Name)
			}
			names[args.Name] = true
			bytes, title := int64(0), ""
			for _, id := range args.Uploads {
				u, err := q.store.Upload(ctx, id)
				if err != nil {
					return err
				}
				if u.BookID != book {
					return fmt.Errorf("upload %d: %w", id, store.ErrNotFound)
				}
				bytes += u.Bytes
				if title == "" {
					title = "Bringing in " + u.File
				}
			}
			if n := len(args.Uploads); n > 1 {
				title += fmt.Sprintf(" and %d more", n-1)
			}
			id, err := q.add(ctx, tx, args, book, title, "bytes", bytes)
			if err != nil {
				return err
			}
			ids[i] = id
		}
		return nil
	})
	if err != nil {
		return nil, err
	}
	made := make([]Job, len(ids))
	for i, id := range ids {
		if made[i], err = q.Get(ctx, id); err != nil {
			return nil, err
		}
	}
	return made, nil
}

type bringIn struct {
	river.WorkerDefaults[BringInArgs]
	q *Queue
}

// Work reads the files, stores the table, forgets the uploads and completes the job, the
// last three in one transaction.
func (w *bringIn) Work(ctx context.Context, job *river.Job[BringInArgs]) error {
	l, left, err := w.bringIn(ctx, job)
	if err != nil {
		return w.q.refused(ctx, job.ID, err)
	}
	w.q.store.Keep(l)
	return remove(left)
}

// forget forgets files that no other job still wants, and gives the paths of the bytes
// to remove after the commit. Two jobs that end at once wait for one another here.
func forget(ctx context.Context, tx pgx.Tx, uploads []int64, job int64) ([]string, error) {
	if _, err := tx.Exec(ctx, `select from upload where id = any($1) order by id for update`, uploads); err != nil {
		return nil, err
	}
	rows, _ := tx.Query(ctx, `delete from upload u where id = any($1) and not exists (select from river_job j
		where j.kind in ('bring-in', 'refresh') and j.finalized_at is null and j.id <> $2 and j.args -> 'uploads' @> to_jsonb(u.id))
		returning case when own then path else '' end`, uploads, job)
	return pgx.CollectRows(rows, pgx.RowTo[string])
}

// Discard forgets a received file. One that is being brought in is refused.
func (q *Queue) Discard(ctx context.Context, upload int64) error {
	u, err := q.store.Upload(ctx, upload)
	if err != nil {
		return err
	}
	var left []string
	err = pgx.BeginFunc(ctx, q.store.Pool, func(tx pgx.Tx) error {
		left, err = forget(ctx, tx, []int64{upload}, 0)
		return err
	})
	if err != nil {
		return err
	}
	if len(left) == 0 {
		return problem.New("Cancel that first", "%s is being brought in", u.File)
	}
	return remove(left)
}

// remove removes the bytes of files that were forgotten; an empty path is none of ours.
func remove(paths []string) error {
	for _, path := range paths {
		if path == "" {
			continue
		}
		if err := os.Remove(path); err != nil && !errors.Is(err, fs.ErrNotExist) {
			return fmt.Errorf("removing a received file: %w", err)
		}
	}
	return nil
}

func gone() error {
	return problem.New("Bring the file in again", "the received file is no longer there")
}

// open opens the bytes of uploads as sources. Close them afterwards.
func (q *Queue) open(uploads []store.Upload) (sources []formats.Source, close func(), err error) {
	var open []io.Closer
	close = func() {
		for _, f := range open {
			f.Close()
		}
	}
	for _, u := range uploads {
		s, f, err := q.Open(u)
		if err != nil {
			close()
			return nil, nil, err
		}
		sources, open = append(sources, s), append(open, f)
	}
	return sources, close, nil
}

// Open opens the bytes of an upload as a source, under the name it came with.
func (q *Queue) Open(u store.Upload) (formats.Source, io.Closer, error) {
	var f *os.File
	var err error
	if u.Own {
		f, err = os.Open(u.Path)
	} else {
		f, err = q.allowed.open(u.Path)
	}
	if errors.Is(err, fs.ErrNotExist) {
		return formats.Source{}, nil, gone()
	} else if err != nil {
		return formats.Source{}, nil, err
	}
	st, err := f.Stat()
	if err != nil {
		f.Close()
		return formats.Source{}, nil, err
	}
	return formats.Source{Name: u.File, Size: st.Size(), At: f}, f, nil
}

// received is what a job has read from received files: all of their columns.
type received struct {
	table  *table.Table
	source Source
	notes  []string
	book   int64
}

// read reads received files and shows how far it is.
func (q *Queue) read(ctx context.Context, job int64, ids []int64, how formats.How) (*received, error) {
	var uploads []store.Upload
	for _, id := range ids {
		u, err := q.store.Upload(ctx, id)
		if errors.Is(err, store.ErrNotFound) {
			return nil, gone()
		} else if err != nil {
			return nil, err
		}
		uploads = append(uploads, u)
	}
	sources, done, err := q.open(uploads)
	if err != nil {
		return nil, err
	}
	defer done()
	r := &received{source: Source{Files: []string{}, How: how}, book: uploads[0].BookID}
	bytes := int64(0)
	for _, s := range sources {
		r.source.Files, bytes = append(r.source.Files, s.Name), bytes+s.Size
	}
	if err := r.source.How.Propose(sources[0]); err != nil {
		return nil, err
	}
	all := r.source.How
	all.Columns = nil
	show := &progress{q: q, id: job}
	seen := 0
	t, report, err := formats.Read(ctx, sources, all, intake.Options{
		Progress: func(done int64, rows int) { seen = rows; show.at(ctx, done, bytes, "bytes", rows) },
		Settling: func(done, total int) { show.at(ctx, int64(done), int64(total), "settling", seen) }})
	if err != nil {
		return nil, err
	}
	r.table = t
	for _, c := range t.Columns() {
		r.source.Names = append(r.source.Names, c.Name)
	}
	for _, n := range report.Notes {
		r.notes = append(r.notes, n.String())
	}
	return r, nil
}

// Words says which files were read.
func (s Source) Words() string {
	if n := len(s.Files); n > 1 {
		return fmt.Sprintf("%s and %d more files", s.Files[0], n-1)
	}
	return s.Files[0]
}

func (w *bringIn) bringIn(ctx context.Context, job *river.Job[BringInArgs]) (*store.Loaded, []string, error) {
	r, err := w.q.read(ctx, job.ID, job.Args.Uploads, job.Args.How)
	if err != nil {
		return nil, nil, err
	}
	t, err := r.source.How.Choose(r.table)
	if err != nil {
		return nil, nil, problem.In(r.source.Files[0], err)
	}
	var left []string
	l, err := conclude(ctx, w.q, job, t, store.Opening{
		Book: r.book, Name: job.Args.Name, Kind: "bring-in", Words: "Brought in " + r.source.Words(),
		Params: r.source, Balance: entry.Balance{Added: t.Rows(), After: t.Rows()}, Notes: r.notes,
	}, func(tx pgx.Tx) error {
		left, err = forget(ctx, tx, job.Args.Uploads, job.ID)
		return err
	})
	return l, left, err
}
