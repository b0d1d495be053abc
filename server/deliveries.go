package server

import (
	"context"
	"encoding/json"
	"fmt"
	"slices"

	"grandledger/api"
	"grandledger/core/compare"
	"grandledger/core/entry"
	"grandledger/core/problem"
	"grandledger/core/reading"
	"grandledger/core/table"
	"grandledger/jobs"
	"grandledger/store"
)

// RefreshTable queues the reading of the next delivery.
func (s *Server) RefreshTable(ctx context.Context, r api.RefreshTableRequestObject) (api.RefreshTableResponseObject, error) {
	j, err := s.queue.Refresh(ctx, r.Table, r.Body.Uploads)
	return api.RefreshTable202JSONResponse(jobOf(j)), err
}

// GetDelivery compares the delivery that waits with the last one and replays the journal on
// it; nothing is stored.
func (s *Server) GetDelivery(ctx context.Context, r api.GetDeliveryRequestObject) (api.GetDeliveryResponseObject, error) {
	renames := store.Renames{}
	if r.Params.Renames != "" {
		if err := json.Unmarshal([]byte(r.Params.Renames), &renames); err != nil {
			return nil, problem.New(`Give an object such as {"Boat": "vessel"}`, "the renames cannot be read: %v", err)
		}
	}
	d, err := s.store.Delivery(ctx, r.Table)
	if err != nil {
		return nil, err
	}
	l, err := s.at(ctx, r.Table, r.Params.Revision)
	if err != nil {
		return nil, err
	}
	p, err := s.replay(ctx, r.Table, l.Revision, d, renames, r.Params.LeaveOut)
	if err != nil {
		return nil, err
	}
	out := api.GetDelivery200JSONResponse{Files: []string{}, Notes: d.Notes, Columns: []string{}, Revision: l.Revision, Comparison: *p.Comparison,
		Steps: []api.DeliveryStep{}, Rows: p.After.Rows(), Words: p.words}
	out.Files = p.source.Files
	for _, c := range p.Read.Table.Columns() {
		out.Columns = append(out.Columns, c.Name)
	}
	for i, was := range p.Was {
		step := api.DeliveryStep{Number: was.Number, Words: was.Words, Was: &was.Effect, LeftOut: slices.Contains(r.Params.LeaveOut, was.Number)}
		if now := p.Now[i]; now.Problem != nil {
			doc := described(now.Problem)
			step.Problem = &doc
		} else if now.Result != nil {
			step.Now = brief(now.Result.Effect)
		}
		out.Steps = append(out.Steps, step)
	}
	out.Watches, err = s.broken(ctx, r.Table, p.Head.Table, p.After)
	return out, err
}

// brief leaves the lists of values out of an effect.
func brief(e entry.Effect) *entry.Effect {
	e.Pairs, e.Readings = []entry.Pair{}, slices.Clone(e.Readings)
	for i := range e.Readings {
		e.Readings[i].Unread, e.Readings[i].As = nil, nil
	}
	if e.Columns == nil {
		e.Columns = []entry.ColumnEffect{}
	}
	return &e
}

// replayed is a replay with what it is shown and posted with.
type replayed struct {
	*store.Replayed
	source jobs.Source
	compared
	words string
}

// compared is a delivery against the last one, and the rows of that one that are gone.
type compared struct {
	*compare.Comparison
	gone *table.Selection
}

// replay works out what posting a delivery would do. Cost: that of the entries, and once for
// each delivery and its renames O(rows x columns) for the comparison.
func (s *Server) replay(ctx context.Context, tableID, revision int64, d store.Delivery, renames store.Renames, leaveOut []int) (*replayed, error) {
	out := map[int]bool{}
	for _, number := range leaveOut {
		out[number] = true
	}
	r, err := s.store.Replay(ctx, tableID, revision, renames, out)
	if err != nil {
		return nil, err
	}
	p := &replayed{Replayed: r}
	if err := json.Unmarshal(d.Params, &p.source); err != nil {
		return nil, err
	}
	p.words = "Refreshed from " + p.source.Words()
	names, err := json.Marshal(renames)
	if err != nil {
		return nil, err
	}
	p.compared, err = view(s, revision, fmt.Sprintf("delivery %d %s", r.Read.Revision, names), func() (compared, error) {
		c, gone := compare.Of(r.Last.Table, r.Source, func(name string) (reading.Reading, bool) {
			c, _, err := r.Head.Table.Column(name)
			if err != nil {
				return reading.Reading{}, false
			}
			return c.Reading, c.Reading.Declared()
		})
		return compared{c, gone}, nil
	})
	return p, err
}

// PostDelivery posts the delivery that waits.
func (s *Server) PostDelivery(ctx context.Context, r api.PostDeliveryRequestObject) (api.PostDeliveryResponseObject, error) {
	e, err := s.store.Posted(ctx, r.Params.IdempotencyKey, r.Table)
	if err != nil {
		return nil, err
	}
	if e == nil {
		d, err := s.store.Delivery(ctx, r.Table)
		if err != nil {
			return nil, err
		}
		p, err := s.replay(ctx, r.Table, r.Body.Revision, d, r.Body.Renames, r.Body.LeaveOut)
		if err != nil {
			return nil, err
		}
		broken, err := s.broken(ctx, r.Table, p.Head.Table, p.After)
		if err != nil {
			return nil, err
		}
		if err := held(broken, r.Body.Accept); err != nil {
			return nil, err
		}
		c := p.compared
		balance := entry.Balance{Before: c.Before, Added: c.Come, SetAside: c.Gone, After: c.After}
		if e, err = s.store.PostDelivery(ctx, r.Params.IdempotencyKey, r.Table, p.Replayed, p.words, balance, p.gone); err != nil {
			return nil, err
		}
	}
	return api.PostDelivery201JSONResponse(entryOf(*e)), nil
}

// DropDelivery forgets the delivery that waits.
func (s *Server) DropDelivery(ctx context.Context, r api.DropDeliveryRequestObject) (api.DropDeliveryResponseObject, error) {
	return api.DropDelivery204Response{}, s.store.DropDelivery(ctx, r.Table)
}
