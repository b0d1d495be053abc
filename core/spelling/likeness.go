package spelling

import (
	"cmp"
	"math"
	"runtime"
	"slices"

	"grandledger/core/text"
)

// How alike two values are overall is the soft TF-IDF of W. Cohen, P. Ravikumar and S. Fienberg (IJCAI
// workshop on information integration, 2003): words weigh the more the fewer values they stand in, and words that
// are alike by Jaro and Winkler count for what they are alike.
const (
	alikeEnough = 0.8       // of two values
	wordsAlike  = 0.92      // of two words
	mostWords   = 12        // of a value; of longer ones no likeness is worked out
	mostShared  = 40        // classes that share a word, from which it brings no pairs together
	mostPairs   = 4_000_000 // pairs that are compared; words of more classes are left out until there are fewer
)

// likeness ties values that are alike overall and share a rare word.
func (l *ladder) likeness() {
	if l.kind == Person {
		return // one shared family name is no likeness of two people
	}
	by := map[string][]int{}
	for i, cl := range l.classes {
		if len(cl.words) > mostWords {
			continue
		}
		for j, w := range cl.words {
			if uses := l.uses[w]; uses > 1 && uses <= mostShared && len(w) > 2 && !slices.Contains(cl.words[:j], w) {
				by[w] = append(by[w], i)
			}
		}
	}
	pairs := make([]int, mostShared+1) // that words of so many classes bring
	for _, all := range by {
		pairs[len(all)] += len(all) * (len(all) - 1) / 2
	}
	limit, sum := 1, 0
	for limit < mostShared && sum+pairs[limit+1] <= mostPairs {
		limit++
		sum += pairs[limit]
	}
	weights := make([]weighed, len(l.classes))
	side(func(w, workers int) {
		for i := len(weights) * w / workers; i < len(weights)*(w+1)/workers; i++ {
			sum := 0.0
			for _, word := range l.classes[i].words {
				of := l.weight(word)
				weights[i].words = append(weights[i].words, of)
				sum += of * of
			}
			weights[i].length = math.Sqrt(sum)
		}
	})
	found := make([][]likely, runtime.GOMAXPROCS(0))
	side(func(w, workers int) {
		for i := w; i < len(l.classes); i += workers {
			found[w] = l.alikeTo(i, by, limit, weights, found[w])
		}
	})
	all := slices.Concat(found...)
	slices.SortFunc(all, func(x, y likely) int { return cmp.Or(cmp.Compare(x.a, y.a), cmp.Compare(x.b, y.b)) })
	for _, p := range slices.Compact(all) {
		if why := l.two(p.a, p.b); why != "" {
			l.keepOut(p.a, p.b, why)
		} else {
			l.tie(p.a, p.b, Likeness, int(1000*(1-min(p.like, 1))), "much alike: "+shortened(l.classes[p.a].words, l.classes[p.b].words))
		}
	}
}

// weighed is what the words of a class weigh, and the length of them all.
type weighed struct {
	words  []float64
	length float64
}

// likely is two classes that are alike enough.
type likely struct {
	a, b int
	like float64
}

// alikeTo finds the classes behind one that share a word with it and are alike enough.
func (l *ladder) alikeTo(i int, by map[string][]int, limit int, weights []weighed, out []likely) []likely {
	cl := l.classes[i]
	if len(cl.words) > mostWords {
		return out
	}
	for j, w := range cl.words {
		all := by[w]
		if len(all) < 2 || len(all) > limit || slices.Contains(cl.words[:j], w) {
			continue
		}
		for _, other := range all {
			if other > i && !l.near(i, other) {
				if like := l.likenessOf(i, other, weights); like >= alikeEnough {
					out = append(out, likely{i, other, like})
				}
			}
		}
	}
	return out
}

// weight is what a word weighs: the bits by which it tells values apart.
func (l *ladder) weight(w string) float64 {
	return math.Log2(float64(len(l.classes)+1) / float64(max(l.uses[w], 1)))
}

// likenessOf is how alike two classes are; 0 where one of them has but one word.
func (l *ladder) likenessOf(a, b int, weights []weighed) float64 {
	x, y := l.classes[a].words, l.classes[b].words
	if len(x) < 2 || len(y) < 2 || len(x) > mostWords || len(y) > mostWords || weights[a].length == 0 || weights[b].length == 0 {
		return 0
	}
	sum := 0.0
	for i, w := range x {
		best, like := 0, 0.0
		for j, v := range y {
			s := 0.0
			switch few, many := min(len(w), len(v)), max(len(w), len(v)); {
			case w == v:
				s = 1
			case few > 3 && 5*few >= 3*many: // those more unlike in length are not alike enough
				s = text.JaroWinkler(w, v)
			}
			if s > like {
				best, like = j, s
			}
		}
		if like >= wordsAlike {
			sum += weights[a].words[i] * weights[b].words[best] * like
		}
	}
	return sum / (weights[a].length * weights[b].length)
}
