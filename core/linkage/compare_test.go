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
		{Given, "Bill", "William", 1}, {Given, "B.", "Bertha", 1}, {Given, "Bill", "Quist", 0}, {Given, "Bertha", "Berta", 2}, {Family, "Bill", "William", 0},
		{Person, "Capt. Ada Lovelock", "Lovelock, Ada", 5}, {Person, "Bob Quist", "Robert Quist", 6}, {Organisation, "Gull Ltd.", "Gull Limited", 6}, {Place, "St. Magnus", "Saint Magnus", 6},
		{Address, "4 Harbour St", "4 Harbour Street", 6}, {Long, "nets, lines and pots", "pots and nets and lines", 5}, {List, "cod; ling; hake", "ling | hake | cod", 5}, {List, "cod; ling", "pollack; saithe", 0},
		{Telephone, "+44 20 7946 0018", "020 7946 0018", 3}, {Telephone, "020 7946 0018", "020 7946 0081", 2}, {Postcode, "AB1 2CD", "ab12cd", 3}, {Identifier, "0000-0002-1825-0097", "0000000218250097", 3},
		{Email, "ada@gull.example", "ADA@gull.example", 3}, {Email, "ada@gull.example", "ada@skerry.example", 1}, {Email, "ada@gull.example", "adda@gull.example", 2}, {Email, "ada@gull.example", "adam@skerry.example", 0},
		{Web, "https://www.gull.example/", "http://gull.example", 3}, {Web, "gull.example/a/long/way", "gull.example/b", 1}, {Web, "gull.example", "skerry.example", 0},
		{Year, "1999", "1999", 3}, {Year, "1999", "2000", 2}, {Year, "1999", "2003", 1}, {Year, "1999", "2031", 0}, {YesNo, "yes", "no", 0},
		{Text, "Star of Dawn", "Star of Dawn IV", 3}, {Text, "Pier 4 Ice", "Pier 5 Ice", 2}, {Text, "Star of Dawn IV", "Dawn IV, Star of", 5},
		{Text, "Gull Point Ice", "ice, Gull  Point", 5}, {Text, "Gull Point", "Skerry Bay", 0}, {Text, "Gull Point", "Gull Point", 6},
	} {
		rows := coretest.Build([]string{"v"}, []string{c.a}, []string{c.b}, []string{"2031-01-01"}, []string{"2030-12-31"}, []string{"7"}, []string{"8"})
		if c.kind == Number || c.kind == Year {
			rows = coretest.Build([]string{"v"}, []string{c.a}, []string{c.b}, []string{"7"}, []string{"8"})
		} else if c.kind == Date {
			rows = coretest.Build([]string{"v"}, []string{c.a}, []string{c.b}, []string{"2031-01-21"}, []string{"2030-12-31"})
		}
		r := newRecords([]*table.Table{rows}, []Attribute{{Name: "v", Kind: c.kind, Columns: [][]string{{"v"}}}}, nil, false, false)
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

// A given and a family name that changed places are known as such, with a slip too, where one of them alone could be chance.
func TestNamesThatChangedPlaces(t *testing.T) {
	for _, c := range []struct {
		a, b          [2]string
		given, family uint8
	}{
		{[2]string{"Ada", "Lovelock"}, [2]string{"Lovelock", "Ada"}, swapped, told}, {[2]string{"Ada", "Lovelock"}, [2]string{"Loveloc", "Ada"}, swapped, told},
		{[2]string{"Ada", "Lovelock"}, [2]string{"Lovelock", "Berta"}, 0, 0}, {[2]string{"Ada", "Lovelock"}, [2]string{"Ada", "Lovelock"}, 3, 3}, {[2]string{"Ada", "Lovelock"}, [2]string{"", "Ada"}, missing, 0},
	} {
		r := newRecords([]*table.Table{coretest.Build([]string{"given", "family"}, c.a[:], c.b[:])}, []Attribute{{Name: "given", Kind: Given, Columns: [][]string{{"given"}}}, {Name: "family", Kind: Family, Columns: [][]string{{"family"}}}}, nil, false, false)
		pattern, _ := r.compare(r.comparers(), 0, 1, []float64{0.1, 0.1})
		if got := [2]uint8{uint8(pattern & 15), uint8(pattern >> 4 & 15)}; got != [2]uint8{c.given, c.family} {
			t.Errorf("%v and %v: %v", c.a, c.b, got)
		}
	}
}
