package spelling

import (
	"cmp"
	"math"
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

// allPairs finds all pairs of values that are as few edits apart as the shorter of them allows (text.Slips) and have
// the same digits in the same order. Values of more than 64 letters are left out.
//
// Two values that are k edits apart have a text in common that is left of each when at most k letters are struck out
// (T. Bocek, E. Hunt and B. Stiller, Fast Similarity Search, Zürich 2007; a swap with edits between strikes out as many as it costs). So each
// value is filed under the hashes of all texts that striking out letters leaves of it, and what meets is compared. Digits
// are not struck out, as none may change: they stand beside the letters.
//
// How often a part of a value stands in others makes no difference to the cost: O(values x letters²) hashes at
// two edits, of an addition each, in passes that hold filedAtOnce of them, on all cores.
func allPairs(folds []string) []near {
	p := &pairing{folds: folds, struck: make([]struckOut, len(folds))}
	total := make([]int, runtime.GOMAXPROCS(0))
	side(func(w, workers int) {
		for i := len(folds) * w / workers; i < len(folds)*(w+1)/workers; i++ {
			p.struck[i] = lettersOf(folds[i])
			total[w] += p.struck[i].texts()
		}
	})
	texts := 0
	for _, n := range total {
		texts += n
	}
	passes := uint64(texts/filedAtOnce + 1)
	width := math.MaxUint64/passes + 1
	if passes == 1 {
		width = math.MaxUint64
	}
	found := make([][]near, len(total))
	filed := make([][buckets][]filedText, len(total))
	room := texts/int(passes)/buckets/len(filed)*9/8 + 16
	for w := range filed {
		for b := range filed[w] {
			filed[w][b] = make([]filedText, 0, room)
		}
	}
	meets := make([]meeting, len(total))
	for pass := range passes {
		side(func(w, workers int) { p.file(pass*width, width, w, workers, &filed[w]) })
		side(func(w, workers int) {
			for b := w; b < buckets; b += workers {
				found[w] = p.meet(filed, b, &meets[w], found[w])
			}
		})
	}
	out := slices.Concat(found...)
	slices.SortFunc(out, func(x, y near) int { return cmp.Or(cmp.Compare(x.a, y.a), cmp.Compare(x.b, y.b)) })
	return slices.Compact(out)
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

const (
	maxLetters  = 64
	filedAtOnce = 32 << 20 // hashes of one pass, of eight bytes each
	bucketBits  = 10
	buckets     = 1 << bucketBits // that the hashes of a pass fall into; one of them fits the cache
)

type pairing struct {
	folds  []string
	struck []struckOut
}

// filedText is a text that is left of a value: some bits of its hash, and the value.
type filedText struct{ hash, value uint32 }

// struckOut is what is known of a value before letters are struck out of it.
type struckOut struct {
	letters table.Letters
	digits  uint64 // a hash of the digits in order
	edits   uint8  // that the value allows
	count   uint8  // its letters that are no digits
}

// texts is how many texts striking out leaves.
func (s struckOut) texts() int {
	switch n := int(s.count); s.edits {
	case 0:
		return 0
	case 1:
		return 1 + n
	default:
		return 1 + n + n*(n-1)/2
	}
}

func lettersOf(fold string) struckOut {
	s := struckOut{letters: table.LettersOf(fold)}
	if s.letters.Length > maxLetters {
		return s
	}
	for _, c := range fold {
		if '0' <= c && c <= '9' {
			s.digits = (s.digits + uint64(c)) * byPlace
		} else {
			s.count++
		}
	}
	s.edits = uint8(text.Slips(int(s.letters.Length)))
	return s
}

// The hash of a text is the sum of its letters, each times a power of byPlace by its place, so that what
// stands behind a letter that is struck out moves up by a multiplication with the inverse.
const (
	byPlace = 0x9e3779b97f4a7c15
	letterA = 0xbf58476d1ce4e5b9
)

var moveUp = func() uint64 { // the inverse of byPlace among 64 bits, by Newton's method
	x := uint64(byPlace)
	for range 6 {
		x *= 2 - byPlace*x
	}
	return x
}()

// file files the texts of a worker's values whose hash lies in a range.
func (p *pairing) file(from, width uint64, w, workers int, out *[buckets][]filedText) {
	for b := range out {
		out[b] = out[b][:0]
	}
	var before, one, first, second [maxLetters + 1]uint64
	for i := len(p.folds) * w / workers; i < len(p.folds)*(w+1)/workers; i++ {
		s := &p.struck[i]
		if s.edits == 0 {
			continue
		}
		add := func(h uint64) {
			if h-from < width {
				h = (h ^ h>>32) * letterA
				h = (h ^ h>>29) * byPlace
				b := h >> (64 - bucketBits)
				out[b] = append(out[b], filedText{uint32(h >> (32 - bucketBits)), uint32(i)})
			}
		}
		n, power := 0, uint64(1)
		before[0] = s.digits
		for _, c := range p.folds[i] {
			if c < '0' || c > '9' {
				before[n+1] = before[n] + (uint64(c)+letterA)*(uint64(c)*letterA|1)*power
				power *= byPlace
				n++
			}
		}
		all := before[n]
		add(all)
		for j := range n {
			one[j] = before[j] + moveUp*(all-before[j+1])
			first[j] = before[j] - moveUp*before[j+1]
			second[j] = moveUp * (before[j] + moveUp*(all-before[j+1]))
			add(one[j])
		}
		if s.edits > 1 {
			for j := 1; j < n; j++ {
				for _, h := range first[:j] {
					add(h + second[j])
				}
			}
		}
	}
}

// meeting is the room in which the texts of a bucket meet, kept from one bucket to the next.
type meeting struct {
	slots []uint32 // the last filed text of each hash, from 1
	next  []uint32 // of each filed text, the one before with its hash
	all   []filedText
	seen  [1 << 14]uint64 // pairs met of late, which meet again under other texts
}

// meet compares the values of a bucket whose texts meet.
func (p *pairing) meet(filed [][buckets][]filedText, bucket int, m *meeting, out []near) []near {
	m.all = m.all[:0]
	for w := range filed {
		m.all = append(m.all, filed[w][bucket]...)
	}
	if size := 2 << bits.Len(uint(len(m.all))); len(m.slots) < size {
		m.slots, m.next = make([]uint32, size), make([]uint32, size)
	}
	clear(m.slots)
	mask := uint32(len(m.slots) - 1)
	for i, t := range m.all {
		at := t.hash & mask
		for m.slots[at] != 0 && m.all[m.slots[at]-1].hash != t.hash {
			at = (at + 1) & mask
		}
		m.next[i] = m.slots[at]
		for other := m.slots[at]; other != 0; other = m.next[other-1] {
			out = p.compare(m, t.value, m.all[other-1].value, out)
		}
		m.slots[at] = uint32(i) + 1
	}
	return out
}

// compare adds a pair that is near, if it has not met of late.
func (p *pairing) compare(m *meeting, a, b uint32, out []near) []near {
	if a == b {
		return out
	}
	a, b = min(a, b), max(a, b)
	pair := uint64(a)<<32 | uint64(b)
	seen := &m.seen[pair*byPlace>>50]
	if *seen == pair {
		return out
	}
	*seen = pair
	x, y := &p.struck[a], &p.struck[b]
	edits := int(min(x.edits, y.edits))
	if x.digits != y.digits || !x.letters.Near(y.letters, edits) {
		return out
	}
	if d := text.Distance(p.folds[a], p.folds[b], edits); d <= edits {
		out = append(out, near{a, b, uint8(d)})
	}
	return out
}
