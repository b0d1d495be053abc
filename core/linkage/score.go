package linkage

import "math"

// Score is how pairs compare with a truth.
type Score struct {
	Found, Right, There int
}

// Precision is the share of pairs found that are right; 1 where none is found.
func (s Score) Precision() float64 { return share(s.Right, s.Found) }

// Recall is the share of pairs there are that are found; 1 where there are none.
func (s Score) Recall() float64 { return share(s.Right, s.There) }

// F1 is the harmonic mean of precision and recall.
func (s Score) F1() float64 {
	p, r := s.Precision(), s.Recall()
	if p+r == 0 {
		return 0
	}
	return 2 * p * r / (p + r)
}

func share(part, whole int) float64 {
	if whole == 0 {
		return 1
	}
	return float64(part) / float64(whole)
}

// BCubed is the B³ precision and recall of clusters (A. Bagga and B. Baldwin 1998): for each thing the share of its cluster that belongs
// with it, and of what belongs with it that is in its cluster; the mean over all things. answer and truth name the cluster of each thing.
// Cost: O(things).
func BCubed(answer, truth []int) (precision, recall float64) {
	type cell struct{ answer, truth int }
	both, a, t := map[cell]float64{}, map[int]float64{}, map[int]float64{}
	for i := range answer {
		both[cell{answer[i], truth[i]}]++
		a[answer[i]]++
		t[truth[i]]++
	}
	for c, n := range both {
		precision += n * n / a[c.answer]
		recall += n * n / t[c.truth]
	}
	n := max(float64(len(answer)), 1)
	return precision / n, recall / n
}

// Wilson is the interval that a proportion lies in with 95 % confidence (E. Wilson, JASA 22, 1927).
func Wilson(right, of int) (low, high float64) {
	if of == 0 {
		return 0, 1
	}
	const z = 1.959963984540054
	n, p := float64(of), float64(right)/float64(of)
	middle := (p + z*z/(2*n)) / (1 + z*z/n)
	half := z / (1 + z*z/n) * math.Sqrt(p*(1-p)/n+z*z/(4*n*n))
	return max(0, middle-half), min(1, middle+half)
}
