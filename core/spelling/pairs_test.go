package spelling

import (
	"fmt"
	"math/rand/v2"
	"slices"
	"testing"

	"grandledger/core/text"
)

// All pairs within a bounded distance are exactly those of comparing every value with every other.
func TestAllPairsAgainstBruteForce(t *testing.T) {
	r := rand.New(rand.NewPCG(81, 82))
	found := 0
	for round := range 60 {
		letters := []rune("abcde")
		if round%3 == 0 {
			letters = []rune("aeioulstrnmkдö字71")
		}
		var folds []string
		seen := map[string]bool{}
		for range 250 {
			var v []rune
			if len(folds) > 0 && r.IntN(3) > 0 { // one that was changed in a few places
				v = []rune(folds[r.IntN(len(folds))])
				for range 1 + r.IntN(3) {
					i := r.IntN(len(v))
					switch r.IntN(4) {
					case 0:
						v = append(v[:i:i], v[i+1:]...)
					case 1:
						v = append(v[:i:i], append([]rune{letters[r.IntN(len(letters))]}, v[i:]...)...)
					case 2:
						v[i] = letters[r.IntN(len(letters))]
					default:
						if i > 0 {
							v[i-1], v[i] = v[i], v[i-1]
						}
					}
					if len(v) == 0 {
						v = []rune{'a'}
					}
				}
			} else {
				for range 1 + r.IntN(16) {
					v = append(v, letters[r.IntN(len(letters))])
				}
			}
			if !seen[string(v)] {
				seen[string(v)] = true
				folds = append(folds, string(v))
			}
		}
		var want []string
		for a := range folds {
			for b := a + 1; b < len(folds); b++ {
				shorter := min(len([]rune(folds[a])), len([]rune(folds[b])))
				k := text.Slips(shorter)
				if d := text.Distance(folds[a], folds[b], k); d <= k && digitsOf([]string{folds[a]}) == digitsOf([]string{folds[b]}) {
					want = append(want, fmt.Sprint(a, b, d))
				}
			}
		}
		var got []string
		for _, n := range allPairs(folds) {
			got = append(got, fmt.Sprint(n.a, n.b, n.edits))
		}
		slices.Sort(want)
		slices.Sort(got)
		if !slices.Equal(got, want) {
			for _, w := range want {
				if !slices.Contains(got, w) {
					var a, b, d int
					fmt.Sscan(w, &a, &b, &d)
					t.Fatalf("round %d: %q and %q, %d edits, not found (%d of %d)", round, folds[a], folds[b], d, len(got), len(want))
				}
			}
			t.Fatalf("round %d: %d pairs found, %d there are", round, len(got), len(want))
		}
		found += len(want)
	}
	if found < 2000 {
		t.Errorf("only %d pairs", found)
	}
}

// names makes distinct values of words that are invented, some of them with a slip.
func names(n int) []string {
	r := rand.New(rand.NewPCG(1, 3))
	word := func() string {
		v := ""
		for range 2 + r.IntN(2) {
			v += string("bcdfghjklmnprstvwz"[r.IntN(18)]) + string("aeiouy"[r.IntN(6)])
			if r.IntN(2) == 0 {
				v += string("nrlst"[r.IntN(5)])
			}
		}
		return v
	}
	seen := map[string]bool{}
	var out []string
	for len(out) < n {
		v := word() + word() + word()
		if len(out) > 0 && r.IntN(5) == 0 {
			v = out[r.IntN(len(out))]
			i := r.IntN(len(v))
			v = v[:i] + string(rune('a'+r.IntN(26))) + v[i+1:]
		}
		if !seen[v] {
			seen[v] = true
			out = append(out, v)
		}
	}
	return out
}

func BenchmarkAllPairs(b *testing.B) {
	for _, n := range []int{100_000, 1_000_000} {
		folds := names(n)
		b.Run(fmt.Sprint(n), func(b *testing.B) {
			for b.Loop() {
				allPairs(folds)
			}
		})
	}
}
