package linkage

import (
	"math"
	"testing"

	"grandledger/core/coretest"
	"grandledger/core/table"
)

// Each kind by its levels; missing is neither.
func TestLevels(t *testing.T) {
	for _, c := range []struct {
		kind Kind
		a, b string
		want uint8
	}{
		{Word, "Larsen", "larsen", 3}, {Word, "Larsen", "Larson", 2}, {Word, "Martha", "Marhta", 2}, {Word, "Dwayne", "Duane", 0}, {Word, "Larsen", "Quist", 0}, {Word, "Larsen", "", missing},
		{Code, "12345", "12345", 3}, {Code, "12345", "12354", 2}, {Code, "12345", "1245", 2}, {Code, "12345", "12399", 1}, {Code, "12345", "99345", 0}, {Code, "12", "13", 0},
		{Code, "GB82WEST12345698765432", "GB82WEST12345698765433", 2},
		{Date, "2031-04-03", "2031-04-03", 3}, {Date, "2031-04-03", "2031-03-04", 2}, {Date, "2031-04-03", "2031-04-08", 2}, {Date, "2031-04-03", "2031-11-28", 1}, {Date, "2031-04-03", "1999-11-28", 0},
		{Number, "100", "100.0", 4}, {Number, "100", "100.5", 3}, {Number, "100", "104", 2}, {Number, "100", "118", 1}, {Number, "100", "300", 0},
		{Country, "Germany", "Deutschland", 1}, {Country, "US", "United States", 1}, {Country, "The Bahamas", "Bahamas", 1}, {Country, "Norway", "Sweden", 0},
		{Category, "yes", "YES", 1}, {Category, "yes", "no", 0},
		{Text, "Gull Point Ice", "ice, Gull  Point", 5}, {Text, "Gull Point", "Skerry Bay", 0}, {Text, "Gull Point", "Gull Point", 6},
	} {
		rows := coretest.Build([]string{"v"}, []string{c.a}, []string{c.b}, []string{"2031-01-01"}, []string{"2030-12-31"}, []string{"7"}, []string{"8"})
		if c.kind == Number {
			rows = coretest.Build([]string{"v"}, []string{c.a}, []string{c.b}, []string{"7"}, []string{"8"})
		} else if c.kind == Date {
			rows = coretest.Build([]string{"v"}, []string{c.a}, []string{c.b}, []string{"2031-01-21"}, []string{"2030-12-31"})
		}
		r := newRecords([]*table.Table{rows}, []Attribute{{"v", c.kind, [][]string{{"v"}}}})
		a := r.attributes[0]
		for range 2 { // the second time from what is remembered
			cmp := a.comparer()
			for _, p := range [][2]int{{0, 1}, {1, 0}} {
				if got := cmp.level(a.codes[p[0]], a.codes[p[1]]); got != c.want {
					t.Errorf("%s: %q and %q are at level %d, want %d", c.kind, c.a, c.b, got, c.want)
				}
			}
		}
	}
}

// Short forms and slips are alike, other words are not.
func TestWordLikeness(t *testing.T) {
	for _, c := range []struct {
		a, b string
		low  float64
		high float64
	}{{"sparkasse", "spk", .6, .8}, {"volksbank", "vb", .6, .8}, {"int", "international", .8, .9}, {"harbour", "harbor", .9, 1}, {"north", "south", 0, 0}, {"12", "13", 0, 0}, {"kreissparkasse", "sparkasse", .5, .7}, {"j", "john", .5, .7}} {
		if got := wordLikeness(c.a, c.b); got < c.low || got > c.high || got != wordLikeness(c.b, c.a) {
			t.Errorf("%s and %s: %.2f, want %.2f to %.2f", c.a, c.b, got, c.low, c.high)
		}
	}
}

// The letters of two words never rule out a likeness that they have.
func TestLettersRuleOutNothing(t *testing.T) {
	words := []string{"larsen", "larson", "arsenl", "marhta", "martha", "spk", "sparkasse", "aaa", "aab", "abcabc", "möwe", "mowe", "", "x"}
	for _, a := range words {
		for _, b := range words {
			if a != "" && b != "" && a != b && wordLikeness(a, b) >= 0.85*0.85 && wordLikeness(a, b) != 0.85 && wordLikeness(a, b) != 0.7 && !lettersOf(a).alike(lettersOf(b)) {
				t.Errorf("%s and %s are ruled out", a, b)
			}
		}
	}
}

// Outside reference, from memory: London and Paris are 344 km apart, a degree of latitude is 111.2 km on a sphere of 6,371 km.
func TestKilometres(t *testing.T) {
	if d := kilometres(51.5074, -0.1278, 48.8566, 2.3522); math.Abs(d-344) > 1 {
		t.Error(d)
	}
	if d := kilometres(10, 20, 11, 20); math.Abs(d-111.19) > .01 {
		t.Error(d)
	}
	if d := kilometres(0, 179.999, 0, -179.999); d > 1 {
		t.Error(d)
	}
}
