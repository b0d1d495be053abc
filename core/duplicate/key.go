package duplicate

import (
	"math"
	"strconv"

	"grandledger/core/table"
	"grandledger/core/text"
)

// As is how the cells of a key column are compared.
type As string

// The ways to compare cells. What folds to nothing, or does not read, is compared as it stands.
const (
	Exact  As = ""       // to the letter
	Folded As = "folded" // without case, spacing, punctuation and accents (text.Fold)
	Words  As = "words"  // so, and with the words in any order (text.WordKey)
	Read   As = "read"   // as the column is read: 1.0 is 1, 3 Oct 2031 is 2031-10-03
)

// Key is a column of a key.
type Key struct {
	Column *table.Column
	As     As
}

// Exactly is the key of columns compared to the letter.
func Exactly(columns []*table.Column) []Key {
	var out []Key
	for _, c := range columns {
		out = append(out, Key{Column: c})
	}
	return out
}

// codes gives equal cells of the standing rows equal codes.
func (k Key) codes(t *table.Table) []uint32 {
	codes := t.LogicalCodes(k.Column)
	if k.As == Exact {
		return codes
	}
	same := k.same()
	out := make([]uint32, len(codes))
	for row, code := range codes {
		out[row] = same[code]
	}
	return out
}

// same gives for each code that of the first value which compares equal.
func (k Key) same() []uint32 {
	c, of := k.Column, k.Text()
	first := make(map[string]uint32, c.Dict.Len())
	out := make([]uint32, c.Dict.Len()+1)
	for code := uint32(1); code <= uint32(c.Dict.Len()); code++ {
		key := of(c.Dict.Value(code))
		if first[key] == 0 {
			first[key] = code
		}
		out[code] = first[key]
	}
	return out
}

// Text gives what a value is compared by.
func (k Key) Text() func(v string) string {
	switch k.As {
	case Words:
		return text.WordKey
	case Read:
		reads := k.Column.Effective().Reader()
		return func(v string) string {
			at, ok := reads(v)
			if !ok || math.IsNaN(at) {
				return "=" + v
			}
			return strconv.FormatFloat(at, 'g', -1, 64)
		}
	}
	return text.Fold
}

// WithoutKey says which rows have no key: those blank throughout or, where blanks never match,
// those with any blank. It is nil where there are none.
func WithoutKey(t *table.Table, key []Key, apart bool) []bool {
	out := make([]bool, t.Rows())
	found := !apart
	for i := range out {
		out[i] = !apart
	}
	for _, k := range key {
		counts := t.Counts(k.Column)
		held := counts[table.Missing] > 0
		is := make([]bool, k.Column.Dict.Len()+1)
		is[table.Missing] = true
		for _, code := range k.Column.Dict.Blank() {
			is[code] = true
			held = held || counts[code] > 0
		}
		switch {
		case !held && !apart:
			return nil // a column without blanks: no row is blank throughout
		case !held:
			continue
		}
		found = true
		for row, code := range t.LogicalCodes(k.Column) {
			out[row] = apart && (out[row] || is[code]) || !apart && out[row] && is[code]
		}
	}
	if !found {
		return nil
	}
	return out
}
