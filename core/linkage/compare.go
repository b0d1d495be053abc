package linkage

import (
	"math"
	"runtime"
	"strings"
	"sync"

	"grandledger/core/text"
)

// missing is the level of a pair of which one value is blank.
const missing = 7

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
	c := &comparer{attribute: a, seen: make([]remembered, 1<<rememberedBits)}
	if a.Kind == Text {
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
		return uint8(levels[c.Kind] - 1)
	}
	if a > b {
		a, b = b, a
	}
	pair := uint64(a)<<32 | uint64(b)
	at := &c.seen[pair*0x9e3779b97f4a7c15>>(64-rememberedBits)]
	if at.pair != pair {
		*at = remembered{pair: pair}
		if c.Kind == Text {
			s := c.likeness(&c.values[a], &c.values[b])
			at.level, at.like = textLevel(s), float32(s)
		} else {
			at.level = c.compare(a, b)
		}
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
	switch c.Kind {
	case Word:
		if a != c.last {
			c.against.Set(x.text)
			c.last = a
		}
		switch s := c.against.JaroWinkler(y.text); {
		case s >= 0.93 || len(x.text) > 3 && len(y.text) > 3 && text.Distance(x.text, y.text, 1) <= 1:
			return 2
		case s >= 0.85:
			return 1
		}
		return 0
	case Code:
		switch {
		case len(x.text) > 3 && len(y.text) > 3 && text.Distance(x.text, y.text, 1) <= 1:
			return 2
		case len(x.text) > 3 && len(y.text) > 3 && x.text[:3] == y.text[:3]:
			return 1
		}
		return 0
	case Date:
		return dateLevel(x, y)
	case Number:
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
	case Coordinates:
		return placeLevel(kilometres(x.x, x.y, y.x, y.y))
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

func dateLevel(x, y *value) uint8 {
	differ := 0
	for i := range x.text {
		if x.text[i] != y.text[i] {
			differ++
		}
	}
	swapped := x.y4 == y.y4 && x.md/100 == y.md%100 && x.md%100 == y.md/100
	switch {
	case differ == 0:
		return 3
	case swapped || differ == 1:
		return 2
	case x.y4 == y.y4:
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
func (c *comparer) likeness(x, y *value) float64 {
	if x.text == y.text {
		return 0.97 // but for spaces or the order of words
	}
	if len(x.words) > len(y.words) {
		x, y = y, x
	}
	var taken uint64
	sum := 0.0
	for i, w := range x.words {
		best, at := 0.0, -1
		for j, v := range y.words {
			if j < 64 && taken&(1<<j) != 0 {
				continue
			}
			if s := c.like(w, v); s > best {
				best, at = s, j
			}
		}
		if at >= 0 {
			if at < 64 && (best > 0.8 || len(c.words[y.words[at]].text) < 10) { // several short forms may stand for one compound
				taken |= 1 << at
			}
			// What matched weighs as the mean of both, so that a slip, which is rare, does not weigh too much.
			sum += best * float64(x.weigh[i]) * float64(y.weigh[at])
		}
	}
	return min(sum, 0.999)
}

// like is 1 for equal words, less for words with a slip or short forms, 0 for others.
func (c *comparer) like(a, b int32) float64 {
	if a == b {
		return 1
	}
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
	return float64(at.like)
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
