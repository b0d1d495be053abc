// Package vocabulary reads and writes crosswalks: as tables of any format (CSV, XLSX, JSON and so on) with the columns variant and
// standard and, where there is more, why, code, note and broader; as SKOS in Turtle (W3C Recommendation, 18 August 2009), a concept for each
// standard value with its variants as alternative labels; and as a Simple Standard for Sharing Ontological Mappings (SSSOM) in TSV.
package vocabulary

import (
	"bytes"
	"context"
	"io"
	"path"
	"strings"

	"grandledger/core/crosswalk"
	"grandledger/core/problem"
	"grandledger/core/table"
	"grandledger/formats"
	"grandledger/formats/intake"
)

// MaxBytes is what a file of a crosswalk may have.
const MaxBytes = 64 << 20

// Endings lists the endings of names by which crosswalks are written.
var Endings = []string{".csv", ".xlsx", ".json", ".ttl", ".sssom.tsv"}

// Write writes a crosswalk in the format that the ending of a name says.
func Write(ctx context.Context, w io.Writer, name string, c crosswalk.Crosswalk) error {
	c = c.Whole()
	low := strings.ToLower(name)
	switch {
	case strings.HasSuffix(low, ".ttl"):
		return writeSKOS(w, c)
	case strings.HasSuffix(low, ".sssom.tsv"):
		return writeSSSOM(w, c)
	}
	write, err := formats.Writer(name)
	if err != nil {
		return err
	}
	return write(ctx, w, asTable(c))
}

// Read reads a crosswalk; the ending of its name says of what format it is. Of a table with one column alone, its values are
// standard values. Refusals are *problem.Problem.
func Read(ctx context.Context, name string, content []byte) (crosswalk.Crosswalk, error) {
	var c crosswalk.Crosswalk
	var err error
	low := strings.ToLower(name)
	switch {
	case len(content) > MaxBytes:
		err = problem.New("Leave out what is not needed", "the file is larger than %d MiB", MaxBytes>>20)
	case strings.HasSuffix(low, ".ttl"), strings.HasSuffix(low, ".nt"):
		c, err = readSKOS(content)
	default:
		var t *table.Table
		if t, err = readTable(ctx, name, content); err == nil {
			c, err = fromTable(t)
		}
	}
	if err != nil {
		return c, problem.In(path.Base(name), err)
	}
	return c.Whole(), nil
}

func readTable(ctx context.Context, name string, content []byte) (*table.Table, error) {
	if strings.HasSuffix(strings.ToLower(name), ".tsv") { // what SSSOM says of itself stands above its header
		for bytes.HasPrefix(content, []byte("#")) {
			_, content, _ = bytes.Cut(content, []byte("\n"))
		}
	}
	source := formats.Source{Name: path.Base(name), Size: int64(len(content)), At: bytes.NewReader(content)}
	how, err := formats.Sniff(source)
	if err != nil {
		return nil, err
	}
	t, _, err := formats.Read(ctx, []formats.Source{source}, how, intake.Options{File: source.Name, Size: source.Size})
	return t, err
}

// The columns of a crosswalk as a table, and other names they go by.
var columns = []struct {
	name   string
	others []string
}{
	{"variant", []string{"subject_label", "spelling"}},
	{"standard", []string{"object_label", "canonical", "standard value"}},
	{"why", []string{"comment", "evidence"}},
	{"code", []string{"notation"}},
	{"note", nil},
	{"broader", nil},
}

func fromTable(t *table.Table) (crosswalk.Crosswalk, error) {
	of := map[string]*table.Column{}
	for _, c := range t.Columns() {
		name := strings.ToLower(strings.TrimSpace(c.Name))
		for _, known := range columns {
			for _, other := range append([]string{known.name}, known.others...) {
				if name == other && of[known.name] == nil {
					of[known.name] = c
				}
			}
		}
	}
	if len(t.Columns()) == 1 && of["standard"] == nil {
		of = map[string]*table.Column{"standard": t.Columns()[0]}
	}
	if of["standard"] == nil {
		return crosswalk.Crosswalk{}, problem.New("Name its columns variant and standard, or give one column of right values alone", "no column says what the standard values are")
	}
	value := func(name string, row int) string {
		c := of[name]
		if c == nil {
			return ""
		}
		v, _ := c.Value(t.BaseRow(row))
		return v
	}
	var out crosswalk.Crosswalk
	for row := range t.Rows() {
		standard := value("standard", row)
		if strings.TrimSpace(standard) == "" {
			continue
		}
		variant := value("variant", row)
		if s := (crosswalk.Standard{Value: standard, Code: value("code", row), Note: value("note", row), Broader: value("broader", row)}); variant == "" || variant == standard || s.Code+s.Note+s.Broader != "" {
			out.Standards = append(out.Standards, s)
		}
		if variant != "" {
			out.Lines = append(out.Lines, crosswalk.Line{Variant: variant, Standard: standard, Why: value("why", row)})
		}
	}
	return out, nil
}

// asTable has a line for each standard value, under itself, and one for each variant.
func asTable(c crosswalk.Crosswalk) *table.Table {
	rows := [][]string{}
	for _, s := range c.Standards {
		rows = append(rows, []string{s.Value, s.Value, "", s.Code, s.Note, s.Broader})
	}
	for _, l := range c.Lines {
		rows = append(rows, []string{l.Variant, l.Standard, l.Why, "", "", ""})
	}
	var out []*table.Column
	for i, known := range columns {
		d, codes := table.NewDictBuilder(), make([]uint32, 0, len(rows))
		for _, row := range rows {
			codes = append(codes, d.Add(row[i]))
		}
		out = append(out, &table.Column{Name: known.name, Codes: &table.Codes{At: codes}, Dict: d.Dict()})
	}
	t, err := table.New(out, len(rows))
	if err != nil {
		panic(err) // the columns are as long as one another
	}
	return t
}
