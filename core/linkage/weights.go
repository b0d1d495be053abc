package linkage

import (
	"fmt"
	"math"
	"math/rand/v2"
	"runtime"
	"slices"

	"grandledger/core/problem"
)

// Weights are the probabilities of the levels of an attribute.
type Weights struct {
	Attribute string    `json:"attribute" yaml:"attribute"`
	M         []float64 `json:"m" yaml:"m"` // by level, from unlike to equal
	U         []float64 `json:"u" yaml:"u"`
	// Given names an attribute with which this one goes together, such as a country with a city; UGiven is u among pairs that agree on
	// that one.
	Given  string    `json:"given,omitempty" yaml:"given,omitempty"`
	UGiven []float64 `json:"uGiven,omitempty" yaml:"uGiven,omitempty"`

	// With names an attribute with which this one changes together where two records are one thing, such as the postcode of those who moved:
	// MUnlike is m among pairs unlike on that one, MLike among the others.
	With    string    `json:"with,omitempty" yaml:"with,omitempty"`
	MUnlike []float64 `json:"mUnlike,omitempty" yaml:"mUnlike,omitempty"`
	MLike   []float64 `json:"mLike,omitempty" yaml:"mLike,omitempty"`

	same  int       // the level of equal values
	clean bool      // u of equal values was counted where no two are one thing
	given int       // its place, -1 for none
	with  int       // place of With, -1 for none
	drawn []float64 // u as it was drawn, pairs among them that are one thing
	// nested says that the levels are distances, set that somebody set the probabilities.
	nested, set bool
}

// byHand puts probabilities that somebody set in the place of those to be estimated.
func byHand(w, given []Weights, kinds []Kind) error {
	for _, g := range given {
		i := slices.IndexFunc(w, func(x Weights) bool { return x.Attribute == g.Attribute })
		if i < 0 {
			return problem.New("Name one of the attributes", "weights are given for %q, which is not compared", g.Attribute)
		}
		n := kinds[i].levels()
		sum := func(p []float64) (total float64) {
			for _, x := range p {
				if x <= 0 {
					return 0
				}
				total += x
			}
			return total
		}
		if len(g.M) != n || len(g.U) != n || math.Abs(sum(g.M)-1) > 0.01 || math.Abs(sum(g.U)-1) > 0.01 {
			return problem.New(fmt.Sprintf("Give %d numbers above 0 that add up to 1 for m and for u, from unlike to the same", n), "the weights of %s are not those of its levels", g.Attribute)
		}
		w[i] = Weights{Attribute: g.Attribute, M: slices.Clone(g.M), U: slices.Clone(g.U), given: -1, with: -1, set: true}
	}
	return nil
}

// bits is the weight of a level: log2(m/u).
func bits(m, u float64) float64 { return math.Log2(m / u) }

// drawnPairs is how many pairs are drawn at random for u.
const drawnPairs = 400_000

// random draws a pair of records that may be one thing.
func (r *records) random(g *rand.Rand, across bool) (a, b uint32) {
	for {
		a, b = uint32(g.IntN(r.len())), uint32(g.IntN(r.len()))
		if a != b && !(across && r.table(a) == r.table(b)) {
			return min(a, b), max(a, b)
		}
	}
}

// start gives u of every attribute from pairs drawn at random, and m as it is before anything is known.
func (r *records) start(across bool) []Weights {
	out := make([]Weights, len(r.attributes))
	side(len(r.attributes), func(i int) {
		a := r.attributes[i]
		g := rand.New(rand.NewPCG(17, uint64(i)))
		c := a.comparer()
		n := a.Kind.levels()
		seen, total := make([]float64, n), 0.0
		for range drawnPairs {
			x, y := r.random(g, across)
			if l := c.level(a.codes[x], a.codes[y]); tells(l) {
				seen[l]++
				total++
			}
		}
		w := Weights{Attribute: a.Name, M: append([]float64{}, a.Kind.startM()...), U: make([]float64, n), given: -1, with: -1, nested: a.Kind == Coordinates, same: int(a.same)}
		for l := range seen {
			w.U[l] = (seen[l] + 0.5) / (total + 0.5*float64(n))
		}
		if a.Kind != Coordinates { // how often two are equal need not be drawn
			if a.across { // each table lists a thing once, so that what is equal in one table is so by chance
				w.U[a.same] = min(max((a.equal+0.5)/(a.pairs+1), 1e-9), 0.99)
				w.clean = true
				normalise(w.U)
				w.drawn = append([]float64{}, w.U...)
			}
		}
		if a.Kind != Coordinates && !a.across {
			equal, all := 0.0, float64(a.filled)
			for code := 1; code < len(a.rows); code++ {
				equal += float64(a.rows[code]) * (float64(a.rows[code]) - 0.99)
			}
			w.U[a.Kind.same()] = min(max(equal/(all*all+1), 0.1/(all*all+1), 1e-9), 0.99)
		}
		normalise(w.U)
		w.drawn = append([]float64{}, w.U...)
		if a.Kind.learned() { // what kind of thing it is may speak for or against: that is learned
			copy(w.M, w.U)
		} else {
			top := a.Kind.same() + 1
			rising(w.M[:top], w.U[:top])
		}
		out[i] = w
	})
	r.dependent(out, across)
	return out
}

func normalise(p []float64) {
	sum := 0.0
	for _, x := range p {
		sum += x
	}
	for i := range p {
		p[i] /= sum
	}
}

// rising makes the weights of levels rise with them, by pooling levels whose weights do not (isotonic regression), since to agree
// further never speaks against two records.
func rising(m, u []float64) {
	type pool struct {
		m, u   float64
		levels int
	}
	var pools []pool
	for l := range m {
		pools = append(pools, pool{m[l], u[l], 1})
		for n := len(pools); n > 1 && pools[n-2].m*pools[n-1].u > pools[n-1].m*pools[n-2].u; n = len(pools) {
			a, b := pools[n-2], pools[n-1]
			pools = append(pools[:n-2], pool{a.m + b.m, a.u + b.u, a.levels + b.levels})
		}
	}
	at := 0
	for _, p := range pools {
		for range p.levels {
			m[at] = p.m / p.u * u[at]
			at++
		}
	}
}

// tail is the probability of a level or a higher one.
func tail(p []float64, from uint8) float64 {
	sum := 0.0
	for _, x := range p[from:] {
		sum += x
	}
	return sum
}

// weigh is the weight of a pattern in bits. Levels are four bits each.
func weigh(w []Weights, kinds []Kind, pattern uint64) float64 {
	sum := 0.0
	for i := range w {
		sum += bitsOf(w, kinds, pattern, i)
	}
	return sum
}

// bitsOf is what one attribute adds to the weight of a pattern.
func bitsOf(w []Weights, kinds []Kind, pattern uint64, i int) float64 {
	l := uint8(pattern >> (4 * i) & 15)
	if !tells(l) {
		return 0
	}
	u, m := w[i].U[l], w[i].M[l]
	if j := w[i].given; j >= 0 {
		if of := uint8(pattern >> (4 * j) & 15); tells(of) && of >= kinds[j].near() {
			u = max(u, w[i].UGiven[l])
			if l < kinds[i].near() {
				u = w[i].UGiven[l]
			}
		}
	}
	if j := w[i].with; j >= 0 {
		switch of := uint8(pattern >> (4 * j) & 15); {
		case !tells(of):
		case of == 0:
			m = w[i].MUnlike[l]
		default:
			m = w[i].MLike[l]
		}
	}
	if l == 0 && !kinds[i].learned() {
		return min(bits(m, u), 0) // to be unlike never speaks for two records
	}
	return bits(m, u)
}

// rarity is the bits by which two values that agree to a level are nearer, or rarer, than those that agree to it are on average. u is that
// of equal values as it was drawn.
func (c *comparer) rarity(x, y uint32, level uint8, u float64) float64 {
	switch {
	case !tells(level):
		return 0
	case c.way == texts && x != y:
		return c.within(x, y) * fineBits
	case x == y && c.Kind != Coordinates && c.Kind != Number:
		// Bayes: of pairs that are two things a share as large as the value is frequent agrees on it.
		of := float64(c.rows[x]) / float64(c.filled)
		switch n := float64(c.rows[x]); {
		case c.many: // how many entries but the one that may be meant are called so is known
			all := (1 + math.Sqrt(1+4*c.pairs)) / 2
			of = (max(n-1, 0) + min(max(all*u, 0.02), 0.25)) / all
			rare := min(max(math.Log2(u/of), 0), 12) // others called so are candidates too, which is all that speaks against it
			if c.way == texts {                      // none that is nearly called so goes before it
				rare += fineBits / 2.0
			}
			return rare
		case c.across: // without the two that may be one thing
			of = (max(n-2, 0) + 0.25) / float64(c.filled)
		}
		return min(max(math.Log2(u/of), -6), 6) * rareCounts
	}
	return 0
}

// compared is a candidate pair: its pattern among those that occur, and the bits by which its equal values are rarer than equal values
// are on average.
type compared struct {
	a, b    uint32
	pattern int32
	rare    float32
}

// compareAll compares candidate pairs, on all cores, and gives the patterns that occur.
func (r *records) compareAll(candidates [][]uint64, equal []float64) (pairs []compared, patterns []uint64) {
	starts := make([]int, len(candidates)+1)
	for i, c := range candidates {
		starts[i+1] = starts[i] + len(c)
	}
	pairs = make([]compared, starts[len(candidates)])
	found := make([]uint64, len(pairs)) // the pattern of each
	workers := runtime.GOMAXPROCS(0)
	side(workers, func(worker int) {
		cs := r.comparers()
		for part := worker; part < len(candidates); part += workers {
			for n, pair := range candidates[part] {
				a, b := uint32(pair>>32), uint32(pair)
				pattern, rare := r.compare(cs, a, b, equal)
				at := starts[part] + n
				pairs[at] = compared{a, b, 0, float32(rare)}
				found[at] = pattern
			}
		}
	})
	known := map[uint64]int32{}
	for i, p := range found {
		at, ok := known[p]
		if !ok {
			at = int32(len(patterns))
			known[p] = at
			patterns = append(patterns, p)
		}
		pairs[i].pattern = at
	}
	return pairs, patterns
}

func (r *records) comparers() []*comparer {
	cs := make([]*comparer, len(r.attributes))
	for i, a := range r.attributes {
		cs[i] = a.comparer()
	}
	return cs
}

// compare gives the pattern of two records and the bits by which their equal values are rarer than such values are on average; equal is u of these.
func (r *records) compare(cs []*comparer, a, b uint32, equal []float64) (pattern uint64, rare float64) {
	left, right := r.codes[int(a)*len(cs):], r.codes[int(b)*len(cs):]
	for i, c := range cs {
		x, y := left[i], right[i]
		l := c.level(x, y)
		pattern |= uint64(l) << (4 * i)
		rare += c.rarity(x, y, l, equal[i])
	}
	return r.swap(pattern, left, right), rare
}

// fineBits is how many bits lie between the bottom and the top of a level of texts, so that of two that agree to one level the
// nearer one counts for more.
const fineBits = 3

// rareCounts is how much of the rarity of a value counts: frequencies are those of one file.
const rareCounts = 0.6
