// Package turtle reads RDF 1.1 Turtle (W3C Recommendation, 25 February 2014), of which N-Triples is a part, into triples.
//
// Blank nodes are named _:1, _:2 and so on in the order they are met. Literals keep their text, language and datatype. What is not
// well formed is refused with its line.
package turtle

import "grandledger/core/problem"

// Term is a resource, a blank node or a literal.
type Term struct {
	IRI      string // of a resource, or _:name of a blank node; "" for a literal
	Text     string // of a literal
	Language string
	Datatype string
}

// Triple is one statement.
type Triple struct {
	Subject, Predicate string
	Object             Term
}

// Names of RDF that the grammar itself speaks of.
const (
	rdf      = "http://www.w3.org/1999/02/22-rdf-syntax-ns#"
	Type     = rdf + "type"
	rdfFirst = rdf + "first"
	rdfRest  = rdf + "rest"
	rdfNil   = rdf + "nil"
	xsd      = "http://www.w3.org/2001/XMLSchema#"
)

// Limits of a document.
const (
	MaxBytes = 256 << 20
	maxDepth = 100 // brackets in one another
)

// Read reads a document. base is what relative addresses are resolved against; it may be empty. Cost: O(bytes).
func Read(document []byte, base string) ([]Triple, error) {
	if len(document) > MaxBytes {
		return nil, problem.New("Split it", "the document is larger than %d MiB", MaxBytes>>20)
	}
	r := &reader{text: string(document), line: 1, base: base, prefixes: map[string]string{}, blanks: map[string]string{}}
	err := r.document()
	return r.triples, err
}
