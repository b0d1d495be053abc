package tidy

import (
	"errors"
	"fmt"
	"strings"
	"testing"
	"unicode"
	"unicode/utf8"

	"golang.org/x/text/unicode/norm"

	"grandledger/core/coretest"
	"grandledger/core/problem"
)

// Examples of each step. Titles and names as they are usually written (common practice); case
// mappings as in Unicode's SpecialCasing.txt (ß, the Turkish dotless i).
func TestSteps(t *testing.T) {
	for _, c := range []struct {
		step     Step
		from, to string
	}{
		{Step{Op: Trim}, " \u00a0Gill  net\t", "Gill  net"},
		{Step{Op: Collapse}, " Gill \t net ", " Gill net "},
		{Step{Op: Invisible}, "\ufeffPort\u200b Kes\u00adtrel\u202e", "Port Kestrel"},
		{Step{Op: Invisible}, "two\nlines\tof it", "two lines of it"},
		{Step{Op: Invisible}, "نمی\u200cخواهم", "نمی\u200cخواهم"},
		{Step{Op: Punctuation}, "“Tern’s” – pots\u00a0& traps…", `"Tern's" - pots & traps...`},
		{Step{Op: Lower}, "GILL Net ÉÅ", "gill net éå"},
		{Step{Op: Upper}, "straße", "STRASSE"},
		{Step{Op: Upper, Language: "tr"}, "istanbul", "İSTANBUL"},
		{Step{Op: Lower, Language: "tr"}, "ISI", "ısı"},
		{Step{Op: Title}, "gill NET o'brien", "Gill Net O'Brien"},
		{Step{Op: Title}, "LUDWIG VAN BEETHOVEN", "Ludwig van Beethoven"},
		{Step{Op: Title}, "de la cruz, maria", "De la Cruz, Maria"},
		{Step{Op: Title}, "j.r. mcdonald iii", "J.R. McDonald III"},
		{Step{Op: Title}, "anne-marie smith & sons", "Anne-Marie Smith & Sons"},
		{Step{Op: Title}, "the isle of man (north)", "The Isle of Man (North)"},
		{Step{Op: Title, Language: "nl"}, "ijmuiden", "IJmuiden"},
		{Step{Op: Sentence}, "\"BOTTOM Trawl", "\"Bottom trawl"},
		{Step{Op: Accents}, "Séan Ørsted, Łódź, Straße", "Sean Orsted, Lodz, Strasse"},
		{Step{Op: Footnotes}, "Cod[1][note 2]", "Cod"},
		{Step{Op: Footnotes}, "Haddock*†", "Haddock"},
		{Step{Op: Footnotes}, "[1]", ""},
		{Step{Op: Brackets}, "Tern (ex Skua)", "Tern"},
		{Step{Op: Brackets}, "(all of it)", "(all of it)"},
		{Step{Op: Replace, Find: "NET", With: "seine"}, "gill net, Net", "gill seine, seine"},
		{Step{Op: Replace, Find: "net", With: "$1", Case: true}, "net Net", "$1 Net"},
		{Step{Op: Replace, Find: "net", With: "$1"}, "net Net", "$1 $1"},
		{Step{Op: Replace, Find: "net", With: "x", Whole: true}, "NET", "x"},
		{Step{Op: Replace, Find: "net", With: "x", Whole: true, Case: true}, "nets", "nets"},
		{Step{Op: Replace, Pattern: true, Find: `(\d+)\s*kilos?`, With: "$1 kg"}, "12 Kilos", "12 kg"},
		{Step{Op: Keep, Part: Left, Count: 2}, "möwe", "mö"},
		{Step{Op: Keep, Part: Left, To: ","}, "Smith, Ana", "Smith"},
		{Step{Op: Keep, Part: Right, From: "/"}, "PK/2031/14", "14"},
		{Step{Op: Keep, Part: Between, From: "(", To: ")"}, "Tern (PK 12) x", "PK 12"},
		{Step{Op: Keep, Part: Between, From: "(", To: ")"}, "Tern", "Tern"},
		{Step{Op: Cut, Part: Right, Count: 3}, "weight kg", "weight"},
		{Step{Op: Cut, Part: Left, Count: 99}, "abc", ""},
		{Step{Op: Cut, Part: Left, To: ":"}, "no mark", "no mark"},
		{Step{Op: Pad, Width: 5, With: "0"}, "17", "00017"},
		{Step{Op: Pad, Width: 5, With: "·", Right: true}, "möw", "möw··"},
		{Step{Op: Pad, Width: 2, With: "0"}, "", ""},
	} {
		do, err := All([]Step{c.step})
		if err != nil {
			t.Errorf("%+v: %v", c.step, err)
			continue
		}
		if got := do(c.from); got != c.to {
			t.Errorf("%s: %q becomes %q, want %q", c.step.Words(), c.from, got, c.to)
		}
		if c.step.Words() == "" {
			t.Errorf("%+v has no words", c.step)
		}
	}
}

func TestBadSteps(t *testing.T) {
	for says, s := range map[string]Step{
		`no step called "dance"`: {Op: "dance"}, "nothing to replace": {Op: Replace}, "cannot be read": {Op: Replace, Pattern: true, Find: "("},
		"longer than 1000": {Op: Replace, Find: strings.Repeat("x", 1001)}, `no part called "middle"`: {Op: Keep, Part: "middle"},
		"needs both": {Op: Cut, Part: Between, From: "("}, "no end": {Op: Keep, Part: Left}, "0 characters": {Op: Pad, With: "0"},
		"no character": {Op: Pad, Width: 3, With: "ab"}, `no language "klingonese-x"`: {Op: Upper, Language: "klingonese-x"},
	} {
		_, err := All([]Step{s})
		var p *problem.Problem
		if !errors.As(err, &p) || !strings.Contains(p.What, says) || p.Remedy == "" {
			t.Errorf("%+v: %v", s, err)
		}
	}
}

// No value makes a step fail; what a step has done it does not do again, and text stays text.
func FuzzSteps(f *testing.F) {
	for _, s := range []string{" Gill  NET ", "j.r. mcdonald III", "Łódź [1]*", "\u200d\u200cا", "(a)(b)", "ﬁ ǅ ŉ"} {
		f.Add(s)
	}
	f.Fuzz(func(t *testing.T, v string) {
		if !utf8.ValidString(v) {
			return
		}
		for _, op := range []Op{Trim, Collapse, Invisible, Punctuation, Lower, Upper, Title, Sentence, Accents, Footnotes, Brackets} {
			do := Step{Op: op}.Compile()
			once := do(v)
			if !utf8.ValidString(once) {
				t.Fatalf("%s makes %q of %q", op, once, v)
			}
			switch op {
			case Trim, Collapse, Punctuation, Footnotes:
				if twice := do(once); twice != once && op != Footnotes {
					t.Fatalf("%s makes %q of %q, and then %q", op, once, v, twice)
				}
			case Accents:
				for _, r := range norm.NFD.String(once) {
					if unicode.Is(unicode.Mn, r) {
						t.Fatalf("%q keeps an accent of %q", once, v)
					}
				}
			}
		}
	})
}

// What is suggested is what the step would change, counted over all rows, in a good order.
func TestSuggest(t *testing.T) {
	tab := coretest.Build([]string{"vessel", "no"}, []string{" Tern", "1"}, []string{" Tern", "2"}, []string{"Skua  II", "3"}, []string{"Gannet*", "4"}, []string{"Auk\u200b", "5 "}, []string{" ", "∅"})
	var got []string
	for _, s := range Suggest(tab) {
		got = append(got, fmt.Sprintf("%s: %s in %v, %d rows, %q becomes %q", s.Step.Op, s.Words, s.Columns, s.Rows, s.Example, s.Becomes))
	}
	want := []string{
		`invisible: 1 value holds characters that are not printed in [vessel], 1 rows, "Auk\u200b" becomes "Auk"`,
		`footnotes: 1 value ends in a footnote mark in [vessel], 1 rows, "Gannet*" becomes "Gannet"`,
		`trim: 2 values have spaces at an edge in [vessel no], 3 rows, " Tern" becomes "Tern"`,
		`collapse: 1 value has doubled spaces in [vessel], 1 rows, "Skua  II" becomes "Skua II"`,
	}
	if strings.Join(got, "\n") != strings.Join(want, "\n") {
		t.Errorf("%s", strings.Join(got, "\n"))
	}
}
