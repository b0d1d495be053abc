package linkage

import (
	"math"
	"math/rand/v2"
	"slices"
	"testing"
)

// Identifiers last: a group keeps the one that most of its records had; what was merged or split is told; a second run of the same changes nothing.
func TestLasting(t *testing.T) {
	before := map[string]int64{"a": 1, "b": 1, "c": 2, "d": 3, "e": 3, "f": 3}
	ids, moved := Lasting([][]string{{"a", "b", "c"}, {"d", "e"}, {"f"}, {"g"}}, before, 4)
	if !slices.Equal(ids, []int64{1, 3, 4, 5}) {
		t.Errorf("%v", ids)
	}
	if !slices.Equal(moved, []Moved{{2, 1, true}, {3, 4, false}}) {
		t.Errorf("%v", moved)
	}
	// On random regroupings: no identifier twice, none that was known is lost without a word, and what stays together keeps its own.
	r := rand.New(rand.NewPCG(3, 4))
	for range 300 {
		var keys []string
		for i := range 40 {
			keys = append(keys, string(rune('A'+i)))
		}
		group := func() [][]string {
			by := map[int][]string{}
			for _, k := range keys {
				g := r.IntN(15)
				by[g] = append(by[g], k)
			}
			var out [][]string
			for g := range 15 {
				if len(by[g]) > 0 {
					out = append(out, by[g])
				}
			}
			return out
		}
		first := group()
		before := map[string]int64{}
		ids, moved := Lasting(first, nil, 1)
		if len(moved) > 0 {
			t.Fatalf("nothing stood before, and %v moved", moved)
		}
		for g, id := range ids {
			for _, k := range first[g] {
				before[k] = id
			}
		}
		if again, moved := Lasting(first, before, 100); !slices.Equal(again, ids) || len(moved) > 0 {
			t.Fatalf("%v became %v; %v", ids, again, moved)
		}
		second := group()
		ids, moved = Lasting(second, before, 100)
		seen := map[int64]bool{}
		for _, id := range ids {
			if seen[id] {
				t.Fatalf("%d twice", id)
			}
			seen[id] = true
		}
		for g, id := range ids {
			for _, k := range second[g] {
				if was := before[k]; was != id && !slices.ContainsFunc(moved, func(m Moved) bool { return m.From == was && m.To == id && m.Merged == !seen[was] }) {
					t.Fatalf("%s was %d and is %d, which is not told", k, was, id)
				}
			}
		}
	}
}

// A spot check gives intervals that hold the truth about as often as they say: drawn from known shares again and again, 95 of 100 times and more, as Wilson's
// intervals of strata that were hardly looked at are wider than they need be.
func TestCheckedHoldsTheTruth(t *testing.T) {
	r := rand.New(rand.NewPCG(8, 9))
	there := []struct {
		linked bool
		pairs  int
		share  float64
	}{{false, 100_000, 0.002}, {false, 3_000, 0.2}, {true, 2_000, 0.8}, {true, 40_000, 0.99}}
	var links, right, all float64
	for _, s := range there {
		all += float64(s.pairs) * s.share
		if s.linked {
			links += float64(s.pairs)
			right += float64(s.pairs) * s.share
		}
	}
	precise, recalled := 0, 0
	const runs = 1000
	for range runs {
		var answers []Answered
		for _, s := range there {
			a := Answered{Linked: s.linked, Pairs: s.pairs, Asked: spotted}
			for range spotted {
				if r.Float64() < s.share {
					a.Right++
				}
			}
			answers = append(answers, a)
		}
		precision, recall, ok := Checked(answers)
		if !ok {
			t.Fatal("all were looked at")
		}
		if precision.Low <= right/links && right/links <= precision.High {
			precise++
		}
		if recall.Low <= right/all && right/all <= recall.High {
			recalled++
		}
	}
	if precise < runs*93/100 || recalled < runs*93/100 {
		t.Errorf("of %d intervals %d hold the precision, %d the recall", runs, precise, recalled)
	}
	if _, _, ok := Checked([]Answered{{Linked: true, Pairs: 10}}); ok {
		t.Error("nothing was looked at")
	}
	if p, _, _ := Checked([]Answered{{Linked: true, Pairs: 10, Asked: 10, Right: 9}}); math.Abs(p.Value-0.9) > 1e-12 || p.Low != p.High {
		t.Errorf("all were looked at, and %v", p)
	}
}

// Outside reference: Chao 1984: n²/2k are missed at least of which n are found once and k twice. Where each of five rules finds a pair with a chance of
// a half, one in 32 is missed.
func TestMissed(t *testing.T) {
	r := rand.New(rand.NewPCG(1, 2))
	once, twice := 0, 0
	for range 32_000 {
		n := 0
		for range 5 {
			n += r.IntN(2)
		}
		switch n {
		case 1:
			once++
		case 2:
			twice++
		}
	}
	if got := Missed(once, twice); got < 600 || got > 1400 { // 1,000 are; at least 1250 is what is found of equal chances
		t.Error(got)
	}
	if Missed(0, 5) != 0 || Missed(3, 0) != 3 {
		t.Error("without links found once, or twice")
	}
}

// Every pair that was compared is in one bin and in one stratum, and what is expected is the sum of the probabilities.
func TestBinsAndStrata(t *testing.T) {
	r := rand.New(rand.NewPCG(4, 4))
	h, all := &histogram{}, strata(0.5, 0.1)
	sum := 0.0
	for i := range 5000 {
		p := Probability(r.Float64()*60 - 40)
		h.add(p, -10)
		offer(all, p, func() Pair { return Pair{a: uint32(i), Probability: p} }, uint32(i), uint32(i+1))
		sum += p
	}
	pairs, expected := 0, 0.0
	for _, b := range h.bins() {
		pairs += b.Pairs
		expected += b.Expected
	}
	if pairs != 5000 || math.Abs(expected-sum) > 1e-6 {
		t.Errorf("%d, %f of %f", pairs, expected, sum)
	}
	pairs = 0
	for _, s := range drawnFrom(all) {
		pairs += s.Pairs
		if len(s.Drawn) != min(s.Pairs, spotted) {
			t.Errorf("%d drawn of %d", len(s.Drawn), s.Pairs)
		}
		for _, d := range s.Drawn {
			if d.Probability < s.From || d.Probability >= s.To && s.To < 1 {
				t.Errorf("%f is not from %f to %f", d.Probability, s.From, s.To)
			}
		}
	}
	if pairs != 5000 {
		t.Error(pairs)
	}
}
