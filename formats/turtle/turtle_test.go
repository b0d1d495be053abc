package turtle_test

import (
	"fmt"
	"os"
	"os/exec"
	"path/filepath"
	"slices"
	"strings"
	"testing"

	"grandledger/formats/turtle"
)

// Outside reference: examples in the manner of the Turtle Recommendation's, read by rapper (Debian's raptor2-utils 2.0.15, LGPL 2.1) as well;
// both must give the same triples, blank nodes aside.
func TestAgainstRapper(t *testing.T) {
	for i, doc := range []string{
		"@base <http://example.org/> .\n@prefix rel: <http://www.perceive.net/schemas/relationship/> .\n@prefix foaf: <http://xmlns.com/foaf/0.1/> .\n<#green-goblin> rel:enemyOf <#spiderman> ; a foaf:Person ; foaf:name \"Green Goblin\" .\n<#spiderman> a foaf:Person ; foaf:name \"Spiderman\", \"Человек-паук\"@ru .",
		"PREFIX : <http://example.org/stats>\n<http://a/b> :p 10, -5.5, 4.2E9, true ; .",
		"@prefix skos: <http://www.w3.org/2004/02/skos/core#> .\n# a comment\n<urn:a> skos:prefLabel '''it's\n\"long\"'''@en ; skos:notation \"1\"^^<http://www.w3.org/2001/XMLSchema#string> ; skos:note \"tab\\tquote\\\" \\u00e9\" .",
		"@prefix ex: <http://e/> .\nex:a.b ex:c-d ex:e%20f . ex:x ex:y \"end\".",
		"<http://s> <http://p> [ <http://q> \"v\" ; <http://r> <http://o> ] .\n_:b1 <http://p> _:b2 . _:b2 <http://p> _:b1 .",
		"<http://s> <http://p> ( 1 \"two\" <http://three> ) , () .",
	} {
		file := filepath.Join(t.TempDir(), "doc.ttl")
		if err := os.WriteFile(file, []byte(doc), 0o600); err != nil {
			t.Fatal(err)
		}
		out, err := exec.Command("rapper", "-q", "-i", "turtle", "-o", "ntriples", file).Output()
		if err != nil {
			t.Fatalf("%d: rapper refused it: %v", i, err)
		}
		theirs, err := turtle.Read(out, "")
		if err != nil {
			t.Fatalf("%d: its N-Triples: %v", i, err)
		}
		ours, err := turtle.Read([]byte(doc), "")
		if err != nil {
			t.Fatalf("%d: %v", i, err)
		}
		if a, b := lines(ours), lines(theirs); !slices.Equal(a, b) {
			t.Errorf("%d:\n%s\nrapper\n%s", i, strings.Join(a, "\n"), strings.Join(b, "\n"))
		}
	}
}

// lines writes triples with blank nodes unnamed, sorted.
func lines(all []turtle.Triple) []string {
	plain := func(v string) string {
		if strings.HasPrefix(v, "_:") {
			return "_"
		}
		return v
	}
	var out []string
	for _, t := range all {
		t.Subject, t.Object.IRI = plain(t.Subject), plain(t.Object.IRI)
		out = append(out, fmt.Sprintf("%q", t))
	}
	slices.Sort(out)
	return out
}

// What is not well formed is refused with its line; nothing runs on without end.
func TestBadTurtle(t *testing.T) {
	for doc, want := range map[string]string{
		"<http://s> <http://p> \"open .\n":                              "row 1: a text does not end",
		"\n\nex:a <http://p> 1 .":                                       "row 3: the prefix \"ex\" is not declared",
		"<http://s> <http://p> <http://o>":                              "row 1: \".\" is missing",
		"<http://s> <http://p o> 1 .":                                   "does not end, or has letters that none has",
		"<http://s> <http://p> 1 2 .":                                   "is missing",
		"<http://s> <http://p> ( 1 ":                                    "a list does not end",
		"<http://s> <http://p> \"\\q\" .":                               "is no mark for a letter",
		"<http://s> <http://p> " + strings.Repeat("[ <http://p> ", 200): "more than 100 deep",
		"@prefix ex <http://e/> .":                                      "",
		"<http://s> _:b 1 .":                                            "a predicate is a blank node",
	} {
		_, err := turtle.Read([]byte(doc), "")
		if err == nil || !strings.Contains(err.Error(), want) {
			t.Errorf("%.60q: %v, want %s", doc, err, want)
		}
	}
}

func FuzzRead(f *testing.F) {
	f.Add("@prefix a: <b> . a:c a (1 [a:d 'e'@f, \"\"\"g\"\"\"^^a:h;]).")
	f.Fuzz(func(t *testing.T, doc string) {
		_, _ = turtle.Read([]byte(doc), "http://base/")
	})
}
