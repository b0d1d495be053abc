package table

import (
	"fmt"
	"math"
	"sync"
	"unsafe"
)

// Missing is the code of a cell that does not exist. Real values have codes from 1.
const Missing uint32 = 0

// Dict is an immutable list of distinct values with codes 1 to Len. All values lie
// in one arena of at most 4 GiB. It is safe for use by several goroutines.
type Dict struct {
	arena []byte
	ends  []uint32 // ends[c] is where value c ends; ends[0] is 0

	indexOnce sync.Once
	index     probe

	factsOnce sync.Once
	facts     *Facts

	wordsOnce sync.Once
	words     *WordFacts
}

// NewDict wraps an arena and the end offset of each value; ends[0] must be 0 and
// the values distinct. It fails where the offsets do not describe the arena.
func NewDict(arena []byte, ends []uint32) (*Dict, error) {
	if len(ends) == 0 || ends[0] != 0 || uint64(ends[len(ends)-1]) != uint64(len(arena)) {
		return nil, fmt.Errorf("dictionary: offsets do not fit %d bytes", len(arena))
	}
	for i := 1; i < len(ends); i++ {
		if ends[i] < ends[i-1] {
			return nil, fmt.Errorf("dictionary: offset %d runs backwards", i)
		}
	}
	return &Dict{arena: arena, ends: ends}, nil
}

// Len is the number of values.
func (d *Dict) Len() int { return len(d.ends) - 1 }

// Bytes is the memory the values take.
func (d *Dict) Bytes() int { return len(d.arena) + 4*len(d.ends) }

// Value is the text of a code; the empty string for Missing. It does not copy.
func (d *Dict) Value(code uint32) string {
	if code == Missing {
		return ""
	}
	from, to := d.ends[code-1], d.ends[code]
	return unsafe.String(unsafe.SliceData(d.arena[from:to:to]), int(to-from))
}

// Raw gives the arena and end offsets for storing. Neither may be changed.
func (d *Dict) Raw() (arena []byte, ends []uint32) { return d.arena, d.ends }

// Find gives the code of a value, or false. The first call builds an index, O(Len).
func (d *Dict) Find(value string) (uint32, bool) {
	d.indexOnce.Do(func() {
		d.index = newProbe(d.Len())
		for c := uint32(1); c <= uint32(d.Len()); c++ {
			d.index.insert(hash(d.Value(c)), c)
		}
	})
	code := d.index.find(hash(value), value, d.arena, d.ends)
	return code, code != Missing
}

// DictBuilder collects distinct values and gives each its code in order of first
// appearance. The zero value is not usable; see NewDictBuilder.
type DictBuilder struct {
	arena []byte
	ends  []uint32
	probe probe
	hash  [batch]uint32
}

// batch is how many look-ups are in flight at once: enough to overlap their cache
// misses, few enough that what they fetched is still in the first-level cache.
const batch = 64

// NewDictBuilder returns an empty builder.
func NewDictBuilder() *DictBuilder {
	return &DictBuilder{ends: make([]uint32, 1, 16), probe: newProbe(8)}
}

// Len is the number of values so far.
func (b *DictBuilder) Len() int { return len(b.ends) - 1 }

// Add gives the code of a value, adding it when new. Amortised O(len(value)).
// It panics when the arena would pass 4 GiB; readers check Room first.
func (b *DictBuilder) Add(value string) uint32 { return b.add(hash(value), value) }

// Room says whether n more bytes of new values fit the arena.
func (b *DictBuilder) Room(n int) bool { return len(b.arena)+n <= math.MaxUint32 }

// Side marks a span that cuts its value from the side buffer of Encode.
const Side = 1 << 63

// Encode appends the codes of the values that spans cut from buf, or from side where
// they are marked so. A span is start<<32|length, start below 2 GiB. Look-ups are staged in batches, since a large dictionary
// spends its time waiting for memory and not computing.
func (b *DictBuilder) Encode(out []uint32, buf, side []byte, spans []uint64) []uint32 {
	var touched uint32
	for len(spans) > 0 {
		n := min(batch, len(spans))
		for i, s := range spans[:n] {
			h := hash(cut(buf, side, s))
			b.hash[i] = h
			touched += b.probe.slots[h&b.probe.mask].code
		}
		for i, s := range spans[:n] {
			out = append(out, b.add(b.hash[i], cut(buf, side, s)))
		}
		spans = spans[n:]
	}
	b.probe.touched += touched // keeps the look-ahead from being optimised away
	return out
}

// Dict ends the building; the builder must not be used afterwards.
func (b *DictBuilder) Dict() *Dict { return &Dict{arena: b.arena, ends: b.ends} }

func (b *DictBuilder) add(h uint32, value string) uint32 {
	if code := b.probe.find(h, value, b.arena, b.ends); code != Missing {
		return code
	}
	if !b.Room(len(value)) {
		panic("table: a dictionary holds at most 4 GiB of distinct text")
	}
	b.arena = append(b.arena, value...)
	b.ends = append(b.ends, uint32(len(b.arena)))
	code := uint32(b.Len())
	if b.Len()*5 > len(b.probe.slots)*3 {
		grown := newProbe(b.Len() * 2)
		for _, s := range b.probe.slots {
			if s.code != Missing {
				grown.insert(s.hash, s.code)
			}
		}
		b.probe = grown
	}
	b.probe.insert(h, code)
	return code
}

func cut(buf, side []byte, span uint64) string {
	if span&Side != 0 {
		buf, span = side, span&^Side
	}
	at, n := span>>32, span&math.MaxUint32
	return unsafe.String(unsafe.SliceData(buf[at:at+n:at+n]), int(n))
}
