package reconcile

import (
	"math"
	"slices"
	"strings"

	"grandledger/core/text"
)

// cut cuts the texts into words once both sides are read.
func (w *world) cut() {
	dict := w.texts.Dict()
	w.worded = make([][]string, dict.Len()+1)
	for code := 1; code < len(w.worded); code++ {
		words := strings.Fields(dict.Value(uint32(code)))
		slices.Sort(words)
		w.worded[code] = slices.Compact(words)
	}
}

// unlike is how unlike two texts are, from 0 for the same to wordsCost for nothing in common: by the share of the words of the shorter one that the other has, or nearly. A text that is missing lies between.
func (w *world) unlike(a, b uint32) int {
	switch {
	case a == b && a != 0:
		return 0
	case a == 0 || b == 0:
		return wordsCost / 2
	}
	x, y := w.worded[a], w.worded[b]
	if len(x) > len(y) {
		x, y = y, x
	}
	if len(x) == 0 {
		return wordsCost / 2
	}
	weight, found := 0.0, 0.0
	for _, v := range x {
		of := math.Sqrt(float64(len(v)))
		weight += of
		if _, ok := slices.BinarySearch(y, v); ok {
			found += of
			continue
		}
		best := 0.0
		for _, o := range y {
			if len(v) < 3 || len(o) < 3 || v[0] != o[0] {
				continue
			}
			if s := text.JaroWinkler(v, o); s >= 0.85 {
				best = max(best, s)
			} else if strings.HasPrefix(o, v) || strings.HasPrefix(v, o) {
				best = max(best, 0.8)
			}
		}
		found += best * of
	}
	return int(math.Round(wordsCost * (1 - found/weight)))
}
