package table

import (
	"math"
	"unsafe"
)

// DictBuilder collects distinct values and gives each its code in order of first
// appearance. The zero value is not usable; see NewDictBuilder.
//
// Where nearly every value is new, looking each one up is waiting for memory and finds
// nothing. Encode then puts the look-ups off: it files values as they come and settles
// which of them are equal later, in partitions that fit the cache (settle.go).
type DictBuilder struct {
	arena []byte
	ends  []uint32
	probe probe
	hash  [batch]uint32

	putOff bool // values are filed without being looked up
	next   int  // values at which to think again

	sequences *sequences // nil but for a column of lists
	others    int        // values in probe, where not all are
}

const (
	// batch is how many look-ups are in flight at once: enough to overlap their cache
	// misses, few enough that what they fetched is still in the first-level cache.
	batch = 64
	// cached is the size up to which an index lies in the first-level cache with its values.
	cached = 1 << 10
	// firstThought is the number of values at which putting off is first considered.
	firstThought = 1 << 16
)

// NewDictBuilder returns an empty builder.
func NewDictBuilder() *DictBuilder {
	return &DictBuilder{ends: make([]uint32, 1, 16), probe: newProbe(8), next: firstThought}
}

// Len is the number of values so far; an upper bound while look-ups are put off.
func (b *DictBuilder) Len() int { return len(b.ends) - 1 }

// Find gives the code of a value that was added, Missing for another. It must not be mixed with Encode.
func (b *DictBuilder) Find(value string) uint32 { return b.probe.find(hash(value), value, b.arena) }

// Add gives the code of a value, adding it when new. Amortised O(len(value)). It panics
// when the arena would pass 4 GiB and must not be mixed with Encode.
func (b *DictBuilder) Add(value string) uint32 { return b.add(hash(value), value) }

// Room says whether n more bytes of new values fit the arena, if need be after settling
// what is filed; out is as for Encode, which panics without room.
func (b *DictBuilder) Room(out []uint32, n int) bool {
	if len(b.arena)+n > math.MaxUint32 && b.putOff {
		b.settle(out)
	}
	return len(b.arena)+n <= math.MaxUint32
}

// Side marks a span that cuts its value from the side buffer of Encode; Absent is the
// span of a cell that does not exist.
const (
	Side   = 1 << 63
	Absent = math.MaxUint64
)

// Encode appends the codes of the values that spans cut from buf, or from side where
// they are marked so, to out, which must be what the last call gave. A span is
// start<<32|length, start below 2 GiB. Look-ups are staged in batches, since a large
// dictionary spends its time waiting for memory and not computing. Codes may be
// rewritten by later calls; they are final after Finish.
func (b *DictBuilder) Encode(out []uint32, buf, side []byte, spans []uint64) []uint32 {
	if b.Len() >= b.next {
		b.think(out)
	}
	switch {
	case b.putOff:
		return b.file(out, buf, side, spans)
	case b.sequences != nil:
		return b.encodeLists(out, buf, side, spans)
	}
	var touched uint32
	for len(spans) > 0 {
		n := min(batch, len(spans))
		// Two short passes ask for what the last needs: the slot of the index, the value
		// itself. What they wait for they wait for together.
		for i, s := range spans[:n] {
			if s != Absent {
				b.hash[i] = hash(cut(buf, side, s))
			}
		}
		if len(b.probe.slots) > cached {
			for _, h := range b.hash[:n] {
				touched += b.probe.slots[h&b.probe.mask].code
			}
			for _, h := range b.hash[:n] {
				if at := b.probe.slots[h&b.probe.mask].at; int(at) < len(b.arena) {
					touched += uint32(b.arena[at])
				}
			}
		}
		for i, s := range spans[:n] {
			if s == Absent {
				out = append(out, Missing)
			} else {
				out = append(out, b.add(b.hash[i], cut(buf, side, s)))
			}
		}
		spans = spans[n:]
	}
	b.probe.touched += touched // keeps the look-ahead from being optimised away
	return out
}

// file appends values without looking them up.
func (b *DictBuilder) file(out []uint32, buf, side []byte, spans []uint64) []uint32 {
	total, follow, end := 0, true, uint64(0) // whether all follow on one another in buf, and where the last ended
	for i, s := range spans {
		if s == Absent {
			follow = false
			continue
		}
		n := s & math.MaxUint32
		total += int(n)
		follow = follow && (i == 0 || s>>32 == end)
		end = s>>32 + n
	}
	b.reserve(len(out), cap(out), len(spans), total)
	arena, ends := b.arena, b.ends
	if follow && end < Side>>32 && len(spans) > 0 {
		at := uint32(len(arena))
		arena = append(arena, buf[end-uint64(total):end]...)
		code := uint32(len(ends) - 1)
		for _, s := range spans {
			at += uint32(s)
			code++
			ends, out = append(ends, at), append(out, code)
		}
		b.arena, b.ends = arena, ends
		return out
	}
	for _, s := range spans {
		if s == Absent {
			out = append(out, Missing)
			continue
		}
		arena = append(arena, cut(buf, side, s)...)
		ends = append(ends, uint32(len(arena)))
		out = append(out, uint32(len(ends)-1))
	}
	b.arena, b.ends = arena, ends
	return out
}

// reserve makes room for values to be filed. Where there is none it makes room for as many
// as the rows still expected will bring, if they go on as those before, so that growing does
// not copy again and again; room that is not used takes no memory.
func (b *DictBuilder) reserve(rows, expected, values, bytes int) {
	share := max(1, 1.05*float64(expected)/float64(max(rows, 1)))
	if n := len(b.arena) + bytes; n > cap(b.arena) {
		grown := huge(make([]byte, len(b.arena), min(max(n, int(float64(n)*share)), math.MaxUint32)))
		copy(grown, b.arena)
		b.arena = grown
	}
	if n := len(b.ends) + values; n > cap(b.ends) {
		grown := make([]uint32, len(b.ends), max(n, int(float64(n)*share)))
		copy(grown, b.ends)
		b.ends = grown
	}
}

// think decides, each time the dictionary has grown fourfold, whether look-ups pay. They
// do not while two of five cells bring a new value: waiting for memory costs more than
// filing the repeats and finding them later.
func (b *DictBuilder) think(out []uint32) {
	if b.sequences != nil || b.next == firstThought && b.lists() {
		b.next = math.MaxInt
		return
	}
	distinct := b.Len()
	if b.putOff {
		distinct = b.estimate()
	}
	off := distinct*5 >= len(out)*2
	switch {
	case off:
		b.probe = probe{}
	case b.putOff:
		b.settle(out)
		b.probe = newProbe(b.Len())
		for code := uint32(1); code <= uint32(b.Len()); code++ {
			b.probe.insert(b.slot(code))
		}
		b.others = b.Len()
	}
	b.putOff, b.next = off, 4*b.Len()
}

// Finish ends the encoding: out holds all codes, which are made final in place.
func (b *DictBuilder) Finish(out []uint32) *Dict {
	if b.putOff {
		b.settle(out)
	}
	return b.Dict()
}

// Dict ends a building that used Add alone; the builder must not be used afterwards.
func (b *DictBuilder) Dict() *Dict { return &Dict{arena: b.arena, ends: b.ends} }

// keep files a value behind the others.
func (b *DictBuilder) keep(value string) {
	if len(b.arena)+len(value) > cap(b.arena) && len(b.arena) >= 1<<20 {
		grown := huge(make([]byte, len(b.arena), min(cap(b.arena)*2+len(value), math.MaxUint32)))
		copy(grown, b.arena)
		b.arena = grown
	}
	b.arena = append(b.arena, value...)
	b.ends = append(b.ends, uint32(len(b.arena)))
}

func (b *DictBuilder) value(code uint32) string {
	from, to := b.ends[code-1], b.ends[code]
	return unsafe.String(unsafe.SliceData(b.arena[from:to:to]), int(to-from))
}

func (b *DictBuilder) add(h uint32, value string) uint32 {
	if code := b.probe.find(h, value, b.arena); code != Missing {
		return code
	}
	if len(b.arena)+len(value) > math.MaxUint32 {
		panic("table: a dictionary holds at most 4 GiB of distinct text")
	}
	b.keep(value)
	code := uint32(b.Len())
	b.others++
	if b.probe.full(b.others) {
		b.probe = b.probe.grown(b.others)
	}
	b.probe.insert(slot{h, code, uint32(len(b.arena) - len(value)), uint32(len(value))})
	return code
}

// slot is the index entry of a value.
func (b *DictBuilder) slot(code uint32) slot {
	return slot{hash(b.value(code)), code, b.ends[code-1], b.ends[code] - b.ends[code-1]}
}

func cut(buf, side []byte, span uint64) string {
	if span&Side != 0 {
		buf, span = side, span&^Side
	}
	at, n := span>>32, span&math.MaxUint32
	return unsafe.String(unsafe.SliceData(buf[at:at+n:at+n]), int(n))
}
