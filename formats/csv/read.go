package csv

import (
	"bytes"
	"cmp"
	"context"
	"errors"
	"io"
	"runtime"

	"golang.org/x/sync/errgroup"

	"grandledger/core/problem"
	"grandledger/core/table"
)

// Options says what to read and whom to tell.
type Options struct {
	File     string                      // name for messages and provenance
	Dialect  *Dialect                    // nil: sniffed from the first bytes
	Size     int64                       // bytes to come, 0 where not known; sizes the buffers
	Progress func(bytes int64, rows int) // called after each block; may be nil

	block int // bytes of a block; blockSize where 0
}

const (
	sampleSize = 256 << 10
	blockSize  = 8 << 20
)

// Read reads a whole text into a table. Refusals are *problem.Problem.
//
// Cost: one pass over the text on all cores; memory is one block, the dictionaries
// and four bytes a cell.
func Read(ctx context.Context, src io.Reader, o Options) (*table.Table, *Report, error) {
	t, report, err := read(ctx, src, o)
	var p *problem.Problem
	if errors.As(err, &p) && p.File == "" {
		p.File = o.File
	}
	return t, report, err
}

func read(ctx context.Context, src io.Reader, o Options) (*table.Table, *Report, error) {
	sample := make([]byte, sampleSize)
	n, err := io.ReadFull(src, sample)
	sample = sample[:n]
	if err != nil && err != io.EOF && err != io.ErrUnexpectedEOF {
		return nil, nil, err
	}
	d, err := Sniff(sample)
	if err != nil {
		return nil, nil, err
	}
	if o.Dialect != nil {
		d = *o.Dialect
	}
	if err := d.check(); err != nil {
		return nil, nil, err
	}
	counter := &counting{r: io.MultiReader(bytes.NewReader(sample), src)}
	text := io.Reader(counter)
	if dec, _ := d.decoder(); dec != nil {
		text = dec.Reader(counter)
	}
	r := &reader{o: o, d: d, newline: lineEnd(d.decode(sample)), src: text, counter: counter, buf: make([]byte, 0, cmp.Or(o.block, blockSize))}
	if o.Size > 0 {
		r.buf = make([]byte, 0, min(int64(cap(r.buf)), o.Size+1024))
	}
	if err := r.all(ctx); err != nil {
		return nil, nil, err
	}
	return r.finish()
}

// counting counts the bytes taken from the source.
type counting struct {
	r io.Reader
	n int64
}

func (c *counting) Read(p []byte) (int, error) {
	n, err := c.r.Read(p)
	c.n += int64(n)
	return n, err
}

// reader holds the state of one reading.
type reader struct {
	o       Options
	d       Dialect
	src     io.Reader
	counter *counting
	buf     []byte // the block: what was left of the last one, then what was read since
	ended   bool   // the source has no more
	newline byte

	names   []string
	parts   []*splitter
	columns []*column
	extra   []map[int]string // cells beyond the header: by column, by row
	rows    int

	short, long, loose tallied
	blank              int
	trimmed            tallied // column names
	renamed            []string
}

type column struct {
	codes []uint32
	dict  *table.DictBuilder
}

func (r *reader) all(ctx context.Context) error {
	if err := r.fill(); err != nil {
		return err
	}
	r.buf = r.buf[:copy(r.buf, bytes.TrimPrefix(r.buf, []byte("\xef\xbb\xbf")))]
	at, err := r.header()
	if err != nil {
		return err
	}
	for {
		if err := ctx.Err(); err != nil {
			return err
		}
		used, err := r.block(ctx, at)
		if err != nil {
			return err
		}
		if r.o.Progress != nil {
			r.o.Progress(r.counter.n, r.rows)
		}
		if r.ended {
			return nil
		}
		if used == 0 { // one record fills the block: make room for its end
			if err := r.grow(); err != nil {
				return err
			}
		}
		r.buf = r.buf[:copy(r.buf, r.buf[used:])]
		at = 0
		if err := r.fill(); err != nil {
			return err
		}
	}
}

// grow doubles the room of the block, up to what a row of one largest cell needs.
func (r *reader) grow() error {
	if len(r.buf) >= MaxCell+blockSize {
		return r.tooLong(r.rows, -1)
	}
	grown := make([]byte, len(r.buf), max(cap(r.buf)*2, 64))
	copy(grown, r.buf)
	r.buf = grown
	return nil
}

// fill reads until the block is full or the source ends.
func (r *reader) fill() error {
	n, err := io.ReadFull(r.src, r.buf[len(r.buf):cap(r.buf)])
	r.buf = r.buf[:len(r.buf)+n]
	if err == io.EOF || err == io.ErrUnexpectedEOF {
		r.ended = true
		return nil
	}
	return err
}

func (r *reader) tooLong(row, column int) error {
	p := problem.New("Look for a quotation mark that is never closed, or read the file without quotation marks",
		"a cell is longer than %d MiB", MaxCell>>20)
	p.Row = row + 1
	if 0 <= column && column < len(r.names) {
		p.Column = r.names[column]
	}
	return p
}

// header reads the names, or makes them, and gives where the rows start.
func (r *reader) header() (int, error) {
	s := newSplitter(r.d, r.newline)
	at := 0
	for {
		s.reset(-1)
		end, whole := s.record(r.buf, at, r.ended)
		if !whole && !r.ended {
			if err := r.grow(); err != nil {
				return 0, err
			}
			if err := r.fill(); err != nil {
				return 0, err
			}
			continue
		}
		if !whole {
			return 0, r.unclosed(s, 0)
		}
		if s.empty {
			r.blank++
			at = end
			continue
		}
		if r.d.Header {
			at = end
		}
		break
	}
	cells := s.cells(r.buf)
	if len(cells) > MaxColumns {
		p := problem.New("Check the delimiter, or leave columns out", "the file has %d columns; at most %d can be read", len(cells), MaxColumns)
		p.Row = 1
		return 0, p
	}
	if !r.d.Header {
		cells = make([]string, len(cells))
	}
	r.name(cells)
	for range r.names {
		r.columns = append(r.columns, &column{dict: table.NewDictBuilder()})
	}
	for range runtime.GOMAXPROCS(0) {
		r.parts = append(r.parts, newSplitter(r.d, r.newline))
	}
	return at, nil
}

// block splits and encodes the records of the block from a place on, and returns how
// much of it was used up.
func (r *reader) block(ctx context.Context, at int) (int, error) {
	cuts := r.cuts(at)
	ends := make([]int, len(r.parts))
	var work errgroup.Group
	for i, s := range r.parts {
		s.reset(len(r.names))
		work.Go(func() error {
			ends[i] = s.split(r.buf, cuts[i], cuts[i+1], r.ended)
			return nil
		})
	}
	if err := work.Wait(); err != nil {
		return 0, err
	}
	for i, s := range r.parts {
		if i > 0 && ends[i-1] != cuts[i] { // the guess was wrong: a quoted cell runs over the cut
			s.reset(len(r.names))
			ends[i] = ends[i-1]
			if ends[i] < cuts[i+1] {
				ends[i] = s.split(r.buf, ends[i], cuts[i+1], r.ended)
			}
		}
	}
	if err := r.account(); err != nil {
		return 0, err
	}
	return ends[len(ends)-1], r.encode(ctx)
}

// cuts guesses where the parts of the block begin: behind a line end.
func (r *reader) cuts(at int) []int {
	n := len(r.parts)
	cuts := make([]int, n+1)
	cuts[0], cuts[n] = at, len(r.buf)
	for i := 1; i < n; i++ {
		guess := max(at+(len(r.buf)-at)*i/n, cuts[i-1])
		if nl := bytes.IndexByte(r.buf[guess:], r.parts[0].newline); nl >= 0 {
			cuts[i] = guess + nl + 1
		} else {
			cuts[i] = len(r.buf)
		}
	}
	return cuts
}

// account notes the repairs of the block's records in row order.
func (r *reader) account() error {
	first := r.rows
	for _, s := range r.parts {
		if s.open != nil && r.ended {
			return r.unclosed(s, first)
		}
		if s.huge != nil {
			return r.tooLong(first+s.huge.row, s.huge.column)
		}
		r.short.add(first, s.short)
		r.loose.add(first, s.loose)
		r.blank += s.blank
		for _, e := range s.extra {
			if s.cellIsEmpty(e.span) {
				continue
			}
			r.long.add(first, []int{e.row})
			if e.column >= maxExtra {
				p := problem.New("Check the delimiter and the quotation marks around this row",
					"the row has more than %d cells beyond the %d columns", maxExtra, len(r.names))
				p.Row = first + e.row + 1
				return p
			}
			for len(r.extra) <= e.column {
				r.extra = append(r.extra, map[int]string{})
			}
			r.extra[e.column][first+e.row] = string(s.cell(r.buf, e.span))
		}
		first += s.rows
	}
	if first > table.MaxRows {
		return problem.New("Split the file", "the file has more than %d rows", uint64(table.MaxRows))
	}
	return nil
}

func (s *splitter) cellIsEmpty(span uint64) bool { return span<<32 == 0 }

func (r *reader) unclosed(s *splitter, first int) error {
	p := problem.New("Close it, or read the file without quotation marks",
		"a quotation mark is opened and never closed: %.40s…", s.lineAt(r.buf, s.open.at))
	p.Row = first + s.open.row + 1
	if s.open.column < len(r.names) {
		p.Column = r.names[s.open.column]
	}
	return p
}

func (s *splitter) lineAt(block []byte, at int) []byte {
	rest := block[at:]
	if nl := bytes.IndexByte(rest, s.newline); nl >= 0 {
		rest = rest[:nl]
	}
	return bytes.ToValidUTF8(rest, []byte("\uFFFD"))
}

// encode turns the spans of the block into codes, columns side by side and each in
// row order.
func (r *reader) encode(ctx context.Context) error {
	more := 0
	for _, s := range r.parts {
		more += s.rows
	}
	work, _ := errgroup.WithContext(ctx)
	work.SetLimit(len(r.parts))
	for i, c := range r.columns {
		work.Go(func() error {
			if need := len(c.codes) + more; need > cap(c.codes) {
				grown := make([]uint32, len(c.codes), r.expect(need))
				copy(grown, c.codes)
				c.codes = grown
			}
			for _, s := range r.parts {
				if !c.dict.Room(len(r.buf) + len(s.arena)) {
					p := problem.New("Leave the column out, or split the file", "the column holds more than 4 GiB of distinct text")
					p.Column = r.names[i]
					return p
				}
				c.codes = c.dict.Encode(c.codes, r.buf, s.arena, s.spans[i])
			}
			return nil
		})
	}
	r.rows += more
	return work.Wait()
}

// expect guesses the rows of the whole file from the share read so far.
func (r *reader) expect(need int) int {
	if r.o.Size > r.counter.n && r.counter.n > 0 {
		return max(need, int(float64(need)*float64(r.o.Size)/float64(r.counter.n)*1.02)+1024)
	}
	if r.ended {
		return need
	}
	return need * 3 / 2
}
