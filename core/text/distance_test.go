package text_test

import (
	"math/rand/v2"
	"testing"

	"grandledger/core/text"
)

// Published examples: Levenshtein 1966 as textbooks have it, and Boytsov 2011 for the swap with an
// edit between (the restricted form would give 3). From memory.
func TestDistance(t *testing.T) {
	for _, c := range []struct {
		a, b string
		want int
	}{{"kitten", "sitting", 3}, {"saturday", "sunday", 3}, {"CA", "ABC", 2}, {"", "abc", 3}, {"möwe", "mowe", 1}, {"tern", "tren", 1}, {"same", "same", 0}} {
		if got := text.Distance(c.a, c.b, 9); got != c.want {
			t.Errorf("%s to %s: %d, want %d", c.a, c.b, got, c.want)
		}
		if got := text.Distance(c.b, c.a, 9); got != c.want {
			t.Errorf("%s to %s: %d, want %d", c.b, c.a, got, c.want)
		}
		if got := text.Distance(c.a, c.b, 1); got != min(c.want, 2) {
			t.Errorf("%s to %s, at most 1: %d", c.a, c.b, got)
		}
	}
}

// The distance against going through all texts that one edit after another reaches, as the
// definition has it.
func TestDistanceAgainstDefinition(t *testing.T) {
	const letters = "abc"
	edits := func(s string) map[string]bool {
		out := map[string]bool{}
		for i := 0; i <= len(s); i++ {
			for _, c := range letters {
				out[s[:i]+string(c)+s[i:]] = true
				if i < len(s) {
					out[s[:i]+string(c)+s[i+1:]] = true
				}
			}
			if i < len(s) {
				out[s[:i]+s[i+1:]] = true
			}
			if i+1 < len(s) {
				out[s[:i]+string(s[i+1])+string(s[i])+s[i+2:]] = true
			}
		}
		return out
	}
	r := rand.New(rand.NewPCG(51, 52))
	for range 300 {
		a := ""
		for range r.IntN(6) {
			a += string(letters[r.IntN(3)])
		}
		reached := map[string]int{a: 0}
		front := []string{a}
		for step := 1; step <= 3; step++ {
			var next []string
			for _, s := range front {
				for e := range edits(s) {
					if _, ok := reached[e]; !ok {
						reached[e] = step
						next = append(next, e)
					}
				}
			}
			front = next
		}
		for b, want := range reached {
			most := r.IntN(4)
			if got := text.Distance(a, b, most); got != min(want, most+1) {
				t.Fatalf("%q to %q, at most %d: %d, want %d", a, b, most, got, want)
			}
		}
	}
}
