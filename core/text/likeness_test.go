package text_test

import (
	"encoding/csv"
	"math"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"grandledger/core/text"
)

// Outside reference: the table of names of Porter and Winkler (US Census RR97/02), from memory, as
// CHECKS.md quotes it.
func TestJaroWinkler(t *testing.T) {
	for pair, want := range map[string][2]float64{
		"SHACKLEFORD/SHACKELFORD": {.970, .982}, "DUNNINGHAM/CUNNIGHAM": {.896, .896}, "NICHLESON/NICHULSON": {.926, .956}, "JONES/JOHNSON": {.790, .832},
		"MASSEY/MASSIE": {.889, .933}, "ABROMS/ABRAMS": {.889, .922}, "JERALDINE/GERALDINE": {.926, .926}, "MARHTA/MARTHA": {.944, .961},
		"MICHELLE/MICHAEL": {.869, .921}, "JULIES/JULIUS": {.889, .933}, "TANYA/TONYA": {.867, .880}, "DWAYNE/DUANE": {.822, .840}, "SEAN/SUSAN": {.783, .805}, "JON/JOHN": {.917, .933},
		"/": {1, 1}, "A/": {0, 0}, "AB/CD": {0, 0},
	} {
		a, b, _ := strings.Cut(pair, "/")
		for _, p := range [][2]string{{a, b}, {b, a}} {
			if j, w := text.Jaro(p[0], p[1]), text.JaroWinkler(p[0], p[1]); math.Abs(j-want[0]) > .0006 || math.Abs(w-want[1]) > .0006 {
				t.Errorf("%v: %.4f %.4f, want %v", p, j, w, want)
			}
		}
	}
}

// Outside reference: the examples of the US National Archives, and of the article on Cologne
// phonetics; from memory.
func TestPhonetic(t *testing.T) {
	for word, want := range map[string]string{"Robert": "R163", "Rupert": "R163", "Rubin": "R150", "Ashcraft": "A261", "Tymczak": "T522", "Pfister": "P236",
		"Honeyman": "H555", "Washington": "W252", "Lee": "L000", "Gutierrez": "G362", "Jackson": "J250", "O'Hara": "O600", "12": "", "Müller": "M460"} {
		if got := text.Soundex(word); got != want {
			t.Errorf("Soundex of %s: %s, want %s", word, got, want)
		}
	}
	for word, want := range map[string]string{"Wikipedia": "3412", "Müller-Lüdenscheidt": "65752682", "Breschnew": "17863", "Meyer": "67", "Maier": "67", "": "", "h": ""} {
		if got := text.Cologne(word); got != want {
			t.Errorf("Cologne of %s: %s, want %s", word, got, want)
		}
	}
}

// Outside reference: the vectors of a general-purpose codec library, where GRANDLEDGER_CASES is the
// directory they lie in.
func TestPhoneticVectors(t *testing.T) {
	dir := os.Getenv("GRANDLEDGER_CASES")
	if dir == "" {
		t.Skip("GRANDLEDGER_CASES names no directory of cases")
	}
	f, err := os.Open(filepath.Join(dir, "reference", "phonetic_vectors_commons_codec.csv"))
	if err != nil {
		t.Skip(err)
	}
	defer f.Close()
	lines, err := csv.NewReader(f).ReadAll()
	if err != nil {
		t.Fatal(err)
	}
	codes := map[string]func(string) string{"soundex": text.Soundex, "cologne": text.Cologne, "cologne_phonetic": text.Cologne, "colognephonetic": text.Cologne}
	checked, off := 0, 0
	for _, l := range lines[1:] {
		if code := codes[l[0]]; code != nil {
			checked++
			if got := code(l[1]); got != l[2] {
				off++
				t.Logf("%s of %q: %s, want %s", l[0], l[1], got, l[2])
			}
		}
	}
	if checked == 0 || off*50 > checked {
		t.Errorf("%d of %d vectors differ", off, checked)
	}
}
