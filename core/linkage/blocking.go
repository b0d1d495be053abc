package linkage

import (
	"cmp"
	"fmt"
	"math"
	"slices"
	"strings"
	"sync"

	"grandledger/core/text"
)

// part is one way to make keys of an attribute: records that share a key meet.
type part struct {
	attribute int
	how       string
	many      bool       // a value has several keys
	keys      [][]uint64 // by code
}

// Rule is a blocking rule: pairs of records that share a key under each of its parts are compared.
type Rule struct {
	Words    string `json:"words"`
	Pairs    int    `json:"pairs"`    // that it brought, before those of other rules were taken off
	Largest  int    `json:"largest"`  // records of its largest block
	Narrowed int    `json:"narrowed"` // blocks too large to compare all pairs of, of which the nearest were compared

	parts []*part
}

// Limits of blocking.
const (
	leastPairs = 3_000_000 // pairs that are always affordable
	pairsEach  = 24        // pairs a record that are affordable
	maxRules   = 12
	maxBlock   = 40_000 // pairs of a block from which it is narrowed
	window     = 12     // records to either side that are compared in a narrowed block
	sampled    = 100_000
)

func hashText(kind int, v string) uint64 {
	h := uint64(kind)*0x9e3779b97f4a7c15 + 1469598103934665603
	for i := range len(v) {
		h = (h ^ uint64(v[i])) * 1099511628211
	}
	return mix(h)
}

func mix(h uint64) uint64 {
	h = (h ^ h>>32) * 0xd6e8feb86659fd93
	return (h ^ h>>29) * 0x9e3779b97f4a7c15
}

// partsOf are the ways to make keys of an attribute.
func (r *records) partsOf(at int) []*part {
	a := r.attributes[at]
	make1 := func(how string, many bool, key func(v *value, add func(string))) *part {
		p := &part{attribute: at, how: how, many: many, keys: make([][]uint64, len(a.values))}
		for code := 1; code < len(a.values); code++ {
			key(&a.values[code], func(k string) {
				if h := hashText(at, k); k != "" && !slices.Contains(p.keys[code], h) {
					p.keys[code] = append(p.keys[code], h)
				}
			})
		}
		return p
	}
	prefix := func(n int) func(v *value, add func(string)) {
		return func(v *value, add func(string)) {
			if c := []rune(v.text); len(c) >= n {
				add(string(c[:n]))
			} else {
				add(v.text)
			}
		}
	}
	whole := make1("", false, func(v *value, add func(string)) { add(v.text) })
	switch a.Kind {
	case Text:
		return []*part{whole,
			make1("rare words of ", true, func(v *value, add func(string)) { a.rarest(v, 3, add) }),
			make1("rarest word of ", false, func(v *value, add func(string)) { a.rarest(v, 1, add) }),
			make1("beginnings of words of ", true, func(v *value, add func(string)) {
				a.rarest(v, 3, func(w string) { add(w[:min(len(w), 4)]) })
			}),
			make1("beginning of ", false, prefix(4)),
		}
	case Word:
		return []*part{whole, make1("sound of ", false, func(v *value, add func(string)) { add(text.Soundex(v.text)) }), make1("beginning of ", false, prefix(3))}
	case Code:
		return []*part{whole, make1("beginning of ", false, prefix(4))}
	case Date:
		return []*part{whole, make1("year of ", false, func(v *value, add func(string)) { add(v.text[:4]) }), make1("day and month of ", false, func(v *value, add func(string)) { add(v.text[4:]) })}
	case Number:
		return []*part{make1("", false, func(v *value, add func(string)) { add(fmt.Sprint(v.x)) })}
	case Coordinates:
		// Places within a tenth of a degree share a cell of one of four grids, each moved by half a cell.
		cells := func(size float64) func(v *value, add func(string)) {
			return func(v *value, add func(string)) {
				for i := range 4 {
					add(fmt.Sprint(i, math.Floor(v.x/size+float64(i&1)/2), math.Floor(v.y/size+float64(i>>1)/2)))
				}
			}
		}
		return []*part{make1("neighbourhood by ", true, cells(0.2)), make1("wide neighbourhood by ", true, cells(2))}
	}
	return []*part{whole}
}

// rarest gives the rarest words of a text.
func (a *attribute) rarest(v *value, n int, add func(string)) {
	words := slices.Clone(v.words)
	slices.SortStableFunc(words, func(x, y int32) int { return cmp.Compare(a.words[x].in, a.words[y].in) })
	for _, w := range words[:min(len(words), n)] {
		add(a.words[w].text)
	}
}

// propose chooses rules: each alone or two together, as broad as can be afforded, as it is blocking that loses pairs.
func (r *records) propose(across bool) []*Rule {
	var singles []*part
	for at, a := range r.attributes {
		if a.filled > 0 {
			singles = append(singles, r.partsOf(at)...)
		}
	}
	n := r.len()
	budget := max(leastPairs, pairsEach*n)
	each := budget / 4
	sample := r.sample()
	scale := float64(n) / float64(len(sample))
	type costed struct {
		rule  *Rule
		pairs float64
	}
	var all []costed
	add := func(parts ...*part) {
		rule := &Rule{parts: parts}
		pairs := r.estimate(rule, sample, across) * scale * scale
		if pairs > 0 && pairs <= float64(each) {
			all = append(all, costed{rule, pairs})
		}
	}
	for _, p := range singles {
		add(p)
	}
	alone := len(all)
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
		estimates[i] = r.estimate(rules[i], sample, across) * scale * scale
	})
	for i, rule := range rules {
		if estimates[i] > 0 && estimates[i] <= float64(each) {
			all = append(all, costed{rule, estimates[i]})
		}
	}
	slices.SortStableFunc(all[:alone], func(a, b costed) int { return cmp.Compare(b.pairs, a.pairs) })
	slices.SortStableFunc(all[alone:], func(a, b costed) int { return cmp.Compare(b.pairs, a.pairs) })
	var out []*Rule
	total := 0.0
	uses := map[int]int{} // rules by attribute
	for _, c := range all {
		if len(out) == maxRules || total+c.pairs > float64(budget) || r.covered(c.rule, out) {
			continue
		}
		if len(c.rule.parts) == 2 && uses[c.rule.parts[0].attribute] > 3 && uses[c.rule.parts[1].attribute] > 3 {
			continue
		}
		for _, p := range c.rule.parts {
			uses[p.attribute]++
		}
		total += c.pairs
		out = append(out, c.rule)
	}
	for _, rule := range out {
		var words []string
		for _, p := range rule.parts {
			words = append(words, p.how+r.attributes[p.attribute].Name)
		}
		rule.Words = "the same " + strings.Join(words, " and ")
	}
	return out
}

// covered says whether rules that are chosen bring all that another would: one of its parts is chosen alone, or both attributes are
// together already in two ways.
func (r *records) covered(rule *Rule, chosen []*Rule) bool {
	together := 0
	for _, c := range chosen {
		switch {
		case len(c.parts) == 1 && slices.Contains(rule.parts, c.parts[0]):
			return true
		case len(c.parts) == 2 && len(rule.parts) == 2 && c.parts[0].attribute == rule.parts[0].attribute && c.parts[1].attribute == rule.parts[1].attribute:
			together++
		case len(c.parts) == 1 && len(rule.parts) == 1 && c.parts[0].attribute == rule.parts[0].attribute && c.parts[0].many:
			return true
		}
	}
	return together > 1
}

// sample is some of the records, the same ones every time.
func (r *records) sample() []uint32 {
	var out []uint32
	n := r.len()
	for i := range n {
		if n <= sampled || mix(uint64(i))>>32*uint64(n)>>32 < sampled {
			out = append(out, uint32(i))
		}
	}
	return out
}

// keyed is a record under a key.
type keyed struct {
	key    uint64
	record uint32
}

// keysOf files records under the keys of a rule, in the order of the keys.
func (r *records) keysOf(rule *Rule, of []uint32) []keyed {
	var out []keyed
	for _, i := range of {
		first := rule.parts[0].keys[r.attributes[rule.parts[0].attribute].codes[i]]
		if len(rule.parts) == 1 {
			for _, k := range first {
				out = append(out, keyed{k, i})
			}
			continue
		}
		second := rule.parts[1].keys[r.attributes[rule.parts[1].attribute].codes[i]]
		for _, k := range first {
			for _, l := range second {
				out = append(out, keyed{mix(k + l*3), i})
			}
		}
	}
	slices.SortFunc(out, func(a, b keyed) int {
		if a.key != b.key {
			return cmp.Compare(a.key, b.key)
		}
		return cmp.Compare(a.record, b.record)
	})
	return out
}

// blocks calls a function for each key with two records or more.
func blocks(all []keyed, to func([]keyed)) {
	for i := 0; i < len(all); {
		j := i + 1
		for j < len(all) && all[j].key == all[i].key {
			j++
		}
		if j-i > 1 {
			to(all[i:j])
		}
		i = j
	}
}

// pairsIn is how many pairs a block has that may be compared.
func (r *records) pairsIn(block []keyed, across bool) int {
	n := len(block)
	all := n * (n - 1) / 2
	if !across {
		return all
	}
	for t, at := 0, 0; t+1 < len(r.starts); t++ {
		from := at
		for at < n && int(block[at].record) < r.starts[t+1] {
			at++
		}
		all -= (at - from) * (at - from - 1) / 2
	}
	return all
}

// estimate counts the pairs a rule brings of a sample; those of narrowed blocks as they are narrowed.
func (r *records) estimate(rule *Rule, of []uint32, across bool) float64 {
	pairs := 0.0
	blocks(r.keysOf(rule, of), func(b []keyed) { pairs += float64(r.pairsIn(b, across)) })
	return pairs
}

// candidates gives the pairs of all rules, each once, in order; a pair is the lower record's number and then the other's.
func (r *records) candidates(rules []*Rule, across bool) [][]uint64 {
	all := make([]uint32, r.len())
	for i := range all {
		all[i] = uint32(i)
	}
	parts := 1 + r.len()>>12
	out := make([][]uint64, parts)
	var mu sync.Mutex
	order := r.near()
	side(len(rules), func(n int) {
		rule := rules[n]
		found := make([][]uint64, parts)
		add := func(a, b uint32) {
			if a > b {
				a, b = b, a
			}
			if a != b && !(across && r.table(a) == r.table(b)) {
				rule.Pairs++
				found[a>>12] = append(found[a>>12], uint64(a)<<32|uint64(b))
			}
		}
		blocks(r.keysOf(rule, all), func(b []keyed) {
			rule.Largest = max(rule.Largest, len(b))
			if r.pairsIn(b, across) <= maxBlock {
				for i, x := range b {
					for _, y := range b[i+1:] {
						add(x.record, y.record)
					}
				}
				return
			}
			rule.Narrowed++
			b = slices.Clone(b)
			slices.SortFunc(b, func(x, y keyed) int { return cmp.Compare(order[x.record], order[y.record]) })
			for i, x := range b {
				for _, y := range b[i+1 : min(len(b), i+1+window)] {
					add(x.record, y.record)
				}
			}
		})
		mu.Lock()
		defer mu.Unlock()
		for i := range found {
			out[i] = append(out[i], found[i]...)
		}
	})
	side(parts, func(i int) {
		slices.Sort(out[i])
		out[i] = slices.Compact(out[i])
	})
	return out
}

// near gives each record its place in the order of the texts of the attributes, which says what is near within a block.
func (r *records) near() []int32 {
	order := make([]uint32, r.len())
	for i := range order {
		order[i] = uint32(i)
	}
	ranks := make([][]int32, len(r.attributes))
	for i, a := range r.attributes {
		codes := make([]int32, len(a.values))
		for c := range codes {
			codes[c] = int32(c)
		}
		slices.SortFunc(codes, func(x, y int32) int {
			return cmp.Or(cmp.Compare(a.values[x].text, a.values[y].text), cmp.Compare(a.values[x].x, a.values[y].x), cmp.Compare(x, y))
		})
		ranks[i] = make([]int32, len(codes))
		for at, c := range codes {
			ranks[i][c] = int32(at)
		}
	}
	slices.SortFunc(order, func(x, y uint32) int {
		for i, a := range r.attributes {
			if p, q := ranks[i][a.codes[x]], ranks[i][a.codes[y]]; p != q {
				return cmp.Compare(p, q)
			}
		}
		return cmp.Compare(x, y)
	})
	place := make([]int32, len(order))
	for at, i := range order {
		place[i] = int32(at)
	}
	return place
}
