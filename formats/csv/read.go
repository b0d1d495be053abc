package csv

import (
	"bytes"
	"context"
	"io"
	"runtime"

	"golang.org/x/sync/errgroup"

	"grandledger/core/problem"
	"grandledger/core/table"
	"grandledger/formats/intake"
)

// sampleSize is how much of a file is looked at to work out its dialect.
const sampleSize = 256 << 10

// Read reads a whole text into a table; with no dialect it works one out. Refusals are
// *problem.Problem.
//
// Cost: one pass over the text on all cores; memory is one block, the dictionaries
// and four bytes a cell.
func Read(ctx context.Context, src io.Reader, d *Dialect, o intake.Options) (*table.Table, *intake.Report, error) {
	block := 0
	if o.Rows > 0 {
		block = sampleSize
	}
	t, report, err := read(ctx, src, d, o, block)
	return t, report, problem.In(o.File, err)
}

func read(ctx context.Context, src io.Reader, d *Dialect, o intake.Options, block int) (*table.Table, *intake.Report, error) {
	sample := make([]byte, sampleSize)
	n, err := io.ReadFull(src, sample)
	sample = sample[:n]
	if err != nil && err != io.EOF && err != io.ErrUnexpectedEOF {
		return nil, nil, err
	}
	if d == nil {
		sniffed, err := Sniff(sample)
		if err != nil {
			return nil, nil, err
		}
		d = &sniffed
	}
	if err := d.check(); err != nil {
		return nil, nil, err
	}
	counter := &intake.Counting{R: io.MultiReader(bytes.NewReader(sample), src)}
	text := intake.DecodeAll(counter, d.Encoding)
	r := &reader{o: o, d: *d, newline: lineEnd(intake.Decode(sample, d.Encoding)), Blocks: intake.NewBlocks(text, o.Size, block), counter: counter}
	defer r.Close()
	if err := r.all(ctx); err != nil {
		return nil, nil, err
	}
	return r.finish()
}

// reader holds the state of one reading.
type reader struct {
	*intake.Blocks
	o       intake.Options
	d       Dialect
	counter *intake.Counting
	newline byte
	report  intake.Report

	names   []string
	columns []*intake.Column
	extra   []map[int]string // cells beyond the header: by column, by row
	rows    int

	short, long, loose intake.Tallied
	blank, comments    int
}

// batch is a block of text and the records found in it, part by part.
type batch struct {
	text  []byte
	parts []*splitter
	cuts  []int // where the parts begin and, last, where the block ends
	ends  []int // behind the last record of each part
}

func (r *reader) newBatch() *batch {
	b := &batch{}
	for range runtime.GOMAXPROCS(0) {
		b.parts = append(b.parts, newSplitter(r.d, r.newline))
	}
	b.ends = make([]int, len(b.parts))
	return b
}

// all reads block by block. While the columns of one are encoded, the next is split.
func (r *reader) all(ctx context.Context) error {
	if err := r.Begin(); err != nil {
		return err
	}
	at, err := r.header()
	if err != nil {
		return err
	}
	b, next := r.newBatch(), r.newBatch()
	var work errgroup.Group
	r.split(&work, b, at)
	for {
		if err := work.Wait(); err != nil {
			return err
		}
		if err := ctx.Err(); err != nil {
			return err
		}
		if err := r.settle(b); err != nil {
			return err
		}
		if r.o.Progress != nil {
			r.o.Progress(r.counter.Total(), r.rows)
		}
		work = errgroup.Group{}
		work.SetLimit(runtime.GOMAXPROCS(0))
		if r.Ended || r.o.Rows > 0 && r.rows >= r.o.Rows {
			r.encode(&work, b)
			return work.Wait()
		}
		if more, err := r.Next(b.ends[len(b.ends)-1]); err != nil {
			return err
		} else if !more {
			return r.tooLong(r.rows, -1)
		}
		r.split(&work, next, 0)
		r.encode(&work, b)
		b, next = next, b
	}
}

// split begins to cut the records of the block from a place on.
func (r *reader) split(work *errgroup.Group, b *batch, at int) {
	b.text, b.cuts = r.Buf, r.Cuts(at, len(b.parts), r.newline)
	for i, s := range b.parts {
		s.reset(len(r.names))
		work.Go(func() error {
			b.ends[i] = s.split(b.text, b.cuts[i], b.cuts[i+1], r.Ended)
			return nil
		})
	}
}

// settle makes sure that the parts of a block follow on one another, and counts their
// records.
func (r *reader) settle(b *batch) error {
	for i, s := range b.parts {
		if i > 0 && b.ends[i-1] != b.cuts[i] { // the guess was wrong: a quoted cell runs over the cut
			s.reset(len(r.names))
			b.ends[i] = b.ends[i-1]
			if b.ends[i] < b.cuts[i+1] {
				b.ends[i] = s.split(b.text, b.ends[i], b.cuts[i+1], r.Ended)
			}
		}
	}
	if err := r.account(b); err != nil {
		return err
	}
	for _, s := range b.parts {
		r.rows += s.rows
	}
	return nil
}

func (r *reader) tooLong(row, column int) error {
	p := problem.New("Look for a quotation mark that is never closed, or read the file without quotation marks",
		"a cell is longer than %d MiB", intake.MaxCell>>20)
	p.Row = row + 1
	if 0 <= column && column < len(r.names) {
		p.Column = r.names[column]
	}
	return p
}

// account notes the repairs of the block's records in row order.
func (r *reader) account(b *batch) error {
	first := r.rows
	for _, s := range b.parts {
		if s.open != nil && r.Ended {
			return r.unclosed(s, first)
		}
		if s.huge != nil {
			return r.tooLong(first+s.huge.row, s.huge.column)
		}
		for _, row := range s.short {
			r.short.Add(first + row)
		}
		for _, row := range s.loose {
			r.loose.Add(first + row)
		}
		r.blank += s.blank
		r.comments += s.comments
		for _, e := range s.extra {
			if s.cellIsEmpty(e.span) {
				continue
			}
			r.long.Add(first + e.row)
			if e.column >= maxExtra {
				p := problem.New("Check the delimiter and the quotation marks around this row",
					"the row has more than %d cells beyond the %d columns", maxExtra, len(r.names))
				p.Row = first + e.row + 1
				return p
			}
			for len(r.extra) <= e.column {
				r.extra = append(r.extra, map[int]string{})
			}
			r.extra[e.column][first+e.row] = string(s.cell(b.text, e.span))
		}
		first += s.rows
	}
	if first > table.MaxRows {
		return problem.New("Split the file", "the file has more than %d rows", uint64(table.MaxRows))
	}
	return nil
}

func (s *splitter) cellIsEmpty(span uint64) bool { return span<<32 == 0 }

func (s *splitter) lineAt(block []byte, at int) []byte {
	rest := block[at:]
	if nl := bytes.IndexByte(rest, s.newline); nl >= 0 {
		rest = rest[:nl]
	}
	return bytes.ToValidUTF8(rest, []byte("\uFFFD"))
}

// encode begins to turn the spans of a block into codes, columns side by side and each in
// row order.
func (r *reader) encode(work *errgroup.Group, b *batch) {
	rows := r.rows
	expect := intake.Expect(rows, r.counter.Total(), r.o.Size, r.Ended)
	for _, i := range intake.Heaviest(r.columns) {
		c := r.columns[i]
		work.Go(func() error {
			c.Reserve(rows, expect)
			for _, s := range b.parts {
				if err := c.Encode(b.text, s.arena, s.spans[i]); err != nil {
					return err
				}
			}
			return nil
		})
	}
}
