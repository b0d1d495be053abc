package turtle

import (
	"net/url"
	"strconv"
	"strings"
	"unicode"
	"unicode/utf8"

	"grandledger/core/problem"
)

// reader is a recursive descent over the grammar of the Recommendation, section 6.5.
type reader struct {
	text     string
	at, line int
	base     string
	prefixes map[string]string
	blanks   map[string]string
	made     int
	depth    int
	triples  []Triple
}

func (r *reader) wrong(format string, args ...any) error {
	p := problem.New("Mend it there, or export it anew", format, args...)
	p.Row = r.line
	return p
}

func (r *reader) document() error {
	for {
		r.space()
		switch {
		case r.at == len(r.text):
			return nil
		case r.word("@prefix"), r.word("@base"):
			if err := r.directive(); err != nil {
				return err
			}
			if err := r.expect('.'); err != nil {
				return err
			}
		case r.keyword("prefix"), r.keyword("base"): // as SPARQL has them, without a stop
			if err := r.directive(); err != nil {
				return err
			}
		default:
			if err := r.statement(); err != nil {
				return err
			}
		}
	}
}

// space skips white space and comments.
func (r *reader) space() {
	for r.at < len(r.text) {
		switch c := r.text[r.at]; {
		case c == '\n':
			r.line++
			r.at++
		case c == ' ' || c == '\t' || c == '\r':
			r.at++
		case c == '#':
			for r.at < len(r.text) && r.text[r.at] != '\n' {
				r.at++
			}
		default:
			return
		}
	}
}

func (r *reader) peek() byte {
	if r.at < len(r.text) {
		return r.text[r.at]
	}
	return 0
}

// word says whether a word stands here, followed by white space.
func (r *reader) word(w string) bool {
	rest := r.text[r.at:]
	return strings.HasPrefix(rest, w) && len(rest) > len(w) && strings.IndexByte(" \t\r\n<", rest[len(w)]) >= 0
}

func (r *reader) keyword(w string) bool {
	rest := r.text[r.at:]
	return len(rest) > len(w) && strings.EqualFold(rest[:len(w)], w) && strings.IndexByte(" \t\r\n<", rest[len(w)]) >= 0
}

func (r *reader) directive() error {
	prefix := strings.HasPrefix(strings.ToLower(strings.TrimPrefix(r.text[r.at:], "@")), "prefix")
	for r.at < len(r.text) && strings.IndexByte(" \t\r\n<", r.text[r.at]) < 0 {
		r.at++
	}
	r.space()
	name := ""
	if prefix {
		end := strings.IndexByte(r.text[r.at:], ':')
		if end < 0 || strings.ContainsAny(r.text[r.at:r.at+end], " \t\r\n<") {
			return r.wrong("a prefix has no colon")
		}
		name = r.text[r.at : r.at+end]
		r.at += end + 1
		r.space()
	}
	iri, err := r.iriRef()
	if err != nil {
		return err
	}
	if prefix {
		r.prefixes[name] = iri
	} else {
		r.base = iri
	}
	return nil
}

func (r *reader) expect(c byte) error {
	r.space()
	if r.peek() != c {
		return r.wrong("%q is missing", string(c))
	}
	r.at++
	return nil
}

func (r *reader) statement() error {
	var subject string
	var err error
	switch r.peek() {
	case '[':
		if subject, err = r.bracketed(); err != nil {
			return err
		}
		if r.space(); r.peek() == '.' { // a bracket alone is a statement
			r.at++
			return nil
		}
	case '(':
		if subject, err = r.collection(); err != nil {
			return err
		}
	default:
		if subject, err = r.resource(); err != nil {
			return err
		}
	}
	if err := r.predicates(subject); err != nil {
		return err
	}
	return r.expect('.')
}

// predicates reads what is said of a subject: predicates and objects, with ; and , between them.
func (r *reader) predicates(subject string) error {
	for {
		r.space()
		predicate := Type
		if r.peek() == 'a' && r.word("a") {
			r.at++
		} else {
			var err error
			if predicate, err = r.resource(); err != nil {
				return err
			}
			if strings.HasPrefix(predicate, "_:") {
				return r.wrong("a predicate is a blank node")
			}
		}
		for {
			object, err := r.object()
			if err != nil {
				return err
			}
			r.triples = append(r.triples, Triple{subject, predicate, object})
			if r.space(); r.peek() != ',' {
				break
			}
			r.at++
		}
		separated := false
		for r.peek() == ';' {
			separated = true
			r.at++
			r.space()
		}
		if c := r.peek(); c == '.' || c == ']' || c == 0 {
			return nil
		}
		if !separated {
			return r.wrong("%q or %q is missing", ";", ".")
		}
	}
}

func (r *reader) object() (Term, error) {
	r.space()
	switch c := r.peek(); {
	case c == '[':
		iri, err := r.bracketed()
		return Term{IRI: iri}, err
	case c == '(':
		iri, err := r.collection()
		return Term{IRI: iri}, err
	case c == '"' || c == '\'':
		return r.literal()
	case c == '+' || c == '-' || c >= '0' && c <= '9' || c == '.' && r.at+1 < len(r.text) && r.text[r.at+1] >= '0' && r.text[r.at+1] <= '9':
		return r.number()
	}
	for _, word := range []string{"true", "false"} {
		if rest := r.text[r.at:]; strings.HasPrefix(rest, word) && (len(rest) == len(word) || strings.IndexByte(" \t\r\n.;,])", rest[len(word)]) >= 0) {
			r.at += len(word)
			return Term{Text: word, Datatype: xsd + "boolean"}, nil
		}
	}
	iri, err := r.resource()
	return Term{IRI: iri}, err
}

func (r *reader) blank() string {
	r.made++
	return "_:" + strconv.Itoa(r.made)
}

func (r *reader) deeper() error {
	if r.depth++; r.depth > maxDepth {
		return r.wrong("brackets stand more than %d deep in one another", maxDepth)
	}
	return nil
}

func (r *reader) bracketed() (string, error) {
	if err := r.deeper(); err != nil {
		return "", err
	}
	defer func() { r.depth-- }()
	r.at++
	node := r.blank()
	if r.space(); r.peek() != ']' {
		if err := r.predicates(node); err != nil {
			return "", err
		}
	}
	return node, r.expect(']')
}

func (r *reader) collection() (string, error) {
	if err := r.deeper(); err != nil {
		return "", err
	}
	defer func() { r.depth-- }()
	r.at++
	first, last := rdfNil, ""
	for {
		r.space()
		switch r.peek() {
		case ')':
			r.at++
			if last != "" {
				r.triples = append(r.triples, Triple{last, rdfRest, Term{IRI: rdfNil}})
			}
			return first, nil
		case 0:
			return "", r.wrong("a list does not end")
		}
		node := r.blank()
		if last == "" {
			first = node
		} else {
			r.triples = append(r.triples, Triple{last, rdfRest, Term{IRI: node}})
		}
		item, err := r.object()
		if err != nil {
			return "", err
		}
		r.triples = append(r.triples, Triple{node, rdfFirst, item})
		last = node
	}
}

// resource reads an address, a name with a prefix, or a blank node.
func (r *reader) resource() (string, error) {
	if r.peek() == '<' {
		return r.iriRef()
	}
	from := r.at
	for r.at < len(r.text) {
		c, n := utf8.DecodeRuneInString(r.text[r.at:])
		switch {
		case c == '\\' && r.at+1 < len(r.text):
			n = 2
		case c == '.': // a name does not end in a dot
			next, _ := utf8.DecodeRuneInString(r.text[min(r.at+1, len(r.text)):])
			if !inName(next) {
				n = 0
			}
		case !inName(c):
			n = 0
		}
		if n == 0 {
			break
		}
		r.at += n
	}
	name := r.text[from:r.at]
	prefix, local, ok := strings.Cut(name, ":")
	switch {
	case name == "":
		return "", r.wrong("%q is not expected here", string([]rune(r.text[r.at:min(len(r.text), r.at+8)])[:min(1, len(r.text)-r.at)]))
	case !ok:
		return "", r.wrong("%q is no name", name)
	case prefix == "_":
		if r.blanks[local] == "" {
			r.blanks[local] = r.blank()
		}
		return r.blanks[local], nil
	}
	iri, known := r.prefixes[prefix]
	if !known {
		return "", r.wrong("the prefix %q is not declared", prefix)
	}
	return iri + unescapeName(local), nil
}

// inName says whether a letter may stand in a name with a prefix.
func inName(c rune) bool {
	return unicode.IsLetter(c) || unicode.IsDigit(c) || unicode.IsMark(c) || strings.ContainsRune("_-:%.\\", c) || c == '·'
}

func unescapeName(v string) string { return strings.ReplaceAll(v, `\`, "") }

func (r *reader) iriRef() (string, error) {
	if r.peek() != '<' {
		return "", r.wrong("an address between < and > is missing")
	}
	end := strings.IndexByte(r.text[r.at:], '>')
	if end < 0 || strings.ContainsAny(r.text[r.at+1:r.at+end], "\n\r\t \"{}|^`<") {
		return "", r.wrong("an address does not end, or has letters that none has")
	}
	iri, err := r.unescape(r.text[r.at+1 : r.at+end])
	r.at += end + 1
	if err != nil || r.base == "" {
		return iri, err
	}
	base, err1 := url.Parse(r.base)
	ref, err2 := url.Parse(iri)
	if err1 != nil || err2 != nil || ref.IsAbs() {
		return iri, nil
	}
	return base.ResolveReference(ref).String(), nil
}
