package spelling

import (
	"math"
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
	weights := make([]float64, len(l.classes)) // the length of each value
	for i, cl := range l.classes {
		for _, w := range cl.words {
			weights[i] += l.weight(w) * l.weight(w)
		}
		weights[i] = math.Sqrt(weights[i])
	}
	for i, cl := range l.classes {
		if len(cl.words) > mostWords {
			continue
		}
		for j, w := range cl.words {
			all := by[w]
			if len(all) < 2 || len(all) > limit || slices.Contains(cl.words[:j], w) {
				continue
			}
			for _, other := range all {
				if other > i && !l.near(i, other) {
					l.compare(i, other, weights)
				}
			}
		}
	}
}

// weight is what a word weighs: the bits by which it tells values apart.
func (l *ladder) weight(w string) float64 {
	return math.Log2(float64(len(l.classes)+1) / float64(max(l.uses[w], 1)))
}

// compare ties two classes that are alike enough.
func (l *ladder) compare(a, b int, lengths []float64) {
	x, y := l.classes[a].words, l.classes[b].words
	if len(x) < 2 || len(y) < 2 || len(x) > mostWords || len(y) > mostWords || lengths[a] == 0 || lengths[b] == 0 {
		return
	}
	sum := 0.0
	for _, w := range x {
		best, like := "", 0.0
		for _, v := range y {
			s := 0.0
			if w == v {
				s = 1
			} else if len(w) > 3 && len(v) > 3 {
				s = text.JaroWinkler(w, v)
			}
			if s > like {
				best, like = v, s
			}
		}
		if like >= wordsAlike {
			sum += l.weight(w) * l.weight(best) * like
		}
	}
	like := sum / (lengths[a] * lengths[b])
	if like < alikeEnough {
		return
	}
	if why := l.two(a, b); why != "" {
		l.keepOut(a, b, why)
		return
	}
	l.tie(a, b, Likeness, int(1000*(1-min(like, 1))), "much alike: "+shortened(x, y))
}
