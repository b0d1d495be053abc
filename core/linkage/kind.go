package linkage

import (
	"math"
	"slices"
	"strconv"
	"strings"

	"grandledger/core/reading"
	"grandledger/core/spelling"
	"grandledger/core/table"
	"grandledger/core/text"
)

// Kind is what an attribute is, which decides how its values are made ready and compared.
type Kind string

// The kinds of attribute.
const (
	Text         Kind = "text"         // names and titles of words
	Person       Kind = "person"       // whole names of people: words in any order, initials, nicknames, without titles
	Organisation Kind = "organisation" // long and short legal forms are the same
	Place        Kind = "place"        // St for Saint
	Address      Kind = "address"      // St for Street
	Long         Kind = "long text"    // the first 60 different words
	List         Kind = "list"         // how far the items overlap
	Word         Kind = "word"         // short text of a word or so
	Given        Kind = "given name"   // nicknames and initials; changed places with the family name
	Family       Kind = "family name"
	Code         Kind = "code"
	Postcode     Kind = "postcode"
	Telephone    Kind = "telephone" // by its last nine digits
	Identifier   Kind = "identifier"
	Email        Kind = "e-mail"
	Web          Kind = "web address"
	Date         Kind = "date"
	Year         Kind = "year"
	Number       Kind = "number"
	Coordinates  Kind = "coordinates"
	Country      Kind = "country" // whatever its language or code
	Category     Kind = "category"
	YesNo        Kind = "yes/no"
)

// class is a way to compare, with its levels.
type class uint8

const (
	texts   class = iota // by how alike the words are, those that are rare counting more
	words                // by letters
	codes                // by letters, slips and beginnings
	dates                // by digits and parts
	years                // by how far apart
	numbers              // by how far apart, relatively or in steps that are given
	places               // by kilometres
	equals               // equal or not
)

// classes are how the kinds are compared.
var classes = map[Kind]class{Text: texts, Person: texts, Organisation: texts, Place: texts, Address: texts, Long: texts, List: texts, Word: words, Given: words, Family: words,
	Code: codes, Postcode: codes, Telephone: codes, Identifier: codes, Email: codes, Web: codes, Date: dates, Year: years, Number: numbers, Coordinates: places, Country: equals, Category: equals, YesNo: equals}

// Kinds lists the kinds by name.
func Kinds() []Kind {
	var out []Kind
	for k := range classes {
		out = append(out, k)
	}
	slices.Sort(out)
	return out
}

func (k Kind) class() class { return classes[k] }

// learned says that it is not known beforehand whether to agree on a kind speaks for two records.
func (k Kind) learned() bool { return k == Category || k == YesNo }

// swapped is the level of a given name that stands where the other record has its family name, and the other way about. It lies beyond that
// of equal ones, as it is none of their order.
const swapped = 4

// same is the level of two values that are equal.
func (k Kind) same() uint8 { return uint8(len(levelWords[k.class()]) - 1) }

// levels is how many levels a kind has.
func (k Kind) levels() int {
	if k == Given {
		return swapped + 1
	}
	return int(k.same()) + 1
}

// half is the level from which two values agree rather than not.
func (k Kind) half() uint8 {
	return [...]uint8{texts: 4, words: 2, codes: 2, dates: 2, years: 2, numbers: 2, places: 3, equals: 1}[k.class()]
}

// near is the level from which agreement makes agreement on other attributes likelier.
func (k Kind) near() uint8 {
	if k == Coordinates {
		return 1
	}
	return k.half()
}

// startM are the m probabilities that the estimation starts from, from unlike to equal.
func (k Kind) startM() []float64 {
	switch {
	case k == Given:
		return []float64{.06, .04, .1, .78, .02}
	case k.learned():
		return []float64{.1, .9}
	}
	return [][]float64{
		texts: {.04, .03, .06, .1, .15, .2, .42}, words: {.06, .04, .1, .8}, codes: {.12, .05, .08, .75}, dates: {.06, .04, .1, .8}, years: {.08, .05, .1, .77},
		numbers: {.15, .1, .15, .2, .4}, places: {.01, .04, .1, .2, .3, .35}, equals: {.04, .96},
	}[k.class()]
}

// levelWords say what the levels mean.
var levelWords = [...][]string{
	texts:   {"unlike", "little alike", "somewhat alike", "alike", "much alike", "nearly the same", "the same"},
	words:   {"unlike", "alike", "a slip apart", "the same"},
	codes:   {"unlike", "the same beginning", "a slip apart", "the same"},
	dates:   {"unlike", "the same year", "a digit or day and month swapped", "the same"},
	years:   {"unlike", "up to 5 years apart", "a year apart", "the same"},
	numbers: {"unlike", "within 20 %", "within 5 %", "within 1 %", "the same"},
	places:  {"far apart", "within 50 km", "within 10 km", "within 3 km", "within 1 km", "within 300 m"},
	equals:  {"another", "the same"},
}

// LevelWords says what a level of an attribute means.
func (a Attribute) LevelWords(level int) string {
	switch {
	case level == missing:
		return "one is blank"
	case level == told:
		return "told by the other name"
	case a.Kind == Given && level == swapped:
		return "given and family name changed places"
	case a.Kind == Given && level == 1:
		return "alike, a nickname or an initial"
	case a.Kind == Email && level == 1:
		return "the same but for what is behind the @"
	case a.Kind == Web && level == 1:
		return "the same host"
	case a.Kind == Country:
		return []string{"another country", "the same country"}[level]
	case a.Kind == Number && len(a.Within) > 0 && 0 < level && level < 4:
		return "within " + strings.TrimSuffix(strings.TrimRight(formatted(a.Within[3-level]), "0"), ".")
	}
	return levelWords[a.Kind.class()][level]
}

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
	how := c.Sampled(maxLooked)
	read := &table.Read{}
	if how.Kind == reading.Number {
		read = c.Dict.ReadAs(how)
	}
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
		if x := read.At; x != nil && read.OK[code] {
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
	most := func(part int) bool { return 10*part >= 8*n }
	switch read := how.Kind; {
	case read == reading.Date:
		out.kind = Date
	case most(countries) && n > 1:
		out.kind = Country
	case read == reading.Email:
		out.kind = Email
	case read == reading.Web:
		out.kind = Web
	case read == reading.Telephone || out.named("phone", "telephone", "tel", "mobile", "fax") && most(digits):
		out.kind = Telephone
	case read == reading.IBAN || read == reading.LEI || read == reading.ISNI || read == reading.ISBN || read == reading.ISSN || read == reading.EAN || read == reading.IMO:
		out.kind = Identifier
	case read == reading.List:
		out.kind = List
	case read == reading.YesNo:
		out.kind = YesNo
	case out.named("postcode", "zip", "zipcode", "postal", "plz"):
		out.kind = Postcode
	case read == reading.Code:
		out.kind = Code
	case 10*numbers >= 9*n && out.named("code", "no", "number", "nr"):
		out.kind = Code
	case 10*numbers >= 9*n && out.whole && out.low >= 1000 && out.hi <= 2200 && out.named("year", "built", "born", "founded", "jahr"):
		out.kind = Year
	case 10*numbers >= 9*n:
		out.kind = Number
	case most(digits) && wordsIn < 2*n:
		out.kind = Code
	case out.distinct <= 25 && out.filled > 20*out.distinct:
		out.kind = Category
	case letters > 100*n:
		out.kind = Long
	case wordsIn*10 <= 12*n && letters <= 14*n && out.named("given", "first", "forename", "fname"):
		out.kind = Given
	case wordsIn*10 <= 12*n && letters <= 14*n && out.named("surname", "last", "family", "lname"):
		out.kind = Family
	case out.named("person", "skipper", "author", "owner", "contact"):
		out.kind = Person
	case out.named("company", "firm", "organisation", "organization", "employer", "buyer", "supplier", "customer"):
		out.kind = Organisation
	case out.named("address", "street", "strasse"):
		out.kind = Address
	case out.named("city", "town", "suburb", "place", "municipality", "village"):
		out.kind = Place
	default:
		out.kind = Text
	}
	return out
}

// running says whether a column is a running number: whole, never the same twice, with few gaps.
func (c *column) running() bool {
	return (c.kind == Number || c.kind == Year || c.kind.class() == codes) && c.whole && c.distinct > 20 && c.distinct == c.filled && c.distinct <= maxLooked && c.hi-c.low < 1.3*float64(c.distinct)
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

func formatted(x float64) string { return strconv.FormatFloat(x, 'f', 6, 64) }
