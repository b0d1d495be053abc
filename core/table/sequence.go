package table

import (
	"math/bits"
	"strings"
)

// sequences looks up lists by their items. Long lists of a few hundred items are long
// texts that are nearly all different, and each look-up of a text waits for memory three
// times; the items are few enough to stay in the cache, and a list of them is a number that
// lies in the index itself, so that a look-up waits once.
type sequences struct {
	items   *DictBuilder
	slots   []sequence
	values  int
	touched uint64
	keys    [batch]uint64
	packed  [batch]bool
}

// sequence is a list: the codes of its items in a row, and its own code, Missing where the
// slot is free.
type sequence struct {
	key  uint64
	code uint32
}

// maxItem is the number of items told apart; a list of any other is looked up as text.
const maxItem = 1 << 14

func newSequences(values int) *sequences {
	return &sequences{items: NewDictBuilder(), slots: huge(make([]sequence, 1<<bits.Len(uint(max(values, 8)*2))))}
}

// pack gives the codes of a list's items in a row, one byte each for the first 127 and two
// for the others; false where the value is no list or does not fit eight bytes. Codes are
// not 0 and the length of one shows in its first byte, so different lists have different
// numbers: cutting at commas, wherever they stand, can be undone.
func (s *sequences) pack(value string) (key uint64, ok bool) {
	if len(value) < 2 || value[0] != '[' || value[len(value)-1] != ']' {
		return 0, false
	}
	if len(value) == 2 {
		return 0, true
	}
	rest, shift := value[1:len(value)-1], 0
	for {
		end := itemEnd(rest)
		code := s.item(rest[:end])
		switch {
		case code == Missing:
			return 0, false
		case code < 0x80:
			key |= uint64(code) << shift
			shift += 8
		default:
			key |= uint64(0x80|code&0x7f|code>>7<<8) << shift
			shift += 16
		}
		if shift > 64 {
			return 0, false
		}
		if end == len(rest) {
			return key, true
		}
		rest = rest[end+1:]
	}
}

// itemEnd is where the first item of a list ends: before a comma that is not inside its
// quotation marks, or with the list.
func itemEnd(rest string) int {
	if len(rest) > 0 && rest[0] == '"' {
		for from := 1; ; {
			at := strings.IndexByte(rest[from:], '"')
			if at < 0 {
				return len(rest)
			}
			from += at + 1
			if from == len(rest) || rest[from] == ',' && rest[from-2] != '\\' {
				return from
			}
		}
	}
	if at := strings.IndexByte(rest, ','); at >= 0 {
		return at
	}
	return len(rest)
}

// item is the code of an item, Missing where it is one too many.
func (s *sequences) item(text string) uint32 {
	h := hash(text)
	if code := s.items.probe.find(h, text, s.items.arena); code != Missing {
		return code
	}
	if s.items.Len() >= maxItem-1 || len(text) > 1<<10 {
		return Missing
	}
	return s.items.add(h, text)
}

func (s *sequences) slot(key uint64) int {
	hi, lo := bits.Mul64(key^seedA, seedB)
	return int((hi ^ lo) & uint64(len(s.slots)-1))
}

// find gives the slot of a list, or the free one where it belongs.
func (s *sequences) find(key uint64) *sequence {
	for i := s.slot(key); ; i = (i + 1) & (len(s.slots) - 1) {
		if at := &s.slots[i]; at.code == Missing || at.key == key {
			return at
		}
	}
}

// put files a list under its code.
func (s *sequences) put(at *sequence, key uint64, code uint32) {
	*at = sequence{key, code}
	if s.values++; s.values*5 > len(s.slots)*3 {
		old := s.slots
		s.slots = huge(make([]sequence, 2*len(old)))
		for _, v := range old {
			if v.code != Missing {
				*s.find(v.key) = v
			}
		}
	}
}

// lists begins to look lists up by their items, where seven of eight values can be.
func (b *DictBuilder) lists() bool {
	like := 0 // lists, of the first values
	for code := range uint32(batch) {
		if strings.HasPrefix(b.value(code+1), "[") {
			like++
		}
	}
	if like < batch/2 {
		return false
	}
	s, rest, others := newSequences(2*b.Len()), newProbe(8), 0
	for code := uint32(1); code <= uint32(b.Len()); code++ {
		if key, ok := s.pack(b.value(code)); ok {
			s.put(s.find(key), key, code)
			continue
		}
		if others++; others > b.Len()/8 {
			return false
		}
		if rest.full(others) {
			rest = rest.grown(others)
		}
		rest.insert(b.slot(code))
	}
	b.sequences, b.probe, b.others = s, rest, others
	return true
}

// encodeLists is Encode for lists.
func (b *DictBuilder) encodeLists(out []uint32, buf, side []byte, spans []uint64) []uint32 {
	s := b.sequences
	for len(spans) > 0 {
		n := min(batch, len(spans))
		for i, span := range spans[:n] {
			if span != Absent {
				s.keys[i], s.packed[i] = s.pack(cut(buf, side, span))
			}
		}
		for _, key := range s.keys[:n] { // see DictBuilder.Encode
			s.touched += s.slots[s.slot(key)].key
		}
		for i, span := range spans[:n] {
			if span == Absent {
				out = append(out, Missing)
				continue
			}
			if !s.packed[i] {
				value := cut(buf, side, span)
				out = append(out, b.add(hash(value), value))
				continue
			}
			at := s.find(s.keys[i])
			if at.code == Missing {
				b.keep(cut(buf, side, span))
				s.put(at, s.keys[i], uint32(b.Len()))
				out = append(out, uint32(b.Len()))
				continue
			}
			out = append(out, at.code)
		}
		spans = spans[n:]
	}
	return out
}
