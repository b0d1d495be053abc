package server

import (
	"context"
	"crypto/sha256"
	"fmt"
	"mime"
	"net/http"
	"sync"

	"grandledger/api"
	"grandledger/core/duplicate"
	"grandledger/core/join"
	"grandledger/core/problem"
	"grandledger/core/spelling"
	"grandledger/core/table"
	"grandledger/formats/csv"
	"grandledger/jobs"
	"grandledger/store"
)

func column(t *table.Table, name string) (*table.Column, error) {
	c, _, err := t.Column(name)
	if err != nil {
		p := problem.New("Choose a column the table has now", "the table has no column %q", name)
		p.Column = name
		return nil, p
	}
	return c, nil
}

// GetSpellings groups the values of a column. The crosswalk that is asked bears the
// column's name, so tables with such a column share what was decided.
func (s *Server) GetSpellings(ctx context.Context, r api.GetSpellingsRequestObject) (api.GetSpellingsResponseObject, error) {
	t, err := s.store.Table(ctx, r.Table)
	if err != nil {
		return nil, err
	}
	l, err := s.at(ctx, r.Table, r.Params.Revision)
	if err != nil {
		return nil, err
	}
	c, err := column(l.Table, r.Params.Column)
	if err != nil {
		return nil, err
	}
	known, err := s.store.Decisions(ctx, t.BookID, c.Name)
	if err != nil {
		return nil, err
	}
	accept := spelling.Order
	for i, name := range spelling.Rungs {
		if name == string(r.Params.Accept) {
			accept = spelling.Rung(i)
		}
	}
	out := api.GetSpellings200JSONResponse{Revision: l.Revision, Crosswalk: c.Name, Groups: []api.Group{}, Rungs: []api.RungTotal{}}
	for _, n := range l.Table.Counts(c)[1:] {
		if n > 0 {
			out.Values++
		}
	}
	found, err := view(s, l.Revision, fmt.Sprintf("spellings %q %x", c.Name, fingerprint(known)), func() ([][]spelling.Group, error) {
		out := make([][]spelling.Group, len(spelling.Rungs))
		var work sync.WaitGroup
		for rung := range spelling.Rungs {
			work.Go(func() { out[rung] = spelling.Find(l.Table, c, known, spelling.Rung(rung)) })
		}
		work.Wait()
		return out, nil
	})
	if err != nil {
		return nil, err
	}
	for rung, groups := range found {
		total := api.RungTotal{Rung: api.Rung(spelling.Rungs[rung]), Groups: len(groups)}
		for _, g := range groups {
			for _, m := range g.Members {
				if m.Value != g.Standard {
					total.Spellings++
					total.Rows += m.Rows
				}
			}
		}
		out.Rungs = append(out.Rungs, total)
		if spelling.Rung(rung) == accept {
			for _, g := range groups[:min(len(groups), maxGroups)] {
				out.Groups = append(out.Groups, groupOf(g))
			}
		}
	}
	return out, nil
}

// fingerprint tells one state of a crosswalk from another. Maps are printed in order.
func fingerprint(known spelling.Decisions) [sha256.Size]byte {
	return sha256.Sum256(fmt.Appendf(nil, "%q", known))
}

// maxGroups is how many groups one answer holds; those with most rows come first.
const maxGroups = 5000

func groupOf(g spelling.Group) api.Group {
	out := api.Group{Standard: g.Standard, Rows: g.Rows, Weakest: api.Rung(spelling.Rungs[g.Weakest]), Members: []api.Member{}}
	for _, m := range g.Members {
		out.Members = append(out.Members, api.Member{Value: m.Value, Rows: m.Rows, Rung: api.Rung(spelling.Rungs[m.Rung]), Why: m.Why})
	}
	return out
}

// shownPerGroup is how many rows of a group of repeats are listed.
const shownPerGroup = 5

// GetRepeats lists groups of equal rows.
func (s *Server) GetRepeats(ctx context.Context, r api.GetRepeatsRequestObject) (api.GetRepeatsResponseObject, error) {
	l, err := s.at(ctx, r.Table, r.Params.Revision)
	if err != nil {
		return nil, err
	}
	var key []*table.Column
	for _, name := range r.Params.Key {
		c, err := column(l.Table, name)
		if err != nil {
			return nil, err
		}
		key = append(key, c)
	}
	if len(key) == 0 {
		return nil, problem.New("Choose the columns that make two rows the same", "no key column was chosen")
	}
	groups, err := view(s, l.Revision, fmt.Sprintf("repeats %q", r.Params.Key), func() (*duplicate.Groups, error) {
		return duplicate.Find(l.Table, key), nil
	})
	if err != nil {
		return nil, err
	}
	out := api.GetRepeats200JSONResponse{Revision: l.Revision, Summary: groups.Summary(), Columns: []string{}, Groups: []api.RepeatGroup{}}
	for _, c := range l.Table.Columns() {
		out.Columns = append(out.Columns, c.Name)
	}
	for _, g := range groups.Largest(max(r.Params.From, 0), page(r.Params.Count, 50), shownPerGroup) {
		shown := api.RepeatGroup{Size: g.Size, Last: rowOf(l.Table, g.Last)}
		for _, row := range g.Rows {
			shown.Rows = append(shown.Rows, rowOf(l.Table, row))
		}
		out.Groups = append(out.Groups, shown)
	}
	return out, nil
}

func entryOf(e store.Entry) api.Entry {
	return api.Entry{Number: e.Number, Kind: e.Kind, Words: e.Words, Effect: e.Effect, State: api.EntryState(e.State), PostedAt: e.PostedAt,
		ReversedAt: e.ReversedAt, HasAside: e.HasAside, CanRepost: e.CanRepost, Notes: e.Notes}
}

// DraftEntry says what an entry would do.
func (s *Server) DraftEntry(ctx context.Context, r api.DraftEntryRequestObject) (api.DraftEntryResponseObject, error) {
	d, err := s.store.Draft(ctx, r.Table, r.Body.Revision, string(r.Body.Kind), r.Body.Params)
	if err != nil {
		return nil, err
	}
	return api.DraftEntry200JSONResponse{Number: d.Number, Words: d.Words, Effect: d.Effect}, nil
}

// GetJournal lists the entries.
func (s *Server) GetJournal(ctx context.Context, r api.GetJournalRequestObject) (api.GetJournalResponseObject, error) {
	if _, err := s.store.Table(ctx, r.Table); err != nil {
		return nil, err
	}
	entries, err := s.store.Journal(ctx, r.Table)
	if err != nil {
		return nil, err
	}
	out := api.GetJournal200JSONResponse{}
	for _, e := range entries {
		out = append(out, entryOf(e))
	}
	return out, nil
}

// PostEntry posts an entry.
func (s *Server) PostEntry(ctx context.Context, r api.PostEntryRequestObject) (api.PostEntryResponseObject, error) {
	e, err := s.store.Post(ctx, r.Params.IdempotencyKey, r.Table, r.Body.Revision, string(r.Body.Kind), r.Body.Params)
	if err != nil {
		return nil, err
	}
	return api.PostEntry201JSONResponse(entryOf(*e)), nil
}

// ReverseEntry reverses the last posted entry.
func (s *Server) ReverseEntry(ctx context.Context, r api.ReverseEntryRequestObject) (api.ReverseEntryResponseObject, error) {
	e, err := s.store.Reverse(ctx, r.Params.IdempotencyKey, r.Table, r.Body.Revision)
	if err != nil {
		return nil, err
	}
	return api.ReverseEntry200JSONResponse(entryOf(*e)), nil
}

// RepostEntry posts a reversed entry again.
func (s *Server) RepostEntry(ctx context.Context, r api.RepostEntryRequestObject) (api.RepostEntryResponseObject, error) {
	e, err := s.store.Repost(ctx, r.Params.IdempotencyKey, r.Table, r.Number, r.Body.Revision)
	if err != nil {
		return nil, err
	}
	return api.RepostEntry200JSONResponse(entryOf(*e)), nil
}

// Publish streams a table as CSV.
func (s *Server) Publish(ctx context.Context, r api.PublishRequestObject) (api.PublishResponseObject, error) {
	about, err := s.store.Table(ctx, r.Table)
	if err != nil {
		return nil, err
	}
	t, err := s.chosen(ctx, r.Table, r.Params.Revision, r.Params.Aside)
	if err != nil {
		return nil, err
	}
	name := about.Name
	if r.Params.Aside != nil {
		name = fmt.Sprintf("%s, set aside by entry %d", name, *r.Params.Aside)
	}
	return published{ctx, t, name + ".csv", csv.WriteOptions{Guard: r.Params.Guard}}, nil
}

type published struct {
	ctx  context.Context
	t    *table.Table
	name string
	o    csv.WriteOptions
}

// VisitPublishResponse writes the rows as they are worked out; nothing is held.
func (p published) VisitPublishResponse(w http.ResponseWriter) error {
	w.Header().Set("Content-Type", "text/csv; charset=utf-8")
	w.Header().Set("Content-Disposition", mime.FormatMediaType("attachment", map[string]string{"filename": p.name}))
	_, err := csv.Write(p.ctx, w, p.t, p.o)
	return err
}

func drawArgs(book int64, j api.Join) jobs.DrawArgs {
	return jobs.DrawArgs{Book: book, Name: j.Name, LeftTable: j.Left.Table, LeftRevision: j.Left.Revision, RightTable: j.Right.Table, RightRevision: j.Right.Revision,
		Spec: join.Spec{On: j.On, Rows: join.Rows(j.Rows), Left: j.BringLeft, Right: j.BringRight}}
}

// listedUnmatched is how many keys without a partner a draft lists for each side.
const listedUnmatched = 100

// DraftJoin says what a join would give.
func (s *Server) DraftJoin(ctx context.Context, r api.DraftJoinRequestObject) (api.DraftJoinResponseObject, error) {
	m, _, err := s.queue.Match(ctx, drawArgs(r.Book, *r.Body))
	if err != nil {
		return nil, err
	}
	out := api.DraftJoin200JSONResponse{Coverage: m.Coverage, Balance: m.Balance()}
	out.Left, out.Right = m.Columns()
	out.UnmatchedLeft, out.UnmatchedLeftKeys = m.UnmatchedLeft(listedUnmatched)
	out.UnmatchedRight, out.UnmatchedRightKeys = m.UnmatchedRight(listedUnmatched)
	return out, nil
}

// PostJoin queues the drawing of a consolidated table.
func (s *Server) PostJoin(ctx context.Context, r api.PostJoinRequestObject) (api.PostJoinResponseObject, error) {
	j, err := s.queue.Draw(ctx, r.Params.IdempotencyKey, drawArgs(r.Book, *r.Body))
	return api.PostJoin202JSONResponse(jobOf(j)), err
}
