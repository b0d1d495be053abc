package linkage

import (
	"cmp"
	"math"
	"slices"
)

// Stratum is a range of probabilities with some of its pairs, drawn at random, for somebody to look at.
type Stratum struct {
	From, To float64 // probability; To is not in it, but 1
	Linked   bool    // its pairs are links
	Pairs    int     // that were compared
	Drawn    []Pair

	draws []draw // the pairs of the lowest hashes
}

type draw struct {
	order uint64
	pair  Pair
}

// spotted is how many pairs of a stratum are drawn.
const spotted = 30

// strata are the ranges that a spot check draws from.
func strata(link, possible float64) []Stratum {
	edges := []float64{0, 0.001, possible, link, (1 + link) / 2, 0.99, 1}
	slices.Sort(edges)
	edges = slices.Compact(edges)
	var out []Stratum
	for i := range len(edges) - 1 {
		out = append(out, Stratum{From: edges[i], To: edges[i+1], Linked: edges[i] >= link})
	}
	return out
}

// offer counts a pair, and draws it if its hash is among the lowest of its stratum: the same pairs on every run.
func offer(all []Stratum, p float64, pair func() Pair, a, b uint32) {
	at := len(all) - 1
	for p < all[at].From {
		at--
	}
	s := &all[at]
	s.Pairs++
	order := mix(uint64(a)<<32 | uint64(b))
	if len(s.draws) == spotted && order >= s.draws[spotted-1].order {
		return
	}
	i, _ := slices.BinarySearchFunc(s.draws, order, func(d draw, order uint64) int { return cmp.Compare(d.order, order) })
	s.draws = slices.Insert(s.draws, i, draw{order, pair()})
	s.draws = s.draws[:min(len(s.draws), spotted)]
}

func drawnFrom(all []Stratum) []Stratum {
	for i := range all {
		for _, d := range all[i].draws {
			all[i].Drawn = append(all[i].Drawn, d.pair)
		}
		all[i].draws = nil
	}
	return all
}

// Estimate is a proportion with the interval that it lies in with 95 % confidence.
type Estimate struct{ Value, Low, High float64 }

// Answered is what somebody found in a stratum.
type Answered struct {
	Linked       bool
	Pairs        int // there are
	Asked, Right int // that were looked at, and are one thing
}

// Checked gives the precision of the links, and their recall among the pairs that were compared, by what a spot check found: of each stratum the share that is
// one thing with its Wilson interval, counting as many times as the stratum has pairs, the widths added up as those of independent draws are. ok is false until
// a pair of every stratum that holds any was looked at.
func Checked(all []Answered) (precision, recall Estimate, ok bool) {
	var right, missed ranged
	links := 0.0
	for _, s := range all {
		if s.Pairs == 0 {
			continue
		}
		if s.Asked == 0 {
			return precision, recall, false
		}
		if s.Linked {
			links += float64(s.Pairs)
			right.add(s)
		} else {
			missed.add(s)
		}
	}
	precision, recall = Estimate{1, 0, 1}, Estimate{1, 0, 1}
	if links > 0 {
		precision = Estimate{right.sum / links, max(0, right.low()/links), min(1, right.high()/links)}
	}
	if right.sum+missed.sum > 0 {
		recall = Estimate{right.sum / (right.sum + missed.sum), share64(right.low(), missed.high()), share64(right.high(), missed.low())}
	}
	return precision, recall, true
}

// ranged adds up the pairs of strata that are one thing, with how far the sum may be off to either side, squared.
type ranged struct{ sum, below, above float64 }

func (r *ranged) add(s Answered) {
	low, high := Wilson(s.Right, s.Asked)
	n, p := float64(s.Pairs), float64(s.Right)/float64(s.Asked)
	r.sum += n * p
	if s.Asked < s.Pairs { // otherwise all of them were looked at
		r.below += n * n * (p - low) * (p - low)
		r.above += n * n * (high - p) * (high - p)
	}
}

func (r *ranged) low() float64  { return max(0, r.sum-math.Sqrt(r.below)) }
func (r *ranged) high() float64 { return r.sum + math.Sqrt(r.above) }

func share64(part, rest float64) float64 {
	if part+rest == 0 {
		return 1
	}
	return part / (part + rest)
}

// Missed is how many pairs that are one thing blocking has probably not brought together, at least: of n links brought by one rule alone and k
// by two, n²/2k more were brought by none (A. Chao, Scandinavian Journal of Statistics 11, 1984). Links that follow from others are not counted.
func Missed(once, twice int) float64 {
	if once == 0 {
		return 0
	}
	if twice == 0 {
		return float64(once*(once-1)) / 2
	}
	return float64(once) * float64(once) / float64(2*twice)
}

// missed counts by how many rules each link was brought.
func (r *records) missed(rules []*Rule, pairs []Pair) float64 {
	once, twice := 0, 0
	for i := range pairs {
		if pairs[i].Verdict != Linked || pairs[i].implied {
			continue
		}
		n := 0
		for _, rule := range rules {
			if r.meet(rule, pairs[i].a, pairs[i].b) {
				n++
			}
		}
		switch n {
		case 1:
			once++
		case 2:
			twice++
		}
	}
	return Missed(once, twice)
}

// meet says whether two records share a key under a rule.
func (r *records) meet(rule *Rule, a, b uint32) bool {
	var keys [64]uint64
	n := 0
	r.each(rule, a, func(key uint64) {
		if n < len(keys) {
			keys[n] = key
			n++
		}
	})
	found := false
	r.each(rule, b, func(key uint64) { found = found || slices.Contains(keys[:n], key) })
	return found
}
