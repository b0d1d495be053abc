package vocabulary

import (
	"bufio"
	"cmp"
	"fmt"
	"io"
	"net/url"
	"slices"
	"strings"

	"grandledger/core/crosswalk"
	"grandledger/core/problem"
	"grandledger/formats/turtle"
)

const skos = "http://www.w3.org/2004/02/skos/core#"

// scheme is the address of a crosswalk, and concept that of a standard value in it: names that resolve nowhere, made of
// what they name.
func scheme(name string) string { return "urn:x-grandledger:crosswalk:" + url.PathEscape(name) }

func concept(name, value string) string { return scheme(name) + ":" + url.PathEscape(value) }

// writeSKOS writes a concept scheme.
func writeSKOS(to io.Writer, c crosswalk.Crosswalk) error {
	w := bufio.NewWriter(to)
	fmt.Fprintf(w, "@prefix skos: <%s> .\n\n<%s> a skos:ConceptScheme ;\n  skos:prefLabel %s .\n", skos, scheme(c.Name), literal(cmp.Or(c.Name, "crosswalk")))
	variants := map[string][]string{}
	for _, l := range c.Lines {
		variants[l.Standard] = append(variants[l.Standard], l.Variant)
	}
	for _, s := range c.Standards {
		fmt.Fprintf(w, "\n<%s> a skos:Concept ;\n  skos:inScheme <%s> ;\n  skos:prefLabel %s", concept(c.Name, s.Value), scheme(c.Name), literal(s.Value))
		for _, v := range variants[s.Value] {
			fmt.Fprintf(w, " ;\n  skos:altLabel %s", literal(v))
		}
		if s.Code != "" {
			fmt.Fprintf(w, " ;\n  skos:notation %s", literal(s.Code))
		}
		if s.Note != "" {
			fmt.Fprintf(w, " ;\n  skos:note %s", literal(s.Note))
		}
		if s.Broader != "" {
			fmt.Fprintf(w, " ;\n  skos:broader <%s>", concept(c.Name, s.Broader))
		}
		fmt.Fprint(w, " .\n")
	}
	return w.Flush()
}

// literal writes a text as Turtle and N-Triples have it.
func literal(v string) string {
	var out strings.Builder
	out.WriteByte('"')
	for _, c := range v {
		switch {
		case c == '"' || c == '\\':
			out.WriteByte('\\')
			out.WriteRune(c)
		case c == '\n':
			out.WriteString(`\n`)
		case c == '\r':
			out.WriteString(`\r`)
		case c == '\t':
			out.WriteString(`\t`)
		case c < ' ' || c == 0x7f:
			fmt.Fprintf(&out, `\u%04X`, c)
		default:
			out.WriteRune(c)
		}
	}
	out.WriteByte('"')
	return out.String()
}

// readSKOS reads concepts with their preferred, alternative and hidden labels, whatever scheme they are of. Where a concept has preferred
// labels in several languages, the English one or else the first by language is the standard value, and the others are variants.
func readSKOS(content []byte) (crosswalk.Crosswalk, error) {
	triples, err := turtle.Read(content, "urn:x-grandledger:document")
	if err != nil {
		return crosswalk.Crosswalk{}, err
	}
	type label struct{ language, text string }
	preferred, others, about := map[string][]label{}, map[string][]string{}, map[string]*crosswalk.Standard{}
	concepts, schemes := []string{}, map[string]bool{}
	broader := map[string]string{}
	of := func(id string) *crosswalk.Standard {
		if about[id] == nil {
			about[id] = &crosswalk.Standard{}
		}
		return about[id]
	}
	var name string
	for _, t := range triples {
		if t.Predicate == turtle.Type && t.Object.IRI == skos+"ConceptScheme" {
			schemes[t.Subject] = true
		}
	}
	for _, t := range triples {
		if schemes[t.Subject] {
			if t.Predicate == skos+"prefLabel" {
				name = t.Object.Text
			}
			continue
		}
		switch strings.TrimPrefix(t.Predicate, skos) {
		case "prefLabel":
			if len(preferred[t.Subject]) == 0 {
				concepts = append(concepts, t.Subject)
			}
			preferred[t.Subject] = append(preferred[t.Subject], label{t.Object.Language, t.Object.Text})
		case "altLabel", "hiddenLabel":
			others[t.Subject] = append(others[t.Subject], t.Object.Text)
		case "notation":
			of(t.Subject).Code = t.Object.Text
		case "note", "definition", "scopeNote":
			if t.Object.IRI == "" {
				of(t.Subject).Note = cmp.Or(of(t.Subject).Note, t.Object.Text)
			}
		case "broader":
			broader[t.Subject] = t.Object.IRI
		case "narrower":
			broader[t.Object.IRI] = t.Subject
		}
	}
	if len(concepts) == 0 {
		return crosswalk.Crosswalk{}, problem.New("Give a file of SKOS concepts with preferred labels", "there is no concept in it")
	}
	out := crosswalk.Crosswalk{Name: name}
	standard := map[string]string{}
	for _, id := range concepts {
		labels := preferred[id]
		slices.SortStableFunc(labels, func(a, b label) int {
			return cmp.Or(cmp.Compare(rank(a.language), rank(b.language)), cmp.Compare(a.language, b.language))
		})
		standard[id] = labels[0].text
	}
	for _, id := range concepts {
		s := *of(id)
		s.Value, s.Broader = standard[id], standard[broader[id]]
		out.Standards = append(out.Standards, s)
		for i, l := range preferred[id] {
			if i > 0 {
				out.Lines = append(out.Lines, crosswalk.Line{Variant: l.text, Standard: s.Value, Why: "preferred label in " + l.language})
			}
		}
		for _, v := range others[id] {
			out.Lines = append(out.Lines, crosswalk.Line{Variant: v, Standard: s.Value})
		}
	}
	return out, nil
}

func rank(language string) int {
	switch {
	case language == "":
		return 0
	case language == "en" || strings.HasPrefix(language, "en-"):
		return 1
	}
	return 2
}
