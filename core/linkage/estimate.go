package linkage

import "math"

// estimate finds m without labels, by expectation maximisation over the candidate pairs, with u held as drawn. Pairs that no rule
// brought together count as two things. Across duplicate-free tables the pairs of a record compete: it is one
// thing with one other at most (rivals). It gives the prior odds of a pair in bits.
//
// Guards: each attribute keeps some of what it started from (as if pseudo pairs had been seen), m never falls towards lower levels
// than u, and fewer than a dozen expected links leave m as it started.
func (r *records) estimate1(w []Weights, pairs []compared, patterns []uint64, across bool) (prior float64, notes []string) {
	kinds := r.kinds()
	possible := float64(r.possible(across))
	expected := math.Min(float64(r.len())/4, possible/2)
	for round := range 25 {
		prior = math.Log2(max(expected, 0.5) / possible)
		weights := make([]float64, len(patterns))
		for i, p := range patterns {
			weights[i] = weigh(w, kinds, p)
		}
		of := make([]float64, len(patterns)) // expected links by pattern
		r.probabilities(pairs, weights, prior, across, func(i int, p float64) { of[pairs[i].pattern] += p })
		total := 0.0
		for _, p := range of {
			total += p
		}
		change := math.Abs(total-expected) / max(expected, 1)
		expected = total
		if total < 12 {
			return prior, append(notes, "too few pairs look alike to learn from; the weights are those it started from")
		}
		for i := range w {
			counts, sum := make([]float64, len(w[i].M)), 0.0
			for p, pattern := range patterns {
				if l := uint8(pattern >> (4 * i) & 15); l != missing {
					counts[l] += of[p]
					sum += of[p]
				}
			}
			start := startM[kinds[i]]
			const pseudo = 10
			for l := range counts {
				w[i].M[l] = (counts[l] + pseudo*start[l]) / (sum + pseudo)
			}
			rising(w[i].M, w[i].U)
			// An attribute on which links agree no more than others do is no evidence, but none against either.
			for l := len(counts) - 1; l >= int(half(kinds[i])); l-- {
				w[i].M[l] = max(w[i].M[l], w[i].U[l]*1.01)
			}
			w[i].M[0] = max(w[i].M[0], unlikeM)
			normalise(w[i].M)
		}
		if round > 3 && change < 0.002 {
			break
		}
	}
	return prior, notes
}

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

// unlikeM is what m of the lowest level is at least: no attribute is so sure that disagreement on it alone keeps apart what all
// others hold together.
const unlikeM = 0.01

const (
	mostBits = 40 // beyond which nothing is surer
	messages = 16 // times that messages are passed on
)
