// Package xml reads the records of XML documents: the elements at a path. What is below an
// element of a record becomes columns by path ("vessel/name"), attributes with @
// ("vessel/@id"). An element that comes several times in a record is a list, written as
// compact JSON. Namespaces' prefixes are left off.
//
// Entities other than those of XML itself are refused, and nothing is fetched.
package xml

import (
	"bytes"
	"cmp"
	"context"
	"encoding/json"
	"encoding/xml"
	"errors"
	"io"
	"slices"
	"strings"

	"golang.org/x/net/html/charset"

	"grandledger/core/problem"
	"grandledger/core/table"
	"grandledger/formats/intake"
)

// Shape says where the records are.
type Shape struct {
	Records string `json:"records"` // path of the elements that are records, such as landings/note
}

const (
	maxDepth  = 100
	maxValues = 100_000 // in one record
)

// Read reads records into a table. Refusals are *problem.Problem.
//
// Cost: one pass at the speed of encoding/xml; memory is one record, the dictionaries and
// four bytes a cell.
func Read(ctx context.Context, src io.Reader, s Shape, o intake.Options) (*table.Table, *intake.Report, error) {
	counter := &intake.Counting{R: src}
	r := &reader{d: decoder(counter), rows: intake.NewRows(nil, o.Rows), places: map[string]int{}}
	report := &intake.Report{Notes: []intake.Note{}}
	t, err := r.read(ctx, s, o, counter, report)
	return t, report, problem.In(o.File, err)
}

func decoder(src io.Reader) *xml.Decoder {
	d := xml.NewDecoder(src)
	d.CharsetReader = charset.NewReaderLabel
	return d
}

type reader struct {
	d      *xml.Decoder
	rows   *intake.Rows
	places map[string]int

	columns []string   // of the record at hand, in order
	values  [][]string // by column
	count   int
}

func (r *reader) read(ctx context.Context, s Shape, o intake.Options, counter *intake.Counting, report *intake.Report) (*table.Table, error) {
	path := []string{}
	want := strings.Trim(s.Records, "/")
	for {
		token, err := r.d.Token()
		if errors.Is(err, io.EOF) {
			break
		}
		if err != nil {
			return nil, r.broken(err)
		}
		switch e := token.(type) {
		case xml.EndElement:
			path = path[:len(path)-1]
		case xml.StartElement:
			if path = append(path, e.Name.Local); len(path) > maxDepth {
				return nil, r.broken(errors.New("its elements are more than 100 deep in one another"))
			}
			if strings.Join(path, "/") != want {
				continue
			}
			path = path[:len(path)-1]
			if err := r.record(ctx, e); errors.Is(err, intake.ErrEnough) {
				return r.finish(s, o, counter, report)
			} else if err != nil {
				return nil, err
			}
			if o.Progress != nil && r.rows.Len()%1024 == 0 {
				o.Progress(counter.Total(), r.rows.Len())
			}
		}
	}
	return r.finish(s, o, counter, report)
}

func (r *reader) finish(s Shape, o intake.Options, counter *intake.Counting, report *intake.Report) (*table.Table, error) {
	if r.rows.Len() == 0 {
		return nil, problem.New("Choose another path", "there is no element at %q", s.Records)
	}
	report.Bytes = counter.Total()
	return r.rows.Table(o, report)
}

func (r *reader) broken(err error) error {
	line, _ := r.d.InputPos()
	p := problem.New("Ask for the file again, or mend it there", "the document is broken at line %d: %v", line, err)
	p.Row = r.rows.Len() + 1
	return p
}

// record reads an element and what is below it into a row.
func (r *reader) record(ctx context.Context, e xml.StartElement) error {
	for i := range r.values {
		r.values[i] = r.values[i][:0]
	}
	r.count = 0
	if err := r.element(e, "", 0); err != nil {
		return err
	}
	for i, name := range r.columns {
		if len(r.values[i]) == 0 {
			continue
		}
		v := r.values[i][0]
		if len(r.values[i]) > 1 {
			list, err := json.Marshal(r.values[i])
			if err != nil {
				return err
			}
			v = string(list)
		}
		at, err := r.rows.Column(name)
		if err != nil {
			return err
		}
		if err := r.rows.Set(at, v); err != nil {
			return err
		}
	}
	return r.rows.End(ctx)
}

func (r *reader) element(e xml.StartElement, path string, depth int) error {
	if depth > maxDepth {
		return r.broken(errors.New("its elements are more than 100 deep in one another"))
	}
	for _, a := range e.Attr {
		if a.Name.Space != "xmlns" && a.Name.Local != "xmlns" {
			if err := r.value(join(path, "@"+a.Name.Local), a.Value); err != nil {
				return err
			}
		}
	}
	var text []byte
	inner := false
	for {
		token, err := r.d.Token()
		if err != nil {
			return r.broken(err)
		}
		switch t := token.(type) {
		case xml.CharData:
			text = append(text, t...)
		case xml.StartElement:
			inner = true
			if err := r.element(t, join(path, t.Name.Local), depth+1); err != nil {
				return err
			}
		case xml.EndElement:
			if text = bytes.TrimSpace(text); len(text) > 0 || !inner && (len(e.Attr) == 0 && path != "") {
				return r.value(cmp.Or(path, "text"), string(text))
			}
			return nil
		}
	}
}

func join(path, name string) string {
	if path == "" {
		return name
	}
	return path + "/" + name
}

// value notes a value of the record at hand.
func (r *reader) value(path, v string) error {
	if r.count++; r.count > maxValues {
		return problem.New("Choose the path of smaller elements", "an element at this path holds more than %d values", maxValues)
	}
	i, ok := r.places[path]
	if !ok {
		if i = len(r.columns); i >= intake.MaxColumns {
			return intake.TooManyColumns(i + 1)
		}
		r.places[path] = i
		r.columns, r.values = append(r.columns, path), append(r.values, nil)
	}
	r.values[i] = append(r.values[i], v)
	return nil
}

// Found is a path with how many elements were seen there.
type Found struct {
	Path  string `json:"path"`
	Items int    `json:"items"`
}

// Find looks at the first bytes of a document for the paths whose elements come several
// times, the likeliest first: outer ones before those within them, more before fewer.
func Find(sample []byte) []Found {
	d := decoder(bytes.NewReader(sample))
	counts := map[string]int{}
	var order, path []string
	for {
		token, err := d.Token()
		if err != nil {
			break
		}
		switch e := token.(type) {
		case xml.StartElement:
			path = append(path, e.Name.Local)
			p := strings.Join(path, "/")
			if counts[p]++; counts[p] == 1 {
				order = append(order, p)
			}
			if len(path) > maxDepth {
				return nil
			}
		case xml.EndElement:
			path = path[:len(path)-1]
		}
	}
	var found []Found
	for _, p := range order {
		if strings.Contains(p, "/") && counts[p] > 1 {
			found = append(found, Found{p, counts[p]})
		}
	}
	if len(found) == 0 && len(order) > 0 {
		found = append(found, Found{order[min(1, len(order)-1)], 1})
	}
	slices.SortStableFunc(found, func(a, b Found) int {
		return cmp.Compare(strings.Count(a.Path, "/"), strings.Count(b.Path, "/"))
	})
	return found
}
