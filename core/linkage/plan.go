package linkage

import (
	"bytes"
	"cmp"
	"context"
	"encoding/binary"
	"errors"
	"slices"
	"sync"

	"grandledger/core/problem"
	"grandledger/core/table"
)

// Plan is a linkage made ready: values as they are compared, blocking rules chosen, u drawn. What is left falls into shards that do not depend on one another, so
// that several processes, each with the same plan of the same tables, can share one linkage; all that is decided comes after, at once.
type Plan struct {
	records *records
	tables  []*table.Table
	base    Result
	across  bool
	weights []Weights
	keyed   []func() []uint64 // of each rule
	near    func() []int32
}

// ShardRecords is how many records a shard has, about: so many that what its pairs take in memory is small beside the records.
const ShardRecords = 250_000

// Link finds the pairs of records that are one thing. Refusals are *problem.Problem.
//
// Cost: O(records log records) to block, and one comparison for each pair of distinct values that meet (24 pairs a record, at least
// three million), on all cores; 40 bytes a pair.
func Link(ctx context.Context, tables []*table.Table, spec Spec) (*Result, error) {
	p, err := Prepare(ctx, tables, spec)
	if err != nil {
		return nil, err
	}
	parts := make([]*Compared, 1+p.records.len()/ShardRecords)
	for i := range parts {
		if parts[i], err = p.Compare(ctx, i, len(parts)); err != nil {
			return nil, err
		}
	}
	return p.Finish(ctx, parts, spec.Decisions)
}

// Prepare makes a linkage ready. It gives the same plan for the same tables and specification wherever it is done. Cost: O(records log records), about a third of a linkage.
func Prepare(ctx context.Context, tables []*table.Table, spec Spec) (*Plan, error) {
	if len(spec.Attributes) == 0 {
		attributes, err := Propose(tables)
		if err != nil {
			return nil, err
		}
		spec.Attributes = attributes
	}
	if err := check(tables, spec.Attributes); err != nil {
		return nil, err
	}
	if !spec.Within && !spec.Across {
		spec.Across = len(tables) > 1
		spec.Within = !spec.Across
	}
	if spec.Across && len(tables) < 2 {
		return nil, problem.New("Give another table, or look within this one", "there is one table alone")
	}
	spec.Link, spec.Possible = cmp.Or(spec.Link, linkFrom), cmp.Or(spec.Possible, possibleFrom)
	if spec.Possible > spec.Link || spec.Possible <= 0 || spec.Link > 1 {
		return nil, problem.New("Give probabilities, that of a link the higher one", "pairs are links from %g and looked at from %g", spec.Link, spec.Possible)
	}
	p := &Plan{tables: tables, across: spec.Across && !spec.Within}
	p.records = newRecords(tables, spec.Attributes, spec.Crosswalks, p.across, spec.Many)
	p.base = Result{Spec: spec, records: p.records, Possible: p.records.possible(p.across)}
	if err := ctx.Err(); err != nil {
		return nil, err
	}
	p.base.Rules = p.records.propose(p.across)
	if err := ctx.Err(); err != nil {
		return nil, err
	}
	p.weights = p.records.start(p.across)
	if err := byHand(p.weights, spec.Weights, p.records.kinds()); err != nil {
		return nil, err
	}
	for i := range p.weights {
		p.base.started = append(p.base.started, p.weights[i].U[p.records.attributes[i].same])
	}
	for _, rule := range p.base.Rules {
		p.keyed = append(p.keyed, sync.OnceValue(func() []uint64 { return p.records.keyed(rule) }))
	}
	p.near = sync.OnceValue(p.records.near)
	return p, ctx.Err()
}

// WithCuts is the plan with other cuts. All else is shared.
func (p *Plan) WithCuts(link, possible float64) *Plan {
	out := *p
	out.base.Spec.Link, out.base.Spec.Possible = cmp.Or(link, linkFrom), cmp.Or(possible, possibleFrom)
	return &out
}

// Spec is how the linkage is done, with all that was left open decided.
func (p *Plan) Spec() Spec { return p.base.Spec }

// Compared are the pairs of a shard with their patterns.
type Compared struct {
	pairs    []compared
	patterns []uint64
	rules    []counted
}

// counted is what a rule brought.
type counted struct{ pairs, largest, narrowed int }

// Len is how many pairs were compared.
func (c *Compared) Len() int { return len(c.pairs) }

// Compare compares the pairs whose lower record is in one shard of some.
func (p *Plan) Compare(ctx context.Context, shard, of int) (*Compared, error) {
	n := p.records.len()
	return p.compare(ctx, uint32(shard*n/of), uint32((shard+1)*n/of))
}

func (p *Plan) compare(ctx context.Context, from, to uint32) (*Compared, error) {
	candidates, rules := p.candidates(from, to)
	if err := ctx.Err(); err != nil {
		return nil, err
	}
	out := &Compared{rules: rules}
	out.pairs, out.patterns = p.records.compareAll(candidates, p.base.started)
	return out, ctx.Err()
}

// Finish learns the weights from all pairs that were compared, decides, and makes clusters. The plan may be finished again with other decisions. Cost: about 25 passes over the pairs.
func (p *Plan) Finish(ctx context.Context, parts []*Compared, decisions []Decision) (*Result, error) {
	out := p.base
	out.Spec.Decisions = decisions
	out.Rules = make([]*Rule, len(p.base.Rules))
	for i, rule := range p.base.Rules {
		own := *rule
		for _, part := range parts {
			if i < len(part.rules) {
				own.Pairs += part.rules[i].pairs
				own.Largest, own.Narrowed = max(own.Largest, part.rules[i].largest), max(own.Narrowed, part.rules[i].narrowed)
			}
		}
		out.Rules[i] = &own
	}
	pairs, patterns := together(parts)
	out.Compared = len(pairs)
	by := p.records.decided(p.tables, decisions)
	if err := ctx.Err(); err != nil {
		return nil, err
	}
	out.Weights = make([]Weights, len(p.weights))
	for i, w := range p.weights {
		w.M, w.U, w.UGiven, w.drawn = slices.Clone(w.M), slices.Clone(w.U), slices.Clone(w.UGiven), slices.Clone(w.drawn)
		out.Weights[i] = w
	}
	out.Prior, out.Notes = p.records.learn(out.Weights, pairs, patterns, p.across, by)
	if err := ctx.Err(); err != nil {
		return nil, err
	}
	p.records.decide(&out, pairs, patterns, p.across, by)
	out.Missed = p.records.missed(out.Rules, out.Pairs)
	return &out, nil
}

// together puts the pairs of all shards behind one another, with one list of patterns.
func together(parts []*Compared) (pairs []compared, patterns []uint64) {
	if len(parts) == 1 {
		return parts[0].pairs, parts[0].patterns
	}
	n := 0
	for _, part := range parts {
		n += len(part.pairs)
	}
	pairs = make([]compared, 0, n)
	known := map[uint64]int32{}
	for _, part := range parts {
		now := make([]int32, len(part.patterns))
		for i, p := range part.patterns {
			at, ok := known[p]
			if !ok {
				at = int32(len(patterns))
				known[p] = at
				patterns = append(patterns, p)
			}
			now[i] = at
		}
		for _, c := range part.pairs {
			c.pattern = now[c.pattern]
			pairs = append(pairs, c)
		}
	}
	return pairs, patterns
}

// packedPair is a pair as it is written: 16 bytes.
type packedPair struct {
	A, B    uint32
	Pattern int32
	Rare    float32
}

// MarshalBinary writes the counts of the rules, the patterns and the pairs, in order, as numbers of fixed size with the lowest byte first.
func (c *Compared) MarshalBinary() ([]byte, error) {
	var b bytes.Buffer
	b.Grow(len(c.pairs)*16 + len(c.patterns)*8 + 64)
	counts := []int64{int64(len(c.rules)), int64(len(c.patterns)), int64(len(c.pairs))}
	for _, r := range c.rules {
		counts = append(counts, int64(r.pairs), int64(r.largest), int64(r.narrowed))
	}
	pairs := make([]packedPair, len(c.pairs))
	for i, p := range c.pairs {
		pairs[i] = packedPair{p.a, p.b, p.pattern, p.rare}
	}
	for _, part := range []any{counts, c.patterns, pairs} {
		if err := binary.Write(&b, binary.LittleEndian, part); err != nil {
			return nil, err
		}
	}
	return b.Bytes(), nil
}

// errShard says that what is read is no shard.
var errShard = errors.New("this is no shard of a linkage")

// UnmarshalBinary reads what MarshalBinary wrote.
func (c *Compared) UnmarshalBinary(data []byte) error {
	r := bytes.NewReader(data)
	var sizes [3]int64
	if err := binary.Read(r, binary.LittleEndian, sizes[:]); err != nil {
		return errShard
	}
	if sizes[0] < 0 || sizes[1] < 0 || sizes[2] < 0 || sizes[0] > maxRules || sizes[0]*24+sizes[1]*8+sizes[2]*16 != int64(r.Len()) {
		return errShard
	}
	counts, pairs := make([]int64, 3*sizes[0]), make([]packedPair, sizes[2])
	c.patterns = make([]uint64, sizes[1])
	for _, part := range []any{counts, c.patterns, pairs} {
		if err := binary.Read(r, binary.LittleEndian, part); err != nil {
			return errShard
		}
	}
	c.rules, c.pairs = nil, make([]compared, len(pairs))
	for i := range sizes[0] {
		c.rules = append(c.rules, counted{int(counts[3*i]), int(counts[3*i+1]), int(counts[3*i+2])})
	}
	for i, p := range pairs {
		if p.Pattern < 0 || int(p.Pattern) >= len(c.patterns) {
			return errShard
		}
		c.pairs[i] = compared{p.A, p.B, p.Pattern, p.Rare}
	}
	return nil
}
