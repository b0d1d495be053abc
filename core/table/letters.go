package table

import (
	"math/bits"
	"runtime"
	"sync"

	"grandledger/core/text"
)

// Letters is what can be said of how far folded values are apart without comparing them.
type Letters struct {
	Set    uint64 // a bit for each letter and digit that occurs
	Pairs  uint64 // a bit for each pair of neighbours
	Length uint16 // letters
	Digits uint16 // equal for values with the same digits in any order
}

// Letters works out those of all values on the first call, by code: O(bytes of the values) on all
// cores, 24 bytes a value.
func (d *Dict) Letters() []Letters {
	d.lettersOnce.Do(func() {
		n := d.Len() + 1
		out := make([]Letters, n)
		parts := runtime.GOMAXPROCS(0)
		var work sync.WaitGroup
		for part := range parts {
			work.Go(func() {
				for code := max(1, n*part/parts); code < n*(part+1)/parts; code++ {
					out[code] = LettersOf(text.Fold(d.Value(uint32(code))))
				}
			})
		}
		work.Wait()
		d.letters = out
	})
	return d.letters
}

// primes stand for the digits: a product of them is the same in any order, and odd ones never
// come to nothing among 16 bits.
var primes = [10]uint16{3, 5, 7, 11, 13, 17, 19, 23, 29, 31}

// LettersOf is that of a folded value.
func LettersOf(fold string) Letters {
	l, n := Letters{Digits: 1}, 0
	last := rune(0)
	for _, c := range fold {
		l.Set |= 1 << (c & 63)
		l.Pairs |= 1 << ((uint32(last)*31 + uint32(c)) * 0x9e3779b1 >> 26)
		last = c
		n++
		if '0' <= c && c <= '9' {
			l.Digits *= primes[c-'0']
		}
	}
	l.Length = uint16(min(n, 1<<16-1))
	return l
}

// PairsPerEdit is how many bits of Pairs an edit changes at most.
const PairsPerEdit = 6

// Near says whether two values can be within so many edits that change no digit: each edit changes
// two letters at most, and six pairs, which a swap does.
func (l Letters) Near(other Letters, edits int) bool {
	apart := int(l.Length) - int(other.Length)
	return l.Digits == other.Digits && apart <= edits && -apart <= edits && bits.OnesCount64(l.Set^other.Set) <= 2*edits && bits.OnesCount64(l.Pairs^other.Pairs) <= PairsPerEdit*edits
}
