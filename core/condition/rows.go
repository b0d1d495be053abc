package condition

import (
	"cmp"
	"context"
	"math/bits"
	"runtime"

	"golang.org/x/sync/errgroup"

	"grandledger/core/problem"
	"grandledger/core/table"
)

// Set is a set of standing rows of a table, by position.
type Set struct {
	words []uint64
	rows  int // of the table
}

func newSet(rows int) *Set { return &Set{make([]uint64, (rows+63)/64), rows} }

// Count is how many rows are in the set.
func (s *Set) Count() int {
	n := 0
	for _, w := range s.words {
		n += bits.OnesCount64(w)
	}
	return n
}

// Has says whether the row at a position is in the set.
func (s *Set) Has(position int) bool { return s.words[position/64]>>(position%64)&1 == 1 }

func (s *Set) invert() {
	for i := range s.words {
		s.words[i] = ^s.words[i]
	}
	if left := s.rows % 64; left > 0 {
		s.words[len(s.words)-1] &= 1<<left - 1
	}
}

// Count says how many rows a part of a condition holds by itself.
type Count struct {
	Rows int     `json:"rows"`
	Of   []Count `json:"of,omitempty"` // of the parts of all and any
}

// Rows works out which standing rows of a table hold a condition, and how many hold each
// part of it. An all of nothing holds all rows, an any of nothing none.
//
// Cost: O(distinct) and O(rows) for each part, on all cores.
func Rows(ctx context.Context, t *table.Table, c *Condition) (*Set, Count, error) {
	if err := c.Check(); err != nil {
		return nil, Count{}, err
	}
	return rows(ctx, t, c)
}

func rows(ctx context.Context, t *table.Table, c *Condition) (*Set, Count, error) {
	var set *Set
	var count Count
	var err error
	switch c.Op {
	case All, Any:
		set, count, err = joined(ctx, t, c)
	case Differs:
		set, err = differs(t, c)
	default:
		set, err = leaf(ctx, t, c)
	}
	if err != nil {
		return nil, count, err
	}
	if c.Not {
		set.invert()
	}
	count.Rows = set.Count()
	return set, count, nil
}

func joined(ctx context.Context, t *table.Table, c *Condition) (*Set, Count, error) {
	set := newSet(t.Rows())
	if c.Op == All {
		set.invert()
	}
	count := Count{Of: []Count{}}
	for i := range c.Of {
		part, n, err := rows(ctx, t, &c.Of[i])
		if err != nil {
			return nil, count, err
		}
		count.Of = append(count.Of, n)
		for w := range set.words {
			if c.Op == All {
				set.words[w] &= part.words[w]
			} else {
				set.words[w] |= part.words[w]
			}
		}
	}
	return set, count, nil
}

// leaf works out a condition on one column, or on any.
func leaf(ctx context.Context, t *table.Table, c *Condition) (*Set, error) {
	columns := t.Columns()
	if c.Column != "" {
		col, err := column(t, c.Column)
		if err != nil {
			return nil, err
		}
		columns = []*table.Column{col}
	}
	set := newSet(t.Rows())
	// The values of several columns are looked at side by side, and then the rows in parts.
	hits := make([][]bool, len(columns))
	work, ctx := errgroup.WithContext(ctx)
	work.SetLimit(runtime.GOMAXPROCS(0))
	for i, col := range columns {
		work.Go(func() error {
			hit, any, err := c.hits(col)
			if any {
				hits[i] = physical(col, hit)
			}
			return cmp.Or(err, ctx.Err())
		})
	}
	if err := work.Wait(); err != nil {
		return nil, err
	}
	spread(t, columns, hits, set)
	return set, nil
}

// physical turns hits by dictionary code into hits by physical code.
func physical(c *table.Column, hit []bool) []bool {
	if c.View == nil {
		return hit
	}
	out := make([]bool, len(c.View.At))
	for p, code := range c.View.At {
		out[p] = hit[code]
	}
	return out
}

// spread adds the rows whose code hits in any of the columns.
func spread(t *table.Table, columns []*table.Column, hits [][]bool, set *Set) {
	parts := runtime.GOMAXPROCS(0)
	each := (len(set.words) + parts - 1) / parts
	var work errgroup.Group
	for from := 0; from < len(set.words); from += each {
		work.Go(func() error {
			to := min(from+each, len(set.words))
			for i, c := range columns {
				if hits[i] != nil {
					add(t, c.Codes.At, hits[i], set.words, from, to)
				}
			}
			return nil
		})
	}
	_ = work.Wait() // nothing in it fails
}

func add(t *table.Table, codes []uint32, hit []bool, words []uint64, from, to int) {
	rows := t.Rows()
	for w := from; w < to; w++ {
		var word uint64
		first := w * 64
		n := min(64, rows-first)
		if t.Selection() == nil {
			for i, code := range codes[first : first+n] {
				if hit[code] {
					word |= 1 << i
				}
			}
		} else {
			for i, base := range t.Selection().Rows[first : first+n] {
				if hit[codes[base]] {
					word |= 1 << i
				}
			}
		}
		words[w] |= word
	}
}

// differs compares two columns value by value; the codes of one are looked up in the
// dictionary of the other once per distinct value. Blank and missing cells are the same.
func differs(t *table.Table, c *Condition) (*Set, error) {
	a, err := column(t, c.Column)
	if err != nil {
		return nil, err
	}
	b, err := column(t, c.Other)
	if err != nil {
		return nil, err
	}
	empty, _ := b.Dict.Find("")
	match := make([]uint32, a.Dict.Len()+1) // code in b, all ones for none
	match[table.Missing] = empty
	for code := uint32(1); code < uint32(len(match)); code++ {
		v := a.Dict.Value(code)
		other, ok := b.Dict.Find(v)
		switch {
		case v == "":
			match[code] = empty
		case ok:
			match[code] = other
		default:
			match[code] = ^uint32(0)
		}
	}
	set := newSet(t.Rows())
	for row := range t.Rows() {
		base := t.BaseRow(row)
		other := b.Code(base)
		if other == table.Missing {
			other = empty
		}
		if match[a.Code(base)] != other {
			set.words[row/64] |= 1 << (row % 64)
		}
	}
	return set, nil
}

func column(t *table.Table, name string) (*table.Column, error) {
	c, _, err := t.Column(name)
	if err != nil {
		p := problem.New("Choose a column the table has now", "the table has no column %q", name)
		p.Column = name
		return nil, p
	}
	return c, nil
}

// Narrow gives the table of the rows that hold a condition, and how many hold each part.
func Narrow(ctx context.Context, t *table.Table, c *Condition) (*table.Table, Count, error) {
	set, count, err := Rows(ctx, t, c)
	if err != nil {
		return nil, count, err
	}
	if count.Rows == t.Rows() {
		return t, count, nil
	}
	return t.Select(set.Selection(t)), count, nil
}

// Selection lists the base rows of the set.
func (s *Set) Selection(t *table.Table) *table.Selection {
	out := &table.Selection{Rows: make([]uint32, 0, s.Count())}
	for w, word := range s.words {
		for ; word != 0; word &= word - 1 {
			out.Rows = append(out.Rows, t.BaseRow(w*64+bits.TrailingZeros64(word)))
		}
	}
	return out
}

// Others lists the base rows of the table that are not in the set.
func (s *Set) Others(t *table.Table) *table.Selection {
	rest := &Set{append([]uint64{}, s.words...), s.rows}
	rest.invert()
	return rest.Selection(t)
}
