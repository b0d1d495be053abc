package table

import (
	"encoding/binary"
	"math/bits"
	"unsafe"
)

// probe is an open-addressing index from hash to code with linear probing. It keeps
// the hash beside the code so that growing never reads the values again.
type probe struct {
	slots   []slot
	mask    uint32
	touched uint32
}

type slot struct{ hash, code uint32 }

func newProbe(values int) probe {
	size := 1 << bits.Len(uint(max(values, 8)*5/3))
	return probe{slots: make([]slot, size), mask: uint32(size - 1)}
}

func (p *probe) insert(h, code uint32) {
	i := h & p.mask
	for p.slots[i].code != Missing {
		i = (i + 1) & p.mask
	}
	p.slots[i] = slot{h, code}
}

func (p *probe) find(h uint32, value string, arena []byte, ends []uint32) uint32 {
	for i := h & p.mask; ; i = (i + 1) & p.mask {
		s := p.slots[i]
		if s.code == Missing {
			return Missing
		}
		if s.hash == h && string(arena[ends[s.code-1]:ends[s.code]]) == value {
			return s.code
		}
	}
}

const (
	mixA = 0xa0761d6478bd642f
	mixB = 0xe7037ed1a0b428db
)

// hash is the two halves of hash64 folded together.
func hash(s string) uint32 {
	h := hash64(s)
	return uint32(h>>32) ^ uint32(h)
}

// hash64 is multiply-and-fold over eight bytes at a time (the construction of the
// wyhash family: 64x64->128 bit products folded by xor). The same on every run; it
// is not keyed, so the probes bound their damage by comparing the stored hash first.
func hash64(s string) uint64 {
	b := unsafe.Slice(unsafe.StringData(s), len(s))
	h := uint64(len(b)) * mixA
	for len(b) > 8 {
		hi, lo := bits.Mul64(h^binary.LittleEndian.Uint64(b), mixB)
		h = hi ^ lo
		b = b[8:]
	}
	var v uint64
	switch n := len(b); {
	case n == 8:
		v = binary.LittleEndian.Uint64(b)
	case n >= 4:
		v = uint64(binary.LittleEndian.Uint32(b)) | uint64(binary.LittleEndian.Uint32(b[n-4:]))<<32
	case n > 0:
		v = uint64(b[0]) | uint64(b[n>>1])<<8 | uint64(b[n-1])<<16
	}
	hi, lo := bits.Mul64(h^v^mixA, mixB)
	return hi ^ lo
}
