package jobs

import (
	"context"
	"encoding/json"

	"github.com/jackc/pgx/v5"
	"github.com/riverqueue/river"

	"grandledger/asking"
	"grandledger/store"
)

// AskArgs asks to ask a service for the values of a column that it was not asked for yet.
type AskArgs struct {
	Asking int64 `json:"asking"`
}

// Kind names the job for the queue.
func (AskArgs) Kind() string { return "ask" }

// Ask queues the asking of a service.
func (q *Queue) Ask(ctx context.Context, a store.Asking) (Job, error) {
	var id int64
	err := pgx.BeginFunc(ctx, q.store.Pool, func(tx pgx.Tx) (err error) {
		id, err = q.add(ctx, tx, AskArgs{a.ID}, a.Book, "Asking "+a.Authority, "values", 0)
		return err
	})
	if err != nil {
		return Job{}, err
	}
	return q.Get(ctx, id)
}

// AskingNow gives the job that is asking.
func (q *Queue) AskingNow(ctx context.Context, id int64) (Job, error) {
	rows, _ := q.store.Pool.Query(ctx, selectJobs+`where j.kind = 'ask' and (j.args->>'asking')::bigint = $1 and j.finalized_at is null order by p.job_id desc limit 1`, id)
	return pgx.CollectExactlyOneRow(rows, scan)
}

type ask struct {
	river.WorkerDefaults[AskArgs]
	q *Queue
}

// Work asks what is not answered yet; each answer is kept as it comes, so that one that is cut off goes on where it was.
func (w *ask) Work(ctx context.Context, job *river.Job[AskArgs]) error {
	return w.q.refused(ctx, job.ID, w.ask(ctx, job))
}

func (w *ask) ask(ctx context.Context, job *river.Job[AskArgs]) error {
	q := w.q
	a, err := q.store.Asking(ctx, job.Args.Asking)
	if err != nil {
		return err
	}
	s, err := asking.Open(a.Address, asking.Options{Allow: q.services})
	if err != nil {
		return err
	}
	t, err := q.store.Table(ctx, a.Table)
	if err != nil {
		return err
	}
	l, err := q.store.Load(ctx, t.Head)
	if err != nil {
		return err
	}
	of, err := q.Asked(ctx, a)
	if err != nil {
		return err
	}
	if of.Names, err = asking.Distinct(l.Table, a.Question.Column); err != nil {
		return err
	}
	var properties []string
	for _, w := range a.Question.With {
		properties = append(properties, w.Properties...)
	}
	show := &progress{q: q, id: job.ID}
	of.Keep = func(name string, found []asking.Candidate) error { return q.store.KeepOffer(ctx, a.ID, name, found) }
	of.KeepFacts = func(id string, facts map[string][]string) error { return q.store.KeepFacts(ctx, a.ID, id, facts) }
	if err := s.All(ctx, of, "", properties, func(done int) { show.at(ctx, int64(done), int64(len(of.Names)), "values", 0) }); err != nil {
		return err
	}
	_, err = q.store.Pool.Exec(ctx, `update progress set done = $2, total = $2 where job_id = $1`, job.ID, len(of.Names))
	return err
}

// Asked gives what a service has answered so far.
func (q *Queue) Asked(ctx context.Context, a store.Asking) (*asking.Asked, error) {
	out := &asking.Asked{Offered: map[string][]asking.Candidate{}, Facts: map[string]map[string][]string{}}
	offers, err := q.store.Offers(ctx, a.ID)
	if err != nil {
		return nil, err
	}
	for name, raw := range offers {
		var found []asking.Candidate
		if err := json.Unmarshal(raw, &found); err != nil {
			return nil, err
		}
		out.Offered[name] = found
	}
	facts, err := q.store.FactsOf(ctx, a.ID)
	if err != nil {
		return nil, err
	}
	for id, raw := range facts {
		var of map[string][]string
		if err := json.Unmarshal(raw, &of); err != nil {
			return nil, err
		}
		out.Facts[id] = of
	}
	return out, nil
}
