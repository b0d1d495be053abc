package vocabulary_test

import (
	"bytes"
	"context"
	"os"
	"os/exec"
	"path/filepath"
	"reflect"
	"strings"
	"testing"

	"grandledger/core/crosswalk"
	"grandledger/vocabulary"
)

var gear = crosswalk.Crosswalk{Name: "gear", Standards: []crosswalk.Standard{
	{Value: "Gill net", Code: "GN1", Note: `says "anchored"` + ", \nnot drifting", Broader: "Net"}, {Value: "Net"}, {Value: "Würfelfalle, 50 %"}},
	Lines: []crosswalk.Line{l("GN", "Gill net", "initials: “GN”"), l("gill\tnet", "Gill net", ""), l("Wurfelfalle", "Würfelfalle, 50 %", "")}}.Whole()

func l(variant, standard, why string) crosswalk.Line {
	return crosswalk.Line{Variant: variant, Standard: standard, Why: why}
}

// Every format gives back what was written, but for what it has no place for.
func TestThereAndBack(t *testing.T) {
	for _, ending := range vocabulary.Endings {
		var out bytes.Buffer
		if err := vocabulary.Write(context.Background(), &out, "gear"+ending, gear); err != nil {
			t.Fatal(ending, err)
		}
		got, err := vocabulary.Read(context.Background(), "gear"+ending, out.Bytes())
		if err != nil {
			t.Fatalf("%s: %v\n%s", ending, err, out.Bytes())
		}
		want := crosswalk.Crosswalk{Name: got.Name}
		want.Standards = append(want.Standards, gear.Standards...)
		want.Lines = append(want.Lines, gear.Lines...)
		switch ending {
		case ".ttl":
			for i := range want.Lines {
				want.Lines[i].Why = "" // SKOS has no place for the evidence of a label
			}
		case ".sssom.tsv":
			for i := range want.Standards { // mappings alone
				want.Standards[i] = crosswalk.Standard{Value: want.Standards[i].Value}
			}
		}
		if !reflect.DeepEqual(got, want) {
			t.Errorf("%s:\n%+v\nwant\n%+v", ending, got, want)
		}
	}
}

// Outside reference: rapper (Debian's raptor2-utils) reads our SKOS, and finds a label for each value.
func TestSKOSByRapper(t *testing.T) {
	file := filepath.Join(t.TempDir(), "gear.ttl")
	var out bytes.Buffer
	if err := vocabulary.Write(context.Background(), &out, "gear.ttl", gear); err != nil {
		t.Fatal(err)
	}
	if err := os.WriteFile(file, out.Bytes(), 0o600); err != nil {
		t.Fatal(err)
	}
	triples, err := exec.Command("rapper", "-q", "-i", "turtle", "-o", "ntriples", file).CombinedOutput()
	if err != nil {
		t.Fatalf("%v: %s", err, triples)
	}
	if n := strings.Count(string(triples), "core#altLabel> "); n != 3 {
		t.Errorf("%d alternative labels\n%s", n, triples)
	}
}

// A vocabulary of others: labels in several languages, narrower instead of broader; and a list of right values alone.
func TestOthers(t *testing.T) {
	doc := `@prefix skos: <http://www.w3.org/2004/02/skos/core#> .
<http://v/fish> a skos:Concept ; skos:prefLabel "Fisch"@de, "Fish"@en ; skos:narrower <http://v/cod> .
<http://v/cod> a skos:Concept ; skos:prefLabel "Cod"@en, "Kabeljau"@de ; skos:hiddenLabel "codd" ; skos:definition "Gadus morhua"@la .`
	got, err := vocabulary.Read(context.Background(), "v.ttl", []byte(doc))
	want := crosswalk.Crosswalk{Standards: []crosswalk.Standard{{Value: "Cod", Note: "Gadus morhua", Broader: "Fish"}, {Value: "Fish"}},
		Lines: []crosswalk.Line{l("Kabeljau", "Cod", "preferred label in de"), l("codd", "Cod", ""), l("Fisch", "Fish", "preferred label in de")}}
	if err != nil || !reflect.DeepEqual(got, want) {
		t.Errorf("%+v %v", got, err)
	}
	got, err = vocabulary.Read(context.Background(), "right.csv", []byte("species\nCod\nLing\n"))
	if err != nil || len(got.Standards) != 2 || len(got.Lines) != 0 {
		t.Errorf("%+v %v", got, err)
	}
	_, err = vocabulary.Read(context.Background(), "wrong.csv", []byte("a,b\n1,2\n"))
	if err == nil || !strings.Contains(err.Error(), "wrong.csv: no column says what the standard values are") {
		t.Error(err)
	}
}
