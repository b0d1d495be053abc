// Package segment is the byte format of the immutable parts of a table in PostgreSQL.
// docs/storage.md has the same in words.
//
// A part is a list of numbers (codes, a view, a selection) or a list of values (a
// dictionary), cut into segments. Each segment is compressed by itself with Zstandard
// (RFC 8878) at its fastest level, with the content checksum on, so a segment that was
// damaged is found when it is read. One encoder and one decoder serve all goroutines.
//
// Before compression a segment of numbers is: a form byte, the count as a varint, then
//
//	form 1..4  the numbers, little-endian, in that many bytes each
//	form 5     the first number and then the differences, as zigzag varints
//
// and a segment of values is: the count as a varint, the lengths as varints, the bytes
// of the values one after another. Varints are those of encoding/binary.
package segment

import (
	"encoding/binary"
	"errors"
	"fmt"

	"github.com/klauspost/compress/zstd"
)

const (
	// Numbers is how many numbers a segment holds at most.
	Numbers = 64 << 10
	// valueBytes is where a segment of values ends, once it holds that many bytes.
	valueBytes = 1 << 20
)

var (
	encoder, _ = zstd.NewWriter(nil, zstd.WithEncoderLevel(zstd.SpeedFastest), zstd.WithEncoderCRC(true))
	decoder, _ = zstd.NewReader(nil, zstd.WithDecoderConcurrency(0), zstd.WithDecoderMaxMemory(1<<31))
)

var errDamaged = errors.New("the segment is damaged")

// deltas is the form of differences.
const deltas = 5

// EncodeNumbers gives one segment. Cost: O(len(n)).
func EncodeNumbers(n []uint32) []byte {
	small, largest, last := 0, uint32(0), uint32(0)
	for _, v := range n {
		if d := int64(v) - int64(last); d > -64 && d < 64 {
			small++
		}
		largest, last = max(largest, v), v
	}
	width := 1
	for width < 4 && largest>>(8*width) > 0 {
		width++
	}
	out := make([]byte, 0, 16+width*len(n))
	if small*2 > len(n) && width > 1 {
		out = binary.AppendUvarint(append(out, deltas), uint64(len(n)))
		last = 0
		for _, v := range n {
			out = binary.AppendVarint(out, int64(v)-int64(last))
			last = v
		}
	} else {
		out = binary.AppendUvarint(append(out, byte(width)), uint64(len(n)))
		for _, v := range n {
			for b := range width {
				out = append(out, byte(v>>(8*b)))
			}
		}
	}
	return encoder.EncodeAll(out, make([]byte, 0, len(out)/2))
}

// DecodeNumbers appends the numbers of a segment.
func DecodeNumbers(to []uint32, body []byte) ([]uint32, error) {
	raw, err := decoder.DecodeAll(body, nil)
	if err != nil || len(raw) < 2 {
		return to, fmt.Errorf("%w: %v", errDamaged, err)
	}
	form := int(raw[0])
	count, n := binary.Uvarint(raw[1:])
	if n <= 0 || count > Numbers {
		return to, errDamaged
	}
	raw = raw[1+n:]
	switch {
	case form == deltas:
		last := int64(0)
		for range count {
			d, n := binary.Varint(raw)
			if n <= 0 {
				return to, errDamaged
			}
			last += d
			to = append(to, uint32(last))
			raw = raw[n:]
		}
	case form >= 1 && form <= 4 && len(raw) == form*int(count):
		for i := 0; i < len(raw); i += form {
			v := uint32(0)
			for b := range form {
				v |= uint32(raw[i+b]) << (8 * b)
			}
			to = append(to, v)
		}
	default:
		return to, errDamaged
	}
	return to, nil
}

// CutValues says where the segments of a dictionary end: each but the last holds at
// least valueBytes. ends are the end offsets of its values, ends[0] being 0.
func CutValues(ends []uint32) []int {
	var cuts []int
	from := uint32(0)
	for i, end := range ends {
		if end-from >= valueBytes || i == len(ends)-1 {
			cuts = append(cuts, i)
			from = end
		}
	}
	return cuts
}

// EncodeValues gives one segment of the values from up to to of a dictionary.
func EncodeValues(arena []byte, ends []uint32, from, to int) []byte {
	out := binary.AppendUvarint(nil, uint64(to-from))
	for i := from; i < to; i++ {
		out = binary.AppendUvarint(out, uint64(ends[i+1]-ends[i]))
	}
	out = append(out, arena[ends[from]:ends[to]]...)
	return encoder.EncodeAll(out, make([]byte, 0, len(out)/2))
}

// DecodeValues appends the values of a segment to an arena and its end offsets.
func DecodeValues(arena []byte, ends []uint32, body []byte) ([]byte, []uint32, error) {
	raw, err := decoder.DecodeAll(body, nil)
	if err != nil {
		return arena, ends, fmt.Errorf("%w: %v", errDamaged, err)
	}
	count, n := binary.Uvarint(raw)
	if n <= 0 || count > uint64(len(raw)) {
		return arena, ends, errDamaged
	}
	raw = raw[n:]
	end := uint64(len(arena))
	for range count {
		length, n := binary.Uvarint(raw)
		end += length
		if n <= 0 || end > 1<<32-1 {
			return arena, ends, errDamaged
		}
		ends = append(ends, uint32(end))
		raw = raw[n:]
	}
	if uint64(len(arena)+len(raw)) != end {
		return arena, ends, errDamaged
	}
	return append(arena, raw...), ends, nil
}
