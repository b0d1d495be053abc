package linkage

import (
	"math"
	"slices"
	"strings"
	"time"

	"grandledger/core/reading"
	"grandledger/core/spelling"
	"grandledger/core/table"
	"grandledger/core/text"
)

// records are the rows of all tables one behind the other.
type records struct {
	starts     []int // of each table, and the end
	attributes []*attribute
}

func (r *records) len() int { return r.starts[len(r.starts)-1] }

// table is the table of a record.
func (r *records) table(i uint32) int {
	at, _ := slices.BinarySearch(r.starts, int(i)+1)
	return at - 1
}

// attribute is an attribute made ready: a code for each record, 0 where it is blank, and what is compared of each code.
type attribute struct {
	Attribute
	codes  []uint32
	values []value
	rows   []int32 // records with each code
	filled int
	words  []word // of text
}

// value is one distinct value as it is compared.
type value struct {
	text   string    // folded, without spaces
	words  []int32   // of text, in order
	weigh  []float32 // of each word, scaled so that all together have length 1
	x, y   float64   // number; latitude and longitude in degrees
	y4, md int16     // year, and month*100+day of a date
}

type word struct {
	text string
	in   int32 // values it stands in
}

func newRecords(tables []*table.Table, attributes []Attribute) *records {
	r := &records{starts: []int{0}}
	for _, t := range tables {
		r.starts = append(r.starts, r.starts[len(r.starts)-1]+t.Rows())
	}
	r.attributes = make([]*attribute, len(attributes))
	side(len(attributes), func(i int) { r.attributes[i] = r.prepare(tables, attributes[i]) })
	said := r.saidElsewhere()
	side(len(attributes), func(i int) {
		if a := r.attributes[i]; a.Kind == Text {
			a.weighWords(said[i])
		}
	})
	return r
}

func (r *records) prepare(tables []*table.Table, of Attribute) *attribute {
	a := &attribute{Attribute: of, codes: make([]uint32, r.len()), values: make([]value, 1), rows: []int32{0}}
	known := map[string]uint32{}
	for i, t := range tables {
		c, _, _ := t.Column(of.Columns[i][0])
		if of.Kind == Coordinates {
			a.places(t, c, of.Columns[i][1], r.starts[i], known)
			continue
		}
		read := c.Read()
		ours := make([]uint32, c.Dict.Len()+1)
		for code, n := range t.Counts(c) {
			if n == 0 || code == 0 {
				continue
			}
			v, key, ok := valueOf(of.Kind, c.Dict.Value(uint32(code)), read, uint32(code))
			if !ok {
				continue
			}
			at, have := known[key]
			if !have {
				at = uint32(len(a.values))
				known[key] = at
				a.values = append(a.values, v)
				a.rows = append(a.rows, 0)
			}
			ours[code] = at
		}
		for row := range t.Rows() {
			code := ours[c.Code(t.BaseRow(row))]
			a.codes[r.starts[i]+row] = code
			if code > 0 {
				a.rows[code]++
				a.filled++
			}
		}
	}
	if of.Kind == Text {
		a.cutWords()
	}
	return a
}

// valueOf is what is compared of a value, and the text under which equal ones meet.
func valueOf(kind Kind, v string, read *table.Read, code uint32) (out value, key string, ok bool) {
	switch kind {
	case Country:
		if key = spelling.Country(v); key == "" {
			key = text.Fold(v)
		}
		return value{text: key}, key, key != ""
	case Number:
		if read.Reading.Kind != reading.Number || !read.OK[code] {
			return out, "", false
		}
		return value{x: read.At[code]}, strings.TrimSpace(v), true
	case Date:
		if read.Reading.Kind != reading.Date || !read.OK[code] {
			return out, "", false
		}
		day := time.Unix(int64(math.Floor(read.At[code]))*86400, 0).UTC()
		out = value{text: day.Format("20060102"), x: read.At[code], y4: int16(day.Year()), md: int16(day.Month())*100 + int16(day.Day())}
		return out, out.text, true
	case Text:
		words := text.Words(v)
		key = strings.Join(words, " ")
		return value{text: key}, key, key != ""
	}
	key = text.Fold(v)
	return value{text: key}, key, key != ""
}

// places reads coordinates out of two columns.
func (a *attribute) places(t *table.Table, lat *table.Column, second string, start int, known map[string]uint32) {
	lon, _, _ := t.Column(second)
	x, y := lat.Read(), lon.Read()
	for row := range t.Rows() {
		base := t.BaseRow(row)
		cx, cy := lat.Code(base), lon.Code(base)
		if x.At == nil || y.At == nil || !x.OK[cx] || !y.OK[cy] || x.At[cx] == 0 && y.At[cy] == 0 {
			continue
		}
		key := lat.Dict.Value(cx) + " " + lon.Dict.Value(cy)
		code, ok := known[key]
		if !ok {
			code = uint32(len(a.values))
			known[key] = code
			a.values = append(a.values, value{x: x.At[cx], y: y.At[cy]})
			a.rows = append(a.rows, 0)
		}
		a.codes[start+row] = code
		a.rows[code]++
		a.filled++
	}
}

// cutWords cuts texts into words and counts these.
func (a *attribute) cutWords() {
	known := map[string]int32{}
	a.words = []word{}
	for i := range a.values {
		for w := range strings.FieldsSeq(a.values[i].text) {
			at, ok := known[w]
			if !ok {
				at = int32(len(a.words))
				known[w] = at
				a.words = append(a.words, word{text: w})
			}
			if !slices.Contains(a.values[i].words, at) {
				a.values[i].words = append(a.values[i].words, at)
				a.words[at].in++
			}
		}
	}
}

// saidElsewhere finds for each attribute the words that half of its records and more have in another attribute too, such as the city
// in the name of a firm: they say again what is compared there.
func (r *records) saidElsewhere() []map[int32]bool {
	out := make([]map[int32]bool, len(r.attributes))
	sample := r.sample()
	side(len(r.attributes), func(i int) {
		a := r.attributes[i]
		out[i] = map[int32]bool{}
		if a.Kind != Text {
			return
		}
		total, also := make([]int32, len(a.words)), make([]int32, len(a.words))
		for _, rec := range sample {
			for _, w := range a.values[a.codes[rec]].words {
				total[w]++
				for j, other := range r.attributes {
					if j != i && other.Kind == Text && other.has(rec, a.words[w].text) {
						also[w]++
						break
					}
				}
			}
		}
		for w := range total {
			if total[w] > 0 && 2*also[w] >= total[w] {
				out[i][int32(w)] = true
			}
		}
	})
	return out
}

// has says whether the value of a record has a word, or one that it is short for.
func (a *attribute) has(record uint32, w string) bool {
	for _, v := range a.values[a.codes[record]].words {
		if other := a.words[v].text; other == w || len(w) > 3 && other[0] == w[0] && wordLikeness(w, other) >= 0.7 {
			return true
		}
	}
	return false
}

// repeatWeighs is what a word weighs that is said elsewhere.
const repeatWeighs = 0.3

// weighWords gives each word its weight: the fewer values it stands in, the more.
func (a *attribute) weighWords(repeated map[int32]bool) {
	n := float64(len(a.values))
	for i := range a.values {
		v := &a.values[i]
		sum := 0.0
		for _, w := range v.words {
			of := math.Log2(1 + n/float64(a.words[w].in))
			if repeated[w] && len(v.words) > 1 {
				of *= repeatWeighs
			}
			v.weigh = append(v.weigh, float32(of))
			sum += of * of
		}
		for j := range v.weigh {
			v.weigh[j] /= float32(math.Sqrt(sum))
		}
		v.text = strings.ReplaceAll(v.text, " ", "")
	}
}
