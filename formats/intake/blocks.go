package intake

import (
	"bytes"
	"cmp"
	"io"
	"sync/atomic"

	"github.com/klauspost/readahead"
)

// BlockSize is how much text is read at once.
const BlockSize = 2 << 20

// aheadFrom is the size of a text above which the next blocks are read while one is worked on.
const aheadFrom = 16 << 20

// Blocks reads a text block by block. A block begins with what was left of the last one.
type Blocks struct {
	Buf   []byte // the block
	Ended bool   // the source has no more
	src   io.Reader
	close func() error
}

// Close ends the reading ahead. It does not close the source.
func (b *Blocks) Close() error { return b.close() }

// NewBlocks begins to read; size is the bytes to come or 0, block those of a block or 0
// for BlockSize.
func NewBlocks(src io.Reader, size int64, block int) *Blocks {
	closing := func() error { return nil }
	n := int64(cmp.Or(block, BlockSize))
	if size > 0 {
		n = min(n, size+1024)
	}
	if size > aheadFrom {
		if ahead, err := readahead.NewReaderSize(src, 3, BlockSize); err == nil {
			src, closing = ahead, ahead.Close
		}
	}
	return &Blocks{Buf: make([]byte, 0, n), src: src, close: closing}
}

// Fill reads until the block is full or the source ends.
func (b *Blocks) Fill() error {
	n, err := io.ReadFull(b.src, b.Buf[len(b.Buf):cap(b.Buf)])
	b.Buf = b.Buf[:len(b.Buf)+n]
	if err == io.EOF || err == io.ErrUnexpectedEOF {
		b.Ended = true
		return nil
	}
	return err
}

// Begin fills the first block and drops a byte order mark.
func (b *Blocks) Begin() error {
	err := b.Fill()
	for err == nil && len(b.Buf) < len(Mark) && !b.Ended {
		_, err = b.Next(0)
	}
	b.Buf = b.Buf[:copy(b.Buf, bytes.TrimPrefix(b.Buf, Mark))]
	return err
}

// Next drops what was used of the block and fills it up again. Where nothing was, one
// record fills the block: it gets twice the room, or it is false when the record is
// longer than a largest cell and a block.
func (b *Blocks) Next(used int) (room bool, err error) {
	if used == 0 {
		if len(b.Buf) >= MaxCell+BlockSize {
			return false, nil
		}
		grown := make([]byte, len(b.Buf), max(cap(b.Buf)*2, 64))
		copy(grown, b.Buf)
		b.Buf = grown
	}
	b.Buf = b.Buf[:copy(b.Buf, b.Buf[used:])]
	return true, b.Fill()
}

// Cuts guesses where n parts of the block from a place on begin: behind a line end.
func (b *Blocks) Cuts(at, n int, newline byte) []int {
	cuts := make([]int, n+1)
	cuts[0], cuts[n] = at, len(b.Buf)
	for i := 1; i < n; i++ {
		guess := max(at+(len(b.Buf)-at)*i/n, cuts[i-1])
		if nl := bytes.IndexByte(b.Buf[guess:], newline); nl >= 0 {
			cuts[i] = guess + nl + 1
		} else {
			cuts[i] = len(b.Buf)
		}
	}
	return cuts
}

// Counting counts the bytes taken from a source, which may be taken ahead of the reading.
type Counting struct {
	R io.Reader
	n atomic.Int64
}

// Total is the number of bytes taken so far.
func (c *Counting) Total() int64 { return c.n.Load() }

// Read reads on and counts.
func (c *Counting) Read(p []byte) (int, error) {
	n, err := c.R.Read(p)
	c.n.Add(int64(n))
	return n, err
}
