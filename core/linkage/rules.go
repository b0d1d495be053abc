package linkage

import (
	mathbits "math/bits"
	"slices"
	"strings"
)

// propose chooses rules: each alone or two together, as broad as can be afforded, as it is blocking that loses pairs.
func (r *records) propose(across bool) []*Rule {
	var singles []*part
	for at, a := range r.attributes {
		if a.filled > 0 {
			singles = append(singles, r.parts[at]...)
		}
	}
	n := r.len()
	budget := max(leastPairs, pairsEach*n)
	each := budget / 4 // of one rule alone; those of two parts are to be more of different ones
	sample := r.sample(costedBy)
	scale := float64(n) / float64(len(sample))
	type costed struct {
		rule  *Rule
		pairs float64
	}
	var all []costed
	add := func(parts ...*part) {
		rule := &Rule{parts: parts}
		pairs := r.estimate(rule, sample, across, scale)
		if pairs > 0 && pairs <= float64(each) {
			all = append(all, costed{rule, pairs})
		}
	}
	for _, p := range singles {
		add(p)
	}
	var two [][2]*part
	for i, p := range singles {
		for _, q := range singles[i+1:] {
			if p.attribute != q.attribute && !(p.many && q.many) {
				two = append(two, [2]*part{p, q})
			}
		}
	}
	estimates := make([]float64, len(two))
	rules := make([]*Rule, len(two))
	side(len(two), func(i int) {
		rules[i] = &Rule{parts: two[i][:]}
		estimates[i] = r.estimate(rules[i], sample, across, scale)
	})
	for i, rule := range rules {
		if estimates[i] > 0 && estimates[i] <= float64(each/2) {
			all = append(all, costed{rule, estimates[i]})
		}
	}
	// Greedily the rule that finds most of what those before it would miss, for its pairs.
	missed := r.agreements()
	var out []*Rule
	total := 0.0
	if r.names != nil { // what no other rule finds: names that changed places
		rule := &Rule{parts: r.names.eitherOrder(), either: true}
		if pairs := r.estimate(rule, sample, across, scale); pairs > 0 && pairs <= float64(each) {
			out, total = append(out, rule), pairs
			missed.found(rule)
		}
	}
	for len(out) < maxRules {
		best, most := -1, 0.0
		for i, c := range all {
			if total+c.pairs > float64(budget) {
				continue
			}
			if gain := missed.of(c.rule) / (1 + 8*c.pairs/float64(budget)); gain > most {
				best, most = i, gain
			}
		}
		if best < 0 || most < leastGain {
			break
		}
		c := all[best]
		missed.found(c.rule)
		total += c.pairs
		out = append(out, c.rule)
		all = slices.DeleteFunc(all, func(o costed) bool { return c.rule.covers(o.rule) })
	}
	for _, rule := range out {
		var words []string
		for _, p := range rule.parts {
			words = append(words, p.how+r.attributes[p.attribute].Name)
		}
		rule.Words = "the same " + strings.Join(words, " and ")
		if rule.either {
			rule.Words += " in either order"
		}
	}
	return out
}

// covers says whether every pair that another rule brings is brought by this one.
func (r *Rule) covers(other *Rule) bool {
	if r.either || other.either {
		return r == other
	}
	for _, p := range r.parts {
		if !slices.Contains(other.parts, p) {
			return false
		}
	}
	return true
}

// agreements is how likely pairs that are one thing agree on each set of attributes, bit by bit, and are not found yet.
type agreements []float64

// What is supposed of attributes before anything is known of them.
const (
	agreeOften = 0.75 // of pairs that are one thing agree, where both have a value
	leastGain  = 0.0005
)

func (r *records) agreements() agreements {
	out := agreements{1}
	for _, a := range r.attributes {
		filled := float64(a.filled) / float64(max(r.len(), 1))
		ok := agreeOften * filled * filled
		next := make(agreements, 2*len(out))
		for set, p := range out {
			next[set], next[set|len(out)] = p*(1-ok), p*ok
		}
		out = next
	}
	return out
}

// set is the attributes of a rule, bit by bit, and how likely its keys are the same where these agree.
func (r *Rule) set() (set int, same float64) {
	same = 1
	for _, p := range r.parts {
		set |= 1 << p.attribute
		same *= p.same
	}
	return set, same
}

func (g agreements) of(rule *Rule) float64 {
	attributes, same := rule.set()
	sum := 0.0
	for set, p := range g {
		if set&attributes == attributes {
			sum += p * same
		}
	}
	return sum
}

func (g agreements) found(rule *Rule) {
	attributes, same := rule.set()
	for set := range g {
		if set&attributes == attributes {
			g[set] *= 1 - same
		}
	}
}

// estimate is how many pairs a rule brings, from a sample of the records of which there are so many times more.
func (r *records) estimate(rule *Rule, of []uint32, across bool, scale float64) float64 {
	pairs := counted(of, scale, func(i uint32, to func(uint64)) { r.each(rule, i, to) })
	if across { // without those within a table
		pairs -= counted(of, scale, func(i uint32, to func(uint64)) {
			t := uint64(r.table(i)+1) * 0x9e3779b97f4a7c15
			r.each(rule, i, func(key uint64) { to(mix(key ^ t)) })
		})
	}
	return pairs
}

// counted is how many pairs share a key, as many as are compared of a block that is narrowed.
func counted(of []uint32, scale float64, keys func(i uint32, to func(uint64))) float64 {
	type slot struct {
		key uint64
		n   uint32
	}
	slots := make([]slot, 1<<mathbits.Len(uint(2*len(of)+8)))
	used := 0
	for _, i := range of {
		keys(i, func(key uint64) {
			mask := uint64(len(slots) - 1)
			at := key >> 20 & mask
			for slots[at].n > 0 && slots[at].key != key {
				at = (at + 1) & mask
			}
			if slots[at].n == 0 {
				used++
				slots[at].key = key
			}
			slots[at].n++
			if used*4 > len(slots)*3 {
				grown := make([]slot, 2*len(slots))
				for _, s := range slots {
					if s.n > 0 {
						to := s.key >> 20 & uint64(len(grown)-1)
						for grown[to].n > 0 {
							to = (to + 1) & uint64(len(grown)-1)
						}
						grown[to] = s
					}
				}
				slots = grown
			}
		})
	}
	pairs := 0.0
	for _, s := range slots {
		if s.n > 1 {
			n := float64(s.n)
			all := n * (n - 1) / 2 * scale * scale
			if all > maxBlock {
				all = min(all, n*scale*window)
			}
			pairs += all
		}
	}
	return pairs
}
