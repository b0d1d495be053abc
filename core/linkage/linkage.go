package linkage

import (
	"cmp"
	"math"
	"slices"

	"grandledger/core/survivorship"
)

// Verdict is what is held of a pair.
type Verdict string

// The verdicts.
const (
	Linked Verdict = "link"
	Review Verdict = "review"
)

// Spec says how a linkage is done. What is left out is decided by the tables.
type Spec struct {
	Attributes []Attribute `json:"attributes" yaml:"attributes"`
	// Within looks for pairs within each table, Across for pairs of two tables; neither is set: across where there are several.
	Within bool `json:"within" yaml:"within"`
	Across bool `json:"across" yaml:"across"`
	// Many says that several records of the first table may be one thing with one of the second, as those are that are asked of a register; only the pairs of a record of the
	// first then compete, and no clusters are made.
	Many bool `json:"-" yaml:"-"`
	// Link and Possible are the probabilities from which a pair is a link, and is to be reviewed.
	Link     float64 `json:"link" yaml:"link"`
	Possible float64 `json:"possible" yaml:"possible"`
	// Weights hold m and u of attributes, by name, that are set by hand; those of the others are estimated.
	Weights []Weights `json:"weights,omitempty" yaml:"weights,omitempty"`
	// Survivorship says by attribute how a golden value is made; the most frequent one where it says nothing.
	Survivorship map[string]survivorship.Rule `json:"survivorship,omitempty" yaml:"survivorship,omitempty"`
	// Crosswalks are the standard values of variants, by crosswalk.
	Crosswalks map[string]map[string]string `json:"-" yaml:"-"`
	// Decisions hold whatever the weights say.
	Decisions []Decision `json:"-" yaml:"-"`
}

// Cuts that hold where none are given.
const (
	linkFrom     = 0.5
	possibleFrom = 0.1
)

// Pair is a pair of rows that may be one thing. Rows count from 0 within their tables.
type Pair struct {
	LeftTable, LeftRow   int
	RightTable, RightRow int
	Weight               float64 // bits
	Probability          float64
	Verdict              Verdict
	Decided              bool // by somebody

	a, b    uint32
	implied bool // it follows from others, and was not compared
}

// Result is what a linkage found.
type Result struct {
	Spec     Spec
	Rules    []*Rule
	Compared int // pairs
	Possible int // pairs there are
	Prior    float64
	Weights  []Weights
	Pairs    []Pair   // links and pairs to review, in the order of their records
	Clusters [][]Row  // records that are one thing, two and more each
	Notes    []string // what went otherwise than it should
	Bins     []Bin    // the pairs that were compared, by weight, before anything was decided
	Strata   []Stratum
	Missed   float64 // pairs that are one thing and that no rule brought together, at least

	records *records
	started []float64 // u of equal values as it was drawn, by attribute
}

// Row is a row of one of the tables.
type Row struct{ Table, Row int }

// decide weighs all pairs, keeps links and those to review, and makes clusters. What somebody decided holds: pairs that are the same
// are links, wherever they came from, and those that are not are neither linked nor in one cluster.
func (r *records) decide(out *Result, pairs []compared, patterns []uint64, across bool, by decided) {
	kinds := r.kinds()
	weights := make([]float64, len(patterns))
	for i, p := range patterns {
		weights[i] = weigh(out.Weights, kinds, p)
	}
	keep := func(a, b uint32, weight, p float64, verdict Verdict, somebody bool) {
		x, y := r.row(a), r.row(b)
		out.Pairs = append(out.Pairs, Pair{x.Table, x.Row, y.Table, y.Row, weight, p, verdict, somebody, a, b, false})
	}
	met := map[uint64]bool{}
	counts, checks := &histogram{}, strata(out.Spec.Link, out.Spec.Possible)
	r.probabilities(pairs, weights, out.Prior, across, func(i int, p float64) {
		c := pairs[i]
		counts.add(p, out.Prior)
		offer(checks, p, func() Pair {
			x, y := r.row(c.a), r.row(c.b)
			return Pair{x.Table, x.Row, y.Table, y.Row, weights[c.pattern] + float64(c.rare), p, "", false, c.a, c.b, false}
		}, c.a, c.b)
		same, somebody := by[pairOf(c.a, c.b)]
		switch weight := weights[c.pattern] + float64(c.rare); {
		case somebody:
			met[pairOf(c.a, c.b)] = true
			if same {
				keep(c.a, c.b, weight, 1, Linked, true)
			}
		case p >= out.Spec.Link:
			keep(c.a, c.b, weight, p, Linked, false)
		case p >= out.Spec.Possible:
			keep(c.a, c.b, weight, p, Review, false)
		}
	})
	out.Bins, out.Strata = counts.bins(), drawnFrom(checks)
	for pair, same := range by {
		if same && !met[pair] {
			keep(uint32(pair>>32), uint32(pair), 0, 1, Linked, true)
		}
	}
	slices.SortFunc(out.Pairs, byRecords)
	if out.Spec.Many {
		return
	}
	out.Clusters = r.clusters(out.Pairs, by)
	r.agree(out, across)
}

// agree makes the verdicts say what the clusters say: a link between two clusters is one to review, and two records of one cluster are linked, whether
// or not they were compared; of clusters of more than mostImplied records only those that were.
func (r *records) agree(out *Result, across bool) {
	cluster := make([]int32, r.len())
	for i, c := range out.Clusters {
		for _, row := range c {
			cluster[uint32(r.starts[row.Table]+row.Row)] = int32(i + 1)
		}
	}
	known := make(map[uint64]bool, len(out.Pairs))
	for i := range out.Pairs {
		p := &out.Pairs[i]
		together := cluster[p.a] > 0 && cluster[p.a] == cluster[p.b]
		if together {
			known[pairOf(p.a, p.b)] = true
			p.Verdict = Linked
		} else if !p.Decided {
			p.Verdict = Review
		}
	}
	cs := r.comparers()
	for _, c := range out.Clusters {
		if len(c) > mostImplied {
			continue
		}
		for i, x := range c {
			for _, y := range c[i+1:] {
				a, b := uint32(r.starts[x.Table]+x.Row), uint32(r.starts[y.Table]+y.Row)
				if known[pairOf(a, b)] || across && x.Table == y.Table {
					continue
				}
				pattern, rare := r.compare(cs, a, b, out.started)
				w := weigh(out.Weights, r.kinds(), pattern) + rare
				out.Pairs = append(out.Pairs, Pair{x.Table, x.Row, y.Table, y.Row, w, max(Probability(w+out.Prior), out.Spec.Link), Linked, false, a, b, true})
			}
		}
	}
	slices.SortFunc(out.Pairs, byRecords)
}

func byRecords(x, y Pair) int { return cmp.Or(cmp.Compare(x.a, y.a), cmp.Compare(x.b, y.b)) }

// mostImplied is how many records a cluster has at most for all its pairs to be listed.
const mostImplied = 50

func (r *records) row(i uint32) Row {
	t := r.table(i)
	return Row{t, int(i) - r.starts[t]}
}

// clusters joins records that are linked, the strongest links first. A link whose clusters are not tied otherwise is
// taken where the records at its ends are alike enough on the whole: no cluster rests on a chain of weak links.
func (r *records) clusters(pairs []Pair, by decided) [][]Row {
	links := []Pair{}
	for _, p := range pairs {
		if p.Verdict == Linked {
			links = append(links, p)
		}
	}
	slices.SortStableFunc(links, func(x, y Pair) int {
		if x.Decided != y.Decided { // first what somebody decided
			return map[bool]int{true: -1, false: 1}[x.Decided]
		}
		return cmp.Compare(y.Weight, x.Weight)
	})
	parent := make([]uint32, r.len())
	for i := range parent {
		parent[i] = uint32(i)
	}
	root := func(i uint32) uint32 {
		for parent[i] != i {
			parent[i] = parent[parent[i]]
			i = parent[i]
		}
		return i
	}
	members := make(map[uint32][]uint32, len(links))
	of := func(i uint32) []uint32 {
		if m := members[i]; m != nil {
			return m
		}
		return []uint32{i}
	}
	known := make(map[uint64]bool, len(links))
	for _, l := range links {
		known[pairOf(l.a, l.b)] = true
	}
	for _, l := range links {
		x, y := root(l.a), root(l.b)
		if x == y {
			continue
		}
		if all := len(of(x)) * len(of(y)); all <= lookedAt {
			tied, apart := 0, false
			for _, a := range of(x) {
				for _, b := range of(y) {
					if known[pairOf(a, b)] {
						tied++
					}
					if same, somebody := by[pairOf(a, b)]; somebody && !same {
						apart = true
					}
				}
			}
			if apart || tied*3 < all && !l.Decided && !r.identical(l.a, l.b) {
				continue
			}
		}
		parent[y] = x
		members[x] = append(slices.Clone(of(x)), of(y)...)
		delete(members, y)
	}
	var out [][]Row
	for _, m := range members {
		slices.Sort(m)
		rows := make([]Row, len(m))
		for i, rec := range m {
			rows[i] = r.row(rec)
		}
		out = append(out, rows)
	}
	slices.SortFunc(out, func(a, b []Row) int {
		return cmp.Or(cmp.Compare(a[0].Table, b[0].Table), cmp.Compare(a[0].Row, b[0].Row))
	})
	return out
}

// lookedAt is how many pairs between two clusters are looked at; larger ones are one thing many times over.
const lookedAt = 10_000

// identical says whether two records have the same values throughout.
func (r *records) identical(a, b uint32) bool {
	k := len(r.attributes)
	return slices.Equal(r.codes[int(a)*k:int(a)*k+k], r.codes[int(b)*k:int(b)*k+k])
}

// Probability is that of odds in bits.
func Probability(bits float64) float64 { return 1 / (1 + math.Exp2(-bits)) }
