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

	"grandledger/core/linkage"
	"grandledger/core/problem"
	"grandledger/core/table"
	"grandledger/core/text"
	"grandledger/store"
)

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
