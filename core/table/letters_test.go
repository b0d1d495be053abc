package table_test

import (
	"math/rand/v2"
	"testing"

	"grandledger/core/table"
	"grandledger/core/text"
)

// Values within so many edits of one another, as text.Distance has it, are never ruled out by their
// signatures; most others are.
func TestLettersNear(t *testing.T) {
	r := rand.New(rand.NewPCG(71, 72))
	letters := []rune("abcdefghijklmnopqrstuvwxyzäöøл七9")
	word := func() []rune {
		out := make([]rune, 1+r.IntN(20))
		for i := range out {
			out[i] = letters[r.IntN(len(letters))]
		}
		return out
	}
	ruledOut := 0
	for range 20_000 {
		a := word()
		b := append([]rune{}, a...)
		edits := r.IntN(3)
		for range edits {
			i := r.IntN(len(b))
			switch r.IntN(4) {
			case 0:
				b = append(b[:i:i], b[i+1:]...)
			case 1:
				b = append(b[:i:i], append([]rune{letters[r.IntN(len(letters)-1)]}, b[i:]...)...)
			case 2:
				b[i] = letters[r.IntN(len(letters)-1)]
			default:
				if i > 0 {
					b[i-1], b[i] = b[i], b[i-1]
				}
			}
			if len(b) == 0 {
				b = word()
			}
		}
		one, other := table.LettersOf(string(a)), table.LettersOf(string(b))
		if d := text.Distance(string(a), string(b), 4); one.Digits == other.Digits && d <= 4 && !one.Near(other, d) {
			t.Fatalf("%q and %q are %d edits apart and ruled out", string(a), string(b), d)
		}
		if !table.LettersOf(string(word())).Near(one, 2) {
			ruledOut++
		}
	}
	if ruledOut < 15_000 {
		t.Errorf("only %d of 20,000 pairs are ruled out", ruledOut)
	}
}
