package linkage

import (
	"math"
	"runtime"
	"strings"
	"sync"

	"grandledger/core/text"
)

// missing is the level of a pair of which one value is blank, told that of one whose other name has told already.
const (
	missing = 15
	told    = 14
)

// tells says whether a level is one, and neither missing nor told.
func tells(level uint8) bool { return level < told }

// side does work for each of n things on all cores.
func side(n int, work func(i int)) {
	var all sync.WaitGroup
	next := make(chan int, n)
	for i := range n {
		next <- i
	}
	close(next)
	for range min(n, runtime.GOMAXPROCS(0)) {
		all.Go(func() {
			for i := range next {
				work(i)
			}
		})
	}
	all.Wait()
}

// comparer compares the values of an attribute for one goroutine, and remembers what it compared of late.
type comparer struct {
	*attribute
	against text.Against
	last    uint32 // the code that against is set to
	seen    []remembered

	wordsSeen []rememberedWords
}

type remembered struct {
	pair  uint64
	level uint8
	like  float32 // of texts
}

const rememberedBits = 15

func (a *attribute) comparer() *comparer {
	c := &comparer{attribute: a}
	if a.Kind.class() == texts {
		c.seen = make([]remembered, 1<<rememberedBits)
		c.wordsSeen = make([]rememberedWords, 1<<rememberedBits)
	}
	return c
}

// level says how far two values agree; missing where one is blank.
func (c *comparer) level(a, b uint32) uint8 {
	if a == 0 || b == 0 {
		return missing
	}
	if a == b {
		return c.same
	}
	switch c.way {
	case texts:
	case words:
		if !c.letters[a].alike(c.letters[b]) {
			return c.otherwise(a, b)
		}
		return c.compare(a, b)
	default: // as quick to compare as to remember
		return c.compare(a, b)
	}
	if a > b {
		a, b = b, a
	}
	pair := uint64(a)<<32 | uint64(b)
	at := &c.seen[pair*0x9e3779b97f4a7c15>>(64-rememberedBits)]
	if at.pair != pair {
		s := c.likeness(a, b)
		*at = remembered{pair, textLevel(s), float32(s)}
	}
	return at.level
}

// textFrom are the likenesses from which levels of texts begin.
var textFrom = [...]float64{0, 0.25, 0.45, 0.65, 0.8, 0.92, 0.9999, 1}

// within is where in its level the likeness of two texts lies, from -0.5 to 0.5; right after level was asked of them.
func (c *comparer) within(a, b uint32) float64 {
	pair := uint64(min(a, b))<<32 | uint64(max(a, b))
	at := &c.seen[pair*0x9e3779b97f4a7c15>>(64-rememberedBits)]
	low, high := textFrom[at.level], textFrom[at.level+1]
	return (float64(at.like)-low)/(high-low) - 0.5
}

func (c *comparer) compare(a, b uint32) uint8 {
	x, y := &c.values[a], &c.values[b]
	switch c.way {
	case words:
		if a != c.last {
			c.against.Set(x.text)
			c.last = a
		}
		switch s := c.against.JaroWinkler(y.text); {
		case s >= 0.93 || s >= 0.7 && len(x.text) > 3 && len(y.text) > 3 && text.Distance(x.text, y.text, 1) <= 1:
			return 2
		case s >= 0.85:
			return 1
		}
		return c.otherwise(a, b)
	case codes:
		l := codeLevel(c.packed[a], c.packed[b], x, y)
		if c.Kind == Email || c.Kind == Web {
			l = min(l, 2)
			if l < 2 {
				l = 0
				if x.long == y.long {
					l = 1
				}
			}
		}
		return l
	case dates:
		return dateLevel(c.packed[a], c.packed[b])
	case years:
		switch apart := math.Abs(x.x - y.x); {
		case apart == 0:
			return 3
		case apart <= 1:
			return 2
		case apart <= 5:
			return 1
		}
		return 0
	case numbers:
		if len(c.Within) > 0 {
			apart := math.Abs(x.x - y.x)
			switch {
			case apart <= 1e-9:
				return 4
			case apart <= c.Within[0]:
				return 3
			case apart <= c.Within[1]:
				return 2
			case apart <= c.Within[2]:
				return 1
			}
			return 0
		}
		apart := math.Abs(x.x-y.x) / max(math.Abs(x.x), math.Abs(y.x), 1)
		switch {
		case apart <= 1e-9:
			return 4
		case apart <= 0.01:
			return 3
		case apart <= 0.05:
			return 2
		case apart <= 0.2:
			return 1
		}
		return 0
	case places:
		return placeLevel(kilometres(x.x, x.y, y.x, y.y))
	}
	return 0
}

// otherwise compares two given names whose letters are not alike: a nickname, or an initial.
func (c *comparer) otherwise(a, b uint32) uint8 {
	if c.Kind != Given {
		return 0
	}
	x, y := &c.values[a], &c.values[b]
	if x.long == y.long || (len(x.text) == 1 || len(y.text) == 1) && x.text[0] == y.text[0] {
		return 1
	}
	return 0
}

func textLevel(s float64) uint8 {
	l := uint8(len(textFrom) - 2)
	for s < textFrom[l] {
		l--
	}
	return l
}

func placeLevel(km float64) uint8 {
	switch {
	case km <= 0.3:
		return 5
	case km <= 1:
		return 4
	case km <= 3:
		return 3
	case km <= 10:
		return 2
	case km <= 50:
		return 1
	}
	return 0
}

// codeLevel compares two codes; those of up to 15 letters mostly without a look at their texts.
func codeLevel(p, q packed, x, y *value) uint8 {
	if p.len() == 0 || q.len() == 0 {
		p, q = pack(x.text[:min(len(x.text), 15)]), pack(y.text[:min(len(y.text), 15)])
		if text.Distance(x.text, y.text, 1) <= 1 {
			return 2
		}
	}
	n, k := p.len(), q.len()
	if n <= 3 || k <= 3 {
		return 0
	}
	switch {
	case n == k:
		if d := p.differing(q); d == 1 || d == 2 && text.Distance(x.text, y.text, 1) <= 1 {
			return 2
		}
	case n-k == 1 || k-n == 1:
		if text.Distance(x.text, y.text, 1) <= 1 {
			return 2
		}
	}
	if (p[0]^q[0])&(1<<24-1) == 0 {
		return 1
	}
	return 0
}

// dateLevel compares two dates, written year, month and day in eight digits.
func dateLevel(p, q packed) uint8 {
	year, month, day := uint64(1)<<32-1, uint64(0xffff)<<32, uint64(0xffff)<<48
	sameYear := (p[0]^q[0])&year == 0
	swapped := sameYear && p[0]&month<<16 == q[0]&day && q[0]&month<<16 == p[0]&day
	switch {
	case p == q:
		return 3
	case swapped || p.differing(q) == 1:
		return 2
	case sameYear:
		return 1
	}
	return 0
}

// kilometres is the distance of two places on a sphere of 6,371 km (the haversine formula).
func kilometres(lat1, lon1, lat2, lon2 float64) float64 {
	const degree = math.Pi / 180
	dlat, dlon := (lat2-lat1)*degree/2, (lon2-lon1)*degree/2
	h := math.Sin(dlat)*math.Sin(dlat) + math.Cos(lat1*degree)*math.Cos(lat2*degree)*math.Sin(dlon)*math.Sin(dlon)
	return 2 * 6371 * math.Asin(math.Sqrt(min(h, 1)))
}

// likeness is the soft TF-IDF of two texts (W. Cohen, P. Ravikumar and S. Fienberg 2003): words weigh by rarity, and words
// that are alike, or one of which is short for the other, count for part of it. Each word counts once.
func (c *comparer) likeness(a, b uint32) float64 {
	x, y := c.flat[c.ends[a-1]:c.ends[a]], c.flat[c.ends[b-1]:c.ends[b]]
	weighX, weighY := c.weigh[c.ends[a-1]:c.ends[a]], c.weigh[c.ends[b-1]:c.ends[b]]
	if len(x) > len(y) {
		x, y, weighX, weighY = y, x, weighY, weighX
	}
	var taken uint64
	sum := float32(0)
	for i, w := range x {
		best, at := float32(0), -1
		for j, v := range y {
			if j < 64 && taken&(1<<j) != 0 {
				continue
			}
			s := float32(1)
			if w != v {
				// Neither alike, nor all letters of the one within the other, which begins like it.
				l, m := c.letters[w], c.letters[v]
				if n := l.shared(m); n >= 0 && (n < min(l.len(), m.len()) || c.first[w] != c.first[v]) && !l.alike(m) {
					continue
				}
				s = c.like(w, v)
			}
			if s > best {
				best, at = s, j
			}
		}
		if at >= 0 {
			if at < 64 && (best > 0.8 || len(c.words[y[at]].text) < 10) { // several short forms may stand for one compound
				taken |= 1 << at
			}
			sum += best * weighX[i] * weighY[at]
		}
	}
	if sum > 0.7 && c.numerals(a) != c.numerals(b) { // Star of Dawn and Star of Dawn IV are two
		sum *= numeralsKeep
	}
	if sum > 0.6 && c.values[a].text == c.values[b].text {
		return 0.97 // the same but for spaces or the order of words
	}
	return min(float64(sum), 0.999)
}

// numeralsKeep is what is left of the likeness of two texts whose numbers differ.
const numeralsKeep = 0.85

// numerals is a number for the numbers of a text, digits and Roman ones, in whatever order.
func (c *comparer) numerals(code uint32) (sum uint64) {
	for _, w := range c.flat[c.ends[code-1]:c.ends[code]] {
		sum += c.number[w]
	}
	return sum
}

// like is how alike two words are that are not the same: less for words with a slip or short forms, 0 for others.
func (c *comparer) like(a, b int32) float32 {
	x, y := c.words[a].text, c.words[b].text
	if x[0] != y[0] && (len(x) < 4 || len(y) < 4) {
		return 0
	}
	if a > b {
		a, b = b, a
	}
	pair := uint64(a)<<32 | uint64(b)
	at := &c.wordsSeen[pair*0x9e3779b97f4a7c15>>(64-rememberedBits)]
	if at.pair != pair {
		*at = rememberedWords{pair, float32(wordLikeness(x, y))}
	}
	return at.like
}

type rememberedWords struct {
	pair uint64
	like float32
}

func wordLikeness(x, y string) float64 {
	if len(x) > len(y) {
		x, y = y, x
	}
	n, k := len(x), len(y)
	if n == 0 || strings.ContainsAny(x, "0123456789") || strings.ContainsAny(y, "0123456789") {
		return 0
	}
	if s := text.JaroWinkler(x, y); n > 2 && s >= 0.85 {
		return s * s
	}
	switch {
	case n >= 3 && strings.HasPrefix(y, x):
		return 0.85
	case n < 3 && k > n && strings.HasPrefix(y, x): // an initial
		return 0.6
	case n >= 2 && n <= 5 && k >= 2*n-1 && x[0] == y[0] && within(x, y):
		return 0.7 // letters left out: Spk for Sparkasse
	case n >= 5 && strings.HasSuffix(y, x), n >= 5 && strings.Contains(y, x):
		return 0.6 // part of a compound
	}
	return 0
}

// within says whether the letters of one word stand in another in that order.
func within(x, y string) bool {
	i := 0
	for j := 0; j < len(y) && i < len(x); j++ {
		if x[i] == y[j] {
			i++
		}
	}
	return i == len(x)
}
