package server

import (
	"context"
	"strings"

	"grandledger/api"
	"grandledger/core/linkage"
	"grandledger/core/problem"
	"grandledger/core/table"
	"grandledger/store"
)

// takenAtOnce is how many pairs are kept for a reviewer.
const takenAtOnce = 10

// GetLinkedPairs gives a page of pairs, those that teach most first, with what each attribute finds.
func (s *Server) GetLinkedPairs(ctx context.Context, r api.GetLinkedPairsRequestObject) (api.GetLinkedPairsResponseObject, error) {
	l, err := s.linked(ctx, r.Linkage)
	if err != nil {
		return nil, err
	}
	decisions, err := s.store.PairDecisions(ctx, r.Linkage)
	if err != nil {
		return nil, err
	}
	said := map[[2]string]store.PairDecision{}
	for _, d := range decisions {
		said[[2]string{d.A, d.B}] = d
	}
	spots, err := s.store.Spots(ctx, r.Linkage)
	if err != nil {
		return nil, err
	}
	var all []linkage.Pair
	if r.Params.Which == api.GetLinkedPairsParamsWhichSpot {
		for _, st := range l.result.Strata {
			all = append(all, st.Drawn...)
		}
	} else {
		for _, i := range l.order {
			p := l.result.Pairs[i]
			d, somebody := said[l.pairKey(p)]
			which := api.GetLinkedPairsParamsWhichReview
			switch {
			case p.Verdict == linkage.Linked:
				which = api.GetLinkedPairsParamsWhichLinks
			case somebody && d.Same == nil:
				which = api.GetLinkedPairsParamsWhichUndecided
			}
			wanted := r.Params.Which
			if wanted == "" {
				wanted = api.GetLinkedPairsParamsWhichReview
			}
			if which == wanted {
				all = append(all, p)
			}
		}
	}
	if reviewer := strings.TrimSpace(r.Params.Reviewer); reviewer != "" && len(all) > 0 {
		if all, err = s.mine(ctx, l, reviewer, all); err != nil {
			return nil, err
		}
	}
	out := api.GetLinkedPairs200JSONResponse{Total: len(all), Pairs: []api.LinkedPair{}}
	from := min(max(r.Params.From, 0), len(all))
	for _, p := range all[from:min(from+page(r.Params.Count, 50), len(all))] {
		shown := l.shown(p)
		d := said[l.pairKey(p)]
		shown.Note, shown.By = d.Note, d.By
		if same, ok := spots[l.pairKey(p)]; ok {
			shown.Spotted = &same
		}
		out.Pairs = append(out.Pairs, shown)
	}
	return out, nil
}

// mine leaves out the pairs that another reviewer looks at just now, and keeps the first of the others for this one.
func (s *Server) mine(ctx context.Context, l *linked, reviewer string, all []linkage.Pair) ([]linkage.Pair, error) {
	var keys [][2]string
	for _, p := range all[:min(len(all), 1000)] {
		keys = append(keys, l.pairKey(p))
	}
	mine, err := s.store.Turns(ctx, l.of.ID, reviewer, keys, takenAtOnce)
	if err != nil {
		return nil, err
	}
	var out []linkage.Pair
	for _, p := range all {
		if mine[l.pairKey(p)] {
			out = append(out, p)
		}
	}
	return out, nil
}

// shown is a pair as a page shows it.
func (l *linked) shown(p linkage.Pair) api.LinkedPair {
	data := l.data()
	out := api.LinkedPair{Left: recordOf(l, p.LeftTable, p.LeftRow), Right: recordOf(l, p.RightTable, p.RightRow),
		Weight: p.Weight, Probability: p.Probability, Decided: p.Decided, Findings: []api.Finding{}, Joins: l.joins(p)}
	for _, f := range l.result.Findings(data, p) {
		out.Findings = append(out.Findings, api.Finding{Attribute: f.Attribute, Left: cutAll(f.Left), Right: cutAll(f.Right), Missing: f.Missing, Bits: f.Bits,
			Words: l.result.Spec.Attributes[len(out.Findings)].LevelWords(f.Level)})
	}
	return out
}

func recordOf(l *linked, at, row int) api.LinkedRecord {
	return api.LinkedRecord{Table: l.tables[at].ID, Name: l.tables[at].Name, Row: row, Key: l.key(at, row)}
}

func cutAll(values []string) []string {
	out := make([]string, len(values))
	for i, v := range values {
		out[i], _ = cutCell(v)
	}
	return out
}

// DecidePairs remembers what is said of pairs.
func (s *Server) DecidePairs(ctx context.Context, r api.DecidePairsRequestObject) (api.DecidePairsResponseObject, error) {
	var all []store.PairDecision
	for _, d := range r.Body.Pairs {
		decision, err := decisionOf(d)
		if err != nil {
			return nil, err
		}
		all = append(all, decision)
	}
	return api.DecidePairs204Response{}, s.store.DecidePairs(ctx, r.Linkage, all, r.Body.Withdraw)
}

// Limits of what a reviewer writes.
const (
	maxNote     = 2000
	maxReviewer = 100
)

func decisionOf(d api.PairDecision) (store.PairDecision, error) {
	out := store.PairDecision{A: d.A, B: d.B, Same: d.Same, Note: strings.TrimSpace(d.Note), By: strings.TrimSpace(d.By)}
	if len(out.Note) > maxNote || len(out.By) > maxReviewer {
		return out, problem.New("Say it in fewer words", "a note has up to 2,000 bytes, the name of a reviewer up to 100")
	}
	return out, nil
}

// GetDisagreements lists the pairs of which reviewers said different things.
func (s *Server) GetDisagreements(ctx context.Context, r api.GetDisagreementsRequestObject) (api.GetDisagreementsResponseObject, error) {
	l, err := s.linked(ctx, r.Linkage)
	if err != nil {
		return nil, err
	}
	found, err := s.store.Disagreements(ctx, r.Linkage)
	if err != nil {
		return nil, err
	}
	words := map[string]string{}
	for _, d := range found {
		words[d.A], words[d.B] = "", ""
	}
	for at, t := range l.data() {
		for row := range t.Rows() {
			if known, ok := words[l.key(at, row)]; ok && known == "" && len(found) > 0 {
				words[l.key(at, row)] = l.label(at, row)
			}
		}
	}
	out := api.GetDisagreements200JSONResponse{}
	for _, d := range found {
		out = append(out, api.Disagreement{A: d.A, B: d.B, Same: d.Same, By: d.By, Otherwise: d.Otherwise, Note: d.Note, Before: d.Before, Left: words[d.A], Right: words[d.B]})
	}
	return out, nil
}

// label is a record in words: what it has of the attributes.
func (l *linked) label(at, row int) string {
	var said []string
	for _, v := range l.values(at, row) {
		if v = strings.TrimSpace(v); v != "" {
			said = append(said, v)
		}
	}
	out, _ := cutCell(strings.Join(said[:min(len(said), 4)], ", "))
	return out
}

// values are the cells of a record by attribute.
func (l *linked) values(at, row int) []string {
	var out []string
	for _, a := range l.result.Spec.Attributes {
		var cells []string
		for _, name := range a.Columns[at] {
			cells = append(cells, cellOf(l.loaded[at].Table, name, row))
		}
		out = append(out, strings.Join(cells, " "))
	}
	return out
}

func cellOf(t *table.Table, name string, row int) string {
	c, _, err := t.Column(name)
	if err != nil {
		return ""
	}
	v, _ := c.Value(t.BaseRow(row))
	return v
}

// SpotPair remembers what was found of a pair of a spot check.
func (s *Server) SpotPair(ctx context.Context, r api.SpotPairRequestObject) (api.SpotPairResponseObject, error) {
	d, err := decisionOf(*r.Body)
	if err != nil {
		return nil, err
	}
	return api.SpotPair204Response{}, s.store.Spot(ctx, r.Linkage, d)
}

// GetLinkageChange says what the last change of how a linkage is done gained and lost.
func (s *Server) GetLinkageChange(ctx context.Context, r api.GetLinkageChangeRequestObject) (api.GetLinkageChangeResponseObject, error) {
	specs, err := s.store.LinkageSpecs(ctx, r.Linkage)
	if err != nil {
		return nil, err
	}
	if len(specs) == 0 {
		return nil, problem.New("Change it first", "the linkage is done as it was proposed, there is nothing to compare with")
	}
	now, err := s.linked(ctx, r.Linkage)
	if err != nil {
		return nil, err
	}
	before, err := s.linkedAs(ctx, now.of, specs[1:])
	if err != nil {
		return nil, err
	}
	type rows struct{ lt, lr, rt, rr int }
	links := func(l *linked) map[rows]bool {
		out := map[rows]bool{}
		for _, p := range l.result.Pairs {
			if p.Verdict == linkage.Linked {
				out[rows{p.LeftTable, p.LeftRow, p.RightTable, p.RightRow}] = true
			}
		}
		return out
	}
	then, after := links(before), links(now)
	only := func(l *linked, other map[rows]bool) (out []linkage.Pair) {
		for _, i := range l.order {
			if p := l.result.Pairs[i]; p.Verdict == linkage.Linked && !other[rows{p.LeftTable, p.LeftRow, p.RightTable, p.RightRow}] {
				out = append(out, p)
			}
		}
		return out
	}
	gained, lost := only(now, then), only(before, after)
	out := api.GetLinkageChange200JSONResponse{Gained: len(gained), Lost: len(lost), Kept: len(after) - len(gained), Pairs: []api.LinkedPair{}}
	all, of := gained, now
	if r.Params.Which == api.Lost {
		all, of = lost, before
	}
	from := min(max(r.Params.From, 0), len(all))
	for _, p := range all[from:min(from+page(r.Params.Count, 50), len(all))] {
		out.Pairs = append(out.Pairs, of.shown(p))
	}
	return out, nil
}

// MatchRecord gives the records that one is most likely the same thing as.
func (s *Server) MatchRecord(ctx context.Context, r api.MatchRecordRequestObject) (api.MatchRecordResponseObject, error) {
	l, err := s.linked(ctx, r.Linkage)
	if err != nil {
		return nil, err
	}
	l.matched.Do(func() { l.matcher = l.result.Matcher() })
	found, err := l.matcher.Match(r.Body.Record, min(max(r.Body.Count, 1), 100))
	if err != nil {
		return nil, err
	}
	var keys []string
	for _, m := range found {
		keys = append(keys, l.key(m.Table, m.Row.Row))
	}
	standing, err := s.store.GoldenOf(ctx, r.Linkage, keys)
	if err != nil {
		return nil, err
	}
	out := api.MatchRecord200JSONResponse{}
	for _, m := range found {
		out = append(out, api.MatchedRecord{Record: recordOf(l, m.Table, m.Row.Row), Golden: standing[l.key(m.Table, m.Row.Row)], Weight: m.Weight, Probability: m.Probability, Values: cutAll(l.values(m.Table, m.Row.Row))})
	}
	return out, nil
}
