package json

import (
	"bytes"
	"context"
	"errors"
	"fmt"
	"io"
	"runtime"
	"slices"
	"strconv"

	"golang.org/x/sync/errgroup"

	"grandledger/core/problem"
	"grandledger/core/table"
	"grandledger/formats/intake"
)

// Read reads records into a table. Refusals are *problem.Problem; where a record is at
// fault its row is the record's number.
//
// Cost: one pass over the text, for lines on all cores; memory is one block, the
// dictionaries and four bytes a cell.
func Read(ctx context.Context, src io.Reader, shape Shape, o intake.Options) (*table.Table, *intake.Report, error) {
	block := 0
	if o.Rows > 0 { // only the first ones
		block = 256 << 10
	}
	t, report, err := read(ctx, src, shape, o, block)
	return t, report, problem.In(o.File, err)
}

func read(ctx context.Context, src io.Reader, shape Shape, o intake.Options, block int) (*table.Table, *intake.Report, error) {
	counter := &intake.Counting{R: src}
	r := &reader{Blocks: intake.NewBlocks(counter, o.Size, block), counter: counter, o: o, shape: shape, place: map[string]int{}}
	defer r.Close()
	if err := r.all(ctx); err != nil {
		return nil, nil, err
	}
	if r.records == 0 {
		return nil, nil, problem.New("Choose a file with records, or another path to them", "no record was found")
	}
	report := &intake.Report{Bytes: counter.Total(), Notes: []intake.Note{}}
	report.Note(r.twice, "a record has a name twice; the last one counts", "records have a name twice; the last one counts")
	r.drop()
	var names []string
	for _, c := range r.columns {
		names = append(names, c.Name)
	}
	for i, name := range intake.Names(names, true, report) {
		r.columns[i].Name = name
	}
	if len(r.columns) == 0 {
		return nil, nil, problem.New("Choose another path to the records", "the records hold nothing")
	}
	t, err := intake.Finish(r.columns, r.rows, "UTF-8", o, report)
	return t, report, err
}

// reader holds the state of one reading.
type reader struct {
	*intake.Blocks
	counter *intake.Counting
	o       intake.Options
	shape   Shape

	listed  bool // the records are items of a list, not lines
	comma   bool // a comma or the end of that list comes next
	closed  bool // that list has ended
	columns []*intake.Column
	place   map[string]int // of a column, by path
	rows    int
	records int
	twice   intake.Tallied
}

// batch is a block of text and the records found in it, part by part.
type batch struct {
	text  []byte
	parts []*part
	known [][]int // for each part and its columns, the place among all columns
	cuts  []int   // where the parts begin and, last, where the block ends
	ends  []int   // behind the last record of each part
	flaws []*flaw
}

func (r *reader) newBatch(parts int) *batch {
	b := &batch{known: make([][]int, parts), ends: make([]int, parts), flaws: make([]*flaw, parts)}
	for range parts {
		b.parts = append(b.parts, newPart(r.shape.Spread))
	}
	return b
}

// all reads block by block. While the columns of one are encoded, the next is parsed.
func (r *reader) all(ctx context.Context) error {
	if err := r.Begin(); err != nil {
		return err
	}
	at, err := r.begin()
	if err != nil {
		return err
	}
	n := runtime.GOMAXPROCS(0)
	if r.listed {
		n = 1
	}
	b, next := r.newBatch(n), r.newBatch(n)
	var work errgroup.Group
	r.parse(&work, b, at)
	for {
		if err := work.Wait(); err != nil {
			return err
		}
		if err := ctx.Err(); err != nil {
			return err
		}
		used, err := r.settle(b)
		if err != nil {
			return err
		}
		if r.o.Progress != nil {
			r.o.Progress(r.counter.Total(), r.rows)
		}
		work = errgroup.Group{}
		work.SetLimit(runtime.GOMAXPROCS(0))
		if r.Ended || r.closed && r.shape.Records != "" || r.o.Rows > 0 && r.rows >= r.o.Rows {
			if err := r.encode(&work, b); err != nil {
				return err
			}
			return work.Wait()
		}
		if more, err := r.Next(used); err != nil {
			return err
		} else if !more {
			p := problem.New("Choose the path to the records inside it", "a record is longer than %d MiB", (intake.MaxCell+intake.BlockSize)>>20)
			p.Row = r.records + 1
			return p
		}
		r.parse(&work, next, 0)
		if err := r.encode(&work, b); err != nil {
			return errors.Join(err, work.Wait())
		}
		b, next = next, b
	}
}

// parse begins to parse the records of the block from a place on.
func (r *reader) parse(work *errgroup.Group, b *batch, at int) {
	b.text, b.cuts = r.Buf, r.Cuts(at, len(b.parts), '\n')
	for i, p := range b.parts {
		p.reset(b.text[:b.cuts[i+1]])
		work.Go(func() error {
			b.ends[i], b.flaws[i] = r.split(p, b.cuts[i])
			return nil
		})
	}
}

// settle makes sure that the parts of a block follow on one another, counts their records
// and returns how much of the block was used up.
func (r *reader) settle(b *batch) (int, error) {
	for i, p := range b.parts {
		if i > 0 && b.ends[i-1] != b.cuts[i] || b.flaws[i] == short && i < len(b.parts)-1 {
			// The guess was wrong: a record runs over the cut. Go on behind it to the end;
			// what the parts after it learnt from pieces of records is forgotten.
			if i > 0 {
				b.cuts[i] = b.ends[i-1]
				p = r.forget(b, i)
			}
			p.reset(b.text)
			b.ends[i], b.flaws[i] = r.split(p, b.cuts[i])
			for j := i + 1; j < len(b.parts); j++ {
				r.forget(b, j)
				b.ends[j], b.flaws[j], b.cuts[j] = b.ends[i], nil, b.ends[i]
			}
		}
		if f := b.flaws[i]; f != nil && (f != short || r.Ended) {
			return 0, r.broken(p, f, b.ends[i])
		}
		for _, row := range p.twice {
			r.twice.Add(r.rows + row)
		}
		r.rows += p.rows
		r.records += p.records
	}
	if r.rows > table.MaxRows {
		return 0, problem.New("Split the file", "the file has more than %d rows", uint64(table.MaxRows))
	}
	return b.ends[len(b.ends)-1], nil
}

// drop leaves out columns of nothing but null at whose path other records have an object.
func (r *reader) drop() {
	inner := map[string]bool{}
	for path := range r.place {
		for i := range path {
			if path[i] == '.' && (i == 0 || path[i-1] != '\\') {
				inner[path[:i]] = true
			}
		}
	}
	r.columns = slices.DeleteFunc(r.columns, func(c *intake.Column) bool { return c.Empty() && inner[c.Name] })
}

// forget begins a part anew.
func (r *reader) forget(b *batch, i int) *part {
	b.parts[i], b.known[i] = newPart(r.shape.Spread), nil
	return b.parts[i]
}

// split parses the records of a part from a place on and gives where the first that was
// not parsed begins; the flaw is short where the part ends inside it.
func (r *reader) split(p *part, at int) (int, *flaw) {
	for {
		at = p.space(at)
		if at == len(p.text) {
			if r.listed && !r.closed {
				return at, short
			}
			return at, nil
		}
		if r.closed && r.shape.Records == "" {
			return at, &flaw{at, "something stands after the end of the list"}
		}
		if r.listed {
			switch c := p.text[at]; {
			case c == ']' && (r.comma || r.records+p.records == 0):
				r.closed = true
				if r.shape.Records != "" {
					return at + 1, nil
				}
				at++
				continue
			case r.comma && c != ',':
				return at, &flaw{at, "a comma or the end of the list is missing"}
			case r.comma:
				at, r.comma = at+1, false
				continue
			}
		}
		end, f := p.record(at)
		if f == nil && end == len(p.text) && !r.Ended && !r.listed && p.text[end-1] != '}' && p.text[end-1] != ']' && p.text[end-1] != '"' {
			f = short // a bare number may go on in the next block
			p.rows--
			p.records--
			p.undo()
		}
		if f != nil {
			return at, f
		}
		at = end
		if r.listed {
			r.comma = true
		}
	}
}

// broken is the refusal of a record.
func (r *reader) broken(p *part, f *flaw, begin int) error {
	what := f.what
	if f != short {
		from, to := max(f.at-20, 0), min(f.at+20, len(p.text))
		what += fmt.Sprintf(" near %s", strconv.Quote(string(bytes.ToValidUTF8(p.text[from:to], []byte("\uFFFD")))))
	} else if begin < len(p.text) {
		what = "the record is not complete: the file ends in the middle of it"
	} else {
		what = "the list of records is not closed: the file ends in the middle of it"
	}
	out := problem.New("Ask for the file again, or mend this record", "%s", what)
	out.Row = r.records + p.records + 1
	return out
}

// encode begins to turn the spans of a block into codes, columns side by side and each in row
// order. Columns that are new begin with rows that have no cell.
func (r *reader) encode(work *errgroup.Group, b *batch) error {
	rows, first := r.rows, r.rows
	for _, p := range b.parts {
		first -= p.rows
	}
	have := make([][]*leaf, len(r.columns), len(r.columns)+8) // by column, by part
	for i := range have {
		have[i] = make([]*leaf, len(b.parts))
	}
	for i, p := range b.parts {
		for _, c := range p.columns[len(b.known[i]):] {
			at, ok := r.place[c.path]
			if !ok {
				if at = len(r.columns); at >= intake.MaxColumns {
					return intake.TooManyColumns(at + 1)
				}
				r.place[c.path] = at
				r.columns = append(r.columns, intake.NewColumn(c.path, first))
				have = append(have, make([]*leaf, len(b.parts)))
			}
			b.known[i] = append(b.known[i], at)
		}
		for j, c := range p.columns {
			have[b.known[i][j]][i] = c
		}
	}
	expect := intake.Expect(rows, r.counter.Total(), r.o.Size, r.Ended)
	for _, i := range intake.Heaviest(r.columns) {
		c := r.columns[i]
		work.Go(func() error {
			c.Reserve(rows, expect)
			for j, p := range b.parts {
				n := 0
				if l := have[i][j]; l != nil {
					n = len(l.spans)
					if err := c.Encode(p.text, p.arena, l.spans); err != nil {
						return err
					}
				}
				c.Absent(p.rows - n)
			}
			return nil
		})
	}
	return nil
}
