package linkage

import (
	"cmp"
	"math"
	mathbits "math/bits"
	"slices"
	"strconv"
	"strings"
	"sync"

	"grandledger/core/problem"
	"grandledger/core/table"
)

// Matcher finds the records that are most likely the same thing as one that is none of them. It may be used by several goroutines, one after the other.
type Matcher struct {
	mu    sync.Mutex
	of    *Result
	by    []*matched
	rules [][]uint64 // of each rule, key and record in one number, in order
	room  int
}

// Match is a record that one was compared with.
type Match struct {
	Row
	Weight, Probability float64
}

// maxMet is how many records one is compared with under a rule.
const maxMet = 5_000

// Matcher lays the keys of all records out in order, rule by rule. Cost: O(records log records) and 8 bytes for each key.
func (r *Result) Matcher() *Matcher {
	m := &Matcher{of: r, rules: make([][]uint64, len(r.Rules)), room: mathbits.Len(uint(r.records.len()))}
	side(len(r.Rules), func(n int) { m.rules[n] = r.records.keyed(r.Rules[n]) })
	m.by = make([]*matched, len(r.records.attributes))
	side(len(m.by), func(i int) { m.by[i] = r.records.attributes[i].matched() })
	return m
}

// Match gives the records that one is most likely the same thing as, most at most, the best first. Its values are by attribute; the two of coordinates have a space
// between. Cost: a look into each rule, and a comparison with each record that shares a key of one.
func (m *Matcher) Match(values map[string]string, most int) ([]Match, error) {
	m.mu.Lock()
	defer m.mu.Unlock()
	r := m.of.records
	k := len(r.attributes)
	one := &records{starts: r.starts, names: r.names, attributes: make([]*attribute, k)}
	codes := make([]uint32, k)
	told := false
	for i, a := range r.attributes {
		one.attributes[i] = a
		v, ok, err := a.read(values[a.Name])
		if err != nil {
			return nil, err
		}
		if ok {
			one.attributes[i], codes[i] = m.by[i].with(v)
			told = true
		}
	}
	for name := range values {
		if !slices.ContainsFunc(r.attributes, func(a *attribute) bool { return a.Name == name }) {
			return nil, problem.New("Give those of the linkage", "there is no attribute %q", name)
		}
	}
	if !told {
		return nil, problem.New("Give a value", "the record says nothing")
	}
	met := map[uint32]bool{}
	for n, rule := range m.of.Rules {
		for _, key := range rule.keysOf(one.attributes, codes) {
			from, _ := slices.BinarySearch(m.rules[n], key>>m.room<<m.room)
			for at := from; at < len(m.rules[n]) && at-from < maxMet && m.rules[n][at]>>m.room == key>>m.room; at++ {
				met[uint32(m.rules[n][at]&(1<<m.room-1))] = true
			}
		}
	}
	cs := one.comparers()
	var out []Match
	for rec := range met {
		pattern, rare := uint64(0), 0.0
		right := r.codes[int(rec)*k : int(rec)*k+k]
		for i, c := range cs {
			l := c.level(codes[i], right[i])
			pattern |= uint64(l) << (4 * i)
			rare += c.rarity(codes[i], right[i], l, m.of.started[i])
		}
		pattern = one.swap(pattern, codes, right)
		w := weigh(m.of.Weights, r.kinds(), pattern) + rare
		out = append(out, Match{r.row(rec), w, Probability(w + m.of.Prior)})
	}
	slices.SortFunc(out, func(a, b Match) int {
		return cmp.Or(cmp.Compare(b.Weight, a.Weight), cmp.Compare(a.Table, b.Table), cmp.Compare(a.Row.Row, b.Row.Row))
	})
	return out[:min(len(out), most)], nil
}

// keysOf are the keys of values under a rule.
func (rule *Rule) keysOf(attributes []*attribute, codes []uint32) []uint64 {
	var sides [2][]uint64
	for n, p := range rule.parts {
		if codes[p.attribute] == 0 {
			return nil
		}
		own := *p
		own.keys = nil
		own.add(attributes[p.attribute], &attributes[p.attribute].values[codes[p.attribute]])
		sides[n] = own.keys
	}
	if len(rule.parts) == 1 {
		return sides[0]
	}
	var out []uint64
	for _, x := range sides[0] {
		for _, y := range sides[1] {
			if rule.either {
				out = append(out, mix(x+y))
			} else {
				out = append(out, mix(x+y*3))
			}
		}
	}
	return out
}

// read makes a value ready to be compared; ok is false where it says nothing.
func (a *attribute) read(v string) (out value, ok bool, err error) {
	if strings.TrimSpace(v) == "" {
		return out, false, nil
	}
	if a.Kind == Coordinates {
		x, y, _ := strings.Cut(strings.TrimSpace(v), " ")
		lat, err1 := strconv.ParseFloat(x, 64)
		lon, err2 := strconv.ParseFloat(strings.TrimSpace(y), 64)
		if err1 != nil || err2 != nil {
			return out, false, problem.New("Give latitude and longitude in degrees with a space between", "%s: %q is no place", a.Name, v)
		}
		return value{x: lat, y: lon}, true, nil
	}
	read := &table.Read{Reading: a.how, OK: []bool{false}, At: []float64{0}}
	if a.how.Declared() {
		read.At[0], read.OK[0] = a.how.Reader()(v)
	}
	out, _, ok = valueOf(a.Kind, v, read, 0)
	switch {
	case !ok && a.how.Declared():
		return out, false, problem.New("Write it as the column does", "%s: %q does not read as %s", a.Name, v, a.how.Words())
	case !ok: // nothing but marks
		return out, false, nil
	}
	return out, true, nil
}

// matched is an attribute with room behind its values for one more, and a way to find a value and a word.
type matched struct {
	attribute
	at    []uint64 // what of the hash of a text has room beside its code, in order
	words map[string]int32
}

func (a *attribute) matched() *matched {
	m := &matched{attribute: *a}
	const room = 64
	m.values, m.rows, m.letters, m.packed = slices.Grow(m.values, 1), slices.Grow(m.rows, 1), slices.Grow(m.letters, room), slices.Grow(m.packed, 1)
	m.attribute.words, m.flat, m.weigh, m.ends, m.first = slices.Grow(m.attribute.words, room), slices.Grow(m.flat, room), slices.Grow(m.weigh, room), slices.Grow(m.ends, 1), slices.Grow(m.first, room)
	m.number = slices.Grow(m.number, room)
	for code := 1; code < len(a.values); code++ {
		m.at = append(m.at, hashOf(&a.values[code])&^(1<<32-1)|uint64(code))
	}
	slices.Sort(m.at)
	if a.way == texts {
		m.words = make(map[string]int32, len(a.words))
		for i, w := range a.words {
			m.words[w.text] = int32(i)
		}
	}
	return m
}

func hashOf(v *value) uint64 {
	return hashText(0, strings.ReplaceAll(v.text, " ", "")) ^ mix(math.Float64bits(v.x)) ^ mix(math.Float64bits(v.y)+1)
}

// with gives an attribute that has a value more, and the code of it: that of an equal one, or a new one behind all others. What is appended
// overwrites what was appended for the last record.
func (m *matched) with(v value) (*attribute, uint32) {
	a := m.attribute
	if a.way == texts {
		for w := range strings.FieldsSeq(v.text) {
			at, ok := m.words[w]
			if !ok {
				if at = int32(slices.IndexFunc(a.words[len(m.attribute.words):], func(have word) bool { return have.text == w })); at >= 0 {
					at += int32(len(m.attribute.words))
				} else {
					at = int32(len(a.words))
					a.words = append(a.words, word{text: w, letters: lettersOf(w), in: 1})
					a.letters, a.first, a.rarity = append(a.letters, lettersOf(w)), append(a.first, w[0]), append(a.rarity, float32(math.Log2(1+float64(len(a.values)))))
					a.number = append(a.number, numeral(w))
				}
			}
			if !slices.Contains(v.words, at) {
				v.words = append(v.words, at)
			}
		}
		v.text = strings.ReplaceAll(v.text, " ", "")
	}
	hash := hashOf(&v) &^ (1<<32 - 1)
	from, _ := slices.BinarySearch(m.at, hash)
	for ; from < len(m.at) && m.at[from]&^(1<<32-1) == hash; from++ {
		code := uint32(m.at[from])
		if have := &a.values[code]; have.text == v.text && have.x == v.x && have.y == v.y && slices.Equal(have.words, v.words) {
			return &a, code
		}
	}
	code := uint32(len(a.values))
	switch a.way {
	case texts:
		a.weighValue(&v)
	case words:
		a.letters = append(a.letters, lettersOf(v.text))
	case codes, dates:
		a.packed = append(a.packed, pack(v.text))
	}
	a.values, a.rows = append(a.values, v), append(a.rows, 1)
	return &a, code
}
