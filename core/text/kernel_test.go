package text_test

import (
	"math"
	"math/rand/v2"
	"testing"

	"github.com/agext/levenshtein"
	"github.com/antzucaro/matchr"
	"github.com/hbollon/go-edlib"
	"github.com/xrash/smetrics"

	"grandledger/core/text"
)

// words draws texts that are near one another, of plain letters and now and then others.
func words(r *rand.Rand, n int, others bool) []string {
	letters := []rune("abcdeilmnorst")
	if others {
		letters = append(letters, 'é', 'ø', '港')
	}
	out := make([]string, n)
	for i := range out {
		w := make([]rune, r.IntN(14))
		if r.IntN(20) == 0 {
			w = make([]rune, 60+r.IntN(10))
		}
		for j := range w {
			w[j] = letters[r.IntN(len(letters))]
		}
		if i > 0 && r.IntN(2) == 0 {
			w = []rune(out[i-1])
			for range 1 + r.IntN(3) {
				switch at := r.IntN(len(w) + 1); {
				case at == len(w):
					w = append(w, letters[r.IntN(len(letters))])
				case at > 0 && r.IntN(2) == 0:
					w[at], w[at-1] = w[at-1], w[at]
				default:
					w[at] = letters[r.IntN(len(letters))]
				}
			}
		}
		out[i] = string(w)
	}
	return out
}

// Outside references: github.com/agext/levenshtein 1.2.3 (Apache 2.0), and for the true Damerau distance
// github.com/hbollon/go-edlib 1.7.0 (MIT), on texts of plain letters, of others, and of more than 64. Jaro's likeness is
// compared with a second way, since modules differ in how far apart letters may stand; CHECKS.md's table is in
// TestJaroWinkler.
func TestKernelsAgainstModules(t *testing.T) {
	r := rand.New(rand.NewPCG(7, 8))
	var against text.Against
	for _, others := range []bool{false, true} {
		all := words(r, 6000, others)
		for i := 1; i < len(all); i++ {
			a, b := all[i-1], all[i]
			against.Set(a)
			want := levenshtein.Distance(a, b, nil)
			if got, many := text.Levenshtein(a, b), against.Levenshtein(b); got != want || many != want {
				t.Fatalf("Levenshtein of %q and %q: %d, against many %d, want %d", a, b, got, many, want)
			}
			if got, want := text.Distance(a, b, 80), edlib.DamerauLevenshteinDistance(a, b); got != want {
				t.Fatalf("Damerau of %q and %q: %d, want %d", a, b, got, want)
			}
			if got, want := text.Distance(a, b, 2), min(3, edlib.DamerauLevenshteinDistance(a, b)); got != want {
				t.Fatalf("Damerau of %q and %q, at most 2: %d, want %d", a, b, got, want)
			}
			if got, many, want := text.JaroWinkler(b, a), against.JaroWinkler(b), jaroWinkler([]rune(b), []rune(a)); math.Abs(got-want) > 1e-12 || math.Abs(many-want) > 1e-12 {
				t.Fatalf("Jaro-Winkler of %q and %q: %f, against many %f, want %f", a, b, got, many, want)
			}
		}
	}
}

// jaroWinkler is the definition, letter by letter.
func jaroWinkler(x, y []rune) float64 {
	if string(x) == string(y) {
		return 1
	}
	if len(x) == 0 || len(y) == 0 {
		return 0
	}
	window := max(max(len(x), len(y))/2-1, 0)
	ofX, ofY := make([]bool, len(x)), make([]bool, len(y))
	m := 0.0
	for i := range x {
		for j := range y {
			if !ofX[i] && !ofY[j] && x[i] == y[j] && max(i-j, j-i) <= window {
				ofX[i], ofY[j] = true, true
				m++
			}
		}
	}
	if m == 0 {
		return 0
	}
	var sx, sy []rune
	for i, is := range ofX {
		if is {
			sx = append(sx, x[i])
		}
	}
	for j, is := range ofY {
		if is {
			sy = append(sy, y[j])
		}
	}
	turned := 0
	for i := range sx {
		if sx[i] != sy[i] {
			turned++
		}
	}
	s := (m/float64(len(x)) + m/float64(len(y)) + (m-float64(turned/2))/m) / 3
	for i := 0; s > 0.7 && i < min(4, len(x), len(y)) && x[i] == y[i]; i++ {
		if i == 0 {
			m = s
		}
		s += 0.1 * (1 - m)
	}
	return s
}

// BenchmarkKernels compares names, a pair at a time, beside well-known modules in the same run.
func BenchmarkKernels(b *testing.B) {
	r := rand.New(rand.NewPCG(3, 4))
	var names []string
	for len(names) < 4096 {
		if n := len(names); n > 0 && n%2 == 1 {
			w := []byte(names[n-1])
			w[r.IntN(len(w))] = byte('a' + r.IntN(26))
			names = append(names, string(w))
			continue
		}
		w := make([]byte, 5+r.IntN(12))
		for i := range w {
			w[i] = "etaoinshrdlucmfwypvbgkjqxz"[r.IntN(8+r.IntN(18))]
		}
		names = append(names, string(w))
	}
	var sink float64
	calls := 0
	run := func(name string, compare func(x, y string) float64) {
		b.Run(name, func(b *testing.B) {
			i := 0
			for b.Loop() {
				sink += compare(names[i&4095], names[(i*7+1)&4095])
				i++
			}
		})
	}
	run("JaroWinkler/ours", text.JaroWinkler)
	var many text.Against
	run("JaroWinkler/ours against many", func(x, y string) float64 {
		if calls++; calls&63 == 0 { // one text is compared with as many as a block of linkage holds
			many.Set(x)
		}
		return many.JaroWinkler(y)
	})
	run("JaroWinkler/smetrics", func(x, y string) float64 { return smetrics.JaroWinkler(x, y, 0.7, 4) })
	run("JaroWinkler/matchr", func(x, y string) float64 { return matchr.JaroWinkler(x, y, false) })
	run("JaroWinkler/edlib", func(x, y string) float64 { return float64(edlib.JaroWinklerSimilarity(x, y)) })
	run("Levenshtein/ours", func(x, y string) float64 { return float64(text.Levenshtein(x, y)) })
	run("Levenshtein/ours against many", func(x, y string) float64 {
		if calls++; calls&63 == 0 { // one text is compared with as many as a block of linkage holds
			many.Set(x)
		}
		return float64(many.Levenshtein(y))
	})
	run("Levenshtein/agext", func(x, y string) float64 { return float64(levenshtein.Distance(x, y, nil)) })
	run("Levenshtein/matchr", func(x, y string) float64 { return float64(matchr.Levenshtein(x, y)) })
	run("Levenshtein/edlib", func(x, y string) float64 { return float64(edlib.LevenshteinDistance(x, y)) })
	run("Damerau/ours", func(x, y string) float64 { return float64(text.Distance(x, y, 64)) })
	run("Damerau/ours at most 2", func(x, y string) float64 { return float64(text.Distance(x, y, 2)) })
	run("Damerau/matchr", func(x, y string) float64 { return float64(matchr.DamerauLevenshtein(x, y)) })
	run("Damerau/edlib", func(x, y string) float64 { return float64(edlib.DamerauLevenshteinDistance(x, y)) })
	_ = sink
}
