package intake

import (
	"bytes"
	"cmp"
	"io"
	"slices"
	"sync/atomic"
)

// BlockSize is how much text is read at once.
const BlockSize = 2 << 20

// aheadFrom is the size of a text above which the next blocks are read while one is worked on.
const aheadFrom = 16 << 20

// Blocks reads a text block by block. A block begins with what was left of the last one.
type Blocks struct {
	Buf   []byte // the block; its bytes stay as they are until Next is called a second time
	Ended bool   // the source has no more

	src           io.Reader
	size          int    // bytes read for a block
	before, older []byte // what Buf lies in, and what the block before it lay in
	wanted        chan []byte
	ahead         chan filled
}

// filled is a buffer that was read into, behind room for what is left of the last block.
type filled struct {
	buf []byte
	err error
}

// headroom is how much of the last block is usually left: part of a record.
const headroom = 16 << 10

// NewBlocks begins to read; size is the bytes to come or 0, block those of a block or 0
// for BlockSize.
func NewBlocks(src io.Reader, size int64, block int) *Blocks {
	b := &Blocks{src: src, size: cmp.Or(block, BlockSize)}
	if size > 0 {
		b.size = int(min(int64(b.size), size+1024))
	}
	if size > aheadFrom {
		b.wanted, b.ahead = make(chan []byte, 3), make(chan filled, 3)
		for range cap(b.wanted) {
			b.wanted <- make([]byte, 0, headroom+b.size)
		}
		go func() {
			defer close(b.ahead)
			for buf := range b.wanted {
				f := b.read(buf)
				b.ahead <- f
				if f.err != nil {
					return
				}
			}
		}()
	}
	return b
}

// Close ends the reading ahead. It does not close the source.
func (b *Blocks) Close() {
	if b.wanted != nil {
		close(b.wanted)
		for range b.ahead { // until what reads the source has stopped
		}
		b.wanted = nil
	}
}

// read fills a buffer from the source.
func (b *Blocks) read(buf []byte) filled {
	n, err := io.ReadFull(b.src, buf[headroom:headroom+b.size])
	if err == io.ErrUnexpectedEOF {
		err = io.EOF
	}
	return filled{buf[:headroom+n], err}
}

// fill makes the block of what is left of the last one and of what comes next.
func (b *Blocks) fill(left []byte) error {
	var f filled
	if b.wanted != nil {
		if b.older != nil {
			b.wanted <- b.older
		}
		f = <-b.ahead
	} else {
		buf := b.older
		if buf == nil {
			buf = make([]byte, 0, headroom+b.size)
		}
		f = b.read(buf)
	}
	b.older, b.before = b.before, f.buf[:0]
	if len(left) <= headroom {
		b.Buf = f.buf[headroom-len(left):]
		copy(b.Buf, left)
	} else {
		b.Buf = append(slices.Clone(left), f.buf[headroom:]...)
	}
	b.Ended = f.err == io.EOF
	if b.Ended {
		return nil
	}
	return f.err
}

// Begin fills the first block and drops a byte order mark.
func (b *Blocks) Begin() error {
	err := b.fill(nil)
	for err == nil && len(b.Buf) < len(Mark) && !b.Ended {
		_, err = b.Next(0)
	}
	b.Buf = bytes.TrimPrefix(b.Buf, Mark)
	return err
}

// Next drops what was used of the block and reads on. Where nothing was, a record is longer
// than the block, which grows; it is false when the record is longer than a largest cell
// and a block.
func (b *Blocks) Next(used int) (more bool, err error) {
	if used == 0 && len(b.Buf) >= MaxCell+BlockSize {
		return false, nil
	}
	return true, b.fill(b.Buf[used:])
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
