package table

import (
	"fmt"
	"math/bits"
	"runtime"
	"slices"
	"strings"
	"sync"
	"unicode"
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
	index     []hashed

	blankOnce sync.Once
	blank     []uint32

	factsOnce sync.Once
	facts     *Facts

	reads     sync.Map // *readOnce by reading.Reading
	proposals sync.Map // *proposalOnce by the parts of a column

	wordsOnce sync.Once
	words     *WordFacts

	lettersOnce sync.Once
	letters     []Letters
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

// Blank lists the codes of the values that are empty or white space alone. The first call
// looks at every value, O(Len) on all cores.
func (d *Dict) Blank() []uint32 {
	d.blankOnce.Do(func() {
		found := make([][]uint32, min(runtime.GOMAXPROCS(0), 1+d.Len()>>16))
		var work sync.WaitGroup
		for part := range found {
			work.Go(func() {
				for c := 1 + d.Len()*part/len(found); c <= d.Len()*(part+1)/len(found); c++ {
					if isBlank(d.Value(uint32(c))) {
						found[part] = append(found[part], uint32(c))
					}
				}
			})
		}
		work.Wait()
		d.blank = slices.Concat(found...)
	})
	return d.blank
}

// isBlank says whether a value is empty or white space alone.
func isBlank(v string) bool {
	return v == "" || (v[0] <= ' ' || v[0] >= 0x80) && strings.TrimFunc(v, unicode.IsSpace) == ""
}

// Raw gives the arena and end offsets for storing. Neither may be changed.
func (d *Dict) Raw() (arena []byte, ends []uint32) { return d.arena, d.ends }

// Find gives the code of a value, or false. The first call builds an index, O(Len).
func (d *Dict) Find(value string) (uint32, bool) {
	d.indexOnce.Do(func() {
		d.index = make([]hashed, 1<<bits.Len(uint(max(d.Len(), 8)*4/3)))
		for c := uint32(1); c <= uint32(d.Len()); c++ {
			h := hash(d.Value(c))
			i := d.slot(h)
			for d.index[i].code != Missing {
				i = (i + 1) & (len(d.index) - 1)
			}
			d.index[i] = hashed{h, c}
		}
	})
	h := hash(value)
	for i := d.slot(h); ; i = (i + 1) & (len(d.index) - 1) {
		switch s := d.index[i]; {
		case s.code == Missing:
			return Missing, false
		case s.hash == h && d.Value(s.code) == value:
			return s.code, true
		}
	}
}

// slot is where the search for a hash begins in the index.
func (d *Dict) slot(hash uint32) int { return int(hash) & (len(d.index) - 1) }
