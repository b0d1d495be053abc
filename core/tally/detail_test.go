package tally_test

import (
	"fmt"
	"math/rand/v2"
	"slices"
	"strconv"
	"testing"

	"grandledger/core/coretest"
	"grandledger/core/tally"
)

func TestDetailOfText(t *testing.T) {
	tab := column("PK 12", "GP 7", "GP 9", "PK 12", "möwen", "", "∅", "x")
	d := tally.More(tab, tab.Columns()[0])
	want := []tally.ShapeLine{{Shape: "AA 9", Values: 2, Rows: 2, Example: "GP 7"}, {Shape: "AA 99", Values: 1, Rows: 2, Example: "PK 12"},
		{Shape: "a", Values: 1, Rows: 1, Example: "x"}, {Shape: "a…", Values: 1, Rows: 1, Example: "möwen"}}
	if !slices.Equal(d.Shapes, want) || d.ShapesTotal != 4 || d.Shortest != "x" || d.Longest != "PK 12" || d.LongestSize != 5 || len(d.Quantiles) != 0 {
		t.Errorf("%+v", d)
	}
}

// Quantiles and fences against the sorted rows; a lump a thousand times as large is found.
func TestDetailOfNumbers(t *testing.T) {
	r := rand.New(rand.NewPCG(9, 9))
	rows := [][]string{{"kg"}}
	var values []int
	for range 2000 {
		v := 50 + r.IntN(200)
		if r.IntN(200) == 0 {
			v *= 1000
		}
		values = append(values, v)
		rows = append(rows, []string{fmt.Sprint(v)})
	}
	rows = append(rows, []string{"0"}, []string{"0.0"}, []string{"see note"})
	values = append(values, 0, 0)
	slices.Sort(values)
	tab := coretest.Build(rows...)
	d := tally.More(tab, tab.Columns()[0])
	for _, q := range d.Quantiles {
		at := values[max((int(q.Percent)*len(values)+99)/100-1, 0)]
		if q.Value != fmt.Sprint(at) {
			t.Errorf("%v percent lie at or below %s, want %d", q.Percent, q.Value, at)
		}
	}
	large := 0
	for _, v := range values {
		if v > 1000 {
			large++
		}
	}
	if d.FarOut == nil || d.FarOut.From == "" || d.FarOut.To != "" {
		t.Fatalf("far out %+v", d.FarOut)
	}
	if least, err := strconv.Atoi(d.FarOut.From); err != nil || least <= 1000 || d.Zeros != 2 || d.FarOut.Above != large || d.FarOut.Below != 0 {
		t.Errorf("%d zeros, far out %+v; %d are large", d.Zeros, d.FarOut, large)
	}
	lumped := 0
	for _, l := range d.Lumps {
		if l.Power != 3 {
			t.Errorf("lump %+v", l)
		}
		lumped += l.Rows
	}
	if lumped == 0 || lumped > large {
		t.Errorf("%d of %d rows in lumps %+v", lumped, large, d.Lumps)
	}
	dates := column("2031-10-04", "2031-10-06", "5 Oct 2031")
	if d := tally.More(dates, dates.Columns()[0]); d.Quantiles[3].Value != "2031-10-05" {
		t.Errorf("%+v", d.Quantiles)
	}
}
