package text

import (
	"slices"
	"strings"
	"testing"
	"unicode"

	"golang.org/x/text/runes"
	"golang.org/x/text/transform"
	"golang.org/x/text/unicode/norm"
)

func TestFoldJoinsSpellings(t *testing.T) {
	for _, group := range [][]string{
		{"Gill net", "GILL NET", "gill  net", " gill net ", "gill-net", "Gillnet", "gill\u00a0net", "gi\u00adll net", "gill\tnet"},
		{"Café Möwe", "cafe mowe", "CAFE\u0301 MO\u0308WE", "Cafe, Mowe."},
		{"Straße", "STRASSE", "strasse"}, // full case folding of U+00DF, CaseFolding.txt
		{"Ærø", "aero"},                  // Latin-ASCII transform, CLDR
		{"ﬁne", "fine"},                  // compatibility decomposition, UAX #15
		{"3.5 t", "3.5t"},
	} {
		for _, s := range group[1:] {
			if Fold(s) != Fold(group[0]) {
				t.Errorf("Fold(%q) = %q, but Fold(%q) = %q", s, Fold(s), group[0], Fold(group[0]))
			}
		}
	}
}

func TestFoldKeepsValuesApart(t *testing.T) {
	for _, pair := range [][2]string{
		{"1.2", "12"}, {"1 2", "12"}, {"3-4", "34"}, {"3/4", "3-4"}, {"-5", "5"}, {"C", "C++"}, {"-", "?"},
		{"A & B", "A B"}, {"50%", "50"}, {"が", "か"}, {"и", "й"}, {"कि", "क"}, {"Tern 2", "Tern -2"},
	} {
		if Fold(pair[0]) == Fold(pair[1]) {
			t.Errorf("%q and %q both fold to %q", pair[0], pair[1], Fold(pair[0]))
		}
	}
	if Fold(" \t\u00a0") != "" {
		t.Errorf("white space folds to %q", Fold(" \t\u00a0"))
	}
}

// Outside reference: the transform chain that golang.org/x/text documents for
// removing accents (NFD, remove Mn, NFC), on every letter of the Latin blocks that
// decomposes canonically.
func TestAccentsAgainstTransformChain(t *testing.T) {
	chain := transform.Chain(norm.NFD, runes.Remove(runes.In(unicode.Mn)), norm.NFC)
	checked := 0
	for r := rune(0xc0); r < 0x250; r++ {
		s := string(r)
		if !unicode.IsLetter(r) || norm.NFD.String(s) == s {
			continue
		}
		want, _, err := transform.String(chain, s)
		if err != nil {
			t.Fatal(err)
		}
		if got := dropAccents(s); got != norm.NFC.String(latin.Replace(want)) {
			t.Errorf("dropAccents(%q) = %q, the transform chain gives %q", s, got, want)
		}
		checked++
	}
	if checked < 200 {
		t.Fatalf("only %d letters checked", checked)
	}
}

func TestWordKey(t *testing.T) {
	same := []string{"Magnus Tulloch", "Tulloch, Magnus", "TULLOCH Magnus", "Magnus  Tulloch Tulloch"}
	for _, s := range same {
		if WordKey(s) != "magnus tulloch" {
			t.Errorf("WordKey(%q) = %q", s, WordKey(s))
		}
	}
	if WordKey("Tern 12") == WordKey("Tern 1 2") {
		t.Error("digits were joined")
	}
}

func TestDifferences(t *testing.T) {
	for _, c := range []struct {
		a, b string
		want []string
	}{
		{"Gill net", "GILL NET", []string{"letter case"}},
		{"Gill net", "Gill net ", []string{"trailing space"}},
		{"Gill net", " Gill net", []string{"leading space"}},
		{"Gill net", "gill  net ", []string{"trailing space", "doubled space", "letter case"}},
		{"Gill net", "Gill-net", []string{"punctuation"}},
		{"GN", "G.N.", []string{"punctuation"}},
		{"Gill net", "Gillnet", []string{"written together or apart"}},
		{"Möwe", "MOWE", []string{"letter case", "accents"}},
		{"Gill net", "Gill\u00ad net", []string{"invisible character"}},
		{"Gill net", "Gill net", nil},
		{"Gill net", "Trawl", nil},
	} {
		if got := Differences(c.a, c.b); !slices.Equal(got, c.want) {
			t.Errorf("Differences(%q, %q) = %q, want %q", c.a, c.b, got, c.want)
		}
	}
}

func FuzzFoldIsStable(f *testing.F) {
	for _, s := range []string{"Gill net", "3 - 4", "Ä\u0308", "-5", "\xff\xfe", "ﬃ ǅ", "a-1 -2"} {
		f.Add(s)
	}
	f.Fuzz(func(t *testing.T, s string) {
		s = strings.ToValidUTF8(s, "\uFFFD")
		if Fold(s) != squeeze(plain(s), false) {
			t.Errorf("the quick way folds %q to %q, the long one to %q", s, Fold(s), squeeze(plain(s), false))
		}
		if long := strings.Fields(squeeze(plain(s), true)); !slices.Equal(Words(s), long) {
			t.Errorf("the quick way cuts %q into %q, the long one into %q", s, Words(s), long)
		}
		if k := Fold(s); Fold(" "+s+" ") != k && k != "" {
			t.Errorf("edge spaces change the key of %q", s)
		}
	})
}
