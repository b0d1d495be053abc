package linkage

import mathbits "math/bits"

// letters counts the letters a to z of a word up to two, in two bits each (01 and 11), and has its length from bit 52 on. All bits are
// set of a word with other letters, or too many, none of one with a digit, which is like no other.
type letters uint64

const (
	anyLetters  letters = 1<<64 - 1
	letterBits          = 52
	countedBits letters = 1<<letterBits - 1
)

func lettersOf(v string) letters {
	if len(v) > 60 {
		return anyLetters
	}
	var out letters
	for i := range len(v) {
		c := v[i] - 'a'
		if '0' <= v[i] && v[i] <= '9' {
			return 0
		}
		if c >= 26 {
			return anyLetters
		}
		switch at := 2 * c; out >> at & 3 {
		case 0:
			out |= 1 << at
		case 1:
			out |= 2 << at
		default:
			return anyLetters
		}
	}
	return out | letters(len(v))<<letterBits
}

// shared is how many letters two words can have in common at most; -1 where that is not known.
func (l letters) shared(other letters) int {
	if l == anyLetters || other == anyLetters {
		return -1
	}
	return mathbits.OnesCount64(uint64(l & other & countedBits))
}

// alike says whether two words can be as alike as 0.85 by Jaro and Winkler, as far as their letters go.
func (l letters) alike(other letters) bool {
	n := l.shared(other)
	switch {
	case n < 0:
		return true
	case n == 0:
		return false
	}
	j := (float64(n)/float64(l.len()) + float64(n)/float64(other.len()) + 1) / 3
	return j+0.4*(1-j) >= 0.85
}
