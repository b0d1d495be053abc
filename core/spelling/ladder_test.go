package spelling_test

import (
	"fmt"
	"slices"
	"strings"
	"testing"

	"grandledger/core/spelling"
)

// tied writes what a ladder ties to what beyond the order of words, and what it holds apart.
func tied(counts map[string]int, known spelling.Decisions, o spelling.Options, accept spelling.Rung) string {
	tab, c := column(counts)
	var out []string
	for _, g := range spelling.Ladder(tab, c, known, o)[accept] {
		for _, m := range g.Members {
			if m.Value != g.Standard {
				out = append(out, fmt.Sprintf("%s = %s (%s)", m.Value, g.Standard, m.Why))
			}
		}
		for _, h := range g.Held {
			out = append(out, fmt.Sprintf("%s / %s (%s)", h.Value, g.Standard, h.Why))
		}
	}
	slices.Sort(out)
	return strings.Join(out, "\n")
}

// Each short form is tied to what it stands for, with the reason; what only looks so is not.
func TestShortForms(t *testing.T) {
	none := spelling.Decisions{}
	for _, c := range []struct {
		kind   spelling.Kind
		counts map[string]int
		want   string
	}{
		{spelling.Free, map[string]int{"Ness & Daughters": 9, "Ness and Daughters": 2}, "Ness and Daughters = Ness & Daughters (another form: “and” for “&”)"},
		{spelling.Organisation, map[string]int{"Tern Fishing Co. Ltd": 3, "Tern Fishing Company Limited": 8}, "Tern Fishing Co. Ltd = Tern Fishing Company Limited (another form: “co ltd” for “company limited”)"},
		{spelling.Free, map[string]int{"Gill net": 9, "GN": 4, "G.N.": 1}, "G.N. = Gill net (initials: “GN” for “Gill net”; punctuation)\nGN = Gill net (initials: “GN” for “Gill net”)"},
		{spelling.Free, map[string]int{"Gill net": 9, "Grey Nurse": 3, "GN": 4}, ""}, // two could be meant
		{spelling.Free, map[string]int{"Lobster pot": 9, "Lobster pots": 4}, "Lobster pots = Lobster pot (another form: “pots” for “pot”)"},
		{spelling.Address, map[string]int{"12 Harbour Street": 5, "12 Harbour St.": 2, "13 Harbour St": 2, "12 Harbour Streets": 1}, "12 Harbour St. = 12 Harbour Street (another form: “st” for “street”)"},
		{spelling.Place, map[string]int{"Saint Magnus": 5, "St Magnus": 2}, "St Magnus = Saint Magnus (another form: “st” for “saint”)"},
		{spelling.Address, map[string]int{"Saint Magnus": 5, "St Magnus": 2}, ""},
		{spelling.Person, map[string]int{"William Larsen": 5, "Larsen, Bill": 2, "Capt. William Larsen": 1, "Willa Larsen": 1},
			"Capt. William Larsen = William Larsen (without “capt”)\nLarsen, Bill = William Larsen (another form: “bill” for “william”)"},
		{spelling.Free, map[string]int{"Class II": 5, "Class 2": 2, "Class III": 3}, "Class 2 = Class II (another form: “2” for “ii”)\nClass III / Class II (differ in a roman numeral)"},
	} {
		if got := tied(c.counts, none, spelling.Options{Kind: c.kind}, spelling.Forms); got != c.want {
			t.Errorf("%s %v:\n%s\nwant\n%s", c.kind, c.counts, got, c.want)
		}
	}
}

// A country is tied in every language, what is a slip from one of its names too; and short forms that the steward adds hold for words and
// whole values. Outside reference: the names of the Unicode CLDR (golang.org/x/text 0.43), of which the test quotes these from memory.
func TestCountriesAndOwnForms(t *testing.T) {
	got := tied(map[string]int{"Germany": 9, "Deutschland": 3, "Allemagne": 2, "Alemania": 2, "Allemagn": 1, "Norway": 5, "Noreg": 1}, spelling.Decisions{}, spelling.Options{Kind: spelling.Place}, spelling.Slips)
	for _, want := range []string{"Deutschland = Germany (names of one country (DE)", "Allemagne = Germany (", "Alemania = Germany (", "Allemagn = Germany (a letter more or less from “Allemagne”)", "Noreg = Norway ("} {
		if !strings.Contains(got, want) {
			t.Errorf("%s\nis without %s", got, want)
		}
	}
	o := spelling.Options{Forms: map[string]string{"Hbr.": "harbour", "GP": "Gull Point"}}
	want := "GP = Gull Point (another form: “gp” for “gull point”)\nGull Hbr = Gull Harbour (another form: “hbr” for “harbour”)"
	if got := tied(map[string]int{"Gull Point": 5, "GP": 2, "Gull Harbour": 4, "Gull Hbr": 1}, spelling.Decisions{}, o, spelling.Forms); got != want {
		t.Errorf("%s\nwant\n%s", got, want)
	}
}

// A few letters mistyped are tied, as many as the length allows; numbers, opposites, two frequent values and
// words that others use are held apart and say so.
func TestSlipsAndWhatIsHeldApart(t *testing.T) {
	none := spelling.Decisions{}
	for _, c := range []struct {
		counts map[string]int
		want   string
	}{
		{map[string]int{"Port Kestrel": 90, "Port Kestrle": 2, "Port Kestrell": 1, "Prot Kestral": 1, "Port Kerstral": 1},
			"Port Kerstral = Port Kestrel (two typing slips)\nPort Kestrell = Port Kestrel (a doubled letter)\nPort Kestrle = Port Kestrel (two letters swapped)\nProt Kestral = Port Kestrel (two typing slips)"},
		{map[string]int{"Cod": 9, "Cot": 1}, ""}, // too short for a slip
		{map[string]int{"Landing 104": 9, "Landing 105": 1}, ""},
		{map[string]int{"North Quay slip": 9, "North Quay slipp": 1, "South Quay slip": 1},
			"North Quay slipp = North Quay slip (a doubled letter)\nSouth Quay slip / North Quay slip (“north” is not “south”)"},
		{map[string]int{"Ocean Gannet": 40, "Ocean Gannett": 2, "Ocean Gannet II": 20}, "Ocean Gannet II / Ocean Gannet (differ in a roman numeral)\nOcean Gannett = Ocean Gannet (a doubled letter)"},
		{map[string]int{"Sprattling": 40, "Sprattlink": 30}, ""}, // both are written often
		{map[string]int{"Aurora Dawn": 4, "Aurora Fawn": 1, "Grey Dawn": 1, "Late Dawn": 1, "Grey Fawn": 1, "Late Fawn": 1}, ""},
	} {
		if got := tied(c.counts, none, spelling.Options{}, spelling.Slips); got != c.want {
			t.Errorf("%v:\n%s\nwant\n%s", c.counts, got, c.want)
		}
	}
	// What somebody keeps apart stays apart; what is tied by a chain alone is not.
	kept := spelling.Decisions{Apart: [][2]string{{"Mackerel", "Mackerell"}}}
	if got := tied(map[string]int{"Mackerel": 9, "Mackerell": 1}, kept, spelling.Options{}, spelling.Slips); got != "" {
		t.Errorf("kept apart: %s", got)
	}
	chain := map[string]int{"Sandstorm": 30, "Sandstormes": 3, "Sandstormesan": 1}
	if got := tied(chain, none, spelling.Options{}, spelling.Slips); got != "Sandstormes = Sandstorm (two typing slips)" {
		t.Errorf("a chain: %s", got)
	}
}

// Values that very many end alike are compared without that ending, those with a slip in it too.
func TestFrequentEndings(t *testing.T) {
	counts := map[string]int{"Silver Kittiwake Ltd": 9, "Silver Kitiwake Ltd": 1, "Silver Kittiwake Ldt": 1, "Silver Kittiwak Ltd": 1}
	for i := range 2500 {
		counts[fmt.Sprintf("%c%c%c trading no %d Ltd", 'a'+i%26, 'a'+i/26%26, 'a'+i/676, i)] = 1
	}
	want := "Silver Kitiwake Ltd = Silver Kittiwake Ltd (a doubled letter)\nSilver Kittiwak Ltd = Silver Kittiwake Ltd (a letter more or less)\nSilver Kittiwake Ldt = Silver Kittiwake Ltd (two letters swapped)"
	if got := tied(counts, spelling.Decisions{}, spelling.Options{}, spelling.Slips); got != want {
		t.Errorf("%s\nwant\n%s", got, want)
	}
}

// Too many values, and ids of which nearly every one is different, are not compared beyond the order of
// words, and the column says why.
func TestPassedOver(t *testing.T) {
	ids := map[string]int{}
	for i := range 2000 {
		ids[fmt.Sprintf("LK-%06d", i)] = 1
	}
	tab, c := column(ids)
	if why := (spelling.Options{}).Passed(tab, c); !strings.Contains(why, "nearly every value is different") {
		t.Errorf("ids: %q", why)
	}
	tab, c = column(map[string]int{"Port Kestrel": 9, "Port Kestrle": 1, "port kestrel": 2})
	few := spelling.Options{Most: 2}
	if why := few.Passed(tab, c); why != "3 distinct values are more than the 2 that are compared beyond the order of words" {
		t.Errorf("too many: %q", why)
	}
	ladder := spelling.Ladder(tab, c, spelling.Decisions{}, few)
	if len(ladder[spelling.Likeness]) != 1 || len(ladder[spelling.Likeness][0].Members) != 2 {
		t.Errorf("%+v", ladder[spelling.Likeness])
	}
}

func TestSound(t *testing.T) {
	got := tied(map[string]int{"Mayer Petersen": 9, "Meier Pedersen": 1, "Mayer Peterson": 1}, spelling.Decisions{}, spelling.Options{}, spelling.Sound)
	if !strings.Contains(got, "Mayer Peterson = Mayer Petersen (one letter another)") {
		t.Error(got)
	}
	if got := tied(map[string]int{"Philips Quay": 9, "Phillippes Quay": 1}, spelling.Decisions{}, spelling.Options{}, spelling.Sound); got != "Phillippes Quay = Philips Quay (sounds the same)" {
		t.Error(got)
	}
}

// Values that share rare words and little else differs are tied last, with what differs.
func TestLikeness(t *testing.T) {
	counts := map[string]int{"Tern Islands Fishery Association": 9, "Fishery Association, Tern Islands Ltd": 2}
	for i := range 30 {
		counts[fmt.Sprintf("Trader %c%c Ltd", 'A'+i, 'b'+i%5)] = 1
	}
	got := tied(counts, spelling.Decisions{}, spelling.Options{}, spelling.Likeness)
	want := "Fishery Association, Tern Islands Ltd = Tern Islands Fishery Association (much alike: without “ltd”)"
	if got != want {
		t.Errorf("%s\nwant\n%s", got, want)
	}
}

// With a list of right values every value is tied to one of them or to none, and nothing is guessed where
// two are as near.
func TestStandards(t *testing.T) {
	o := spelling.Options{Standards: []string{"Haddock", "Ling", "Herring", "Herting"}}
	got := tied(map[string]int{"haddock": 50, "Hadock": 60, "Hadocks": 2, "Heming": 1, "Herwing": 3, "Tusk": 4}, spelling.Decisions{}, o, spelling.Slips)
	want := "Hadock = Haddock (a doubled letter)\nhaddock = Haddock (letter case)"
	if got != want {
		t.Errorf("%s\nwant\n%s", got, want)
	}
	tab, c := column(map[string]int{"cod": 9, "COD": 2})
	if groups := spelling.Ladder(tab, c, spelling.Decisions{}, spelling.Options{Standards: []string{"Ling"}})[spelling.Spelling]; len(groups) != 0 {
		t.Errorf("tied without a right value: %+v", groups)
	}
}

// Outside reference for the figures: the definitions of precision and recall over pairs; worked by hand.
func TestScore(t *testing.T) {
	groups := []spelling.Group{{Members: []spelling.Member{{Value: "a"}, {Value: "b"}, {Value: "x"}}}}
	s := spelling.ScoreOf(groups, []string{"a", "b", "c", "x", "unknown"}, map[string]string{"a": "A", "b": "A", "c": "A", "x": "X"})
	if s.Found != 3 || s.Right != 1 || s.There != 3 || s.Known != 4 || s.Grouped != 3 || s.Precision() != 1.0/3 || s.F1() != 1.0/3 {
		t.Errorf("%+v", s)
	}
}

// Values of great length, in other scripts, and blank ones.
func TestLadderOnOddValues(t *testing.T) {
	long := strings.Repeat("very long ", 10_000)
	got := tied(map[string]int{long: 2, long + "x": 1, "東京都港区": 3, "東京都港區": 1, "مرفأ كيستريل": 2, "  ": 4, "": 3, "?": 1, "-": 1}, spelling.Decisions{}, spelling.Options{}, spelling.Sound)
	if strings.Contains(got, "very long") || strings.Contains(got, "?") {
		t.Errorf("%.200s", got)
	}
}
