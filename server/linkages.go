package server

import (
	"cmp"
	"context"
	"crypto/sha256"
	"errors"
	"fmt"
	"math"
	"slices"
	"sync"

	"grandledger/api"
	"grandledger/core/linkage"
	"grandledger/core/problem"
	"grandledger/core/survivorship"
	"grandledger/core/table"
	"grandledger/core/text"
	"grandledger/jobs"
	"grandledger/store"
)

// maxLinkedRows is how many records are linked while a page waits.
const maxLinkedRows = 200_000

// linked is a linkage worked out on tables as they stand, in one way to do it.
type linked struct {
	of     store.Linkage
	tables []store.Table
	loaded []*store.Loaded
	result *linkage.Result
	order  []int // pairs to look at, those that teach most first

	keyed   sync.Once
	keys    [][]string // of each record, by table
	inOrder sync.Once
	places  []clusterPlace
	at      map[linkage.Row]int // cluster of a record
	matched sync.Once
	matcher *linkage.Matcher
	what    string // of views of it
}

func (l *linked) data() []*table.Table {
	var out []*table.Table
	for _, t := range l.loaded {
		out = append(out, t.Table)
	}
	return out
}

func (l *linked) records() int {
	n := 0
	for _, t := range l.tables {
		n += t.Rows
	}
	return n
}

// key is what a record is known by.
func (l *linked) key(at, row int) string {
	l.keyed.Do(func() {
		for _, t := range l.data() {
			keys := make([]string, t.Rows())
			for row := range keys {
				keys[row] = linkage.Key(t, row)
			}
			l.keys = append(l.keys, keys)
		}
	})
	return l.keys[at][row]
}

// specOf is how a linkage is done: as somebody said last, or as is proposed, with the book's crosswalks and what is decided of pairs.
func (s *Server) specOf(ctx context.Context, of store.Linkage, specs []linkage.Spec) (linkage.Spec, []store.PairDecision, error) {
	var spec linkage.Spec
	if len(specs) > 0 {
		spec = specs[0]
	}
	decisions, err := s.store.PairDecisions(ctx, of.ID)
	if err != nil {
		return spec, nil, err
	}
	for _, d := range decisions {
		if d.Same != nil {
			spec.Decisions = append(spec.Decisions, linkage.Decision{A: d.A, B: d.B, Same: *d.Same})
		}
	}
	known, err := s.store.Crosswalks(ctx, of.BookID)
	if err != nil {
		return spec, nil, err
	}
	spec.Crosswalks = map[string]map[string]string{}
	for _, c := range known {
		used := len(specs) == 0 || slices.ContainsFunc(spec.Attributes, func(a linkage.Attribute) bool { return a.Crosswalk == c.Name })
		if !used {
			continue
		}
		standing, err := s.store.Decisions(ctx, of.BookID, c.Name)
		if err != nil {
			return spec, nil, err
		}
		if len(standing.Standard) > 0 {
			spec.Crosswalks[c.Name] = standing.Standard
		}
	}
	return spec, decisions, nil
}

// linked works a linkage out, once for the revisions of its tables, the way it is done and what is decided. Cost: that of linkage.Link.
func (s *Server) linked(ctx context.Context, id int64) (*linked, error) {
	of, err := s.store.Linkage(ctx, id)
	if err != nil {
		return nil, err
	}
	specs, err := s.store.LinkageSpecs(ctx, id)
	if err != nil {
		return nil, err
	}
	return s.linkedAs(ctx, of, specs)
}

func (s *Server) linkedAs(ctx context.Context, of store.Linkage, specs []linkage.Spec) (*linked, error) {
	spec, _, err := s.specOf(ctx, of, specs)
	if err != nil {
		return nil, err
	}
	out := &linked{of: of}
	what := fmt.Sprint("linkage ", of.ID)
	for _, tableID := range of.Tables {
		t, err := s.store.Table(ctx, tableID)
		if err != nil {
			return nil, err
		}
		what += fmt.Sprint(" ", t.Head)
		out.tables = append(out.tables, t)
	}
	said := spec
	said.Survivorship = nil // changes no pair
	what += fmt.Sprintf(" %x", sha256.Sum256(fmt.Appendf(nil, "%v %v %v", said, spec.Decisions, spec.Crosswalks)))
	got, err := view(s, out.tables[0].Head, what, func() (*linked, error) {
		r, err := s.worked(ctx, out, spec)
		if err != nil {
			return nil, err
		}
		out.result, out.what = r, what
		out.order = teaching(r)
		return out, nil
	})
	if err != nil {
		return nil, err
	}
	// What says how golden values are made changes with no pair, so it is put beside what was worked out.
	shown := &linked{of: got.of, tables: got.tables, loaded: got.loaded, order: got.order, what: got.what}
	result := *got.result
	result.Spec.Survivorship = spec.Survivorship
	shown.result = &result
	if sameRules(got.result.Spec.Survivorship, spec.Survivorship) {
		return got, nil
	}
	return shown, nil
}

// worked links the tables at once, or of large ones finishes what was compared in the background.
func (s *Server) worked(ctx context.Context, out *linked, spec linkage.Spec) (*linkage.Result, error) {
	if out.records() <= s.linkedAtOnce {
		if err := s.proposed(ctx, out, &spec); err != nil {
			return nil, err
		}
		return linkage.Link(ctx, out.data(), spec)
	}
	run, whole, err := s.store.RunOf(ctx, out.of.ID, out.runKey(spec))
	if errors.Is(err, store.ErrNotFound) || err == nil && !whole {
		return nil, notLinked(out.records())
	} else if err != nil {
		return nil, err
	}
	plan, loaded, err := s.queue.Plan(ctx, run.ID)
	if err != nil {
		return nil, err
	}
	parts, err := s.store.Parts(ctx, run.ID)
	if err != nil {
		return nil, err
	}
	out.loaded = loaded
	return plan.WithCuts(spec.Link, spec.Possible).Finish(ctx, parts, spec.Decisions)
}

// proposed loads the tables and proposes what is compared where nobody said it.
func (s *Server) proposed(ctx context.Context, out *linked, spec *linkage.Spec) error {
	for _, t := range out.tables {
		l, err := s.store.Load(ctx, t.Head)
		if err != nil {
			return err
		}
		out.loaded = append(out.loaded, l)
	}
	if len(spec.Attributes) > 0 {
		return nil
	}
	var err error
	if spec.Attributes, err = linkage.Propose(out.data()); err != nil {
		return err
	}
	for i, a := range spec.Attributes {
		for _, names := range a.Columns {
			if _, ok := spec.Crosswalks[names[0]]; ok && len(names) == 1 && a.Crosswalk == "" {
				spec.Attributes[i].Crosswalk = names[0]
			}
		}
	}
	return nil
}

// runKey says of which revisions and in which way a run compares; the cuts and what is decided come after.
func (l *linked) runKey(spec linkage.Spec) string {
	spec.Link, spec.Possible, spec.Survivorship, spec.Decisions = 0, 0, nil, nil
	var heads []int64
	for _, t := range l.tables {
		heads = append(heads, t.Head)
	}
	return fmt.Sprintf("%x", sha256.Sum256(fmt.Appendf(nil, "%v %v", heads, spec)))
}

func notLinked(records int) error {
	return problem.New("Start it on its page", "the tables have %s records, which are linked in the background, and that was not done yet for what they hold now", text.Grouped(records))
}

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

// teaching puts the pairs to look at in order: those nearest the cut, first those that would join large clusters or that disagree on something weighty.
func teaching(r *linkage.Result) []int {
	size := map[linkage.Row]int{}
	for _, c := range r.Clusters {
		for _, row := range c {
			size[row] = len(c)
		}
	}
	far := make([]float64, len(r.Pairs))
	order := make([]int, len(r.Pairs))
	for i, p := range r.Pairs {
		joins := max(1, size[linkage.Row{Table: p.LeftTable, Row: p.LeftRow}]) * max(1, size[linkage.Row{Table: p.RightTable, Row: p.RightRow}])
		far[i] = math.Abs(linkage.Bits(p.Probability)-linkage.Bits(r.Spec.Link)) - math.Log2(float64(joins))
		order[i] = i
	}
	slices.SortStableFunc(order, func(a, b int) int { return cmp.Compare(far[a], far[b]) })
	return order
}

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
