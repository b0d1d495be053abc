package vocabulary

import (
	"bufio"
	"fmt"
	"io"
	"strings"

	"grandledger/core/crosswalk"
)

// writeSSSOM writes a mapping set of SSSOM 1.0: each variant is a literal that is mapped to the concept of its standard value.
func writeSSSOM(to io.Writer, c crosswalk.Crosswalk) error {
	w := bufio.NewWriter(to)
	fmt.Fprintf(w, "#mapping_set_id: %s\n#mapping_set_title: %s\n#license: https://w3id.org/sssom/license/unspecified\n", scheme(c.Name), inLine(c.Name))
	fmt.Fprint(w, "#curie_map:\n#  skos: http://www.w3.org/2004/02/skos/core#\n#  semapv: https://w3id.org/semapv/vocab/\n")
	fmt.Fprint(w, "subject_label\tsubject_type\tpredicate_id\tobject_id\tobject_label\tmapping_justification\tcomment\n")
	for _, s := range c.Standards { // one that has no variants is not lost
		fmt.Fprintf(w, "%s\trdfs literal\tskos:exactMatch\t%s\t%s\tsemapv:ManualMappingCuration\t\n", inLine(s.Value), concept(c.Name, s.Value), inLine(s.Value))
	}
	for _, l := range c.Lines {
		how := "ManualMappingCuration"
		if l.Why != "" {
			how = "LexicalMatching"
		}
		fmt.Fprintf(w, "%s\trdfs literal\tskos:exactMatch\t%s\t%s\tsemapv:%s\t%s\n", inLine(l.Variant), concept(c.Name, l.Standard), inLine(l.Standard), how, inLine(l.Why))
	}
	return w.Flush()
}

// inLine quotes a cell of tab-separated text where it has to be.
func inLine(v string) string {
	if !strings.ContainsAny(v, "\t\n\r\"") {
		return v
	}
	return `"` + strings.ReplaceAll(v, `"`, `""`) + `"`
}
