package linkage

import (
	"math"
	"strings"

	"grandledger/core/reading"
	"grandledger/core/spelling"
	"grandledger/core/table"
	"grandledger/core/text"
)

// Kind is what an attribute is, which decides how two values of it are compared.
type Kind string

// The kinds of attribute, each with its levels from the highest down.
const (
	Text        Kind = "text"        // names, places, addresses of words: equal, alike .92, .8, .65, .45, .25, unlike
	Word        Kind = "word"        // given and family names: equal, an edit or alike .93, alike .85, unlike
	Code        Kind = "code"        // codes, postcodes, telephones: equal, an edit apart, same beginning, unlike
	Date        Kind = "date"        // equal, day and month swapped or one digit another, same year, unlike
	Number      Kind = "number"      // equal, within 1 %, 5 %, 20 %, unlike
	Coordinates Kind = "coordinates" // within 0.3 km, 1, 3, 10, 50, farther
	Country     Kind = "country"     // equal whatever its language or code, or not
	Category    Kind = "category"    // equal or not
)

// levels is how many levels a kind has.
var levels = map[Kind]int{Text: 7, Word: 4, Code: 4, Date: 4, Number: 5, Coordinates: 6, Country: 2, Category: 2}

// column is what is found out about a column of a table before it is paired with another.
type column struct {
	*table.Column
	name     []string // the words of its name
	kind     Kind
	distinct int
	filled   int // rows that are not blank
	values   map[string]int
	words    map[string]int // of its values, with the values they stand in
	low, hi  float64        // of numbers
	whole    bool           // all numbers are
}

// maxLooked is how many distinct values of a column are looked at to say what it is.
const maxLooked = 20_000

func looked(t *table.Table, c *table.Column) *column {
	out := &column{Column: c, name: text.Words(c.Name), values: map[string]int{}, words: map[string]int{}}
	counts := t.Counts(c)
	letters, wordsIn, digits, numbers, countries, n := 0, 0, 0, 0, 0, 0
	read := c.Read()
	for code := 1; code < len(counts); code++ {
		rows := int(counts[code])
		if rows == 0 {
			continue
		}
		out.distinct++
		out.filled += rows
		if n == maxLooked {
			continue
		}
		v := text.Fold(c.Dict.Value(uint32(code)))
		if v == "" {
			out.distinct--
			out.filled -= rows
			continue
		}
		n++
		out.values[v] += rows
		words := text.Words(c.Dict.Value(uint32(code)))
		for _, w := range words {
			out.words[w]++
		}
		wordsIn += len(words)
		letters += len(v)
		if strings.ContainsAny(v, "0123456789") {
			digits++
		}
		if x := read.At; x != nil && read.OK[code] && c.Effective().Kind == reading.Number {
			x := x[code]
			if numbers == 0 {
				out.low, out.hi, out.whole = x, x, true
			}
			out.whole = out.whole && x == math.Trunc(x)
			numbers++
			out.low, out.hi = min(out.low, x), max(out.hi, x)
		}
		if (n <= 300 || 2*countries > n) && spelling.Country(c.Dict.Value(uint32(code))) != "" { // the first values tell mostly
			countries++
		}
	}
	if n == 0 {
		return out
	}
	switch {
	case c.Effective().Kind == reading.Date:
		out.kind = Date
	case 10*countries >= 8*n && n > 1:
		out.kind = Country
	case out.named("postcode", "zip", "zipcode", "postal", "plz", "phone", "telephone", "tel", "mobile", "fax") || c.Effective().Kind == reading.Telephone || c.Effective().Kind == reading.Code:
		out.kind = Code
	case 10*numbers >= 9*n && out.named("code", "no", "number", "nr"):
		out.kind = Code
	case 10*numbers >= 9*n:
		out.kind = Number
	case 10*digits >= 8*n && wordsIn < 2*n:
		out.kind = Code
	case out.distinct <= 25 && out.filled > 20*out.distinct:
		out.kind = Category
	case wordsIn*10 <= 12*n && letters <= 14*n && out.named("given", "first", "forename", "surname", "last", "family", "fname", "lname"):
		out.kind = Word
	default:
		out.kind = Text
	}
	return out
}

// running says whether a column is a running number: whole, never the same twice, with few gaps.
func (c *column) running() bool {
	return (c.kind == Number || c.kind == Code) && c.whole && c.distinct > 20 && c.distinct == c.filled && c.distinct <= maxLooked && c.hi-c.low < 1.3*float64(c.distinct)
}

// named says whether one of the words, or a beginning of four letters and more, stands in the column's name.
func (c *column) named(words ...string) bool {
	for _, w := range words {
		for _, have := range c.name {
			if have == w || len(w) > 3 && strings.HasPrefix(have, w) {
				return true
			}
		}
	}
	return false
}

// LevelWords says what a level of a kind means.
func LevelWords(k Kind, level int) string {
	if level == missing {
		return "one is blank"
	}
	return map[Kind][]string{
		Text:        {"unlike", "little alike", "somewhat alike", "alike", "much alike", "nearly the same", "the same"},
		Word:        {"unlike", "alike", "a slip apart", "the same"},
		Code:        {"unlike", "the same beginning", "a slip apart", "the same"},
		Date:        {"unlike", "the same year", "a digit or day and month swapped", "the same"},
		Number:      {"unlike", "within 20 %", "within 5 %", "within 1 %", "the same"},
		Coordinates: {"far apart", "within 50 km", "within 10 km", "within 3 km", "within 1 km", "within 300 m"},
		Country:     {"another country", "the same country"},
		Category:    {"another", "the same"},
	}[k][level]
}
