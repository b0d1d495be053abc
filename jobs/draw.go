package jobs

import (
	"context"
	"fmt"

	"github.com/jackc/pgx/v5"
	"github.com/riverqueue/river"

	"grandledger/core/duplicate"
	"grandledger/core/join"
	"grandledger/store"
)

// DrawArgs asks to draw a consolidated table from two tables by a join.
type DrawArgs struct {
	Book          int64     `json:"book"`
	Name          string    `json:"name"`
	LeftTable     int64     `json:"leftTable"`
	LeftRevision  int64     `json:"leftRevision"`
	RightTable    int64     `json:"rightTable"`
	RightRevision int64     `json:"rightRevision"`
	Spec          join.Spec `json:"spec"`
}

// Kind names the job for the queue.
func (DrawArgs) Kind() string { return "join" }

// Match loads both sides and matches their rows; what a preview shows.
func (q *Queue) Match(ctx context.Context, a DrawArgs) (*join.Match, []*store.Loaded, error) {
	var sides [2]join.Side
	var loaded []*store.Loaded
	for i, at := range [][2]int64{{a.LeftTable, a.LeftRevision}, {a.RightTable, a.RightRevision}} {
		t, err := q.store.Table(ctx, at[0])
		if err != nil {
			return nil, nil, err
		}
		if t.BookID != a.Book {
			return nil, nil, fmt.Errorf("table %d in book %d: %w", t.ID, a.Book, store.ErrNotFound)
		}
		l, err := q.store.LoadOf(ctx, at[0], at[1])
		if err != nil {
			return nil, nil, err
		}
		sides[i] = join.Side{Table: l.Table, Name: t.Name}
		loaded = append(loaded, l)
	}
	a.Spec.Standards = map[string]map[string]string{}
	for _, on := range a.Spec.On {
		if on.Crosswalk == "" {
			continue
		}
		known, err := q.store.Decisions(ctx, a.Book, on.Crosswalk)
		if err != nil {
			return nil, nil, err
		}
		a.Spec.Standards[on.Crosswalk] = known.Standard
	}
	m, err := join.Find(sides[0], sides[1], a.Spec)
	return m, loaded, err
}

// Draw queues a join. A key that was used before gives the job queued then.
func (q *Queue) Draw(ctx context.Context, key string, a DrawArgs) (Job, error) {
	m, _, err := q.Match(ctx, a)
	if err != nil {
		return Job{}, err
	}
	var id int64
	err = pgx.BeginFunc(ctx, q.store.Pool, func(tx pgx.Tx) error {
		done, err := store.Claim(ctx, tx, key, &id)
		if err != nil || done {
			return err
		}
		if err := q.store.FreeName(ctx, a.Book, a.Name); err != nil {
			return err
		}
		if id, err = q.add(ctx, tx, a, a.Book, "Drawing "+a.Name, "rows", int64(m.Coverage.Result)); err != nil {
			return err
		}
		return store.Answer(ctx, tx, key, id)
	})
	if err != nil {
		return Job{}, err
	}
	return q.Get(ctx, id)
}

type draw struct {
	river.WorkerDefaults[DrawArgs]
	q *Queue
}

// Work joins, stores the consolidated table and completes the job, the last two in one
// transaction.
func (w *draw) Work(ctx context.Context, job *river.Job[DrawArgs]) error {
	l, err := w.draw(ctx, job)
	if err != nil {
		return w.q.refused(ctx, job.ID, err)
	}
	w.q.store.Keep(l)
	return nil
}

func (w *draw) draw(ctx context.Context, job *river.Job[DrawArgs]) (*store.Loaded, error) {
	m, sources, err := w.q.Match(ctx, job.Args)
	if err != nil {
		return nil, err
	}
	r, err := m.Result(ctx)
	if err != nil {
		return nil, err
	}
	var names [2]string
	for i, id := range []int64{job.Args.LeftTable, job.Args.RightTable} {
		t, err := w.q.store.Table(ctx, id)
		if err != nil {
			return nil, err
		}
		names[i] = t.Name
	}
	return conclude(ctx, w.q, job, r.Table, store.Opening{
		Book: job.Args.Book, Name: job.Args.Name, Consolidated: true, Kind: "join", Words: Words(names[0], names[1], job.Args.Spec),
		Params: job.Args, Balance: r.Balance, From: sources, Aside: r.Aside,
	}, nil)
}

// Words says what a join does, for the journal.
func Words(left, right string, s join.Spec) string {
	on := ""
	for i, p := range s.On {
		if i > 0 {
			on += " and "
		}
		on += p.Left
		if p.Right != p.Left {
			on += " = " + p.Right
		}
		switch {
		case p.Crosswalk != "":
			on += " by the crosswalk " + p.Crosswalk
		case p.As != "":
			on += map[duplicate.As]string{duplicate.Folded: ", case and marks aside", duplicate.Words: ", by their words", duplicate.Read: ", as they are read"}[p.As]
		}
	}
	keep := map[join.Rows]string{join.Both: "rows found in both", join.Left: "all rows of " + left,
		join.Right: "all rows of " + right, join.All: "all rows of both"}[s.Rows]
	return fmt.Sprintf("Drew %s and %s together on %s, keeping %s", left, right, on, keep)
}
