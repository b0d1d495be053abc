package table

import "math/bits"

// partition is how many values a partition of settle has: their index fits the
// second-level cache.
const partition = 8192

// settle finds which of the filed values are equal, gives all equal ones the code of the
// first and closes the gaps, so that codes are again in order of first appearance; out
// is rewritten accordingly. Values are split by hash into partitions and each is indexed
// alone.
//
// Cost: O(values), with 12 bytes a value held for its time.
func (b *DictBuilder) settle(out []uint32) {
	n := b.Len()
	shift := uint(32 - bits.Len(uint(n/partition)))
	hashes := make([]uint32, n+1)
	starts := make([]int, 1<<(32-shift)+1)
	for code := uint32(1); code <= uint32(n); code++ {
		h := hash(b.value(code))
		hashes[code] = h
		starts[uint64(h)>>shift+1]++
	}
	for i := 1; i < len(starts); i++ {
		starts[i] += starts[i-1]
	}
	ordered := make([]slot, n)
	for code := uint32(1); code <= uint32(n); code++ {
		at := &starts[uint64(hashes[code])>>shift]
		ordered[*at] = slot{hashes[code], code}
		*at++
	}
	first := hashes // from here on, for each code, the code of the first value equal to it
	equal := 0
	index := newProbe(2 * partition)
	from := 0
	for _, to := range starts[:len(starts)-1] {
		part := ordered[from:to]
		from = to
		if 2*len(part) > len(index.slots) {
			index = newProbe(len(part))
		} else {
			clear(index.slots)
		}
		for _, s := range part {
			have := index.find(s.hash, b.value(s.code), b.arena, b.ends)
			if have == Missing {
				index.insert(s.hash, s.code)
				have = s.code
			} else {
				equal++
			}
			first[s.code] = have
		}
	}
	if equal > 0 {
		b.close(first, out)
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
