package linkage

import (
	"runtime"
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
	inOrder := []*part{}
	if r.names != nil {
		inOrder = r.eitherOrder()
	}
	cost := r.costing(across, append(slices.Clone(singles), inOrder...))
	type costed struct {
		rule  *Rule
		pairs float64
	}
	var all []costed
	var candidates []*Rule
	for i, p := range singles {
		candidates = append(candidates, &Rule{parts: []*part{p}})
		for _, q := range singles[i+1:] {
			if p.attribute != q.attribute && !(p.many && q.many) {
				candidates = append(candidates, &Rule{parts: []*part{p, q}})
			}
		}
	}
	pairs := make([]float64, len(candidates))
	workers := runtime.GOMAXPROCS(0)
	side(workers, func(worker int) {
		seen := &counter{}
		for i := worker; i < len(candidates); i += workers {
			pairs[i] = cost.pairs(candidates[i], seen)
		}
	})
	for i, rule := range candidates {
		if pairs[i] > 0 && pairs[i] <= float64(each)/float64(len(rule.parts)) {
			all = append(all, costed{rule, pairs[i]})
		}
	}
	// Greedily the rule that finds most of what those before it would miss, for its pairs.
	missed := r.agreements()
	var out []*Rule
	total := 0.0
	if r.names != nil { // what no other rule finds: names that changed places
		rule := &Rule{parts: inOrder, either: true}
		if pairs := cost.pairs(rule, &counter{}); pairs > 0 && pairs <= float64(each) {
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
			if gain := missed.of(c.rule) / (1 + 60*c.pairs/float64(budget)); gain > most {
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

// costing works out how many pairs rules bring, by a sample of the records of which there are so many times more.
type costing struct {
	*records
	across bool
	sample []uint32
	scale  float64
	keys   map[*part]sampledKeys
}

// sampledKeys are the keys of a part for the records of a sample, one behind the other, and where those of each end.
type sampledKeys struct {
	keys []uint64
	ends []uint32
}

func (r *records) costing(across bool, parts []*part) *costing {
	c := &costing{records: r, across: across, sample: r.sample(costedBy), keys: map[*part]sampledKeys{}}
	c.scale = float64(r.len()) / float64(len(c.sample))
	made := make([]sampledKeys, len(parts))
	side(len(parts), func(i int) {
		p, k := parts[i], &made[i]
		codes := r.attributes[p.attribute].codes
		for _, rec := range c.sample {
			k.keys = append(k.keys, p.of(codes[rec])...)
			k.ends = append(k.ends, uint32(len(k.keys)))
		}
	})
	for i, p := range parts {
		c.keys[p] = made[i]
	}
	return c
}

// pairs is how many pairs a rule brings, as many as are compared of blocks that are narrowed.
func (c *costing) pairs(rule *Rule, seen *counter) float64 {
	pairs := c.counted(rule, seen, false)
	if c.across { // without those within a table
		pairs = max(pairs-c.counted(rule, seen, true), pairs/4) // of blocks that are narrowed neither is known so well
	}
	return pairs
}

func (c *costing) counted(rule *Rule, seen *counter, byTable bool) float64 {
	seen.clear()
	first := c.keys[rule.parts[0]]
	var second sampledKeys
	if len(rule.parts) > 1 {
		second = c.keys[rule.parts[1]]
	}
	from, at := uint32(0), uint32(0)
	for i := range c.sample {
		salt := uint64(0)
		if byTable {
			salt = uint64(c.table(c.sample[i])+1) * 0x9e3779b97f4a7c15
		}
		for _, x := range first.keys[from:first.ends[i]] {
			if second.ends == nil {
				seen.add(mix(x ^ salt))
				continue
			}
			for _, y := range second.keys[at:second.ends[i]] {
				if rule.either {
					seen.add(mix((x + y) ^ salt))
				} else {
					seen.add(mix((x + y*3) ^ salt))
				}
			}
		}
		from = first.ends[i]
		if second.ends != nil {
			at = second.ends[i]
		}
	}
	pairs := 0.0
	for _, s := range seen.slots {
		if s.round == seen.round && s.n > 1 {
			n := float64(s.n)
			all := n * (n - 1) / 2 * c.scale * c.scale
			if all > maxBlock {
				all = min(all, n*c.scale*window)
			}
			pairs += all
		}
	}
	return pairs
}

// counter counts keys; cleared without touching what it holds.
type counter struct {
	slots []slot
	round uint32
	used  int
}

type slot struct {
	key      uint64
	n, round uint32
}

func (c *counter) clear() {
	c.round++
	c.used = 0
	if c.slots == nil {
		c.slots = make([]slot, 1<<16)
	}
}

func (c *counter) add(key uint64) {
	s := c.find(key)
	if s.round != c.round {
		*s = slot{key, 0, c.round}
		if c.used++; c.used*4 > len(c.slots)*3 {
			old := c.slots
			c.slots = make([]slot, 2*len(old))
			for _, o := range old {
				if o.round == c.round {
					*c.find(o.key) = o
				}
			}
			s = c.find(key)
		}
	}
	s.n++
}

func (c *counter) find(key uint64) *slot {
	mask := uint64(len(c.slots) - 1)
	at := key >> 20 & mask
	for c.slots[at].round == c.round && c.slots[at].key != key {
		at = (at + 1) & mask
	}
	return &c.slots[at]
}
