package text

import (
	"math/bits"
	"unsafe"
)

// The kernels below compare two short texts of plain letters (ASCII, at most 64 of them), which nearly all
// words and names are once folded, without allocating. All else takes the ways that know every letter.

const (
	shortest = 64 // letters a machine word has room for
	ascii    = 128
)

// isPlain says whether a text fits the kernels.
func isPlain(v string) bool {
	n := len(v)
	if n > shortest {
		return false
	}
	p := unsafe.Pointer(unsafe.StringData(v))
	var all uint64
	if n >= 8 { // a word at a time, the last one over those before
		for at := 0; at < n-8; at += 8 {
			all |= *(*uint64)(unsafe.Add(p, at))
		}
		all |= *(*uint64)(unsafe.Add(p, n-8))
		return all&0x8080808080808080 == 0
	}
	for i := range n {
		all |= uint64(v[i])
	}
	return all < ascii
}

// masks says of each letter where it stands in a text: bit i for the letter at i.
type masks [ascii]uint64

func (m *masks) of(v string) {
	for i := range len(v) {
		m[v[i]&(ascii-1)] |= 1 << i
	}
}

// jaroPlain is Jaro for plain texts; m has the places of b's letters.
func jaroPlain(a, b string, m *masks) float64 {
	n, k := len(a), len(b)
	if n == 0 || k == 0 {
		return 0
	}
	window := max(max(n, k)/2-1, 0)
	var first [shortest]byte // the shared letters as they come in a
	free, shared := ^uint64(0), 0
	span := uint64(1)<<(window+1) - 1 // the places of b that a letter of a may take; no window is above 31
	for i := range n {
		if at := m[a[i]&(ascii-1)] & free & span; at != 0 {
			free &^= at & -at
			first[shared&(shortest-1)] = a[i]
			shared++
		}
		span <<= 1
		if i < window {
			span |= 1
		}
	}
	if shared == 0 {
		return 0
	}
	turned, taken := 0, ^free
	for i := range shared {
		if b[bits.TrailingZeros64(taken)] != first[i] {
			turned++
		}
		taken &= taken - 1
	}
	s := float64(shared)
	return (s/float64(n) + s/float64(k) + (s-float64(turned/2))/s) / 3
}

// winkler raises a likeness for a common beginning of plain texts.
func winkler(s float64, a, b string) float64 {
	if s <= 0.7 {
		return s
	}
	prefix := 0
	for prefix < min(4, len(a), len(b)) && a[prefix] == b[prefix] {
		prefix++
	}
	return s + 0.1*float64(prefix)*(1-s)
}

// levenshteinPlain is the distance of a text of n letters, whose places are in m, from a plain text b, worked out for all its
// prefixes at once, one machine word for a letter of b (G. Myers, JACM 46, 1999; the form of H. Hyyrö,
// Tampere 2001).
func levenshteinPlain(m *masks, n int, b string) int {
	if n == 0 {
		return len(b)
	}
	more, less, at, last := ^uint64(0), uint64(0), n, uint64(1)<<(n-1)
	for i := range len(b) {
		eq := m[b[i]&(ascii-1)]
		xv := eq | less
		xh := (((eq & more) + more) ^ more) | eq
		ph, mh := less|^(xh|more), more&xh
		if ph&last != 0 {
			at++
		} else if mh&last != 0 {
			at--
		}
		ph = ph<<1 | 1
		mh <<= 1
		more = mh | ^(xv | ph)
		less = ph & xv
	}
	return at
}

// Levenshtein is the fewest insertions, deletions and replacements that make one text of the other (V.
// Levenshtein 1966). Cost: one step a letter for plain texts of up to 64 letters, O(letters x letters) for others.
func Levenshtein(a, b string) int {
	if isPlain(a) && isPlain(b) {
		for len(a) > 0 && len(b) > 0 && a[0] == b[0] {
			a, b = a[1:], b[1:]
		}
		for len(a) > 0 && len(b) > 0 && a[len(a)-1] == b[len(b)-1] {
			a, b = a[:len(a)-1], b[:len(b)-1]
		}
		var m masks
		m.of(a)
		return levenshteinPlain(&m, len(a), b)
	}
	x, y := []rune(a), []rune(b)
	row := make([]int, len(y)+1)
	for j := range row {
		row[j] = j
	}
	for i, c := range x {
		before := row[0]
		row[0] = i + 1
		for j, d := range y {
			cost := before
			if c != d {
				cost = 1 + min(before, row[j], row[j+1])
			}
			before, row[j+1] = row[j+1], cost
		}
	}
	return row[len(y)]
}

// Against is one text made ready to be compared with many. The zero value is the empty text; it is not for
// several goroutines at once.
type Against struct {
	text  string
	plain bool
	at    masks
}

// Set makes another text ready.
func (g *Against) Set(v string) {
	if g.plain {
		for i := range len(g.text) {
			g.at[g.text[i]&(ascii-1)] = 0
		}
	}
	if g.text, g.plain = v, isPlain(v); g.plain {
		g.at.of(v)
	}
}

// JaroWinkler is the likeness of another text and this one; see the function of that name.
func (g *Against) JaroWinkler(other string) float64 {
	if !g.plain || !isPlain(other) {
		return JaroWinkler(other, g.text)
	}
	if other == g.text {
		return 1
	}
	return winkler(jaroPlain(other, g.text, &g.at), other, g.text)
}

// Levenshtein is the distance of another text and this one; see the function of that name.
func (g *Against) Levenshtein(other string) int {
	if !g.plain || !isPlain(other) {
		return Levenshtein(other, g.text)
	}
	return levenshteinPlain(&g.at, len(g.text), other)
}
