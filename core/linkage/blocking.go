package linkage

import (
	"cmp"
	"fmt"
	"math"
	mathbits "math/bits"
	"slices"
	"sync"

	"grandledger/core/text"
)

// part is one way to make keys of an attribute: records that share a key meet.
type part struct {
	attribute int
	how       string
	many      bool     // a value has several keys
	same      float64  // how likely a key of two values that agree is the same
	keys      []uint64 // of all values, one behind the other
	ends      []uint32 // where those of each code end

	key  func(a *attribute, v *value, add func(string))
	seed int // what tells its keys from those of others
}

// add puts the keys of a value behind the others.
func (p *part) add(a *attribute, v *value) {
	from := len(p.keys)
	p.key(a, v, func(k string) {
		if h := hashText(p.seed, k); k != "" && !slices.Contains(p.keys[from:], h) {
			p.keys = append(p.keys, h)
		}
	})
}

// of lists the keys of a code.
func (p *part) of(code uint32) []uint64 {
	if code == 0 {
		return nil
	}
	return p.keys[p.ends[code-1]:p.ends[code]]
}

// Rule is a blocking rule: pairs of records that share a key under each of its parts are compared.
type Rule struct {
	Words    string `json:"words"`
	Pairs    int    `json:"pairs"`    // that it brought, before those of other rules were taken off
	Largest  int    `json:"largest"`  // records of its largest block
	Narrowed int    `json:"narrowed"` // blocks too large to compare all pairs of, of which the nearest were compared

	parts  []*part
	either bool // of two parts in any order
}

// Limits of blocking.
const (
	leastPairs = 3_000_000 // pairs that are always affordable
	pairsEach  = 24        // pairs a record that are affordable
	maxRules   = 16
	maxBlock   = 40_000 // pairs of a block from which it is narrowed
	window     = 12     // records to either side that are compared in a narrowed block
	sampled    = 60_000 // records that are looked at for what goes together
	costedBy   = 25_000 // records by which rules are costed
)

// all makes the keys of the values of an attribute.
func (p *part) all(a *attribute) {
	p.ends = make([]uint32, len(a.values))
	for code := 1; code < len(a.values); code++ {
		p.add(a, &a.values[code])
		p.ends[code] = uint32(len(p.keys))
	}
}

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
	keys := func(how string, same float64, many bool, key func(a *attribute, v *value, add func(string))) *part {
		p := &part{attribute: at, how: how, same: same, many: many, key: key, seed: at + 1}
		p.all(a)
		return p
	}
	prefix := func(n int) func(a *attribute, v *value, add func(string)) {
		return func(_ *attribute, v *value, add func(string)) {
			if c := []rune(v.text); len(c) >= n {
				add(string(c[:n]))
			} else {
				add(v.text)
			}
		}
	}
	whole := keys("", map[bool]float64{true: 0.45, false: 0.85}[a.Kind.class() == texts], false, func(_ *attribute, v *value, add func(string)) { add(v.text) })
	switch a.Kind.class() {
	case texts:
		return []*part{whole,
			keys("rare words of ", 0.85, true, func(a *attribute, v *value, add func(string)) { a.rarest(v, 3, add) }),
			keys("rarest word of ", 0.65, false, func(a *attribute, v *value, add func(string)) { a.rarest(v, 1, add) }),
			keys("beginnings of words of ", 0.93, true, func(a *attribute, v *value, add func(string)) {
				a.rarest(v, 3, func(w string) { add(w[:min(len(w), 4)]) })
			}),
			keys("beginning of ", 0.7, false, prefix(4)),
		}
	case words:
		return []*part{whole, keys("sound of ", 0.9, false, func(_ *attribute, v *value, add func(string)) { add(text.Soundex(v.text)) }), keys("beginning of ", 0.88, false, prefix(3))}
	case codes:
		return []*part{whole, keys("beginning of ", 0.88, false, prefix(4))}
	case dates:
		return []*part{whole, keys("year of ", 0.92, false, func(_ *attribute, v *value, add func(string)) { add(v.text[:4]) }), keys("day and month of ", 0.88, false, func(_ *attribute, v *value, add func(string)) { add(v.text[4:]) })}
	case numbers, years:
		return []*part{keys("", 0.6, false, func(_ *attribute, v *value, add func(string)) { add(fmt.Sprint(v.x)) })}
	case places:
		// Places within a tenth of a degree share a cell of one of four grids, each moved by half a cell.
		cells := func(size float64) func(a *attribute, v *value, add func(string)) {
			return func(a *attribute, v *value, add func(string)) {
				for i := range 4 {
					add(fmt.Sprint(i, math.Floor(v.x/size+float64(i&1)/2), math.Floor(v.y/size+float64(i>>1)/2)))
				}
			}
		}
		return []*part{keys("neighbourhood by ", 0.97, true, cells(0.2)), keys("wide neighbourhood by ", 0.98, true, cells(2))}
	}
	return []*part{whole}
}

// rarest gives the rarest words of a text.
func (a *attribute) rarest(v *value, n int, add func(string)) {
	var taken uint64
	for range min(n, len(v.words)) {
		best := -1
		for i, w := range v.words[:min(len(v.words), 64)] {
			if taken&(1<<i) == 0 && (best < 0 || a.words[w].in < a.words[v.words[best]].in) {
				best = i
			}
		}
		if best < 0 {
			return
		}
		taken |= 1 << best
		add(a.words[v.words[best]].text)
	}
}

// sample is about so many of the records, the same ones every time.
func (r *records) sample(most uint64) []uint32 {
	var out []uint32
	n := r.len()
	for i := range n {
		if n <= int(most) || mix(uint64(i))>>32*uint64(n)>>32 < most {
			out = append(out, uint32(i))
		}
	}
	return out
}

// each calls a function for each key of a record under a rule.
func (r *records) each(rule *Rule, i uint32, to func(key uint64)) {
	k := len(r.attributes)
	p := rule.parts[0]
	first := p.of(r.codes[int(i)*k+p.attribute])
	if len(rule.parts) == 1 {
		for _, key := range first {
			to(key)
		}
		return
	}
	q := rule.parts[1]
	second := q.of(r.codes[int(i)*k+q.attribute])
	for _, x := range first {
		for _, y := range second {
			if rule.either {
				to(mix(x + y))
			} else {
				to(mix(x + y*3))
			}
		}
	}
}

// blocks calls a function for each of the keys of a rule with two records or more, which come in order. A key is what of its hash has room beside
// the number of a record; two that are the same there bring pairs that are compared in vain.
func (r *records) blocks(all []uint64, to func([]uint32)) {
	room := mathbits.Len(uint(r.len()))
	mask := uint64(1)<<room - 1
	var block []uint32
	for i := 0; i < len(all); {
		block = append(block[:0], uint32(all[i]&mask))
		j := i + 1
		for ; j < len(all) && all[j]>>room == all[i]>>room; j++ {
			if rec := uint32(all[j] & mask); rec != block[len(block)-1] {
				block = append(block, rec)
			}
		}
		if len(block) > 1 {
			to(block)
		}
		i = j
	}
}

// keyed are the keys of all records under a rule, in order, each with the record in its last bits.
func (r *records) keyed(rule *Rule) []uint64 {
	room := mathbits.Len(uint(r.len()))
	all := make([]uint64, 0, r.len())
	for i := range uint32(r.len()) {
		r.each(rule, i, func(key uint64) { all = append(all, key>>room<<room|uint64(i)) })
	}
	return sorted(all)
}

// sorted sorts numbers that are spread evenly: into pieces by their first bits, each of which fits the cache, and these one by one. It may use the
// space of what it is given.
func sorted(all []uint64) []uint64 {
	const bits = 11
	if len(all) < 1<<(bits+4) {
		slices.Sort(all)
		return all
	}
	var ends [1<<bits + 1]int
	for _, x := range all {
		ends[x>>(64-bits)+1]++
	}
	for i := range 1 << bits {
		ends[i+1] += ends[i]
	}
	out, at := make([]uint64, len(all)), ends
	for _, x := range all {
		piece := x >> (64 - bits)
		out[at[piece]] = x
		at[piece]++
	}
	for i := range 1 << bits {
		slices.Sort(out[ends[i]:ends[i+1]])
	}
	return out
}

// pairsIn is how many pairs a block has that may be compared.
func (r *records) pairsIn(block []uint32, across bool) int {
	n := len(block)
	all := n * (n - 1) / 2
	if !across {
		return all
	}
	for t, at := 0, 0; t+1 < len(r.starts); t++ {
		from := at
		for at < n && int(block[at]) < r.starts[t+1] {
			at++
		}
		all -= (at - from) * (at - from - 1) / 2
	}
	return all
}

// candidates gives the pairs of all rules whose lower record is one of some, each pair once, in order; a pair is the lower record's number and then the
// other's. It counts what each rule brings.
func (p *Plan) candidates(from, to uint32) ([][]uint64, []counted) {
	r := p.records
	const piece = 12
	parts := 1 + int(max(to, from+1)-1-from)>>piece
	out := make([][]uint64, parts)
	counts := make([]counted, len(p.base.Rules))
	var mu sync.Mutex
	side(len(p.base.Rules), func(n int) {
		count := &counts[n]
		found := make([][]uint64, parts)
		add := func(a, b uint32) {
			if a > b {
				a, b = b, a
			}
			if a >= from && a < to && a != b && !(p.across && r.table(a) == r.table(b)) {
				count.pairs++
				found[(a-from)>>piece] = append(found[(a-from)>>piece], uint64(a)<<32|uint64(b))
			}
		}
		r.blocks(p.keyed[n](), func(b []uint32) {
			count.largest = max(count.largest, len(b))
			if r.pairsIn(b, p.across) <= maxBlock {
				if b[0] >= to { // they come in order
					return
				}
				for i, x := range b {
					if x >= to {
						break
					}
					if x < from {
						continue
					}
					for _, y := range b[i+1:] {
						add(x, y)
					}
				}
				return
			}
			count.narrowed++
			b, place := slices.Clone(b), p.near()
			slices.SortFunc(b, func(x, y uint32) int { return cmp.Compare(place[x], place[y]) })
			for i, x := range b {
				for _, y := range b[i+1 : min(len(b), i+1+window)] {
					add(x, y)
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
	return out, counts
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
