package table

import (
	"slices"
	"strings"

	"grandledger/core/text"
)

// Trait is a bit set of what holds for one distinct value.
type Trait uint8

// The traits of a value.
const (
	LooseSpaces  Trait = 1 << iota // spaces at an edge or doubled
	IsBlankValue                   // empty or white space alone
	MeetsAnother                   // another value of the dictionary, blanks aside, has the same Fold
)

// Facts holds what was worked out once for each distinct value, indexed by code.
// 9 bytes a value.
type Facts struct {
	Traits []Trait
	Fold   []uint64 // hash of text.Fold: equal for spellings that differ in little
}

// Facts works out the facts of all values on the first call, O(bytes of the values).
func (d *Dict) Facts() *Facts {
	d.factsOnce.Do(func() {
		n := d.Len() + 1
		f := &Facts{make([]Trait, n), make([]uint64, n)}
		for code := 1; code < n; code++ {
			f.learn(code, d.Value(uint32(code)))
		}
		for code, meets := range meet(f.Traits, f.Fold) {
			if meets {
				f.Traits[code] |= MeetsAnother
			}
		}
		d.facts = f
	})
	return d.facts
}

func (f *Facts) learn(code int, v string) {
	var t Trait
	if isBlank(v) {
		t |= IsBlankValue
	} else if v[0] <= ' ' || v[len(v)-1] <= ' ' || v[0] > 127 || v[len(v)-1] > 127 || strings.Contains(v, "  ") {
		if text.Collapse(strings.TrimSpace(v)) != v {
			t |= LooseSpaces
		}
	}
	f.Traits[code] = t
	f.Fold[code] = FoldHash(v)
}

// meet says which values have the hash of another. Most have none, so profiles and
// spellings look further only at those.
func meet(traits []Trait, hashes []uint64) []bool {
	seen := newFoldSet(len(hashes))
	for code, t := range traits[1:] {
		if t&IsBlankValue == 0 {
			seen.add(hashes[code+1])
		}
	}
	out := make([]bool, len(hashes))
	for code, t := range traits[1:] {
		out[code+1] = t&IsBlankValue == 0 && seen.shared(hashes[code+1])
	}
	return out
}

// WordFacts holds what spellings ask of the words of each distinct value, by code.
type WordFacts struct {
	Hash   []uint64 // equal for the same words in any order, as text.WordKey is
	Shared []bool   // another value of the dictionary, blanks aside, has the same words
}

// Words works out the word facts on the first call, O(bytes of the values).
func (d *Dict) Words() *WordFacts {
	d.wordsOnce.Do(func() {
		w := &WordFacts{Hash: make([]uint64, d.Len()+1)}
		for code := 1; code <= d.Len(); code++ {
			w.Hash[code] = WordHash(d.Value(uint32(code)))
		}
		w.Shared = meet(d.Facts().Traits, w.Hash)
		d.words = w
	})
	return d.words
}

// FoldHash is the hash that Facts.Fold holds, for a value that is in no dictionary.
func FoldHash(v string) uint64 { return hash64(text.Fold(v)) }

// WordHash is the hash that WordFacts.Hash holds, for a value that is in no dictionary: the
// sum of the hashes of its different words, which is the same in any order.
func WordHash(v string) uint64 {
	words := text.Words(v)
	sum := uint64(0)
	for i, w := range words {
		if !slices.Contains(words[:i], w) {
			sum += hash64(w)
		}
	}
	return sum
}
