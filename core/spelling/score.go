package spelling

// Score is how groups compare with a truth, pair by pair over the values that the truth knows.
type Score struct {
	Found   int `json:"found"`   // pairs that the groups put together
	Right   int `json:"right"`   // of them, those that belong together
	There   int `json:"there"`   // pairs that belong together
	Known   int `json:"known"`   // values of the column that the truth knows
	Grouped int `json:"grouped"` // of them, those in a group
}

// Precision is the share of pairs found that are right; 1 where none is found.
func (s Score) Precision() float64 {
	if s.Found == 0 {
		return 1
	}
	return float64(s.Right) / float64(s.Found)
}

// Recall is the share of pairs there are that are found; 1 where there are none.
func (s Score) Recall() float64 {
	if s.There == 0 {
		return 1
	}
	return float64(s.Right) / float64(s.There)
}

// F1 is the harmonic mean of precision and recall.
func (s Score) F1() float64 {
	p, r := s.Precision(), s.Recall()
	if p+r == 0 {
		return 0
	}
	return 2 * p * r / (p + r)
}

// ScoreOf compares groups with a truth: for each value the standard value it belongs to. values are those of
// the column; those the truth does not know are passed over. Cost: O(values).
func ScoreOf(groups []Group, values []string, truth map[string]string) Score {
	of := map[string]int{} // the group of each value, from 1
	for i, g := range groups {
		for _, m := range g.Members {
			of[m.Value] = i + 1
		}
	}
	var s Score
	type cell struct {
		group    int
		standard string
	}
	cells, perGroup, perStandard := map[cell]int{}, map[int]int{}, map[string]int{}
	for _, v := range values {
		standard, known := truth[v]
		if !known {
			continue
		}
		s.Known++
		perStandard[standard]++
		if g := of[v]; g > 0 {
			s.Grouped++
			cells[cell{g, standard}]++
			perGroup[g]++
		}
	}
	for _, n := range cells {
		s.Right += n * (n - 1) / 2
	}
	for _, n := range perGroup {
		s.Found += n * (n - 1) / 2
	}
	for _, n := range perStandard {
		s.There += n * (n - 1) / 2
	}
	return s
}
