package server

import (
	"cmp"
	"context"
	"fmt"
	"math"

	"grandledger/api"
	"grandledger/core/linkage"
	"grandledger/core/survivorship"
	"grandledger/jobs"
	"grandledger/store"
)

// maxLinkedRows is how many records are linked while a page waits.
const maxLinkedRows = 200_000

// StartLinkage links large tables in the background.
func (s *Server) StartLinkage(ctx context.Context, r api.StartLinkageRequestObject) (api.StartLinkageResponseObject, error) {
	of, err := s.store.Linkage(ctx, r.Linkage)
	if err != nil {
		return nil, err
	}
	specs, err := s.store.LinkageSpecs(ctx, r.Linkage)
	if err != nil {
		return nil, err
	}
	spec, _, err := s.specOf(ctx, of, specs)
	if err != nil {
		return nil, err
	}
	out := &linked{of: of}
	var heads []int64
	for _, id := range of.Tables {
		t, err := s.store.Table(ctx, id)
		if err != nil {
			return nil, err
		}
		out.tables, heads = append(out.tables, t), append(heads, t.Head)
	}
	key := out.runKey(spec)
	if err := s.proposed(ctx, out, &spec); err != nil {
		return nil, err
	}
	spec.Decisions = nil
	job, err := s.queue.Link(ctx, of.BookID, of.Name, store.LinkageRun{Linkage: of.ID, Spec: spec, Revisions: heads}, key, out.records())
	if err != nil {
		return nil, err
	}
	return api.StartLinkage202JSONResponse(jobOf(job)), nil
}

func sameRules(a, b map[string]survivorship.Rule) bool { return fmt.Sprint(a) == fmt.Sprint(b) }

// CreateLinkage opens a linkage.
func (s *Server) CreateLinkage(ctx context.Context, r api.CreateLinkageRequestObject) (api.CreateLinkageResponseObject, error) {
	l, err := s.store.AddLinkage(ctx, r.Book, r.Body.Name, r.Body.Tables)
	return api.CreateLinkage201JSONResponse{Id: l.ID, Name: l.Name}, err
}

// SetLinkageSpec changes how a linkage is done, if it can be done so.
func (s *Server) SetLinkageSpec(ctx context.Context, r api.SetLinkageSpecRequestObject) (api.SetLinkageSpecResponseObject, error) {
	of, err := s.store.Linkage(ctx, r.Linkage)
	if err != nil {
		return nil, err
	}
	if _, err := s.linkedAs(ctx, of, []linkage.Spec{*r.Body}); err != nil {
		return nil, err
	}
	return api.SetLinkageSpec204Response{}, s.store.SetLinkageSpec(ctx, r.Linkage, *r.Body)
}

// GetLinkage says how a linkage stands.
func (s *Server) GetLinkage(ctx context.Context, r api.GetLinkageRequestObject) (api.GetLinkageResponseObject, error) {
	l, err := s.linked(ctx, r.Linkage)
	if waits, asked := s.waiting(ctx, r.Linkage, err); asked == nil && waits != nil {
		return waits, nil
	}
	if err != nil {
		return nil, err
	}
	res := l.result
	specs, err := s.store.LinkageSpecs(ctx, r.Linkage)
	if err != nil {
		return nil, err
	}
	decisions, err := s.store.PairDecisions(ctx, r.Linkage)
	if err != nil {
		return nil, err
	}
	disagreements, err := s.store.Disagreements(ctx, r.Linkage)
	if err != nil {
		return nil, err
	}
	spots, err := s.store.Spots(ctx, r.Linkage)
	if err != nil {
		return nil, err
	}
	walks, err := s.store.Crosswalks(ctx, l.of.BookID)
	if err != nil {
		return nil, err
	}
	identified, err := s.store.Identified(ctx, r.Linkage)
	if err != nil {
		return nil, err
	}
	golden, err := s.draftGolden(ctx, l)
	if err != nil {
		return nil, err
	}
	out := api.GetLinkage200JSONResponse{Id: l.of.ID, Name: l.of.Name, Tables: []api.LinkedTable{}, Compared: res.Compared, Possible: res.Possible, Clusters: len(res.Clusters),
		Rules: []api.BlockingRule{}, Attributes: []api.LinkedAttribute{}, Notes: append([]string{}, res.Notes...), Bins: []api.WeightBin{}, Strata: []api.SpotStratum{}, Missed: res.Missed, Prior: res.Prior,
		Spec: res.Spec, Changed: len(specs) > 0, Kinds: []string{}, Crosswalks: []string{}, Disagreements: len(disagreements), Conflicts: golden.Differ, Asks: golden.Asks, Identified: identified, Records: l.records()}
	for _, t := range l.tables {
		out.Tables = append(out.Tables, api.LinkedTable{Id: t.ID, Name: t.Name, Rows: t.Rows})
	}
	out.Golden = out.Records
	for _, c := range res.Clusters {
		out.Golden -= len(c) - 1
	}
	undecided := map[[2]string]bool{}
	for _, d := range decisions {
		if d.Same == nil {
			undecided[[2]string{d.A, d.B}] = true
		}
	}
	for _, p := range res.Pairs {
		switch {
		case p.Decided:
			out.Decided++
			out.Links++
		case p.Verdict == linkage.Linked:
			out.Links++
		case undecided[l.pairKey(p)]:
			out.Undecided++
		default:
			out.Review++
		}
	}
	for _, k := range linkage.Kinds() {
		out.Kinds = append(out.Kinds, string(k))
	}
	for _, c := range walks {
		out.Crosswalks = append(out.Crosswalks, c.Name)
	}
	for _, rule := range res.Rules {
		out.Rules = append(out.Rules, api.BlockingRule{Words: rule.Words, Pairs: rule.Pairs, Largest: rule.Largest, Narrowed: rule.Narrowed})
	}
	for _, b := range res.Bins {
		out.Bins = append(out.Bins, api.WeightBin{From: b.From, Pairs: b.Pairs, Expected: b.Expected})
	}
	answered := []linkage.Answered{}
	for _, st := range res.Strata {
		a := linkage.Answered{Linked: st.Linked, Pairs: st.Pairs}
		for _, p := range st.Drawn {
			if same, ok := spots[l.pairKey(p)]; ok {
				a.Asked++
				if same {
					a.Right++
				}
			}
		}
		answered = append(answered, a)
		out.Strata = append(out.Strata, api.SpotStratum{From: st.From, To: st.To, Linked: st.Linked, Pairs: st.Pairs, Drawn: len(st.Drawn), Asked: a.Asked, Right: a.Right})
	}
	if precision, recall, ok := linkage.Checked(answered); ok {
		out.Precision = api.Proportion{Value: precision.Value, Low: precision.Low, High: precision.High}
		out.Recall = api.Proportion{Value: recall.Value, Low: recall.Low, High: recall.High}
	}
	for i, w := range res.Weights {
		a := res.Spec.Attributes[i]
		shown := api.LinkedAttribute{Name: a.Name, Kind: string(a.Kind), Columns: a.Columns, Levels: []api.LinkedLevel{}, Crosswalk: a.Crosswalk, Rule: string(cmp.Or(res.Spec.Survivorship[a.Name], survivorship.Frequent)), With: w.With, Given: w.Given}
		for level := len(w.M) - 1; level >= 0; level-- {
			shown.Levels = append(shown.Levels, api.LinkedLevel{Words: a.LevelWords(level), M: w.M[level], U: w.U[level], Bits: math.Log2(w.M[level] / w.U[level])})
		}
		out.Attributes = append(out.Attributes, shown)
	}
	return out, nil
}

// waiting says of a linkage that was not worked out yet how large it is, and which job is at it; nil where it was, or cannot be.
func (s *Server) waiting(ctx context.Context, id int64, err error) (api.GetLinkageResponseObject, error) {
	of, err2 := s.store.Linkage(ctx, id)
	if err == nil || err2 != nil {
		return nil, err2
	}
	out := api.GetLinkage200JSONResponse{Id: of.ID, Name: of.Name, Tables: []api.LinkedTable{}, Rules: []api.BlockingRule{}, Attributes: []api.LinkedAttribute{}, Notes: []string{}, Bins: []api.WeightBin{},
		Strata: []api.SpotStratum{}, Kinds: []string{}, Crosswalks: []string{}, Conflicts: map[string]int{}}
	for _, tableID := range of.Tables {
		t, err := s.store.Table(ctx, tableID)
		if err != nil {
			return nil, err
		}
		out.Records += t.Rows
		out.Tables = append(out.Tables, api.LinkedTable{Id: t.ID, Name: t.Name, Rows: t.Rows})
	}
	if out.Records <= s.linkedAtOnce {
		return nil, nil
	}
	out.Waits = true
	if job, err := s.queue.Linking(ctx, id); err == nil {
		out.Job = job.ID
		if job.State == jobs.Failed && job.Problem != nil {
			return nil, nil
		}
	}
	return out, nil
}

func (l *linked) pairKey(p linkage.Pair) [2]string {
	a, b := l.key(p.LeftTable, p.LeftRow), l.key(p.RightTable, p.RightRow)
	return [2]string{min(a, b), max(a, b)}
}
