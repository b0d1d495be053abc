package table

import (
	"math"
	"strings"
	"unicode"

	"grandledger/core/text"
)

// Trait is a bit set of what holds for one distinct value.
type Trait uint8

// The traits of a value.
const (
	IsNumber Trait = 1 << iota
	IsDate
	IsYesNo
	IsCode
	LeadingZero  // all digits, the first of several a zero
	LooseSpaces  // spaces at an edge or doubled
	IsBlankValue // empty or white space alone
	MeetsAnother // another value of the dictionary, blanks aside, has the same Fold
)

// Facts holds what was worked out once for each distinct value, indexed by code.
// About 17 bytes a value.
type Facts struct {
	Traits []Trait
	Number []float64 // NaN where the value is not a number
	Day    []int32   // days since 1970-01-01; meaningful where IsDate
	Fold   []uint64  // hash of text.Fold: equal for spellings that differ in little
}

// Facts works out the facts of all values on the first call, O(bytes of the values).
func (d *Dict) Facts() *Facts {
	d.factsOnce.Do(func() {
		n := d.Len() + 1
		f := &Facts{make([]Trait, n), make([]float64, n), make([]int32, n), make([]uint64, n)}
		f.Number[Missing] = math.NaN()
		for code := 1; code < n; code++ {
			f.learn(code, d.Value(uint32(code)))
		}
		f.meet()
		d.facts = f
	})
	return d.facts
}

func (f *Facts) learn(code int, v string) {
	var t Trait
	f.Number[code] = math.NaN()
	if n, ok := ParseNumber(v); ok {
		t |= IsNumber
		f.Number[code] = n
	} else if day, ok := ParseDate(v); ok {
		t |= IsDate
		f.Day[code] = day
	}
	if _, ok := ParseYesNo(v); ok {
		t |= IsYesNo
	}
	if code, zero := codeLike(v); code {
		t |= IsCode
		if zero {
			t |= LeadingZero
		}
	}
	if strings.TrimFunc(v, unicode.IsSpace) == "" {
		t |= IsBlankValue
	} else if v[0] <= ' ' || v[len(v)-1] <= ' ' || v[0] > 127 || v[len(v)-1] > 127 || strings.Contains(v, "  ") {
		if text.Collapse(strings.TrimSpace(v)) != v {
			t |= LooseSpaces
		}
	}
	f.Traits[code] = t
	f.Fold[code] = hash64(text.Fold(v))
}

// meet finds the values whose Fold another value has. Most have none, so profiles and
// spellings look further only at those marked here.
func (f *Facts) meet() {
	folds := newFoldSet(len(f.Fold))
	for code, t := range f.Traits[1:] {
		if t&IsBlankValue == 0 {
			folds.add(f.Fold[code+1])
		}
	}
	for code := range f.Traits[1:] {
		if f.Traits[code+1]&IsBlankValue == 0 && folds.shared(f.Fold[code+1]) {
			f.Traits[code+1] |= MeetsAnother
		}
	}
}

// FoldHash is the hash that Facts.Fold holds, for a value that is in no dictionary.
func FoldHash(v string) uint64 { return hash64(text.Fold(v)) }
