package csv

import (
	"bytes"
	"context"
	"io"

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
	parts   []*splitter
	columns []*intake.Column
	extra   []map[int]string // cells beyond the header: by column, by row
	rows    int

	short, long, loose intake.Tallied
	blank, comments    int
}

func (r *reader) all(ctx context.Context) error {
	if err := r.Begin(); err != nil {
		return err
	}
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
			r.o.Progress(r.counter.Total(), r.rows)
		}
		if r.Ended || r.o.Rows > 0 && r.rows >= r.o.Rows {
			return nil
		}
		if room, err := r.Next(used); err != nil {
			return err
		} else if !room {
			return r.tooLong(r.rows, -1)
		}
		at = 0
	}
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

// block splits and encodes the records of the block from a place on, and returns how
// much of it was used up.
func (r *reader) block(ctx context.Context, at int) (int, error) {
	cuts := r.Cuts(at, len(r.parts), r.newline)
	ends := make([]int, len(r.parts))
	var work errgroup.Group
	for i, s := range r.parts {
		s.reset(len(r.names))
		work.Go(func() error {
			ends[i] = s.split(r.Buf, cuts[i], cuts[i+1], r.Ended)
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
				ends[i] = s.split(r.Buf, ends[i], cuts[i+1], r.Ended)
			}
		}
	}
	if err := r.account(); err != nil {
		return 0, err
	}
	return ends[len(ends)-1], r.encode(ctx)
}

// account notes the repairs of the block's records in row order.
func (r *reader) account() error {
	first := r.rows
	for _, s := range r.parts {
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
			r.extra[e.column][first+e.row] = string(s.cell(r.Buf, e.span))
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

// encode turns the spans of the block into codes, columns side by side and each in
// row order.
func (r *reader) encode(ctx context.Context) error {
	for _, s := range r.parts {
		r.rows += s.rows
	}
	expect := intake.Expect(r.rows, r.counter.Total(), r.o.Size, r.Ended)
	work, _ := errgroup.WithContext(ctx)
	work.SetLimit(len(r.parts))
	for _, i := range intake.Heaviest(r.columns) {
		c := r.columns[i]
		work.Go(func() error {
			c.Reserve(r.rows, expect)
			for _, s := range r.parts {
				if err := c.Encode(r.Buf, s.arena, s.spans[i]); err != nil {
					return err
				}
			}
			return nil
		})
	}
	return work.Wait()
}
