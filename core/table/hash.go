package table

import (
	"hash/maphash"
	"math/bits"
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

// seed differs from process to process, so that no file can be made whose values all
// meet in one place of the index. No result depends on it: codes are given in order of
// first appearance, and hashes are only ever compared within a process.
var seed = maphash.MakeSeed()

// hash64 is the runtime's own string hash.
func hash64(s string) uint64 { return maphash.String(seed, s) }

// hash is hash64 in half the width.
func hash(s string) uint32 { return uint32(hash64(s) >> 32) }
