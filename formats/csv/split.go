package csv

import (
	"bytes"
	"encoding/binary"
	"math/bits"

	"grandledger/core/table"
	"grandledger/formats/intake"
)

// splitter cuts records into cells. A cell is a span, start<<32|length, into the block
// or, where doubled marks had to be made single (table.Side), into the side arena.
type splitter struct {
	delimiter             []byte
	remark                []byte // what begins a comment line; nil for none
	delim, quote, newline byte   // delim is the first byte of the delimiter
	delims, newlines      uint64 // the byte repeated, for eight-at-a-time search

	width int        // cells a record should have; -1 while that is not known
	spans [][]uint64 // by column, one span a record
	arena []byte
	rows  int

	extra []extraCell // cells beyond the width
	short []int       // records with fewer cells
	loose []int       // records with a mark that is not doubled
	open  *opened     // a quoted cell that the block ends in
	huge  *opened     // a cell over intake.MaxCell
	empty bool        // the last record was an empty line
	blank int         // empty lines passed over
	row   []uint64    // cells of the record at hand

	comments int // comment lines passed over
}

type extraCell struct {
	row, column int
	span        uint64
}

type opened struct{ row, column, at int }

const ones = 0x0101010101010101

// lineEnd is the byte that ends lines: LF (after which a CR before it goes too), or CR
// where a text has no other.
func lineEnd(sample []byte) byte {
	if cr := bytes.IndexByte(sample, '\r'); cr >= 0 && cr+1 < len(sample) && bytes.IndexByte(sample, '\n') < 0 {
		return '\r'
	}
	return '\n'
}

func newSplitter(d Dialect, newline byte) *splitter {
	s := &splitter{delimiter: []byte(d.Delimiter), delim: d.Delimiter[0], newline: newline, width: -1}
	if d.Comment != "" {
		s.remark = []byte(d.Comment)
	}
	if d.Quote != "" {
		s.quote = d.Quote[0]
	}
	s.delims, s.newlines = ones*uint64(s.delim), ones*uint64(s.newline)
	return s
}

// reset forgets the records and sets the width to expect.
func (s *splitter) reset(width int) {
	s.width, s.rows, s.blank, s.comments, s.open, s.huge = width, 0, 0, 0, nil, nil
	s.arena, s.extra, s.short, s.loose = s.arena[:0], s.extra[:0], s.short[:0], s.loose[:0]
	for len(s.spans) < width {
		s.spans = append(s.spans, nil)
	}
	for i := range s.spans {
		s.spans[i] = s.spans[i][:0]
	}
}

// split cuts the records that start in block[from:to] and returns where the next one
// starts. A record that the block ends in is left alone unless last is set.
func (s *splitter) split(block []byte, from, to int, last bool) int {
	for from < to {
		if s.comment(block, from) {
			after := s.lineAfter(block, from)
			if after == len(block) && !last && block[after-1] != s.newline {
				return from
			}
			from = after
			s.comments++
			continue
		}
		arena := len(s.arena)
		loose := len(s.loose)
		end, whole := s.record(block, from, last)
		if !whole && !last {
			s.arena, s.loose = s.arena[:arena], s.loose[:loose]
			return from
		}
		from = end
		if s.empty && s.width != 1 {
			s.blank++
			continue
		}
		s.keep()
	}
	return from
}

// keep files the cells of the record at hand under their columns.
func (s *splitter) keep() {
	n := min(len(s.row), s.width)
	for i, span := range s.row[:n] {
		s.spans[i] = append(s.spans[i], span)
	}
	if len(s.row) != s.width {
		for i := n; i < s.width; i++ {
			s.spans[i] = append(s.spans[i], 0)
		}
		if n < s.width {
			s.short = append(s.short, s.rows)
		}
		for i, span := range s.row[n:] {
			s.extra = append(s.extra, extraCell{s.rows, i, span})
		}
	}
	s.rows++
}

// record cuts one record and returns where the next starts, and whether its end was
// seen. At the end of the text (last) a missing line end is supplied.
func (s *splitter) record(block []byte, at int, last bool) (next int, whole bool) {
	s.row = s.row[:0]
	s.empty = false
	first := at
	for {
		if s.quote != 0 && at < len(block) && block[at] == s.quote {
			end, ok := s.quoted(block, at, last)
			if !ok {
				return len(block), false
			}
			at = end
		} else {
			start := at
			at = s.plain(block, at)
			end := at
			if at == len(block) && !last {
				return at, false
			}
			if (at == len(block) || block[at] == s.newline) && s.newline == '\n' && end > start && block[end-1] == '\r' {
				end--
			}
			s.row = append(s.row, uint64(start)<<32|uint64(end-start))
		}
		if s.row[len(s.row)-1]&(1<<32-1) > intake.MaxCell {
			s.huge = &opened{s.rows, len(s.row) - 1, at}
		}
		if at == len(block) {
			return at, last
		}
		if block[at] != s.newline {
			at += len(s.delimiter)
			continue
		}
		at++
		s.empty = len(s.row) == 1 && s.row[0]&^table.Side<<32 == 0 && block[first] != s.quote
		return at, true
	}
}

// comment says whether a comment line begins at a place.
func (s *splitter) comment(block []byte, at int) bool {
	return s.remark != nil && bytes.HasPrefix(block[at:], s.remark)
}

// lineAfter is where the line after the one at a place begins.
func (s *splitter) lineAfter(block []byte, at int) int {
	if nl := bytes.IndexByte(block[at:], s.newline); nl >= 0 {
		return at + nl + 1
	}
	return len(block)
}

// plain finds the end of an unquoted cell: the next delimiter or line end.
func (s *splitter) plain(block []byte, at int) int {
	for {
		at = s.mark(block, at)
		if len(s.delimiter) == 1 || at == len(block) || block[at] == s.newline || bytes.HasPrefix(block[at:], s.delimiter) {
			return at
		}
		at++ // only the first byte of the delimiter
	}
}

// mark finds the next line end or first byte of a delimiter.
func (s *splitter) mark(block []byte, at int) int {
	for at+8 <= len(block) {
		w := binary.LittleEndian.Uint64(block[at:])
		if m := zeros(w^s.delims) | zeros(w^s.newlines); m != 0 {
			return at + bits.TrailingZeros64(m)>>3
		}
		at += 8
	}
	for at < len(block) && block[at] != s.delim && block[at] != s.newline {
		at++
	}
	return at
}

// zeros has the top bit set of each zero byte; bytes above the lowest such may be
// marked falsely, which does not matter as only the lowest is used.
func zeros(w uint64) uint64 { return (w - ones) &^ w & (0x80 * ones) }

// quoted cuts a quoted cell and returns the place of the delimiter or line end after
// it. It is false where the block ends inside the cell, or just behind a mark that
// may be the first of two.
func (s *splitter) quoted(block []byte, at int, last bool) (int, bool) {
	start := at + 1
	from := start // what follows was not yet copied to the arena
	copied := -1  // where in the arena the cell began, if it had to be copied
	loose := false
	for at = start; ; {
		i := bytes.IndexByte(block[at:], s.quote)
		if i < 0 {
			s.open = &opened{s.rows, len(s.row), start - 1}
			return at, false
		}
		at += i
		after := at + 1
		if after < len(block) && block[after] == '\r' && s.newline == '\n' && (after+1 < len(block) && block[after+1] == '\n' || after+1 == len(block) && last) {
			after++
		}
		switch {
		case after >= len(block) && !last:
			return at, false
		case after >= len(block), block[after] == s.newline, bytes.HasPrefix(block[after:], s.delimiter):
			if loose {
				s.loose = append(s.loose, s.rows)
			}
			if copied < 0 {
				s.row = append(s.row, uint64(start)<<32|uint64(at-start))
			} else {
				s.arena = append(s.arena, block[from:at]...)
				s.row = append(s.row, table.Side|uint64(copied)<<32|uint64(len(s.arena)-copied))
			}
			return min(after, len(block)), true
		case block[at+1] == s.quote:
			if copied < 0 {
				copied = len(s.arena)
			}
			s.arena = append(s.arena, block[from:at+1]...)
			from = at + 2
			at += 2
		default:
			loose = true
			at++
		}
	}
}

// cell gives the bytes of a span.
func (s *splitter) cell(block []byte, span uint64) []byte {
	at, n := (span&^table.Side)>>32, span&(1<<32-1)
	if span&table.Side != 0 {
		return s.arena[at : at+n]
	}
	return block[at : at+n]
}

// cells gives the record at hand as text.
func (s *splitter) cells(block []byte) []string {
	out := make([]string, len(s.row))
	for i, span := range s.row {
		out[i] = string(s.cell(block, span))
	}
	return out
}
