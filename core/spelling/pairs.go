package spelling

import (
	"cmp"
	"math/bits"
	"runtime"
	"slices"
	"sync"

	"grandledger/core/table"
	"grandledger/core/text"
)

// near is a pair of folded values, by place, and the edits between them.
type near struct {
	a, b  uint32
	edits uint8
}

// allPairs finds all pairs of values that are as few edits apart as the shorter of them allows (slips), none
// of which changes a digit; each allows as many as one with more letters besides. Values of more than 64
// letters are left out.
//
// A value that allows k edits is cut into k+1 segments. Count a swap over the border of two segments to the
// left one; then some segment s has no edit of its own, s edits before it and k-s behind it (G. Li, D.
// Deng, J. Wang and J. Feng, Pass-Join, VLDB 2011, section 4.2), which says how far it can have moved. It stands in
// the other value as it is, or with its first letter replaced by the one before it where such a swap
// lies at its border. What is found is compared only where signatures do not rule it out.
//
// Cost: two dozen look-ups for each value, on all cores; about 60 bytes a value and its letters.
func allPairs(folds []string, more int) []near {
	p := &pairing{folds: folds, more: more, runes: make([][]rune, len(folds)), letters: make([]table.Letters, len(folds))}
	side(func(w, workers int) {
		for i := len(folds) * w / workers; i < len(folds)*(w+1)/workers; i++ {
			p.runes[i] = []rune(folds[i])
			p.letters[i] = table.LettersOf(folds[i])
		}
	})
	p.file()
	found := make([][]near, runtime.GOMAXPROCS(0))
	side(func(w, workers int) {
		seen := make([]uint32, len(folds)) // the value it was last compared with, from 1
		for i := w; i < len(folds); i += workers {
			found[w] = p.partners(uint32(i), seen, found[w])
		}
	})
	out := slices.Concat(found...)
	slices.SortFunc(out, func(x, y near) int { return cmp.Or(cmp.Compare(x.a, y.a), cmp.Compare(x.b, y.b)) })
	return out
}

// side runs workers on all cores.
func side(work func(w, workers int)) {
	workers := runtime.GOMAXPROCS(0)
	var all sync.WaitGroup
	for w := range workers {
		all.Go(func() { work(w, workers) })
	}
	all.Wait()
}

const maxLetters = 64

// pairing is values and the index of their segments: those whose hash ends alike are filed side by side.
type pairing struct {
	folds   []string
	more    int
	runes   [][]rune
	letters []table.Letters
	starts  []uint32
	filed   []segmentOf
}

// segmentOf is a value that has a segment; its pairs of letters lie beside it, as they rule out most of
// what is met.
type segmentOf struct {
	pairs      uint64
	tag, value uint32
}

// segment gives where one of k+1 segments of so many letters lies.
func segment(letters, k, i int) (at, length int) {
	length = letters / (k + 1)
	short := (k + 1) - letters%(k+1)
	if i < short {
		return i * length, length
	}
	return short*length + (i-short)*(length+1), length + 1
}

func hash(letters, k, i int, of []rune) uint64 {
	h := uint64(letters)<<8 | uint64(k)<<4 | uint64(i)
	for _, c := range of {
		hi, lo := bits.Mul64(h^uint64(c)^0x9e3779b97f4a7c15, 0xe7037ed1a0b428db)
		h = hi ^ lo
	}
	return h
}

// allowed is how many edits a value of so many letters allows; fewer than it has letters.
func (p *pairing) allowed(letters int) int { return min(text.Slips(letters+p.more), letters-1) }

// each gives the segments of a value.
func (p *pairing) each(i int, to func(h uint64)) {
	r := p.runes[i]
	if k := p.allowed(len(r)); k > 0 && len(r) <= maxLetters {
		for s := range k + 1 {
			at, length := segment(len(r), k, s)
			to(hash(len(r), k, s, r[at:at+length]))
		}
	}
}

// file builds the index.
func (p *pairing) file() {
	p.starts = make([]uint32, 1<<bits.Len(uint(3*len(p.folds)))+1)
	mask := uint64(len(p.starts) - 2)
	for i := range p.folds {
		p.each(i, func(h uint64) { p.starts[h&mask+1]++ })
	}
	for i := range mask + 1 {
		p.starts[i+1] += p.starts[i]
	}
	p.filed = make([]segmentOf, p.starts[len(p.starts)-1])
	next := slices.Clone(p.starts)
	for i := range p.folds {
		p.each(i, func(h uint64) {
			p.filed[next[h&mask]] = segmentOf{p.letters[i].Pairs, uint32(h >> 32), uint32(i)}
			next[h&mask]++
		})
	}
}

// partners finds the values near one that are shorter, or as long and before it.
func (p *pairing) partners(i uint32, seen []uint32, out []near) []near {
	r := p.runes[i]
	n := len(r)
	if n > maxLetters || p.allowed(n) == 0 {
		return out
	}
	var changed [maxLetters]rune
	for letters := max(1, n-2); letters <= n; letters++ {
		k := p.allowed(letters)
		if k == 0 || n-letters > k {
			continue
		}
		moved := n - letters
		for s := range k + 1 {
			at, length := segment(letters, k, s)
			for q := max(0, at-s, at+moved-(k-s)); q <= min(at+s, at+moved+(k-s), n-length); q++ {
				out = p.look(i, letters, k, s, r[q:q+length], seen, out)
				if q > 0 {
					copy(changed[:], r[q:q+length])
					changed[0] = r[q-1]
					out = p.look(i, letters, k, s, changed[:length], seen, out)
				}
			}
		}
	}
	return out
}

func (p *pairing) look(i uint32, letters, k, s int, of []rune, seen []uint32, out []near) []near {
	h := hash(letters, k, s, of)
	at := h & uint64(len(p.starts)-2)
	own, same := p.letters[i].Pairs, letters == len(p.runes[i])
	for _, f := range p.filed[p.starts[at]:p.starts[at+1]] {
		j := f.value
		if f.tag != uint32(h>>32) || bits.OnesCount64(f.pairs^own) > table.PairsPerEdit*k || same && j >= i || seen[j] == i+1 {
			continue
		}
		seen[j] = i + 1
		if !p.letters[i].Near(p.letters[j], k) {
			continue
		}
		if d := text.Distance(p.folds[i], p.folds[j], k); d <= k {
			out = append(out, near{min(i, j), max(i, j), uint8(d)})
		}
	}
	return out
}
