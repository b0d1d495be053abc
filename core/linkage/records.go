package linkage

import (
	"math"
	mathbits "math/bits"
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
	parts      [][]*part // ways to make keys, by attribute
	across     bool      // each table lists a thing once
	many       bool      // records of the first table do not compete for one of the second
	names      *names    // nil where there are none
	codes      []uint32  // of each record, those of all attributes side by side
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
	how    reading.Reading // of its first column, where its values are read
	way    class
	same   uint8 // the level of equal values
	codes  []uint32
	values []value
	rows   []int32 // records with each code
	filled int
	words  []word // of text
	// Of pairs of records of one table, how many there are and how many are equal.
	pairs, equal float64
	across, many bool
	// letters of words and codes, by code, from which most comparisons are settled without a look at the texts.
	letters []letters
	packed  []packed // of codes and dates of up to 15 letters, by code
	// The words of texts and what they weigh, one value behind the other, and where those of each code end.
	flat   []int32
	weigh  []float32
	ends   []uint32
	first  []byte    // the first letter of each word
	number []uint64  // of each word that is a number, digits or Roman, what tells it from others; 0 for all else
	rarity []float32 // what each word weighs; below 0 if it is said elsewhere, and weighs less but where it is all there is
}

// packed is a short text in two machine words, with its length in the last byte; all of it 0 for longer ones.
type packed [2]uint64

func pack(v string) (out packed) {
	if len(v) > 15 {
		return out
	}
	for i := range len(v) {
		out[i/8] |= uint64(v[i]) << (8 * (i % 8))
	}
	out[1] |= uint64(len(v)) << 56
	return out
}

func (p packed) len() int { return int(p[1] >> 56) }

// differing is in how many places two texts of one length differ.
func (p packed) differing(q packed) int { return unequal(p[0]^q[0]) + unequal(p[1]^q[1]) }

// unequal is how many bytes are not 0.
func unequal(z uint64) int {
	z |= z >> 4
	z |= z >> 2
	z |= z >> 1
	return mathbits.OnesCount64(z & 0x0101010101010101)
}

// value is one distinct value as it is compared.
type value struct {
	text  string  // folded, without spaces
	words []int32 // of text, in order
	x, y  float64 // number; latitude and longitude in degrees
	long  uint64  // what a nickname is short for, an e-mail without its domain, the host of a web address
}

type word struct {
	text    string
	letters letters
	in      int32 // values it stands in
}

func newRecords(tables []*table.Table, attributes []Attribute, crosswalks map[string]map[string]string, across, many bool) *records {
	r := &records{starts: []int{0}, across: across, many: many}
	for _, t := range tables {
		r.starts = append(r.starts, r.starts[len(r.starts)-1]+t.Rows())
	}
	r.attributes = make([]*attribute, len(attributes))
	side(len(attributes), func(i int) { r.attributes[i] = r.prepare(tables, attributes[i], crosswalks[attributes[i].Crosswalk]) })
	said := r.saidElsewhere()
	side(len(attributes), func(i int) {
		if a := r.attributes[i]; a.Kind.class() == texts {
			a.weighWords(said[i])
		}
	})
	r.names = r.crossed()
	r.parts = make([][]*part, len(attributes))
	side(len(attributes), func(i int) { r.parts[i] = r.partsOf(i) })
	k := len(attributes)
	r.codes = make([]uint32, r.len()*k)
	for i, a := range r.attributes {
		for rec, code := range a.codes {
			r.codes[rec*k+i] = code
		}
	}
	return r
}

func (r *records) prepare(tables []*table.Table, of Attribute, standard map[string]string) *attribute {
	a := &attribute{Attribute: of, across: r.across, many: r.many, way: of.Kind.class(), same: of.Kind.same(), codes: make([]uint32, r.len()), values: make([]value, 1), rows: []int32{0}}
	known := table.NewDictBuilder()
	for i, t := range tables {
		c, _, _ := t.Column(of.Columns[i][0])
		if of.Kind == Coordinates {
			a.places(t, c, of.Columns[i][1], r.starts[i], known)
			continue
		}
		read := &table.Read{}
		if k := of.Kind.class(); k == dates || k == numbers || k == years {
			how := c.Sampled(maxLooked)
			if i == 0 {
				a.how = how
			}
			read = c.Dict.ReadAs(how)
		}
		ours := make([]uint32, c.Dict.Len()+1)
		for code, n := range t.Counts(c) {
			if n == 0 || code == 0 {
				continue
			}
			said := c.Dict.Value(uint32(code))
			if s, ok := standard[said]; ok {
				said = s
			}
			v, key, ok := valueOf(of.Kind, said, read, uint32(code))
			if !ok {
				continue
			}
			at := known.Add(key)
			if int(at) == len(a.values) {
				a.values = append(a.values, v)
				a.rows = append(a.rows, 0)
			}
			ours[code] = at
		}
		here := make([]int32, len(a.values))
		filled := 0
		for row := range t.Rows() {
			code := ours[c.Code(t.BaseRow(row))]
			a.codes[r.starts[i]+row] = code
			if code > 0 {
				here[code]++
				filled++
			}
		}
		a.filled += filled
		if i == 0 && r.many {
			continue // one thing may be asked for many times
		}
		for code, n := range here {
			a.rows[code] += n
		}
		a.pairs += float64(filled) * float64(filled-1)
		for _, n := range here {
			a.equal += float64(n) * float64(n-1)
		}
	}
	switch of.Kind.class() {
	case texts:
		a.cutWords()
	case words:
		a.letters = make([]letters, len(a.values))
		for i := range a.values {
			a.letters[i] = lettersOf(a.values[i].text)
		}
	case codes, dates:
		a.packed = make([]packed, len(a.values))
		for i := range a.values {
			a.packed[i] = pack(a.values[i].text)
		}
	}
	return a
}

func (l letters) len() int { return int(l >> letterBits) }

// valueOf is what is compared of a value, and the text under which equal ones meet.
func valueOf(kind Kind, v string, read *table.Read, code uint32) (out value, key string, ok bool) {
	switch kind {
	case Country:
		if key = spelling.Country(v); key == "" {
			key = text.Fold(v)
		}
		return value{text: key}, key, key != ""
	case Number, Year:
		if read.Reading.Kind != reading.Number || !read.OK[code] {
			return out, "", false
		}
		return value{x: read.At[code]}, strings.TrimSpace(v), true
	case Date:
		if read.Reading.Kind != reading.Date || !read.OK[code] {
			return out, "", false
		}
		day := time.Unix(int64(math.Floor(read.At[code]))*86400, 0).UTC()
		out = value{text: day.Format("20060102"), x: read.At[code]}
		return out, out.text, true
	case Text, Person, Organisation, Place, Address, Long, List:
		key = strings.Join(wordsOf(kind, v), " ")
		return value{text: key}, key, key != ""
	case Telephone:
		key = text.Digits(v)
		key = key[max(0, len(key)-9):]
		return value{text: key}, key, key != ""
	case Identifier, Postcode:
		key = strings.ReplaceAll(strings.Join(text.Words(v), ""), "-", "")
		return value{text: key}, key, key != ""
	case Email:
		key = strings.ToLower(strings.TrimSpace(v))
		local, _, _ := strings.Cut(key, "@")
		return value{text: key, long: hashText(0, local)}, key, key != ""
	case Web:
		key = strings.ToLower(strings.TrimSpace(v))
		_, after, ok := strings.Cut(key, "://")
		if ok {
			key = after
		}
		key = strings.TrimSuffix(strings.TrimPrefix(key, "www."), "/")
		host, _, _ := strings.Cut(key, "/")
		return value{text: key, long: hashText(0, host)}, key, key != ""
	}
	key = text.Fold(v)
	out = value{text: key}
	if kind == Given {
		out.long = hashText(0, spelling.Long(spelling.Person, key))
	}
	return out, key, key != ""
}

// places reads coordinates out of two columns.
func (a *attribute) places(t *table.Table, lat *table.Column, second string, start int, known *table.DictBuilder) {
	lon, _, _ := t.Column(second)
	x, y := lat.Dict.ReadAs(lat.Sampled(maxLooked)), lon.Dict.ReadAs(lon.Sampled(maxLooked))
	for row := range t.Rows() {
		base := t.BaseRow(row)
		cx, cy := lat.Code(base), lon.Code(base)
		if x.At == nil || y.At == nil || !x.OK[cx] || !y.OK[cy] || x.At[cx] == 0 && y.At[cy] == 0 {
			continue
		}
		key := lat.Dict.Value(cx) + " " + lon.Dict.Value(cy)
		code := known.Add(key)
		if int(code) == len(a.values) {
			a.values = append(a.values, value{x: x.At[cx], y: y.At[cy]})
			a.rows = append(a.rows, 0)
		}
		a.codes[start+row] = code
		a.rows[code]++
		a.filled++
	}
}
