package server

import (
	"cmp"
	"context"
	"crypto/sha256"
	"fmt"
	"math"
	"slices"

	"github.com/jackc/pgx/v5"

	"grandledger/api"
	"grandledger/core/entry"
	"grandledger/core/linkage"
	"grandledger/core/problem"
	"grandledger/core/table"
	"grandledger/core/text"
	"grandledger/store"
)

// maxLinkedRows is how many records are linked while a page waits.
const maxLinkedRows = 200_000

// linked is a linkage worked out on tables as they stand.
type linked struct {
	of     store.Linkage
	tables []store.Table
	loaded []*store.Loaded
	result *linkage.Result
	order  []int // pairs to look at, those nearest the cut first
}

func (l *linked) data() []*table.Table {
	var out []*table.Table
	for _, t := range l.loaded {
		out = append(out, t.Table)
	}
	return out
}

// linked works a linkage out, once for the revisions of its tables and what is decided. Cost: that of linkage.Link.
func (s *Server) linked(ctx context.Context, id int64) (*linked, error) {
	of, err := s.store.Linkage(ctx, id)
	if err != nil {
		return nil, err
	}
	out := &linked{of: of}
	rows, what := 0, fmt.Sprint("linkage ", id)
	for _, tableID := range of.Tables {
		t, err := s.store.Table(ctx, tableID)
		if err != nil {
			return nil, err
		}
		rows += t.Rows
		what += fmt.Sprint(" ", t.Head)
		out.tables = append(out.tables, t)
	}
	if rows > maxLinkedRows {
		return nil, problem.New("Link them with 'grandledger link', which has no such bound", "the tables have %s rows, more than the %s that are linked while a page waits",
			text.Grouped(rows), text.Grouped(maxLinkedRows))
	}
	decisions, err := s.store.LinkageDecisions(ctx, id)
	if err != nil {
		return nil, err
	}
	what += fmt.Sprintf(" %x", sha256.Sum256(fmt.Appendf(nil, "%v", decisions)))
	return view(s, out.tables[0].Head, what, func() (*linked, error) {
		for _, t := range out.tables {
			l, err := s.store.Load(ctx, t.Head)
			if err != nil {
				return nil, err
			}
			out.loaded = append(out.loaded, l)
		}
		r, err := linkage.Link(ctx, out.data(), linkage.Spec{Decisions: decisions})
		if err != nil {
			return nil, err
		}
		out.result = r
		for i := range r.Pairs {
			out.order = append(out.order, i)
		}
		slices.SortStableFunc(out.order, func(a, b int) int {
			return cmp.Compare(math.Abs(r.Pairs[a].Probability-r.Spec.Link), math.Abs(r.Pairs[b].Probability-r.Spec.Link))
		})
		return out, nil
	})
}

// CreateLinkage opens a linkage.
func (s *Server) CreateLinkage(ctx context.Context, r api.CreateLinkageRequestObject) (api.CreateLinkageResponseObject, error) {
	l, err := s.store.AddLinkage(ctx, r.Book, r.Body.Name, r.Body.Tables)
	return api.CreateLinkage201JSONResponse{Id: l.ID, Name: l.Name}, err
}

// GetLinkage says how a linkage stands.
func (s *Server) GetLinkage(ctx context.Context, r api.GetLinkageRequestObject) (api.GetLinkageResponseObject, error) {
	l, err := s.linked(ctx, r.Linkage)
	if err != nil {
		return nil, err
	}
	res := l.result
	out := api.GetLinkage200JSONResponse{Id: l.of.ID, Name: l.of.Name, Tables: []api.LinkedTable{}, Compared: res.Compared, Possible: res.Possible, Clusters: len(res.Clusters),
		Rules: []api.BlockingRule{}, Attributes: []api.LinkedAttribute{}, Notes: res.Notes}
	if out.Notes == nil {
		out.Notes = []string{}
	}
	for _, t := range l.tables {
		out.Tables = append(out.Tables, api.LinkedTable{Id: t.ID, Name: t.Name, Rows: t.Rows})
		out.Records += t.Rows
	}
	out.Golden = out.Records
	for _, c := range res.Clusters {
		out.Golden -= len(c) - 1
	}
	for _, p := range res.Pairs {
		switch {
		case p.Decided:
			out.Decided++
			out.Links++
		case p.Verdict == linkage.Linked:
			out.Links++
		default:
			out.Review++
		}
	}
	for _, rule := range res.Rules {
		out.Rules = append(out.Rules, api.BlockingRule{Words: rule.Words, Pairs: rule.Pairs, Largest: rule.Largest, Narrowed: rule.Narrowed})
	}
	for i, w := range res.Weights {
		a := res.Spec.Attributes[i]
		shown := api.LinkedAttribute{Name: a.Name, Kind: string(a.Kind), Columns: a.Columns, Levels: []api.LinkedLevel{}}
		for level := len(w.M) - 1; level >= 0; level-- {
			shown.Levels = append(shown.Levels, api.LinkedLevel{Words: a.LevelWords(level), M: w.M[level], U: w.U[level], Bits: math.Log2(w.M[level] / w.U[level])})
		}
		out.Attributes = append(out.Attributes, shown)
	}
	return out, nil
}

// GetLinkedPairs gives a page of pairs, those nearest the cut first, with what each attribute finds.
func (s *Server) GetLinkedPairs(ctx context.Context, r api.GetLinkedPairsRequestObject) (api.GetLinkedPairsResponseObject, error) {
	l, err := s.linked(ctx, r.Linkage)
	if err != nil {
		return nil, err
	}
	out := api.GetLinkedPairs200JSONResponse{Pairs: []api.LinkedPair{}}
	data := l.data()
	from, to := max(r.Params.From, 0), max(r.Params.From, 0)+page(r.Params.Count, 50)
	for _, i := range l.order {
		p := l.result.Pairs[i]
		if wanted := p.Verdict == linkage.Review; wanted != (r.Params.Which != api.GetLinkedPairsParamsWhichLinks) {
			continue
		}
		if out.Total++; out.Total <= from || out.Total > to {
			continue
		}
		shown := api.LinkedPair{Left: recordOf(l, data, p.LeftTable, p.LeftRow), Right: recordOf(l, data, p.RightTable, p.RightRow),
			Weight: p.Weight, Probability: p.Probability, Decided: p.Decided, Findings: []api.Finding{}}
		for _, f := range l.result.Findings(data, p) {
			shown.Findings = append(shown.Findings, api.Finding{Attribute: f.Attribute, Left: cutAll(f.Left), Right: cutAll(f.Right), Missing: f.Missing, Bits: f.Bits,
				Words: l.result.Spec.Attributes[len(shown.Findings)].LevelWords(f.Level)})
		}
		out.Pairs = append(out.Pairs, shown)
	}
	return out, nil
}

func recordOf(l *linked, data []*table.Table, at, row int) api.LinkedRecord {
	return api.LinkedRecord{Table: l.tables[at].ID, Name: l.tables[at].Name, Row: row, Key: linkage.Key(data[at], row)}
}

func cutAll(values []string) []string {
	out := make([]string, len(values))
	for i, v := range values {
		out[i], _ = cutCell(v)
	}
	return out
}

// DecidePair remembers what was decided of two records.
func (s *Server) DecidePair(ctx context.Context, r api.DecidePairRequestObject) (api.DecidePairResponseObject, error) {
	return api.DecidePair204Response{}, s.store.DecidePair(ctx, r.Linkage, r.Body.A, r.Body.B, r.Body.Same)
}

// DrawGolden makes a consolidated table of the golden records of a linkage, in one transaction.
func (s *Server) DrawGolden(ctx context.Context, r api.DrawGoldenRequestObject) (api.DrawGoldenResponseObject, error) {
	l, err := s.linked(ctx, r.Linkage)
	if err != nil {
		return nil, err
	}
	golden, _, err := l.result.Golden(l.data())
	if err != nil {
		return nil, err
	}
	records := 0
	var names []string
	for _, t := range l.tables {
		records += t.Rows
		names = append(names, t.Name)
	}
	var id int64
	var made *store.Loaded
	err = pgx.BeginFunc(ctx, s.store.Pool, func(tx pgx.Tx) error {
		done, err := store.Claim(ctx, tx, r.Params.IdempotencyKey, &id)
		if err != nil || done {
			return err
		}
		if id, made, err = s.store.CreateTable(ctx, tx, golden, store.Opening{Book: l.of.BookID, Name: r.Body.Name, Consolidated: true, Kind: "golden",
			Words:   fmt.Sprintf("Drew %s golden records from %s records of %s, linked as %s", text.Grouped(golden.Rows()), text.Grouped(records), listed(names), l.of.Name),
			Params:  map[string]any{"linkage": l.of.ID, "tables": l.of.Tables},
			Balance: entry.Balance{Before: records, Merged: records - golden.Rows(), After: golden.Rows()}}); err != nil {
			return err
		}
		return store.Answer(ctx, tx, r.Params.IdempotencyKey, id)
	})
	if err != nil {
		return nil, err
	}
	if made != nil {
		s.store.Keep(made)
	}
	t, err := s.store.Table(ctx, id)
	return api.DrawGolden201JSONResponse(tableOf(t)), err
}

// listed writes "a", "a and b", "a, b and c".
func listed(names []string) string {
	out := ""
	for i, n := range names {
		switch {
		case i == 0:
		case i == len(names)-1:
			out += " and "
		default:
			out += ", "
		}
		out += n
	}
	return out
}
