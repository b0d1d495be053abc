package table

import (
	"hash/maphash"
	"math/bits"
	"unsafe"
)

// probe is an open-addressing index from hash to code with linear probing. A slot keeps
// the hash and where the value lies, so that looking a value up reads its slot and its
// bytes and nothing between, and growing never reads the values again.
type probe struct {
	slots   []slot
	mask    uint32
	touched uint32
}

// slot is a value: its hash, its code (Missing where the slot is free), its place and
// length in the arena.
type slot struct{ hash, code, at, n uint32 }

func newProbe(values int) probe {
	size := 1 << bits.Len(uint(max(values, 8)*5/3))
	return probe{slots: huge(make([]slot, size)), mask: uint32(size - 1)}
}

// full says whether one more value makes looking up slow.
func (p *probe) full(values int) bool { return values*5 > len(p.slots)*3 }

func (p *probe) insert(s slot) {
	i := s.hash & p.mask
	for p.slots[i].code != Missing {
		i = (i + 1) & p.mask
	}
	p.slots[i] = s
}

// grown gives an index for twice as many values with the same ones in it.
func (p *probe) grown(values int) probe {
	out := newProbe(values * 2)
	for _, s := range p.slots {
		if s.code != Missing {
			out.insert(s)
		}
	}
	out.touched = p.touched
	return out
}

func (p *probe) find(h uint32, value string, arena []byte) uint32 {
	for i := h & p.mask; ; i = (i + 1) & p.mask {
		s := &p.slots[i]
		if s.code == Missing {
			return Missing
		}
		if s.hash == h && int(s.n) == len(value) && (s.n == 0 || same(unsafe.Pointer(unsafe.StringData(value)), unsafe.Add(unsafe.Pointer(unsafe.SliceData(arena)), s.at), len(value))) {
			return s.code
		}
	}
}

// The seeds differ from process to process, so that no file can be made whose values all
// meet in one place of the index. No result depends on them: codes are given in order of
// first appearance, and hashes are only ever compared within a process.
var (
	seed         = maphash.MakeSeed()
	seedA, seedB = maphash.String(seed, "a") | 1, maphash.String(seed, "b") | 1
)

// hash64 hashes a string. Short ones, which nearly all values are, take two or four loads and
// as many multiplications (the construction is that of Wang Yi's wyhash); long ones the
// runtime's own hash.
func hash64(s string) uint64 {
	n := len(s)
	p := unsafe.Pointer(unsafe.StringData(s))
	if n > 16 {
		if n > 32 {
			return maphash.String(seed, s)
		}
		hi, lo := bits.Mul64(load64(p, 0)^seedA, load64(p, 8)^seedB^uint64(n))
		high, low := bits.Mul64(load64(p, n-16)^seedB, load64(p, n-8)^seedA)
		hi, lo = bits.Mul64(hi^lo^seedB, high^low^seedA)
		return hi ^ lo
	}
	var a, b uint64
	switch {
	case n >= 8:
		a, b = load64(p, 0), load64(p, n-8)
	case n >= 4:
		a, b = uint64(load32(p, 0)), uint64(load32(p, n-4))
	case n > 0:
		a = uint64(s[0])<<16 | uint64(s[n/2])<<8 | uint64(s[n-1])
	}
	hi, lo := bits.Mul64(a^seedA, b^seedB^uint64(n))
	hi, lo = bits.Mul64(hi^seedB, lo^seedA)
	return hi ^ lo
}

// hash is hash64 in half the width.
func hash(s string) uint32 { return uint32(hash64(s) >> 32) }

// same compares n bytes at two places.
func same(a, b unsafe.Pointer, n int) bool {
	switch {
	case n > 32:
		return unsafe.String((*byte)(a), n) == unsafe.String((*byte)(b), n)
	case n > 16:
		return load64(a, 0) == load64(b, 0) && load64(a, 8) == load64(b, 8) && load64(a, n-16) == load64(b, n-16) && load64(a, n-8) == load64(b, n-8)
	case n >= 8:
		return load64(a, 0) == load64(b, 0) && load64(a, n-8) == load64(b, n-8)
	case n >= 4:
		return load32(a, 0) == load32(b, 0) && load32(a, n-4) == load32(b, n-4)
	}
	for i := range n {
		if *(*byte)(unsafe.Add(a, i)) != *(*byte)(unsafe.Add(b, i)) {
			return false
		}
	}
	return true
}

// load64 and load32 read words within a string of at least as many bytes.
func load64(p unsafe.Pointer, at int) uint64 { return *(*uint64)(unsafe.Add(p, at)) }
func load32(p unsafe.Pointer, at int) uint32 { return *(*uint32)(unsafe.Add(p, at)) }
