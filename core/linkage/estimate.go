package linkage

import "math"

// estimate finds m without labels, by expectation maximisation over the candidate pairs, with u held as drawn. Pairs that no rule
// brought together count as two things. Across duplicate-free tables the pairs of a record compete: it is one
// thing with one other at most (rivals). It gives the prior odds of a pair in bits.
//
// Guards: each attribute keeps some of what it started from (as if pseudo pairs had been seen), m never falls towards lower levels
// than u, and fewer than a dozen expected links leave m as it started.
func (r *records) learn(w []Weights, pairs []compared, patterns []uint64, across bool, by decided) (prior float64, notes []string) {
	kinds := r.kinds()
	possible := float64(r.possible(across))
	if k := uint64(len(pairs) / learnedFrom); k > 1 && !across { // of very many, the pairs of some records are enough
		possible /= float64(k)
		some := make([]compared, 0, len(pairs)/int(k)*5/4)
		for _, p := range pairs {
			if mix(uint64(p.a))>>20%k == 0 {
				some = append(some, p)
			}
		}
		pairs = some
	}
	expected := math.Min(float64(r.len())/4*possible/float64(r.possible(across)), possible/2)
	// What somebody decided counts as often as ten pairs that are only likely.
	type known struct {
		pattern int32
		counts  float64
	}
	var said []known
	for _, p := range pairs {
		if len(by) == 0 {
			break
		}
		if same, somebody := by[pairOf(p.a, p.b)]; somebody {
			said = append(said, known{p.pattern, map[bool]float64{true: saidCounts, false: -1}[same]})
		}
	}
	for round := range 25 {
		if r.many {
			expected = max(expected, listedLeast*float64(r.starts[1]))
		}
		prior = math.Log2(max(expected, 0.5) / possible)
		weights := make([]float64, len(patterns))
		for i, p := range patterns {
			weights[i] = weigh(w, kinds, p)
		}
		of := make([]float64, len(patterns)) // expected links by pattern
		if across {
			r.probabilities(pairs, weights, prior, true, func(i int, p float64) { of[pairs[i].pattern] += p })
		} else {
			r.nearest(pairs, weights, prior, of)
		}
		for _, s := range said {
			of[s.pattern] = max(of[s.pattern]+s.counts, 0)
		}
		total := 0.0
		for _, p := range of {
			total += p
		}
		for i := range w {
			if !w[i].set {
				w[i].without(total / possible)
			}
		}
		change := math.Abs(total-expected) / max(expected, 1)
		expected = total
		if total < 12 {
			return prior, append(notes, "too few pairs look alike to learn from; the weights are those it started from")
		}
		for i := range w {
			if w[i].set || len(w) == 1 && r.many { // by one attribute alone nothing tells what links are like
				continue
			}
			counts, sum := make([]float64, len(w[i].M)), 0.0
			for p, pattern := range patterns {
				if l := uint8(pattern >> (4 * i) & 15); tells(l) {
					counts[l] += of[p]
					sum += of[p]
				}
			}
			start := kinds[i].startM()
			if kinds[i].learned() {
				start = w[i].U
			}
			pseudo := max(10, sum*startCounts)
			for l := range counts {
				w[i].M[l] = (counts[l] + pseudo*start[l]) / (sum + pseudo)
			}
			if !kinds[i].learned() {
				top := kinds[i].same() + 1
				rising(w[i].M[:top], w[i].U[:top])
				// An attribute on which links agree no more than others do is no evidence, but none against either.
				for l := len(counts) - 1; l >= int(kinds[i].half()); l-- {
					w[i].M[l] = max(w[i].M[l], w[i].U[l]*1.01)
				}
			}
			w[i].M[0] = max(w[i].M[0], unlikeM)
			normalise(w[i].M)
		}
		changing(w, kinds, patterns, of)
		if round > 3 && change < 0.002 {
			break
		}
	}
	if !across { // what was learned from the nearest pairs holds for all
		weights := make([]float64, len(patterns))
		for i, p := range patterns {
			weights[i] = weigh(w, kinds, p)
		}
		for range 5 {
			total := 0.0
			r.probabilities(pairs, weights, prior, false, func(_ int, p float64) { total += p })
			prior = math.Log2(max(total, 0.5) / possible)
		}
	}
	return prior, notes
}

// changing finds the attributes that change together among pairs that are one thing, and m of each given the other: of
// expected links by pattern. Each has one parent before it in the list at most. Those that are unlike twice as often where another is are
// taken, so that what happened once, such as a move, is not counted for every attribute that it changed.
func changing(w []Weights, kinds []Kind, patterns []uint64, of []float64) {
	for i := range w {
		if w[i].set {
			continue
		}
		best := 0.0
		w[i].With, w[i].with = "", -1
		for j := range i {
			unlike, like := make([]float64, len(w[i].M)), make([]float64, len(w[i].M))
			var nUnlike, nLike float64
			for p, pattern := range patterns {
				l, k := uint8(pattern>>(4*i)&15), uint8(pattern>>(4*j)&15)
				switch {
				case !tells(l) || !tells(k):
				case k == 0:
					unlike[l] += of[p]
					nUnlike += of[p]
				default:
					like[l] += of[p]
					nLike += of[p]
				}
			}
			if nUnlike < leastUnlike || nLike < leastUnlike {
				continue
			}
			all := (unlike[0] + like[0]) / (nUnlike + nLike)
			told := informed(unlike[0], nUnlike, like[0], nLike)
			if more := unlike[0] / nUnlike / max(all, 0.01); more > 2 && told > best {
				best = told
				for l := range unlike {
					pseudo := 10.0
					unlike[l] = (unlike[l] + pseudo*w[i].M[l]) / (nUnlike + pseudo)
					like[l] = (like[l] + pseudo*w[i].M[l]) / (nLike + pseudo)
				}
				top := kinds[i].same() + 1
				rising(unlike[:top], w[i].U[:top])
				rising(like[:top], w[i].U[:top])
				like[0] = max(like[0], unlikeM)
				w[i].With, w[i].MUnlike, w[i].MLike, w[i].with = w[j].Attribute, unlike, like, j
			}
		}
	}
}

// informed is how much is known of whether two records are unlike on one attribute by whether they are on another, in bits of all pairs: the mutual information
// of two events, of which x of n pairs are both, and y of the k others the first.
func informed(x, n, y, k float64) float64 {
	all, bits := n+k, 0.0
	for _, c := range [][3]float64{{x, x + y, n}, {n - x, all - x - y, n}, {y, x + y, k}, {k - y, all - x - y, k}} {
		if c[0] > 0 {
			bits += c[0] * math.Log2(c[0]*all/(c[1]*c[2]))
		}
	}
	return bits
}

// leastUnlike is how many expected links must be unlike on an attribute for something to be learned of others.
const leastUnlike = 30

// without takes the share of pairs that are one thing out of u as it was drawn.
func (w *Weights) without(share float64) {
	for l, drawn := range w.drawn {
		if w.clean && l == w.same {
			w.U[l] = drawn
			continue
		}
		w.U[l] = max(drawn-share*w.M[l], drawn*0.05, 0.5/drawnPairs)
	}
	if w.nested { // each level lies within the one before, and chance finds fewer there
		for l := 2; l < len(w.U); l++ {
			w.U[l] = min(w.U[l], w.U[l-1]/3)
		}
	}
	normalise(w.U)
}

// nearest adds the probabilities of pairs by pattern, of which each counts the less the further it falls behind the best pair of
// either record: what is learned of pairs that are one thing is learned from those that are each other's nearest.
func (r *records) nearest(pairs []compared, weights []float64, prior float64, of []float64) {
	best := make([]float32, r.len())
	for i := range best {
		best[i] = -mostBits
	}
	for i := range pairs {
		p := &pairs[i]
		w := float32(weights[p.pattern]) + p.rare
		best[p.a], best[p.b] = max(best[p.a], w), max(best[p.b], w)
	}
	const chunks = 16 // added up in their order, on however many cores
	sums := make([][]float64, chunks)
	side(chunks, func(n int) {
		sum := make([]float64, len(of))
		for i := n * len(pairs) / chunks; i < (n+1)*len(pairs)/chunks; i++ {
			p := &pairs[i]
			w := float32(weights[p.pattern]) + p.rare
			o := power(min(float64(w)+prior, mostBits))
			sum[p.pattern] += o / (1 + o) * power(float64(min(0, w-max(best[p.a], best[p.b])+nearBits)))
		}
		sums[n] = sum
	})
	for _, sum := range sums {
		for i, x := range sum {
			of[i] += x
		}
	}
}

// power is 2 to a number of bits, to seven digits: the whole part as it is written in a float64, the rest by the first terms of its series.
func power(bits float64) float64 {
	if bits < -1000 {
		return 0
	}
	whole := math.Floor(bits)
	x := (bits - whole - 0.5) * math.Ln2
	rest := math.Sqrt2 * (1 + x*(1+x/2*(1+x/3*(1+x/4*(1+x/5*(1+x/6))))))
	return rest * math.Float64frombits(uint64(int64(whole)+1023)<<52)
}

// saidCounts is how many likely pairs one counts for that somebody says is one thing.
const saidCounts = 10

// listedLeast is the share of what is asked of a register that is taken to be listed there, at least.
const listedLeast = 0.2

// nearBits is how far a pair may fall behind the best of its records and count in full.
const nearBits = 3

func (r *records) kinds() []Kind {
	out := make([]Kind, len(r.attributes))
	for i, a := range r.attributes {
		out[i] = a.Kind
	}
	return out
}

// possible is how many pairs there are.
func (r *records) possible(across bool) int {
	n := r.len()
	all := n * (n - 1) / 2
	if across {
		for i := 1; i < len(r.starts); i++ {
			n := r.starts[i] - r.starts[i-1]
			all -= n * (n - 1) / 2
		}
	}
	return max(all, 1)
}

// probabilities gives each pair's probability of being one thing. Across tables that list a thing once, a record is one thing with
// at most one of each other table: the probabilities are the marginals of all such matchings, each weighed by the odds of
// its pairs, found by passing messages along the pairs (sum-product; J. Pearl 1988), exact where the pairs make no circle.
func (r *records) probabilities(pairs []compared, weights []float64, prior float64, rivals bool, to func(i int, p float64)) {
	odds := func(p *compared) float64 { return math.Exp2(min(weights[p.pattern]+float64(p.rare)+prior, mostBits)) }
	if !rivals {
		for i := range pairs {
			o := odds(&pairs[i])
			to(i, o/(1+o))
		}
		return
	}
	tables := len(r.starts) - 1
	of := make([]uint8, r.len()) // the table of each record
	for t := range tables {
		for i := r.starts[t]; i < r.starts[t+1]; i++ {
			of[i] = uint8(t)
		}
	}
	sums := make([]float64, r.len()*tables)
	all := make([]float64, len(pairs))
	for i := range pairs {
		all[i] = odds(&pairs[i])
	}
	// How free each record of a pair is, as far as its other pairs go.
	left, right := make([]float64, len(pairs)), make([]float64, len(pairs))
	for i := range left {
		left[i], right[i] = 1, 1
	}
	for range messages {
		clear(sums)
		for i := range pairs {
			a, b := pairs[i].a, pairs[i].b
			sums[int(a)*tables+int(of[b])] += all[i] * right[i]
			sums[int(b)*tables+int(of[a])] += all[i] * left[i]
		}
		for i := range pairs {
			a, b := pairs[i].a, pairs[i].b
			if r.many { // settled at once
				left[i] = 1 / (1 + max(sums[int(a)*tables+int(of[b])]-all[i], 0))
				continue
			}
			x, y := all[i]*right[i], all[i]*left[i]
			// Half way only, so that messages around a circle settle.
			left[i] = math.Sqrt(left[i] / (1 + max(sums[int(a)*tables+int(of[b])]-x, 0)))
			right[i] = math.Sqrt(right[i] / (1 + max(sums[int(b)*tables+int(of[a])]-y, 0)))
		}
	}
	for i := range pairs {
		o := all[i] * left[i] * right[i]
		to(i, o/(1+o))
	}
}

// learnedFrom is from how many pairs weights are learned.
const learnedFrom = 1_500_000

// startCounts is how much of an m is what is known of such attributes from elsewhere: where two kinds of pairs mix, it holds
// the estimation to the one that is meant.
const startCounts = 0.15

// unlikeM is what m of the lowest level is at least: no attribute is so sure that disagreement on it alone keeps apart what all
// others hold together.
const unlikeM = 0.01

const (
	mostBits = 40 // beyond which nothing is surer
	messages = 16 // times that messages are passed on
)
