package table

import (
	"math/bits"
)

// partition is how many values a partition of settle has: their index fits the
// second-level cache.
const partition = 8192

// hashed is a filed value: its hash, whose high bits choose its partition, and its code.
type hashed struct{ hash, code uint32 }

// settle finds which of the filed values are equal, gives all equal ones the code of the
// first and closes the gaps, so that codes are again in order of first appearance; out
// is rewritten accordingly. Values are split by hash into partitions and each is indexed
// alone; the text of a value is read only where another has its hash.
//
// Cost: O(values), with 12 bytes a value held for its time.
func (b *DictBuilder) settle(out []uint32) {
	n := b.Len()
	shift := uint(32 - bits.Len(uint(n/partition)))
	starts := make([]int, 1<<(32-shift)+1)
	first := make([]uint32, n+1) // for each code its hash, and then the code of the first value equal to it
	for code := uint32(1); code <= uint32(n); code++ {
		first[code] = hash(b.value(code))
		starts[first[code]>>shift+1]++
	}
	largest := 0
	for i := 1; i < len(starts); i++ {
		largest = max(largest, starts[i])
		starts[i] += starts[i-1]
	}
	ordered := make([]hashed, n)
	for code := uint32(1); code <= uint32(n); code++ {
		at := &starts[first[code]>>shift]
		ordered[*at] = hashed{first[code], code}
		*at++
	}
	equal := 0
	index := make([]hashed, 2<<bits.Len(uint(largest)))
	from := 0
	for _, to := range starts[:len(starts)-1] {
		clear(index)
		for _, v := range ordered[from:to] {
			first[v.code] = b.firstOf(index, v)
			if first[v.code] != v.code {
				equal++
			}
		}
		from = to
	}
	if equal > 0 {
		b.close(first, out)
	}
}

// firstOf finds the first value of a partition that is equal to one, or makes it that.
func (b *DictBuilder) firstOf(index []hashed, v hashed) uint32 {
	mask := uint32(len(index) - 1)
	for i := v.hash & mask; ; i = (i + 1) & mask {
		switch s := index[i]; {
		case s.code == Missing:
			index[i] = v
			return v.code
		case s.hash == v.hash && b.value(s.code) == b.value(v.code):
			return s.code
		}
	}
}

// close moves the values together over those that have an earlier equal.
func (b *DictBuilder) close(first, out []uint32) {
	at, end := uint32(0), uint32(0)
	from := uint32(0)
	for code := uint32(1); code < uint32(len(first)); code++ {
		to := b.ends[code]
		if first[code] == code {
			end += uint32(copy(b.arena[end:], b.arena[from:to]))
			at++
			b.ends[at] = end
			first[code] = at
		} else {
			first[code] = first[first[code]] // an earlier one, which has its new code already
		}
		from = to
	}
	b.arena, b.ends = b.arena[:end], b.ends[:at+1]
	for i, code := range out {
		if code != Missing {
			out[i] = first[code]
		}
	}
}

// estimate guesses how many of the filed values are different from those whose hash falls
// into one part of sixty-four.
func (b *DictBuilder) estimate() int {
	const share = 64
	seen := map[uint32]bool{}
	for code := uint32(1); code <= uint32(b.Len()); code++ {
		if h := hash(b.value(code)); h < 1<<32/share {
			seen[h] = true
		}
	}
	return len(seen) * share
}
